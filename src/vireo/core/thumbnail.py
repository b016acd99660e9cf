"""A small picture of bodies as SVG: faces shaded smoothly as in the 3D view, true edges in ink over
them, both hidden behind what is nearer."""

from __future__ import annotations

import base64
import itertools
import struct
import zlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vireo.core.triangles.rays import Rays

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Drawn:
    """A body, or lines when there are no triangles: points and their normals (n, 3) in mm,
    triangles (m, 3), edges as polylines, colour (#rrggbb)."""

    points: Floats
    normals: Floats
    triangles: Ints
    edges: Sequence[Floats]
    colour: str


# The same iso direction as the 3D view.
_FROM = np.array([0.58, -1.0, 0.66]) / np.linalg.norm([0.58, -1.0, 0.66])
_RIGHT = np.cross([0.0, 0.0, 1.0], _FROM) / np.linalg.norm(np.cross([0.0, 0.0, 1.0], _FROM))
_UP = np.cross(_FROM, _RIGHT)
_LIGHT = np.array([-0.35, -0.55, 0.76]) / np.linalg.norm([-0.35, -0.55, 0.76])
#: Pixels of the shaded picture to one unit of the SVG.
_FINE = 1.5
_MARGIN = 12


def draw(bodies: Sequence[Drawn], width: int = 320, height: int = 200) -> str:
    """SVG of bodies: edges are ink; lines without any triangles are drawn in their colour."""
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" '
        f'width="{width}" height="{height}">'
    )
    if not bodies:
        return head + "</svg>"
    every = np.concatenate([b.points for b in bodies])
    flat = np.stack([every @ _RIGHT, every @ _UP], axis=1)
    low, high = flat.min(axis=0), flat.max(axis=0)
    scale = min(
        (width - 2 * _MARGIN) / max(high[0] - low[0], 1e-9),
        (height - 2 * _MARGIN) / max(high[1] - low[1], 1e-9),
    )
    middle = (low + high) / 2

    def place(points: Floats) -> Floats:
        x = width / 2 + (points @ _RIGHT - middle[0]) * scale
        y = height / 2 - (points @ _UP - middle[1]) * scale
        return np.stack([x, y], axis=1)

    solid = [b for b in bodies if len(b.triangles)]
    rays = None
    out = [head]
    if solid:
        starts = np.cumsum([0, *(len(b.points) for b in solid)])
        rays = Rays(
            np.concatenate([b.points for b in solid]),
            np.concatenate([b.triangles + n for b, n in zip(solid, starts[:-1], strict=True)]),
        )
        out.append(_shaded(solid, rays, middle, scale, (width, height)))
    for body in bodies:
        whole = rays is not None and len(body.triangles) > 0
        ink = "#22312b" if whole else body.colour
        lines = _seen(body.edges, rays, 2.0 / scale) if rays and whole else iter(body.edges)
        for line in lines:
            if len(line) > 1:
                path = " ".join(f"{x:.1f},{y:.1f}" for x, y in place(line))
                out.append(
                    f'<polyline points="{path}" fill="none" stroke="{ink}" stroke-width=".8" '
                    'stroke-linejoin="round" stroke-linecap="round"/>'
                )
    return "".join(out) + "</svg>"


def _shaded(
    bodies: Sequence[Drawn], rays: Rays, middle: Floats, scale: float, size: tuple[int, int]
) -> str:
    """The faces as a picture: one ray to a pixel, lit by normals that run on within a face."""
    wide, high = (round(_FINE * s) for s in size)
    x = (np.arange(wide) + 0.5) / _FINE - size[0] / 2
    y = size[1] / 2 - (np.arange(high) + 0.5) / _FINE
    gx, gy = np.meshgrid(middle[0] + x / scale, middle[1] + y / scale)
    back = 2.0 * rays.size + 1.0
    centre = rays.centre @ _FROM
    eyes = np.outer(gx.ravel(), _RIGHT) + np.outer(gy.ravel(), _UP) + (centre + back) * _FROM
    far, which, flat = rays.first(eyes, np.broadcast_to(-_FROM, eyes.shape))
    met = which >= 0
    corners = np.concatenate([b.points[b.triangles] for b in bodies])
    normals = np.concatenate([b.normals[b.triangles] for b in bodies])
    owner = np.repeat(np.arange(len(bodies)), [len(b.triangles) for b in bodies])
    tones = np.array([[int(b.colour[i : i + 2], 16) for i in (1, 3, 5)] for b in bodies], float)
    w = which[met]
    at = eyes[met] - far[met, None] * _FROM
    shares = _barycentric(at, corners[w])
    n = np.einsum("ij,ijk->ik", shares, normals[w])
    n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-12)
    n *= np.where((n * flat[met]).sum(axis=1) < 0, -1.0, 1.0)[:, None]
    n *= np.where(n @ _FROM < 0, -1.0, 1.0)[:, None]
    light = 0.62 + 0.42 * np.clip(n @ _LIGHT, -0.4, 1.0)
    pixels = np.zeros((high * wide, 4), np.uint8)
    pixels[met, :3] = np.clip(tones[owner[w]] * light[:, None], 0, 255)
    pixels[met, 3] = 255
    data = base64.b64encode(_png(pixels.reshape(high, wide, 4))).decode()
    return (
        f'<image width="{size[0]}" height="{size[1]}" preserveAspectRatio="none" '
        f'href="data:image/png;base64,{data}"/>'
    )


def _barycentric(at: Floats, corners: Floats) -> Floats:
    """Shares of three corners (n, 3, 3) in places (n, 3) of their triangles."""
    a = corners[:, 0]
    u, v, w = corners[:, 1] - a, corners[:, 2] - a, at - a
    uu, uv, vv = (u * u).sum(1), (u * v).sum(1), (v * v).sum(1)
    wu, wv = (w * u).sum(1), (w * v).sum(1)
    whole = np.maximum(uu * vv - uv * uv, 1e-30)
    s, t = (vv * wu - uv * wv) / whole, (uu * wv - uv * wu) / whole
    shares: Floats = np.clip(np.stack([1.0 - s - t, s, t], axis=1), 0.0, 1.0)
    return shares


def _seen(edges: Sequence[Floats], rays: Rays, step: float) -> Iterator[Floats]:
    """The parts of edges that nothing hides, looked at every `step` (mm)."""
    fine = [_finer(np.asarray(e, float), step) for e in edges if len(e) > 1]
    if not fine:
        return
    # A little off the faces beside, so that these hide no edge of their own.
    at = np.concatenate(fine) + 4e-3 * rays.size * _FROM
    hidden = rays.blocked(at, np.broadcast_to(_FROM, at.shape))
    start = 0
    for line in fine:
        clear = ~hidden[start : start + len(line)]
        start += len(line)
        cuts = np.flatnonzero(np.diff(np.concatenate([[0], clear.astype(int), [0]])))
        for a, b in zip(cuts[::2], cuts[1::2], strict=True):
            yield line[a:b]


def _finer(line: Floats, step: float) -> Floats:
    pieces = [line[:1]]
    for a, b in itertools.pairwise(line):
        n = min(max(1, int(np.ceil(np.linalg.norm(b - a) / step))), 400)
        pieces.append(a + (b - a) * (np.arange(1, n + 1) / n)[:, None])
    return np.concatenate(pieces)


def _png(pixels: NDArray[np.uint8]) -> bytes:
    """An RGBA picture (h, w, 4) as PNG (ISO/IEC 15948)."""
    high, wide = pixels.shape[:2]
    rows = np.zeros((high, 1 + 4 * wide), np.uint8)
    rows[:, 1:] = pixels.reshape(high, -1)

    def chunk(kind: bytes, data: bytes) -> bytes:
        body = kind + data
        return struct.pack(">I", len(data)) + body + struct.pack(">I", zlib.crc32(body))

    head = struct.pack(">IIBBBBB", wide, high, 8, 6, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(rows.tobytes(), 7))
        + chunk(b"IEND", b"")
    )

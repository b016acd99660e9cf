"""A small picture of bodies as SVG, drawn from their meshes: far faces first, lit from above."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

# The same iso direction as the 3D view.
_FROM = np.array([0.58, -1.0, 0.66]) / np.linalg.norm([0.58, -1.0, 0.66])
_RIGHT = np.cross([0.0, 0.0, 1.0], _FROM) / np.linalg.norm(np.cross([0.0, 0.0, 1.0], _FROM))
_UP = np.cross(_FROM, _RIGHT)
_LIGHT = np.array([-0.35, -0.55, 0.76]) / np.linalg.norm([-0.35, -0.55, 0.76])
MOST_TRIANGLES = 6000


def draw(
    bodies: Sequence[tuple[Floats, Ints, Sequence[Floats], str]],
    width: int = 320,
    height: int = 200,
) -> str:
    """SVG of bodies given as (points (n,3) mm, triangles (m,3), edge polylines, colour).

    Edges are ink; lines without any triangles are drawn in their colour.
    """
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" '
        f'width="{width}" height="{height}">'
    )
    if not bodies:
        return head + "</svg>"
    every = np.concatenate([b[0] for b in bodies])
    flat = np.stack([every @ _RIGHT, every @ _UP], axis=1)
    low, high = flat.min(axis=0), flat.max(axis=0)
    scale = min(
        (width - 24) / max(high[0] - low[0], 1e-9), (height - 24) / max(high[1] - low[1], 1e-9)
    )
    middle = (low + high) / 2

    def place(points: Floats) -> Floats:
        x = width / 2 + (points @ _RIGHT - middle[0]) * scale
        y = height / 2 - (points @ _UP - middle[1]) * scale
        return np.stack([x, y], axis=1)

    items: list[tuple[float, str]] = []
    total = sum(len(b[1]) for b in bodies)
    skip = max(1, -(-total // MOST_TRIANGLES))
    for points, triangles, edges, colour in bodies:
        rgb = np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)])
        corners = points[triangles]
        normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        length = np.linalg.norm(normal, axis=1)
        seen = np.flatnonzero((normal @ _FROM > 0) & (length > 1e-12))[::skip]
        shade = 0.62 + 0.42 * np.clip(normal[seen] @ _LIGHT / length[seen], -0.4, 1.0)
        depth = corners[seen].mean(axis=1) @ _FROM
        spots = place(corners[seen].reshape(-1, 3)).reshape(-1, 3, 2)
        tones = np.clip(rgb * shade[:, None], 0, 255).astype(int)
        for d, p, (r, g, b) in zip(depth, spots, tones, strict=True):
            path = " ".join(f"{x:.1f},{y:.1f}" for x, y in p)
            tone = f"#{r:02x}{g:02x}{b:02x}"
            items.append(
                (
                    float(d),
                    f'<polygon points="{path}" fill="{tone}" stroke="{tone}" stroke-width=".6"/>',
                )
            )
        size = float(np.ptp(points, axis=0).max()) or 1.0
        ink = "#22312b" if len(triangles) else colour
        for line in edges:
            if len(line) < 2:
                continue
            path = " ".join(f"{x:.1f},{y:.1f}" for x, y in place(line))
            near = float((line @ _FROM).mean()) + 0.012 * size
            items.append(
                (
                    near,
                    f'<polyline points="{path}" fill="none" stroke="{ink}" stroke-width=".7"/>',
                )
            )
    items.sort(key=lambda i: i[0])
    return head + "".join(i[1] for i in items) + "</svg>"

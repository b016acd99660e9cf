"""Mesh files: STL (binary, text) and 3MF (3MF core specification 1.3). Knows no kernel."""

from __future__ import annotations

import io
import struct
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from xml.sax.saxutils import quoteattr

import numpy as np
from numpy.typing import NDArray

_STAMP = (2000, 1, 1, 0, 0, 0)  # the same bodies give the same bytes
_CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
_TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" '
    'ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" '
    'ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>\n'
)
_RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Target="/3D/3dmodel.model" Id="model" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>\n'
)


@dataclass(frozen=True)
class Printed:
    """A body as triangles (mm), outside looking out; points are shared between neighbours."""

    name: str
    colour: str
    points: NDArray[np.float64]
    triangles: NDArray[np.int64]


def read_size(bodies: Sequence[Printed]) -> tuple[float, float, float]:
    """Extent of bodies together in X, Y, Z (mm)."""
    every = np.concatenate([b.points for b in bodies])
    x, y, z = np.ptp(every, axis=0)
    return float(x), float(y), float(z)


def stl(bodies: Sequence[Printed], text: bool) -> bytes:
    """All bodies in one STL (mm), facet normals from the triangles."""
    t = np.concatenate([b.points[b.triangles] for b in bodies])
    normal = np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    normal = normal / np.where(length > 0, length, 1.0)
    if text:
        lines = ["solid vireo"]
        for n, corners in zip(normal.tolist(), t.tolist(), strict=True):
            lines.append(f"facet normal {n[0]:.6g} {n[1]:.6g} {n[2]:.6g}\n outer loop")
            lines += [f"  vertex {p[0]:.9g} {p[1]:.9g} {p[2]:.9g}" for p in corners]
            lines.append(" endloop\nendfacet")
        return ("\n".join([*lines, "endsolid vireo"]) + "\n").encode("ascii")
    record = np.zeros(len(t), dtype=[("n", "<f4", 3), ("v", "<f4", (3, 3)), ("a", "<u2")])
    record["n"], record["v"] = normal, t
    return b"Vireo mesh, mm".ljust(80, b" ") + struct.pack("<I", len(t)) + record.tobytes()


def threemf(bodies: Sequence[Printed], title: str) -> bytes:
    """A 3MF package in millimetres: an object with its name and colour for every body."""
    colours = list(dict.fromkeys(b.colour for b in bodies))
    materials = "".join(
        f'<base name={quoteattr(c)} displaycolor="{c.upper()}FF"/>' for c in colours
    )
    objects = [
        f'<object id="{k}" type="model" name={quoteattr(b.name)} pid="1" '
        f'pindex="{colours.index(b.colour)}"><mesh><vertices>{_vertices(b)}</vertices>'
        f"<triangles>{_triangles(b)}</triangles></mesh></object>"
        for k, b in enumerate(bodies, start=2)
    ]
    items = "".join(f'<item objectid="{k}"/>' for k in range(2, len(bodies) + 2))
    model = (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<model unit="millimeter" xml:lang="en-US" xmlns="{_CORE}">'
        f'<metadata name="Title">{quoteattr(title)[1:-1]}</metadata>'
        '<metadata name="Application">Vireo</metadata>'
        f'<resources><basematerials id="1">{materials}</basematerials>{"".join(objects)}'
        f"</resources><build>{items}</build></model>\n"
    )
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as z:
        for path, content in (
            ("[Content_Types].xml", _TYPES), ("_rels/.rels", _RELATIONS), ("3D/3dmodel.model", model),
        ):  # fmt: skip
            z.writestr(zipfile.ZipInfo(path, _STAMP), content.encode(), zipfile.ZIP_DEFLATED)
    return stream.getvalue()


def _vertices(b: Printed) -> str:
    return "".join(
        f'<vertex x="{x:.9g}" y="{y:.9g}" z="{z:.9g}"/>' for x, y, z in b.points.tolist()
    )


def _triangles(b: Printed) -> str:
    return "".join(f'<triangle v1="{i}" v2="{j}" v3="{k}"/>' for i, j, k in b.triangles.tolist())

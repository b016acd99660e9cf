"""Triangle meshes in files: STL (binary, text) and 3MF read into plain arrays. Knows no kernel."""

from __future__ import annotations

import io
import struct
import xml.etree.ElementTree as ET
import zipfile
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vireo.core.trouble import BadInput

MOST_TRIANGLES = 400_000
_MOST_XML = 200 * 2**20
#: Lengths of the units a 3MF model may be in, in mm (3MF core specification 1.3, 3.4).
_UNITS = {
    "micron": 0.001, "millimeter": 1.0, "centimeter": 10.0, "inch": 25.4, "foot": 304.8,
    "meter": 1000.0,
}  # fmt: skip


@dataclass(frozen=True)
class Triangles:
    """`points` n x 3 (in the file's unit for STL, mm for 3MF), `corners` m x 3 into them."""

    points: NDArray[np.float64]
    corners: NDArray[np.int64]


def is_mesh(data: bytes) -> bool:
    return _is_3mf(data) or _is_text_stl(data) or _is_binary_stl(data)


def read_mesh(data: bytes) -> list[Triangles]:
    """The meshes of a file, points that coincide made one. Raises BadInput."""
    if _is_3mf(data):
        found = _read_3mf(data)
    elif _is_binary_stl(data):
        found = [_read_binary(data)]
    elif _is_text_stl(data):
        found = [_read_text(data)]
    else:
        raise BadInput("this is neither STL nor 3MF")
    count = sum(len(t.corners) for t in found)
    if count == 0:
        raise BadInput("this mesh holds no triangle")
    if count > MOST_TRIANGLES:
        raise BadInput(
            f"this mesh has {count} triangles; up to {MOST_TRIANGLES} are taken: make it coarser"
        )
    for t in found:
        if not np.isfinite(t.points).all():
            raise BadInput("this mesh has places that are no numbers")
    return [_joined(t) for t in found]


def _is_3mf(data: bytes) -> bool:
    return data[:4] == b"PK\x03\x04" and b"3D/" in data


def _is_text_stl(data: bytes) -> bool:
    head = data[:1000].lstrip().lower()
    return head.startswith(b"solid") and (b"facet" in head or b"endsolid" in head)


def _is_binary_stl(data: bytes) -> bool:
    return len(data) >= 84 and len(data) == 84 + 50 * struct.unpack_from("<I", data, 80)[0]


def _read_binary(data: bytes) -> Triangles:
    record = np.dtype([("n", "<f4", 3), ("v", "<f4", (3, 3)), ("a", "<u2")])
    corners = np.frombuffer(data, record, offset=84)["v"].astype(np.float64).reshape(-1, 3)
    return Triangles(corners, np.arange(len(corners)).reshape(-1, 3))


def _read_text(data: bytes) -> Triangles:
    values: list[float] = []
    try:
        for line in data.decode("ascii", "replace").splitlines():
            words = line.split()
            if words and words[0].lower() == "vertex":
                values += [float(w) for w in words[1:4]]
        points = np.array(values).reshape(-1, 3)
        corners = np.arange(len(points)).reshape(-1, 3)
    except ValueError as error:
        raise BadInput("this STL file is cut short or holds places that are no numbers") from error
    return Triangles(points, corners)


def _read_3mf(data: bytes) -> list[Triangles]:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as z:
            models = [i for i in z.infolist() if i.filename.lower().endswith(".model")]
            if not models:
                raise BadInput("this 3MF file holds no model")
            found: list[Triangles] = []
            for info in models:
                if info.file_size > _MOST_XML:
                    raise BadInput("the model in this 3MF file is too large")
                found += _read_model(z.read(info))
            return found
    except (zipfile.BadZipFile, OSError, RuntimeError) as error:
        raise BadInput("this 3MF file is damaged") from error


def _read_model(xml: bytes) -> list[Triangles]:
    if b"<!DOCTYPE" in xml[:4000] or b"<!ENTITY" in xml[:4000]:
        raise BadInput("a 3MF model with entities of its own is not read")
    try:
        root = ET.fromstring(xml)
    except ET.ParseError as error:
        raise BadInput("the model in this 3MF file is not readable XML") from error
    scale = _UNITS.get(root.get("unit", "millimeter"))
    if scale is None:
        raise BadInput(f"the unit {root.get('unit')} of this 3MF file is not known")
    objects = {o.get("id", ""): o for o in root.iter() if _tag(o) == "object"}
    found: list[Triangles] = []

    def take(id: str, matrix: NDArray[np.float64], depth: int) -> None:
        part = objects.get(id)
        if part is None or depth > 20:
            raise BadInput("this 3MF file names an object it does not hold")
        for mesh in (e for e in part if _tag(e) == "mesh"):
            t = _mesh_of(mesh)
            found.append(Triangles(scale * (t.points @ matrix[:3] + matrix[3]), t.corners))
        for group in (e for e in part if _tag(e) == "components"):
            for c in group:
                inner = _placement(c.get("transform"))
                take(c.get("objectid", ""), _after(inner, matrix), depth + 1)

    items = [e for e in root.iter() if _tag(e) == "item"]
    for item in items:
        take(item.get("objectid", ""), _placement(item.get("transform")), 0)
    return found


def _tag(element: ET.Element) -> str:
    return element.tag.rsplit("}", 1)[-1]


def _placement(text: str | None) -> NDArray[np.float64]:
    """Four rows: three of a matrix that row vectors are multiplied with, and the shift."""
    if not text:
        return np.vstack([np.eye(3), np.zeros(3)])
    try:
        return np.array([float(w) for w in text.split()]).reshape(4, 3)
    except ValueError as error:
        raise BadInput("a placement in this 3MF file is damaged") from error


def _after(first: NDArray[np.float64], then: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.vstack([first[:3] @ then[:3], first[3] @ then[:3] + then[3]])


def _mesh_of(mesh: ET.Element) -> Triangles:
    try:
        points = [[float(v.get(k, "")) for k in "xyz"] for v in mesh.iter() if _tag(v) == "vertex"]
        corners = [
            [int(t.get(k, "")) for k in ("v1", "v2", "v3")]
            for t in mesh.iter()
            if _tag(t) == "triangle"
        ]
    except ValueError as error:
        raise BadInput("a place or triangle in this 3MF file is damaged") from error
    p, c = np.array(points).reshape(-1, 3), np.array(corners, dtype=np.int64).reshape(-1, 3)
    if len(c) and (c.min() < 0 or c.max() >= len(p)):
        raise BadInput("a triangle in this 3MF file names a place that is not there")
    return Triangles(p, c)


def _joined(t: Triangles) -> Triangles:
    """Points closer than a millionth of the size made one, triangles without area left out."""
    size = float(np.ptp(t.points, axis=0).max()) or 1.0
    grid = np.round(t.points / (1e-6 * size)).astype(np.int64)
    _, first, inverse = np.unique(grid, axis=0, return_index=True, return_inverse=True)
    corners = inverse.reshape(-1)[t.corners]
    a, b, c = corners.T
    corners = corners[(a != b) & (b != c) & (c != a)]
    return Triangles(t.points[first], corners)

"""Bodies as triangles in binary glTF files, to be looked at elsewhere."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.collections import IndexedDataMap_TCollection_AsciiString_TCollection_AsciiString
from OCP.Message import Message_ProgressRange
from OCP.RWGltf import RWGltf_CafWriter
from OCP.RWMesh import RWMesh_CoordinateSystem
from OCP.TCollection import TCollection_AsciiString

from vireo.core.kernel.exchange import Handed, Placed, unmatched
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.intake import quiet
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.mesh import finest
from vireo.core.kernel.shape import Body, Key
from vireo.core.trouble import BadInput


def write_glb(
    name: str, parts: Sequence[Placed], path: str, deflection: float, angle: float = 0.3
) -> None:
    """Bodies as triangles in one binary glTF file (Khronos glTF 2.0): structure, names, colours, equal
    ones shared; metres, y up, as the format asks. Triangles lie within `deflection` mm of the faces.
    What was written is looked through before this returns. Raises KernelTrouble and BadInput."""
    quiet()
    least = max(finest(p.body) for p in parts)
    if deflection < least:
        raise BadInput(
            f"a deviation of {deflection:g} mm is too fine for a model of this size: "
            f"the finest is {least:.2g} mm"
        )
    # Triangles are kept with the shapes they are of: those of others stay as they are.
    own: dict[Key, Body] = {}
    meshed = []
    for part in parts:
        if Key(part.body.shape) not in own:
            shape = BRepBuilderAPI_Copy(part.body.shape).Shape()
            BRepMesh_IncrementalMesh(shape, deflection, False, angle)
            own[Key(part.body.shape)] = Body(shape, part.body.names)
        meshed.append(replace(part, body=own[Key(part.body.shape)]))
    document = Handed().document(name, meshed)
    writer = RWGltf_CafWriter(TCollection_AsciiString(path), True)
    turned = writer.CoordinateSystemConverter()
    turned.SetInputLengthUnit(0.001)
    turned.SetInputCoordinateSystem(RWMesh_CoordinateSystem.RWMesh_CoordinateSystem_Zup)
    writer.SetCoordinateSystemConverter(turned)
    writer.SetMergeFaces(True)
    if not writer.Perform(
        document, IndexedDataMap_TCollection_AsciiString_TCollection_AsciiString(),
        Message_ProgressRange(),
    ):  # fmt: skip
        raise KernelTrouble("the model could not be written as glTF")
    _looked_through(parts, Path(path).read_bytes(), deflection)


def _looked_through(parts: Sequence[Placed], data: bytes, deflection: float) -> None:
    """That a glTF file shows every body that went in, of its size, where it stands. Raises
    KernelTrouble."""
    shown = glb_bodies(data)
    if len(shown) != len(parts):
        raise KernelTrouble(f"the glTF file shows {len(shown)} bodies where {len(parts)} went in")
    wanted = []
    for part in parts:
        low, high = (np.array(c) for c in box_of(part.body.shape))
        middle = np.asarray(part.rotation) @ (0.5 * (low + high)) + np.asarray(part.position)
        wanted.append([*middle, float(np.linalg.norm(high - low))])
    lost = unmatched(shown, np.array(wanted), 3 * deflection + 1e-3)
    if lost is not None:
        raise KernelTrouble(f"the glTF file shows “{parts[lost].name}” in another place or size")


def glb_bodies(data: bytes) -> Any:
    """What a binary glTF file shows: of each node with a mesh the middle of its own box where it
    stands, and the diagonal of that box (mm, z up). Shape (n, 4)."""
    length = int.from_bytes(data[12:16], "little")
    tree = json.loads(data[20 : 20 + length])
    found: list[list[float]] = []

    def visit(index: int, above: Any) -> None:
        node = tree["nodes"][index]
        here = above @ _matrix_of(node)
        if "mesh" in node:
            boxes = [
                tree["accessors"][p["attributes"]["POSITION"]]
                for p in tree["meshes"][node["mesh"]]["primitives"]
            ]
            low = np.min([b["min"] for b in boxes], axis=0)
            high = np.max([b["max"] for b in boxes], axis=0)
            x, y, z, _ = 1000.0 * (here @ [*(0.5 * (low + high)), 1.0])
            found.append([x, -z, y, 1000.0 * float(np.linalg.norm(high - low))])
        for child in node.get("children", ()):
            visit(child, here)

    for root in tree["scenes"][tree.get("scene", 0)]["nodes"]:
        visit(root, np.eye(4))
    return np.array(found).reshape(-1, 4)


def _matrix_of(node: Mapping[str, Any]) -> Any:
    if "matrix" in node:
        return np.array(node["matrix"]).reshape(4, 4).T
    m = np.eye(4)
    x, y, z, w = node.get("rotation", (0.0, 0.0, 0.0, 1.0))
    m[:3, :3] = [
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ]
    m[:3, :3] *= node.get("scale", (1.0, 1.0, 1.0))
    m[:3, 3] = node.get("translation", (0.0, 0.0, 0.0))
    return m

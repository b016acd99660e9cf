"""A STEP file taken apart: each product with a shape as bodies of its own, what stands in what, and
where."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np
from OCP.collections import Sequence_TDF_Label
from OCP.TCollection import TCollection_AsciiString
from OCP.TDF import TDF_Label, TDF_Tool
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from vireo.core.geometry import Vector
from vireo.core.kernel.exchange import Placed, stands, unmatched
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.intake import step_document
from vireo.core.kernel.looks import Dress, bare, dresses_in, each, name_of
from vireo.core.kernel.shape import Body, faces_of, solids_of
from vireo.core.trouble import BadInput


@dataclass(frozen=True)
class Stand:
    """A product where it stands in another: its key, what it is called there, turned and shifted."""

    key: str
    name: str
    rotation: Vector
    position: Vector


@dataclass
class Apart:
    """Products by key: `bodies` of those with a shape, `holds` of assemblies; `roots` stand in no
    other. `faults` tell what cannot be brought in by itself."""

    names: dict[str, str] = field(default_factory=dict)
    bodies: dict[str, list[Placed]] = field(default_factory=dict)
    holds: dict[str, list[Stand]] = field(default_factory=dict)
    roots: list[str] = field(default_factory=list)
    faults: list[str] = field(default_factory=list)


def taken_apart(data: bytes) -> Apart:
    """The products of a STEP file, equal ones once. Raises BadInput for a file without shapes."""
    read = step_document(data)
    if read is None:
        raise BadInput("this file holds no face, only curves or nothing at all")
    reader, document = read
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    free = Sequence_TDF_Label()
    tool.GetFreeShapes(free)
    found = Apart()
    for label in each(free):
        found.roots.append(_taken(label, found))
    _held_against(found, reader.Reader().OneShape())
    return found


def _held_against(found: Apart, whole: TopoDS_Shape) -> None:
    """That the products, each where it stands, are the solids of the whole file where these stand: it
    is put together by the reader and not from the tree. Raises KernelTrouble."""

    def stood(key: str, rotation: Vector, position: Vector) -> Iterator[list[float]]:
        for body in found.bodies.get(key, ()):
            yield stands(body.body.shape, rotation, position)
        for s in found.holds.get(key, ()):
            yield from stood(s.key, rotation @ s.rotation, rotation @ s.position + position)

    still = (np.eye(3), np.zeros(3))
    there = np.array([row for root in found.roots for row in stood(root, *still)])
    wanted = np.array([stands(s, *still) for s in solids_of(whole)])
    # What is left out as faulty is told; the rest still stands where the file has it.
    lost = len(there) > len(wanted) or (len(there) < len(wanted) and not found.faults)
    if len(there) and not lost:
        lost = unmatched(wanted, there, 1e-3 + 1e-6 * float(np.abs(wanted).max())) is not None
    if lost:
        raise KernelTrouble(
            "taken apart, the products of this file do not stand where the file has them: bring it in "
            "as one part"
        )


def _key(label: TDF_Label) -> str:
    entry = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, entry)
    return str(entry.ToCString())


def _taken(label: TDF_Label, into: Apart) -> str:
    key = _key(label)
    if key in into.names:
        return key
    into.names[key] = name_of(label) or "Part"
    if XCAFDoc_ShapeTool.IsAssembly_s(label):
        inside = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetComponents_s(label, inside)
        stands = []
        for component in each(inside):
            product = TDF_Label()
            if not XCAFDoc_ShapeTool.GetReferredShape_s(component, product):
                into.faults.append(f"{into.names[key]}: what stands in it is not in the file")
                continue
            inner = _taken(product, into)
            place = XCAFDoc_ShapeTool.GetLocation_s(component).Transformation()
            matrix = np.array([[place.Value(i, j) for j in range(1, 5)] for i in range(1, 4)])
            size = float(np.linalg.det(matrix[:, :3]))
            if abs(size - 1.0) > 1e-6:
                into.faults.append(
                    f"{into.names[inner]} stands mirrored or scaled in {into.names[key]}: left out"
                )
                continue
            title = name_of(component) or into.names[inner]
            stands.append(Stand(inner, title, matrix[:, :3], matrix[:, 3]))
        into.holds[key] = stands
        return key
    bodies = _bodies(label, into.names[key])
    if bodies:
        into.bodies[key] = bodies
    else:
        into.faults.append(f"{into.names[key]} holds no solid: it is left out")
    return key


def _bodies(label: TDF_Label, name: str) -> list[Placed]:
    shape = XCAFDoc_ShapeTool.GetShape_s(label)
    looks = dresses_in(label)
    found = []
    for solid in solids_of(shape):
        dress = looks.get(bare(solid), Dress())
        count = len(faces_of(solid))
        found.append(
            Placed(
                dress.name or name, Body(solid, ("face",) * count), dress.colour or "", np.eye(3),
                np.zeros(3), dress.name or name, dress.faces,
            )
        )  # fmt: skip
    return found

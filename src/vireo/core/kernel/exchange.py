"""STEP out, and meshes to be printed."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy
from OCP.BRepTools import BRepTools
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_TypeOfColor
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_StepModelType
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool

from vireo.core.exchange.printed import Printed
from vireo.core.geometry import Vector
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.intake import quiet, read_shape
from vireo.core.kernel.looks import new_document, says_nothing
from vireo.core.kernel.measure import area_of, volume_of
from vireo.core.kernel.mesh import finest, tessellate
from vireo.core.kernel.place import location
from vireo.core.kernel.shape import Body, Key, compound_of, edges_of, faces_of, solids_of
from vireo.core.kernel.transform import settled
from vireo.core.trouble import BadInput


@dataclass(frozen=True)
class Placed:
    """A body to hand over: its name, colour (#rrggbb), where it stands, what it is stored as when
    it is one of several, and colours of faces by index. Equal ones are stored once: those of one
    `key` of their content, or of one shape where there is none."""

    name: str
    body: Body
    colour: str
    rotation: Vector
    position: Vector
    prototype: str = ""
    paints: Mapping[int, str] = field(default_factory=dict)
    key: str = ""


def _tone(colour: str) -> Quantity_Color:
    r, g, b = (int(colour[i : i + 2], 16) / 255.0 for i in (1, 3, 5))
    return Quantity_Color(r, g, b, Quantity_TypeOfColor.Quantity_TOC_sRGB)


def write_step(name: str, parts: Sequence[Placed], path: str) -> None:
    """One part, or an assembly whose equal bodies are stored once, with names and colours.

    What was written is read again and compared before this returns. Raises KernelTrouble.
    """
    quiet()
    document = new_document()
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    made: dict[object, object] = {}
    stored: set[Key] = set()

    def label_of(part: Placed) -> object:
        title = part.prototype or part.name
        look = (title, part.colour, tuple(sorted(part.paints.items())))
        key = (part.key or Key(part.body.shape), *look)
        if key not in made:
            body = settled(part.body)
            if Key(body.shape) in stored:
                # One shape has one look in a file: of another look it is another shape.
                body = Body(BRepBuilderAPI_Copy(body.shape).Shape(), body.names)
            stored.add(Key(body.shape))
            label = shapes.AddShape(body.shape, False)
            TDataStd_Name.Set_s(label, TCollection_ExtendedString(title, True))
            colours.SetColor(label, _tone(part.colour), XCAFDoc_ColorType.XCAFDoc_ColorGen)
            for index, colour in part.paints.items():
                face = shapes.AddSubShape(label, body.faces[index])
                colours.SetColor(face, _tone(colour), XCAFDoc_ColorType.XCAFDoc_ColorSurf)
            made[key] = label
        return made[key]

    if len(parts) == 1 and not parts[0].prototype:
        label_of(parts[0])
    else:
        whole = shapes.NewShape()
        TDataStd_Name.Set_s(whole, TCollection_ExtendedString(name, True))
        for part in parts:
            place = location(part.rotation, part.position)
            one = shapes.AddComponent(whole, label_of(part), place)
            TDataStd_Name.Set_s(one, TCollection_ExtendedString(part.name, True))
        shapes.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    Interface_Static.SetCVal_s("write.step.schema", "AP214IS")
    if not writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs):
        raise KernelTrouble("the model could not be turned into STEP")
    if writer.Write(path) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise KernelTrouble("the STEP file could not be written")
    _read_back(parts, path)


def _read_back(parts: Sequence[Placed], path: str) -> None:
    """That a written file holds as many solids as went in, with their volumes and names. Raises
    KernelTrouble."""
    found = read_shape(Path(path).read_bytes())
    solids = solids_of(found.shape)
    there = sorted(volume_of(s) for s in solids)
    wanted = sorted(volume_of(s) for p in parts for s in solids_of(p.body.shape))
    if len(there) != len(wanted):
        raise KernelTrouble(
            f"the STEP file came back with {len(there)} solids where {len(wanted)} went in"
        )
    for a, b in zip(there, wanted, strict=True):
        if abs(a - b) > 1e-4 * b:
            raise KernelTrouble(
                f"the STEP file came back with a solid of {a:.6g} mm³ where one of {b:.6g} went in"
            )
    areas = sorted(_open_area(found.shape))
    meant = sorted(a for p in parts for a in _open_area(p.body.shape))
    if len(areas) != len(meant) or any(
        abs(a - b) > 1e-4 * b for a, b in zip(areas, meant, strict=True)
    ):
        raise KernelTrouble(
            f"the STEP file came back with {sum(areas):.6g} mm² of surfaces where {sum(meant):.6g} "
            "went in"
        )
    # The reader numbers doubles, shortens, folds blanks, and passes over names that say nothing.
    names = {(d.name or "")[:60].rstrip() for d in found.dresses}
    text = Path(path).read_text(errors="replace")
    for p in parts:
        title = " ".join((p.prototype or p.name).split())[:60].rstrip()
        if not solids_of(p.body.shape):
            # The reader looks for names of solids; others at least stand in the file.
            if title.isascii() and "'" not in title and f"'{title}" not in text:
                raise KernelTrouble(f"the STEP file was written without the name “{title}”")
            continue
        if not says_nothing(title) and not any(n.startswith(title) for n in names):
            raise KernelTrouble(f"the STEP file came back without the name “{title}”")


def _open_area(shape: TopoDS_Shape) -> list[float]:
    """The areas of the faces that belong to no solid."""
    held = {Key(f) for s in solids_of(shape) for f in faces_of(s)}
    return [area_of(f) for f in faces_of(shape) if Key(f) not in held]


def printed(name: str, colour: str, body: Body, deflection: float, angle: float = 0.25) -> Printed:
    """A body as triangles within `deflection` mm of the true faces, points shared.

    Raises BadInput for a deviation finer than the body can be meshed with.
    """
    least = finest(body)
    if deflection < least:
        raise BadInput(
            f"a deviation of {deflection:g} mm is too fine for a part of this size: "
            f"the finest is {least:.2g} mm"
        )
    mesh = tessellate(body, deflection, angle)
    grid = np.round(mesh.points / 1e-6).astype(np.int64)
    _, first, inverse = np.unique(grid, axis=0, return_index=True, return_inverse=True)
    corners = inverse.reshape(-1)[mesh.triangles]
    a, b, c = corners.T
    return Printed(name, colour, mesh.points[first], corners[(a != b) & (b != c) & (c != a)])


def brep_file(bodies: Sequence[Body]) -> bytes:
    """Bodies of every form as text other kernels of the family read. What was written is read
    again and compared before this returns. Raises KernelTrouble."""
    stream = io.BytesIO()
    shapes = [b.shape for b in bodies]
    whole = shapes[0] if len(shapes) == 1 else compound_of(shapes)
    BRepTools.Write_s(whole, stream)
    data = stream.getvalue()
    found = read_shape(data).shape
    for count, what in ((solids_of, "solids"), (faces_of, "faces"), (edges_of, "edges")):
        there, wanted = len(count(found)), len(count(whole))
        if there != wanted:
            raise KernelTrouble(
                f"the BREP file came back with {there} {what} where {wanted} went in"
            )
    return data


def brep_text(body: Body, path: str) -> None:
    """The body as a text file other kernels of the family read, faces in map order."""
    BRepTools.Write_s(body.shape, path)

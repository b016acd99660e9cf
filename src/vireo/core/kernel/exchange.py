"""STEP out, and meshes to be printed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from OCP.BRepTools import BRepTools
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_TypeOfColor
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_StepModelType
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool

from vireo.core.geometry import Vector
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.intake import quiet
from vireo.core.kernel.looks import new_document
from vireo.core.kernel.mesh import finest, tessellate
from vireo.core.kernel.place import location
from vireo.core.kernel.shape import Body
from vireo.core.printing import Printed
from vireo.core.trouble import BadInput


@dataclass(frozen=True)
class Placed:
    """A body to hand over: its name, colour (#rrggbb), where it stands, and colours of faces by
    index."""

    name: str
    body: Body
    colour: str
    rotation: Vector
    position: Vector
    prototype: str = ""
    paints: Mapping[int, str] = field(default_factory=dict)


def _tone(colour: str) -> Quantity_Color:
    r, g, b = (int(colour[i : i + 2], 16) / 255.0 for i in (1, 3, 5))
    return Quantity_Color(r, g, b, Quantity_TypeOfColor.Quantity_TOC_sRGB)


def write_step(name: str, parts: Sequence[Placed], path: str) -> None:
    """One part, or an assembly whose equal prototypes are stored once, with names and colours."""
    quiet()
    document = new_document()
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    made = {}

    def label_of(part: Placed) -> object:
        key = part.prototype or part.name
        if key not in made:
            label = shapes.AddShape(part.body.shape, False)
            title = part.prototype or part.name
            TDataStd_Name.Set_s(label, TCollection_ExtendedString(title, True))
            colours.SetColor(label, _tone(part.colour), XCAFDoc_ColorType.XCAFDoc_ColorGen)
            for index, colour in part.paints.items():
                face = shapes.AddSubShape(label, part.body.faces[index])
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


def brep_text(body: Body, path: str) -> None:
    """The body as a text file other kernels of the family read, faces in map order."""
    BRepTools.Write_s(body.shape, path)

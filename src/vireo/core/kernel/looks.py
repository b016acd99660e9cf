"""Names and colours that a STEP file gives its solids and their faces."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from OCP.collections import Sequence_TDF_Label
from OCP.Quantity import Quantity_Color
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_FACE, TopAbs_SOLID
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import (
    XCAFDoc_ColorTool,
    XCAFDoc_ColorType,
    XCAFDoc_DocumentTool,
    XCAFDoc_ShapeTool,
)

from vireo.core.kernel.shape import Key, faces_of, solids_of

#: Names writers put where there is none.
_NOTHING = re.compile(r"(solid|compound|shell|shape|none|open cascade.*|=>.*|\W*)\d*", re.I)
#: Colours of what is seen go before general ones.
_WAYS = (XCAFDoc_ColorType.XCAFDoc_ColorSurf, XCAFDoc_ColorType.XCAFDoc_ColorGen)


@dataclass(frozen=True)
class Dress:
    """What a solid is called and its colour (#rrggbb), where it has them; colours of faces of
    another colour, by index."""

    name: str | None = None
    colour: str | None = None
    faces: dict[int, str] = field(default_factory=dict)


def new_document() -> TDocStd_Document:
    """An empty document for shapes with names and colours."""
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    application = XCAFApp_Application.GetApplication_s()
    application.NewDocument(TCollection_ExtendedString("MDTV-XCAF"), document)
    return document


def dresses(shape: TopoDS_Shape, document: TDocStd_Document) -> list[Dress]:
    """How each solid of a shape is dressed in the document it was read into.

    Equal solids are stored once and share their dress; doubles of a name are numbered.
    """
    stored: dict[Key, Dress] = {}
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    found = Sequence_TDF_Label()
    tool.GetShapes(found)
    for label in each(found):
        if XCAFDoc_ShapeTool.IsAssembly_s(label):
            continue
        stored |= dresses_in(label)
    dressed: list[Dress] = []
    seen: dict[str, int] = {}
    for solid in solids_of(shape):
        dress = stored.get(bare(solid), Dress())
        if dress.name:
            nth = seen[dress.name] = seen.get(dress.name, 0) + 1
            if nth > 1:
                dress = Dress(f"{dress.name[:74]} {nth}", dress.colour, dress.faces)
        dressed.append(dress)
    return dressed


def dresses_in(label: TDF_Label) -> dict[Key, Dress]:
    """The solids of a stored shape: what itself and pieces of it are called and coloured."""
    names: dict[Key, str] = {}
    colours: dict[Key, str] = {}
    pieces = Sequence_TDF_Label()
    XCAFDoc_ShapeTool.GetSubShapes_s(label, pieces)
    for piece in each(pieces):
        shape = XCAFDoc_ShapeTool.GetShape_s(piece)
        if shape.ShapeType() not in (TopAbs_SOLID, TopAbs_FACE):
            continue
        if name := name_of(piece):
            names[bare(shape)] = name
        if colour := _colour(piece):
            colours[bare(shape)] = colour
    name, colour = name_of(label), _colour(label)
    found = {}
    for solid in solids_of(XCAFDoc_ShapeTool.GetShape_s(label)):
        key = bare(solid)
        own = colours.get(key, colour)
        faces = {}
        for i, face in enumerate(faces_of(solid)):
            tone = colours.get(bare(face))
            if tone and tone != own:
                faces[i] = tone
        found[key] = Dress(names.get(key, name), own, faces)
    return found


def each(labels: Any) -> Iterator[TDF_Label]:
    """The labels of a kernel sequence, which counts from one."""
    return (labels.Value(i) for i in range(1, labels.Length() + 1))


def bare(shape: TopoDS_Shape) -> Key:
    """A shape wherever it stands: placed again it is the same one."""
    return Key(shape.Located(TopLoc_Location()))


def name_of(label: TDF_Label) -> str | None:
    """What a label is called; None where that says nothing."""
    # Asking a label for what it has not takes the process down.
    if not label.IsAttribute(TDataStd_Name.GetID_s()):
        return None
    attribute = TDataStd_Name()
    label.FindAttribute(TDataStd_Name.GetID_s(), attribute)
    name = " ".join(str(attribute.Get().ToExtString()).split())[:80]
    return None if says_nothing(name) else name


def says_nothing(name: str) -> bool:
    """Whether a name is one that writers put where there is none."""
    return _NOTHING.fullmatch(name) is not None


def _colour(label: TDF_Label) -> str | None:
    colour = Quantity_Color()
    for way in _WAYS:
        if XCAFDoc_ColorTool.GetColor_s(label, way, colour):
            return str(Quantity_Color.ColorToHex_s(colour, True).ToCString()).lower()
    return None

"""STEP out, and meshes to be printed."""

from __future__ import annotations

import io
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

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
from OCP.TDocStd import TDocStd_Document
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool
from scipy.spatial import cKDTree

from vireo.core.exchange.printed import Printed
from vireo.core.exchange.steptext import Spelling, spelt
from vireo.core.geometry import Vector
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.intake import quiet, read_shape
from vireo.core.kernel.looks import new_document, says_nothing
from vireo.core.kernel.measure import area_of, mass_properties, volume_of
from vireo.core.kernel.mesh import finest, tessellate
from vireo.core.kernel.place import location
from vireo.core.kernel.shape import Body, Key, compound_of, edges_of, faces_of, solids_of
from vireo.core.kernel.transform import settled
from vireo.core.trouble import BadInput


@dataclass(frozen=True)
class Placed:
    """A body to hand over: its name, colour (#rrggbb, empty for none), where it stands, what it is stored as when
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
    #: The components that lead to it from the top, and what they are called.
    path: tuple[str, ...] = ()
    titles: tuple[str, ...] = ()

    @property
    def called(self) -> str:
        """What the body itself is called in a file, wherever it stands."""
        return self.prototype or (self.titles[-1] if self.titles else self.name)


def _tone(colour: str) -> Quantity_Color:
    r, g, b = (int(colour[i : i + 2], 16) / 255.0 for i in (1, 3, 5))
    return Quantity_Color(r, g, b, Quantity_TypeOfColor.Quantity_TOC_sRGB)


def write_step(name: str, parts: Sequence[Placed], path: str, schema: str = "AP214") -> None:
    """One part, or an assembly as it is built, equal bodies and equal assemblies stored once, with
    names and colours; by the application protocol AP214 or AP242.

    What was written is read again and compared before this returns. Raises KernelTrouble.
    """
    quiet()
    spelling = Spelling()
    document = Handed(spelling.mark).document(name, parts)
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    Interface_Static.SetCVal_s("write.step.schema", _SCHEMAS[schema])
    if not writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs):
        raise KernelTrouble("the model could not be turned into STEP")
    if writer.Write(path) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise KernelTrouble("the STEP file could not be written")
    file = Path(path)
    file.write_bytes(spelling.replaced(file.read_bytes()))
    _read_back(parts, path)


#: The application protocols a STEP file is written by, as the kernel calls them.
_SCHEMAS = {"AP214": "AP214IS", "AP242": "AP242DIS"}


class Handed:
    """Bodies put into a document of the kernel: equal ones, and equal assemblies of them, once."""

    def __init__(self, spelling: Callable[[str], str] = str) -> None:
        """`spelling` turns a title into what the format's writer is to be given."""
        self._spelling = spelling
        self._document = new_document()
        self._shapes = XCAFDoc_DocumentTool.ShapeTool_s(self._document.Main())
        self._colours = XCAFDoc_DocumentTool.ColorTool_s(self._document.Main())
        self._made: dict[object, Any] = {}
        self._stored: set[Key] = set()

    def document(self, name: str, parts: Sequence[Placed]) -> TDocStd_Document:
        if len(parts) == 1 and not parts[0].prototype and not parts[0].titles:
            self._body(parts[0])
            return self._document
        whole = self._shapes.NewShape()
        self._call(whole, name)
        for one in self._level(parts, 0):
            self._put(whole, one)
        self._shapes.UpdateAssemblies()
        return self._document

    def _level(self, parts: Sequence[Placed], level: int) -> list[_Held]:
        """What stands at a level: bodies, and what holds several as an assembly of its own."""
        groups: dict[tuple[str, ...], list[Placed]] = {}
        for k, part in enumerate(parts):
            own = part.path[: level + 1] or (str(k),)
            groups.setdefault(own, []).append(part)
        found = []
        for inside in groups.values():
            first = inside[0]
            if len(inside) == 1 and len(first.path) <= level + 1:
                key, label = self._body(first)
                title = first.titles[-1] if first.titles else first.name
                found.append(_Held(title, key, label, first.rotation, first.position))
                continue
            title = first.titles[level] if level < len(first.titles) else first.name
            deep = [p for p in inside if len(p.path) > level + 1]
            # The bodies of one part stand beside each other under it.
            held = self._level(deep, level + 1) if deep else [self._one(p) for p in inside]
            found.append(self._assembly(title, held))
        return found

    def _one(self, part: Placed) -> _Held:
        key, label = self._body(part)
        return _Held(part.called, key, label, part.rotation, part.position)

    def _assembly(self, title: str, held: Sequence[_Held]) -> _Held:
        """An assembly of some things, about the place of the first; one made already when it holds
        the same in the same places."""
        base = held[0]
        inner = [h.seen_from(base) for h in held]
        key = tuple((h.key, h.title, *np.round([*h.rotation.ravel(), *h.position], 6) + 0.0)
                    for h in inner)  # fmt: skip
        if key not in self._made:
            label = self._shapes.NewShape()
            self._call(label, title)
            for one in inner:
                self._put(label, one)
            self._made[key] = label
        return _Held(title, key, self._made[key], base.rotation, base.position)

    def _put(self, whole: Any, one: _Held) -> None:
        label = self._shapes.AddComponent(whole, one.label, location(one.rotation, one.position))
        self._call(label, one.title)

    def _call(self, label: Any, title: str) -> None:
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(self._spelling(title), True))

    def _body(self, part: Placed) -> tuple[object, Any]:
        title = part.called
        look = (title, part.colour, tuple(sorted(part.paints.items())))
        key = (part.key or Key(part.body.shape), *look)
        if key not in self._made:
            body = settled(part.body)
            if Key(body.shape) in self._stored:
                # One shape has one look in a file: of another look it is another shape.
                body = Body(BRepBuilderAPI_Copy(body.shape).Shape(), body.names)
            self._stored.add(Key(body.shape))
            label = self._shapes.AddShape(body.shape, False)
            self._call(label, title)
            if part.colour:
                tone = _tone(part.colour)
                self._colours.SetColor(label, tone, XCAFDoc_ColorType.XCAFDoc_ColorGen)
            for index, colour in part.paints.items():
                face = self._shapes.AddSubShape(label, body.faces[index])
                self._colours.SetColor(face, _tone(colour), XCAFDoc_ColorType.XCAFDoc_ColorSurf)
            self._made[key] = label
        return key, self._made[key]


@dataclass(frozen=True)
class _Held:
    """Something in a document of the kernel, where it stands."""

    title: str
    key: object
    label: Any
    rotation: Vector
    position: Vector

    def seen_from(self, base: _Held) -> _Held:
        back = base.rotation.T
        return replace(
            self, rotation=back @ self.rotation, position=back @ (self.position - base.position)
        )


def unmatched(found: Any, wanted: Any, within: float) -> int | None:
    """Of rows of numbers (mm) one that none of as many others is as near to as `within`, each taken
    once; None when all are there."""
    if not len(wanted):
        return None
    near = cKDTree(found).query_ball_point(wanted, within)
    left = set(range(len(found)))
    for k, some in enumerate(near):
        here = next((i for i in some if i in left), None)
        if here is None:
            return k
        left.discard(here)
    return None


def stands(solid: TopoDS_Shape, rotation: Vector, position: Vector) -> list[float]:
    """Where the centre of a solid is, the edge of a cube of its size, and its radii of gyration about
    the outer axes, which tell how it is turned (mm)."""
    found = mass_properties(Body(solid, ()))
    r = np.asarray(rotation)
    centre = r @ np.array(found.centre) + np.asarray(position)
    spread = np.diag(r @ found.inertia @ r.T) / found.volume
    return [*centre.tolist(), float(np.cbrt(found.volume)), *np.sqrt(np.abs(spread)).tolist()]


def _read_back(parts: Sequence[Placed], path: str) -> None:
    """That a written file holds as many solids as went in, with their volumes, centres and names.
    Raises KernelTrouble."""
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
    still = (np.eye(3), np.zeros(3))
    stood = np.array([stands(x, *still) for x in solids])
    told = [(p, x) for p in parts for x in solids_of(p.body.shape)]
    should = np.array([stands(x, p.rotation, p.position) for p, x in told])
    if told:
        lost = unmatched(stood, should, 1e-3 + 1e-6 * float(np.abs(should).max()))
        if lost is not None:
            raise KernelTrouble(f"the STEP file has “{told[lost][0].name}” in another place")
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
        title = " ".join(p.called.split())[:60].rstrip()
        if not solids_of(p.body.shape):
            # The reader looks for names of solids; others at least stand in the file.
            if f"'{spelt(title)}" not in text:
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

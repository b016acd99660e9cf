"""Bodies grown from profiles, and simple turned tools."""

from __future__ import annotations

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakePrism
from OCP.gp import gp_Ax2
from OCP.TopoDS import TopoDS_Shape

from vireo.core.geometry import Frame, Triple
from vireo.core.kernel.boolean import unified
from vireo.core.kernel.gate import checked, finite
from vireo.core.kernel.place import direction, point, to_place, vector
from vireo.core.kernel.profile import Arrangement, Region, faces_from
from vireo.core.kernel.shape import Body, Key, compound_of, edges_of, faces_of, items


def prism(
    arrangement: Arrangement,
    chosen: list[Region],
    frame: Frame,
    low: float,
    high: float,
    step: str,
) -> Body:
    """The chosen regions swept straight along the frame's z from `low` to `high` (mm).

    Faces are named ``<step>/side/<curve>`` and ``<step>/cap/start|end``.
    """
    finite(low, high)
    solids: list[TopoDS_Shape] = []
    named: dict[Key, str] = {}
    lift = to_place(Frame(frame.out((0.0, 0.0, low)), frame.x, frame.z))
    for face in faces_from(arrangement, chosen):
        # The outline is put in place first: a located solid makes every later call on it slower.
        placed = BRepBuilderAPI_Transform(face, lift, True, False)
        maker = BRepPrimAPI_MakePrism(placed.Shape(), vector(frame.z, high - low))
        named[Key(maker.FirstShape())] = f"{step}/cap/start"
        named[Key(maker.LastShape())] = f"{step}/cap/end"
        for edge in edges_of(face):
            curve = arrangement.source.get(Key(edge), "edge")
            for side in items(maker.Generated(placed.ModifiedShape(edge))):
                named[Key(side)] = f"{step}/side/{curve}"
        solids.append(maker.Shape())
    shape = solids[0] if len(solids) == 1 else compound_of(solids)
    names = tuple(named.get(Key(f), f"{step}/side") for f in faces_of(shape))
    body = Body(checked("the extrusion", shape), names)
    pieces = [n for n in names if "/side/" in n]
    return unified(body) if len(set(pieces)) < len(pieces) else body


def cylinder(
    base: Triple, axis: Triple, radius: float, length: float, names: tuple[str, str, str]
) -> Body:
    """A cylinder from `base` along `axis` with names for wall, far end and near end."""
    finite(*base, radius, length)
    maker = BRepPrimAPI_MakeCylinder(gp_Ax2(point(base), direction(axis)), radius, length)
    shape = checked("the cylinder", maker.Shape())
    inner = maker.Cylinder()
    table = {
        Key(inner.LateralFace()): names[0],
        Key(inner.TopFace()): names[1],
        Key(inner.BottomFace()): names[2],
    }
    return Body(shape, tuple(table[Key(f)] for f in faces_of(shape)))


def box(sizes: Triple, name: str) -> Body:
    """A box at the origin, its faces named by the way they look."""
    finite(*sizes)
    maker = BRepPrimAPI_MakeBox(*sizes)
    shape = checked("the box", maker.Shape())
    table = {
        Key(maker.LeftFace()): "left",
        Key(maker.RightFace()): "right",
        Key(maker.FrontFace()): "front",
        Key(maker.BackFace()): "back",
        Key(maker.TopFace()): "top",
        Key(maker.BottomFace()): "bottom",
    }
    return Body(shape, tuple(f"{name}/{table.get(Key(f), 'face')}" for f in faces_of(shape)))

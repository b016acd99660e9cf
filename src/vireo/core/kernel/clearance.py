"""Faces moved in or out one after the other, where moving them at once fails: the layer between
a face and its offset, bounded by the neighbours run on, is added or cut away."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType as SurfaceType
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Ax2, gp_Ax3, gp_Pnt
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from vireo.core.kernel.boolean import Operation, combine, unified_beside
from vireo.core.kernel.direct import thickened
from vireo.core.kernel.dress import faces_offset, swept
from vireo.core.kernel.gate import KernelTrouble, checked
from vireo.core.kernel.locate import inner_point
from vireo.core.kernel.measure import is_hollow
from vireo.core.kernel.shape import Body, faces_of, solids_of
from vireo.core.kernel.trim import run_on, split

WHAT = "moving these faces"
_SIDE = "side"


def offset_faces(body: Body, groups: Sequence[Sequence[int]], by: float) -> Body:
    """Groups of faces (those of one run on smoothly into each other) moved by a distance along
    their normals (mm, outwards positive), neighbours run on or cut back. Names stay.

    All at once where the kernel can; else group after group: moved by the kernel, by the layer
    between the neighbours run on, or by thickening. Raises KernelTrouble when none works.
    """
    faces = [i for g in groups for i in g]
    try:
        return faces_offset(body, dict.fromkeys(faces, by), WHAT)
    except KernelTrouble as trouble:
        if len(groups) == 1:
            return _group_moved(body, groups[0], by, trouble)
    places = [[(body.names[i], inner_point(body.faces[i])) for i in g] for g in groups]
    for group in places:
        now = sorted({_found(body, name, at) for name, at in group})
        try:
            body = faces_offset(body, dict.fromkeys(now, by), WHAT)
        except KernelTrouble as trouble:
            body = _group_moved(body, now, by, trouble)
    return body


def _found(body: Body, name: str, at: gp_Pnt) -> int:
    """The face of a name that a place lies on, after others have moved."""
    called = [i for i, n in enumerate(body.names) if name in n.split("&")]
    if not called:
        raise KernelTrouble("a face is gone when those beside it have moved")
    return min(called, key=lambda i: _distance(at, body.faces[i]))


def _group_moved(body: Body, group: Sequence[int], by: float, why: KernelTrouble) -> Body:
    """One group moved without the kernel's own offset; `why` is what that said."""
    for way in (_by_layer, _by_thickening):
        try:
            made = _tried(way, body, group, by)
            after = dict.fromkeys(_moved(body, group, made, by), by)
            swept(body, dict.fromkeys(group, by), made, after, WHAT)
            return made
        except KernelTrouble:
            continue
    raise why


def _tried(
    way: Callable[[Body, Sequence[int], float], Body], body: Body, group: Sequence[int], by: float
) -> Body:
    try:
        return way(body, group, by)
    except KernelTrouble:
        raise
    except Exception as error:  # the kernel's exceptions share no narrower base
        raise KernelTrouble("the layer between could not be made") from error


def _moved(body: Body, group: Sequence[int], made: Body, by: float) -> list[int]:
    """The faces of a result that are moved ones of a body: so called, that far from them, and
    not there before (others of the name may have been moved earlier)."""
    called = {body.names[i] for i in group}
    old = [f for f, n in body.named_faces() if called & set(n.split("&"))]
    found = []
    for k, (face, name) in enumerate(made.named_faces()):
        if called & set(name.split("&")):
            at = inner_point(face)
            off = any(abs(_off_surface(at, body.faces[i]) - abs(by)) < 1e-6 for i in group)
            if off and all(_distance(at, f) > 1e-6 for f in old):
                found.append(k)
    return found


# The layer of faces on one surface


def _by_layer(body: Body, group: Sequence[int], by: float) -> Body:
    face, *more = group
    if any(_off_surface(inner_point(body.faces[i]), body.faces[face]) > 1e-6 for i in more):
        raise KernelTrouble("faces that run on into each other are moved together or not at all")
    around = _around(body, group)
    layer = Body(solid := _layer(body.faces[face], by), tuple(_SIDE for _ in faces_of(solid)))
    cutters = [run_on(body.faces[i]) for i in around]
    pieces = split(layer, cutters, _SIDE, WHAT) if cutters else [(solid, layer.names)]
    tools = []
    for shape, _ in pieces:
        if not _stands_on(shape, [body.faces[i] for i in group]):
            continue
        names = []
        for f in faces_of(shape):
            at = inner_point(f)
            on = [i for i in around if _off_surface(at, body.faces[i]) < 1e-6]
            gap = _off_surface(at, body.faces[face])
            if on:
                names.append(body.names[on[0]])
            elif gap < 1e-6 or abs(gap - abs(by)) < 1e-6:
                nearest = min(group, key=lambda i: _distance(at, body.faces[i]))
                names.append(body.names[nearest])
            else:
                raise KernelTrouble("the faces beside run on further than can be followed")
        tools.append(Body(checked(WHAT, shape), tuple(names)))
    if not tools:
        raise KernelTrouble("the faces beside leave no room")
    return _applied(body, tools, by)


def _applied(body: Body, tools: Sequence[Body], by: float) -> Body:
    operation: Operation = "add" if by > 0 else "cut"
    before = set(body.names)
    made = unified_beside(combine(operation, body, tools, WHAT), body)
    if any(_SIDE in n.split("&") for n in made.names):
        raise KernelTrouble("the faces beside do not run on straight")
    if not set(made.names) <= before | {n for n in made.names if "&" in n}:
        raise KernelTrouble("moving these faces leaves new ones between")
    if len(solids_of(made.shape)) != len(solids_of(body.shape)):
        raise KernelTrouble("moving these faces takes the body apart")
    return made


def _around(body: Body, group: Sequence[int]) -> list[int]:
    """Faces that share an edge with some."""
    found = {i for pair in body.edge_faces if set(pair) & set(group) for i in pair}
    return sorted(found - set(group))


def _layer(face: TopoDS_Face, by: float) -> TopoDS_Shape:
    """The solid between a face's surface and its offset, run on well beyond the border of the
    face. Raises KernelTrouble for free surfaces, and where the offset folds."""
    s = BRepAdaptor_Surface(face)
    kind = s.GetType()
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    margin = 12.0 * abs(by) + 1.0
    out = -1.0 if face.Orientation() == TopAbs_REVERSED else 1.0
    if kind == SurfaceType.GeomAbs_Plane:
        return _slab(s, (u0 - margin, u1 + margin), (v0 - margin, v1 + margin), out * by)
    word = _ROUND.get(kind)
    if word is None:
        raise KernelTrouble("a free surface cannot be moved alone")
    away = -by if is_hollow(face, word) else by
    one, two = _MADE[kind](s, (v0, v1), margin, 0.0), _MADE[kind](s, (v0, v1), margin, away)
    outer, inner = (two, one) if away > 0 else (one, two)
    plain = [Body(x, tuple("" for _ in faces_of(x))) for x in (outer, inner)]
    return combine("cut", plain[0], [plain[1]], WHAT).shape


def _slab(
    s: BRepAdaptor_Surface, u: tuple[float, float], v: tuple[float, float], by: float
) -> TopoDS_Shape:
    frame = s.Plane().Position()
    x, y = frame.XDirection(), frame.YDirection()
    normal = x.Crossed(y)  # that of the surface, also when its frame is left-handed
    plain = gp_Ax2(frame.Location(), normal, x)
    at = gp_Ax2(_placed(plain, gp_Pnt(u[0], v[0], min(0.0, by))), normal, x)
    return BRepPrimAPI_MakeBox(at, u[1] - u[0], v[1] - v[0], abs(by)).Shape()


def _placed(axes: gp_Ax2, p: gp_Pnt) -> gp_Pnt:
    o, x, y, z = axes.Location(), axes.XDirection(), axes.YDirection(), axes.Direction()
    return gp_Pnt(*(
        getattr(o, k)() + p.X() * getattr(x, k)() + p.Y() * getattr(y, k)() + p.Z() * getattr(z, k)()
        for k in ("X", "Y", "Z")
    ))  # fmt: skip


def _axes(position: gp_Ax3, along: float) -> gp_Ax2:
    """Right-handed axes of a round surface, shifted along it."""
    plain = gp_Ax2(position.Location(), position.Direction(), position.XDirection())
    return gp_Ax2(_placed(plain, gp_Pnt(0, 0, along)), plain.Direction(), plain.XDirection())


def _radius(r: float) -> float:
    if r < 1e-6:
        raise KernelTrouble("a face bends too tightly to move that far")
    return r


def _cylinder(
    s: BRepAdaptor_Surface, v: tuple[float, float], margin: float, away: float
) -> TopoDS_Shape:
    c = s.Cylinder()
    at = _axes(c.Position(), v[0] - margin)
    height = v[1] - v[0] + 2 * margin
    return BRepPrimAPI_MakeCylinder(at, _radius(c.Radius() + away), height).Shape()


def _cone(
    s: BRepAdaptor_Surface, v: tuple[float, float], margin: float, away: float
) -> TopoDS_Shape:
    c = s.Cone()
    angle, radius = c.SemiAngle(), c.RefRadius()
    # Heights along the axis; it must not run past the tip, nor may its offset.
    low, high = sorted(t * math.cos(angle) for t in v)
    slope, shift = math.tan(angle), away / math.cos(angle)
    tip = -(radius + min(0.0, shift)) / slope
    low, high = low - margin, high + margin
    if slope > 0:
        low = max(low, tip + 1e-3)
    else:
        high = min(high, tip - 1e-3)
    if high - low < 1e-3:
        raise KernelTrouble("a face bends too tightly to move that far")
    return BRepPrimAPI_MakeCone(
        _axes(c.Position(), low), _radius(radius + low * slope + shift),
        _radius(radius + high * slope + shift), high - low,
    ).Shape()  # fmt: skip


def _sphere(
    s: BRepAdaptor_Surface, v: tuple[float, float], margin: float, away: float
) -> TopoDS_Shape:
    b = s.Sphere()
    return BRepPrimAPI_MakeSphere(_axes(b.Position(), 0.0), _radius(b.Radius() + away)).Shape()


def _torus(
    s: BRepAdaptor_Surface, v: tuple[float, float], margin: float, away: float
) -> TopoDS_Shape:
    t = s.Torus()
    tube = _radius(t.MinorRadius() + away)
    if tube >= t.MajorRadius():
        raise KernelTrouble("a face bends too tightly to move that far")
    return BRepPrimAPI_MakeTorus(_axes(t.Position(), 0.0), t.MajorRadius(), tube).Shape()


_ROUND = {
    SurfaceType.GeomAbs_Cylinder: "cylinder",
    SurfaceType.GeomAbs_Cone: "cone",
    SurfaceType.GeomAbs_Sphere: "sphere",
    SurfaceType.GeomAbs_Torus: "torus",
}
_MADE = {
    SurfaceType.GeomAbs_Cylinder: _cylinder,
    SurfaceType.GeomAbs_Cone: _cone,
    SurfaceType.GeomAbs_Sphere: _sphere,
    SurfaceType.GeomAbs_Torus: _torus,
}


def _distance(at: gp_Pnt, shape: TopoDS_Shape) -> float:
    return float(BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(at).Vertex(), shape).Value())


def _off_surface(at: gp_Pnt, face: TopoDS_Face) -> float:
    """How far a place is from the surface of a face, run on."""
    found = GeomAPI_ProjectPointOnSurf(at, BRep_Tool.Surface_s(face))
    return float(found.LowerDistance()) if found.NbPoints() else math.inf


def _stands_on(piece: TopoDS_Shape, group: Sequence[TopoDS_Face]) -> bool:
    """Whether a piece of the layer has a face that lies within the faces it was made on."""
    for f in faces_of(piece):
        at = inner_point(f)
        if _off_surface(at, group[0]) < 1e-6 and any(_distance(at, g) < 1e-6 for g in group):
            return True
    return False


# Thickening


def _by_thickening(body: Body, group: Sequence[int], by: float) -> Body:
    thick = thickened(body, group, by, "=")
    around = _around(body, group)
    names = []
    for f, name in thick.named_faces():
        parts = name.split("/", 2)
        if len(parts) == 3:
            names.append(parts[2])
            continue
        at = inner_point(f)
        on = [i for i in around if _off_surface(at, body.faces[i]) < 1e-6]
        names.append(body.names[on[0]] if on else _SIDE)
    return _applied(body, [Body(thick.shape, tuple(names))], by)

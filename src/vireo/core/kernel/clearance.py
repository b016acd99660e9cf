"""Faces moved in or out one after the other, where moving them at once fails: the layer between
a face and its offset, bounded by the neighbours run on, is added or cut away."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.BRepTools import BRepTools
from OCP.Geom import Geom_ConicalSurface, Geom_CylindricalSurface
from OCP.GeomAbs import GeomAbs_CurveType as CurveType
from OCP.GeomAbs import GeomAbs_SurfaceType as SurfaceType
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Ax2, gp_Ax3, gp_Dir, gp_Pln, gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from vireo.core.geometry import dot
from vireo.core.kernel.boolean import Operation, combine, unified_beside
from vireo.core.kernel.direct import thickened
from vireo.core.kernel.dress import faces_offset, swept
from vireo.core.kernel.gate import KernelTrouble, checked
from vireo.core.kernel.locate import foot_on, inner_point
from vireo.core.kernel.measure import box_of, corner_at, is_hollow, outward_normal
from vireo.core.kernel.shape import Body, compound_of, faces_of, solids_of, vertices_of
from vireo.core.kernel.trim import run_on, split
from vireo.core.naming.grammar import after, answers, face_name, is_joined, parts_of, words_of

WHAT = "moving these faces"
_SIDE = "side"
#: Ends the name of a ledge on the surface of a neighbour that looks the other way.
_BACK = "back"


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
    called = [i for i, n in enumerate(body.names) if answers(n, name)]
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
    old = [f for f, n in body.named_faces() if called & set(parts_of(n))]
    found = []
    for k, (face, name) in enumerate(made.named_faces()):
        if called & set(parts_of(name)):
            at = inner_point(face)
            off = any(abs(_off_surface(at, body.faces[i]) - abs(by)) < 1e-6 for i in group)
            if off and all(_distance(at, f) > 1e-6 for f in old):
                found.append(k)
    return found


# The layer of faces on one surface


def _by_layer(body: Body, group: Sequence[int], by: float) -> Body:
    tools = [t for same in _alike(body, group) for t in _pieces(body, same, group, by)]
    if not tools:
        raise KernelTrouble("the faces beside leave no room")
    return _applied(body, tools, by)


def _alike(body: Body, group: Sequence[int]) -> list[list[int]]:
    """Faces sorted by the surface they lie on."""
    found: list[list[int]] = []
    for i in group:
        at, kind = inner_point(body.faces[i]), BRepAdaptor_Surface(body.faces[i]).GetType()
        for same in found:
            other = body.faces[same[0]]
            if BRepAdaptor_Surface(other).GetType() == kind and _off_surface(at, other) < 1e-6:
                same.append(i)
                break
        else:
            found.append([i])
    return found


def _pieces(body: Body, same: Sequence[int], group: Sequence[int], by: float) -> list[Body]:
    """The layer on faces of one surface, of a group that moves together, as tools.

    It ends at neighbours that stay, run on; at those that move too, where they or their offsets
    will be, whichever makes the two layers meet; and straight out where a moving neighbour runs
    on smoothly."""
    face = body.faces[same[0]]
    apart = math.dist(*box_of(compound_of([body.faces[i] for i in same]))) if same[1:] else 0.0
    layer = Body(solid := _layer(face, by, apart), tuple(_SIDE for _ in faces_of(solid)))
    cutters: list[TopoDS_Shape] = []
    beside: dict[int, float] = {}  # where a neighbour ends the layer, and how far off itself
    for k, pair in enumerate(body.edge_faces):
        if len(pair) != 2 or len(set(pair) & set(same)) != 1:
            continue
        (other,) = set(pair) - set(same)
        corner = corner_at(body, k, 0.5) if other in group else None
        if corner is not None and corner[0] < 1.5e-3:
            cutters.append(_wall(body.edges[k], body.faces[next(iter(set(pair) & set(same)))], by))
        elif other not in beside:
            moves = corner is not None and corner[1] == (by < 0)
            beside[other] = abs(by) if moves else 0.0
            cutters.append(
                _offset_of(body.faces[other], by) if moves else run_on(body.faces[other])
            )
    cutters = [c for n, c in enumerate(cutters) if not any(_one_plane(c, d) for d in cutters[:n])]
    pieces = split(layer, cutters, _SIDE, WHAT) if cutters else [(solid, layer.names)]
    tools = []
    for piece, _ in pieces:
        if not _rests_on(piece, [body.faces[i] for i in same]):
            continue
        names = []
        for f in faces_of(piece):
            at = inner_point(f)
            gap = _off_surface(at, face)
            # Neighbours that stay first: one place may by chance be as far off another as that moves.
            on = [
                i
                for i, d in sorted(beside.items(), key=lambda x: x[1])
                if abs(_off_surface(at, body.faces[i]) - d) < 1e-6
            ]
            if gap < 1e-6 or abs(gap - abs(by)) < 1e-6:
                nearest = min(same, key=lambda i: _distance(at, body.faces[i]))
                names.append(body.names[nearest])
            elif on:
                looks = _looks_along(f, body.faces[on[0]], at, by)
                own = body.names[on[0]]
                names.append(own if looks else face_name(own, _BACK))
            elif len(group) > len(same):
                names.append(_SIDE)  # a wall between two layers: gone when they are one
            else:
                raise KernelTrouble("the faces beside run on further than can be followed")
        tools.append(Body(checked(WHAT, piece), tuple(names)))
    return tools


def _looks_along(side: TopoDS_Face, neighbour: TopoDS_Face, at: gp_Pnt, by: float) -> bool:
    """Whether what a side of a tool leaves on the body looks the way of the neighbour it runs on
    from; a ledge under or over it looks back."""
    place = (at.X(), at.Y(), at.Z())
    out = foot_on(side, place)[1]
    way = 1.0 if by > 0 else -1.0  # a cut leaves its sides turned round
    return way * dot(out, foot_on(neighbour, place)[1]) > 0.0


def _one_plane(one: TopoDS_Shape, other: TopoDS_Shape) -> bool:
    surfaces = [BRepAdaptor_Surface(TopoDS.Face(x)) for x in (one, other)]
    if any(s.GetType() != SurfaceType.GeomAbs_Plane for s in surfaces):
        return False
    a, b = (s.Plane() for s in surfaces)
    return bool(
        a.Axis().Direction().IsParallel(b.Axis().Direction(), 1e-9)
        and a.Distance(b.Location()) < 1e-7
    )


def _offset_of(face: TopoDS_Face, by: float) -> TopoDS_Shape:
    """Where the surface of a face, run on, will be."""
    for f in faces_of(_layer(face, by)):
        if BRepAdaptor_Surface(f).GetType() == BRepAdaptor_Surface(face).GetType() and (
            abs(_off_surface(inner_point(f), face) - abs(by)) < 1e-6
        ):
            return run_on(f)
    raise KernelTrouble("a face bends too tightly to move that far")


def _wall(edge: TopoDS_Edge, face: TopoDS_Face, by: float) -> TopoDS_Shape:
    """The surface along the normals of a face at a straight or round edge of it: all round, and
    somewhat higher than the layer it parts (a high one costs the kernel much)."""
    curve = BRepAdaptor_Curve(edge)
    t = 0.5 * (curve.FirstParameter() + curve.LastParameter())
    normal = outward_normal(face, edge, t)
    if normal is None:
        raise KernelTrouble("an edge between the faces has no direction")
    at, out, along = curve.Value(t), gp_Dir(*map(float, normal)), curve.DN(t, 1)
    if curve.GetType() == CurveType.GeomAbs_Line:
        return BRepBuilderAPI_MakeFace(gp_Pln(at, out.Crossed(gp_Dir(along)))).Face()
    if curve.GetType() != CurveType.GeomAbs_Circle:
        raise KernelTrouble("faces run on into each other along a curve that cannot be followed")
    circle = curve.Circle()
    axis = circle.Axis().Direction()
    lean = out.Dot(axis)
    far = 2.0 * abs(by)
    if abs(lean) < 1e-9:
        return BRepBuilderAPI_MakeFace(gp_Pln(circle.Location(), axis)).Face()
    if abs(lean) > 1.0 - 1e-9:
        round_ = Geom_CylindricalSurface(gp_Ax3(circle.Position()), circle.Radius())
        return BRepBuilderAPI_MakeFace(round_, 0.0, 2 * math.pi, -far, far, 1e-6).Face()
    outwards = gp_Dir(gp_Vec(circle.Location(), at)).Dot(out)
    angle = math.atan(outwards / lean)
    cone = Geom_ConicalSurface(gp_Ax3(circle.Position()), angle, circle.Radius())
    tip = -circle.Radius() / math.sin(angle)
    low, high = -far, far
    if angle > 0:
        low = max(low, tip + 1e-6)
    else:
        high = min(high, tip - 1e-6)
    return BRepBuilderAPI_MakeFace(cone, 0.0, 2 * math.pi, low, high, 1e-6).Face()


def _applied(body: Body, tools: Sequence[Body], by: float) -> Body:
    operation: Operation = "add" if by > 0 else "cut"
    before = set(body.names)
    made = unified_beside(combine(operation, body, tools, WHAT), body)
    if any(answers(n, _SIDE) for n in made.names):
        raise KernelTrouble("the faces beside do not run on straight")
    known = before | {n for n in made.names if is_joined(n) or words_of(n)[-1] == _BACK}
    if not set(made.names) <= known:
        raise KernelTrouble("moving these faces leaves new ones between")
    if len(solids_of(made.shape)) != len(solids_of(body.shape)):
        raise KernelTrouble("moving these faces takes the body apart")
    return made


def _around(body: Body, group: Sequence[int]) -> list[int]:
    """Faces that share an edge with some."""
    found = {i for pair in body.edge_faces if set(pair) & set(group) for i in pair}
    return sorted(found - set(group))


def _layer(face: TopoDS_Face, by: float, further: float = 0.0) -> TopoDS_Shape:
    """The solid between a face's surface and its offset, run on well beyond the border of the
    face, and `further` (mm). Raises KernelTrouble for free surfaces, and where the offset folds."""
    s = BRepAdaptor_Surface(face)
    kind = s.GetType()
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    margin = 12.0 * abs(by) + 1.0 + further
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


def _rests_on(piece: TopoDS_Shape, group: Sequence[TopoDS_Face]) -> bool:
    """Whether a piece of the layer has a face that lies on the faces it was made on, if only with
    some of it: where neighbours move too it reaches beyond."""
    for f in faces_of(piece):
        middle = inner_point(f)
        if _off_surface(middle, group[0]) > 1e-6:
            continue
        if any(_distance(at, g) < 1e-6 for at in _spread(f, middle) for g in group):
            return True
    return False


def _spread(face: TopoDS_Face, middle: gp_Pnt) -> Iterator[gp_Pnt]:
    """Places within a face: a middle one and some between it and the corners."""
    yield middle
    for vertex in vertices_of(face):
        corner = BRep_Tool.Pnt_s(vertex)
        for share in (0.05, 0.5):
            way = gp_Vec(corner, middle).Multiplied(share)
            found = GeomAPI_ProjectPointOnSurf(corner.Translated(way), BRep_Tool.Surface_s(face))
            if found.NbPoints() and _distance(at := found.NearestPoint(), face) < 1e-6:
                yield at


# Thickening


def _by_thickening(body: Body, group: Sequence[int], by: float) -> Body:
    thick = thickened(body, group, by, "=")
    around = _around(body, group)
    names = []
    for f, name in thick.named_faces():
        if (of := after(name, 2)) is not None:
            names.append(of)
            continue
        at = inner_point(f)
        on = [i for i in around if _off_surface(at, body.faces[i]) < 1e-6]
        names.append(body.names[on[0]] if on else _SIDE)
    return _applied(body, [Body(thick.shape, tuple(names))], by)

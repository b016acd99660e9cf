"""Solids hollowed, faces moved in and out, faces taken away and healed over."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from OCP.BOPAlgo import BOPAlgo_RemoveFeatures
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from vireo.core.kernel.boolean import combine
from vireo.core.kernel.gate import KernelTrouble, checked, finite
from vireo.core.kernel.locate import length_of
from vireo.core.kernel.measure import area_of, bend_room, outward_normal, volume_of
from vireo.core.kernel.shape import Body, Key, edges_of, faces_of, items
from vireo.core.kernel.witness import budget, confined, left_behind, swept_budget
from vireo.core.naming.grammar import face_name, joined, source_of, under

_TOLERANCE = 1e-5


def _offset(body: Body, by: float) -> BRepOffset_MakeOffset:
    maker = BRepOffset_MakeOffset()
    maker.Initialize(
        body.shape, by, _TOLERANCE, BRepOffset_Mode.BRepOffset_Skin, False, False,
        GeomAbs_JoinType.GeomAbs_Intersection, False, False,
    )  # fmt: skip
    return maker


def _built(maker: BRepOffset_MakeOffset, what: str, thick: bool) -> TopoDS_Shape:
    """The result of an offset; the kernel fails in several ways, all told alike."""
    try:
        if thick:
            maker.MakeThickSolid()
        else:
            maker.MakeOffsetShape()
    except Exception as error:
        raise KernelTrouble(f"{what}: the faces beside leave no room") from error
    if not maker.IsDone():
        raise KernelTrouble(f"{what}: the faces beside leave no room")
    return maker.Shape()


def shell(
    body: Body, open_: Sequence[int], wall: float, others: Mapping[int, float], outwards: bool,
    step: str,
) -> Body:  # fmt: skip
    """The solid hollowed to a wall (mm), open where faces are named; `others` are walls of their
    own. Inner faces are called ``<step>/inner/<name>``, rims ``<step>/rim/<name>``.

    Raises KernelTrouble when the wall leaves no room: the kernel would give the solid back
    unchanged, or unsound.
    """
    finite(wall, *others.values())
    sign = 1.0 if outwards else -1.0
    before = volume_of(body.shape)
    if not open_:
        maker = _offset(body, sign * wall)
        for i, t in others.items():
            maker.SetOffsetOnFace(body.faces[i], sign * t)
        other = checked("the shell", _built(maker, "the shell", False))
        table = {
            Key(f): face_name(step, "inner", name)
            for face, name in body.named_faces()
            for f in items(maker.Generated(face))
        }
        names = tuple(table.get(Key(f), face_name(step, "inner")) for f in faces_of(other))
        made = Body(other, names)
        big, small = (made, body) if outwards else (body, made)
        if volume_of(small.shape) >= volume_of(big.shape):
            raise KernelTrouble("the shell leaves no room inside")
        walls = [others.get(i, wall) for i in range(len(body.faces))]
        hollow = combine("cut", big, [small], "the shell")
        _walled(body, walls, made, volume_of(hollow.shape))
        return hollow
    maker = _offset(body, sign * wall)
    for i in open_:
        maker.AddFace(body.faces[i])
    for i, t in others.items():
        maker.SetOffsetOnFace(body.faces[i], sign * t)
    shape = checked("the shell", _built(maker, "the shell", True))
    volume = volume_of(shape)
    if abs(volume - before) < 1e-9 * before or (not outwards and volume > before):
        raise KernelTrouble("the shell leaves no room inside")
    named: dict[Key, str] = {}
    gone = set(open_)
    for i, (face, name) in enumerate(body.named_faces()):
        made_of = items(maker.Generated(face))
        role = "rim" if i in gone else "inner"
        for f in made_of:
            named[Key(f)] = face_name(step, role, name)
        if i not in gone:
            for f in items(maker.Modified(face)) or [face]:
                named.setdefault(Key(f), name)
    faces = faces_of(shape)
    for f in faces:
        if Key(f) not in named:
            rim = next((i for i in open_ if _lies_on(f, body.faces[i])), None)
            named[Key(f)] = face_name(step, "rim", *([] if rim is None else [body.names[rim]]))
    whole = Body(shape, tuple(named[Key(f)] for f in faces))
    walls = [0.0 if i in gone else others.get(i, wall) for i in range(len(body.faces))]
    inner = Body(shape, tuple(n if under(n, step, "inner") else "" for n in whole.names))
    _walled(body, walls, inner, volume)
    return whole


def _walled(body: Body, walls: Sequence[float], made: Body, volume: float) -> None:
    """That the material of a shell is what its walls fill: each between a face and the one it
    gave, found by name, over the wall's thickness (mm). Raises WitnessTrouble."""
    pieces = []
    for t in sorted(set(walls) - {0.0}):
        old = [i for i, w in enumerate(walls) if w == t]
        names = {body.names[i] for i in old}
        new = [f for f, n in made.named_faces() if source_of(n, "inner") in names]
        pieces.append((sum(area_of(body.faces[i]) for i in old), sum(area_of(f) for f in new), t))
    swept_budget("the shell", volume, pieces, loose=0.1)


def _lies_on(face: TopoDS_Face, other: TopoDS_Face) -> bool:
    """Whether a corner and the middle of a face's edges lie on the surface of another."""
    surface = BRep_Tool.Surface_s(other)
    for edge in edges_of(face)[:4]:
        curve = BRepAdaptor_Curve(edge)
        for k in (0.0, 0.5):
            t = curve.FirstParameter() + k * (curve.LastParameter() - curve.FirstParameter())
            foot = GeomAPI_ProjectPointOnSurf(curve.Value(t), surface)
            if foot.NbPoints() == 0 or foot.LowerDistance() > 1e-5:
                return False
    return True


def faces_offset(body: Body, by: Mapping[int, float], what: str = "moving these faces") -> Body:
    """Faces moved along their normals (mm, outwards positive), neighbours run on or cut back."""
    finite(*by.values())
    maker = _offset(body, 0.0)
    for i, d in by.items():
        maker.SetOffsetOnFace(body.faces[i], d)
    shape = checked(what, _built(maker, what, False))
    named: dict[Key, set[str]] = {}
    moved: dict[Key, float] = {}
    for i, (face, name) in enumerate(body.named_faces()):
        for f in items(maker.Generated(face)) or items(maker.Modified(face)) or [face]:
            named.setdefault(Key(f), set()).add(name)
            if i in by:
                moved[Key(f)] = by[i]
    made = Body(shape, tuple(joined(named.get(Key(f), {"offset"})) for f in faces_of(shape)))
    after = {i: moved[k] for i, f in enumerate(made.faces) if (k := Key(f)) in moved}
    swept(body, by, made, after, what)
    return made


def swept(
    body: Body, by: Mapping[int, float], made: Body, after: Mapping[int, float], what: str
) -> None:
    """That what came between a body and the same with faces moved is what these swept, and lies
    near them; `after` are the moved faces in the result. Raises WitnessTrouble."""
    change = volume_of(made.shape) - volume_of(body.shape)
    pieces = []
    for d in set(by.values()):
        old = sum(area_of(body.faces[i]) for i in by if by[i] == d)
        new = sum(area_of(made.faces[i]) for i in after if after[i] == d)
        pieces.append((old, new, d))
        # Borders run outwards and inwards with their neighbours' slopes, bent faces with their
        # radii: an area that leaps is not that of the faces that moved.
        bend = sum(area_of(f) * 2 * abs(d) / r for f, r in _bends(body, by, d))
        border = sum(length_of(e) for e in _border(body, by))
        budget(what, new - old, -1.1 * old, 1.5 * (bend + 6 * abs(d) * border), of="area")
    swept_budget(what, change, pieces)
    # A neighbour that leans by five degrees is run on by twelve times the offset.
    reach = 12 * max(abs(d) for d in by.values())
    confined(body.shape, made.shape, [body.faces[i] for i in by], reach, what)
    left_behind(made.shape, [body.faces[i] for i in by], what)


def _bends(body: Body, by: Mapping[int, float], d: float) -> list[tuple[TopoDS_Face, float]]:
    """Moved faces that bend round outwards of the offset, with their least radius."""
    found = []
    for i in by:
        room = bend_room(body.faces[i], -d)
        if by[i] == d and room is not None:
            found.append((body.faces[i], room))
    return found


def _border(body: Body, by: Mapping[int, float]) -> list[TopoDS_Edge]:
    return [e for e, pair in zip(body.edges, body.edge_faces, strict=True) if set(pair) & set(by)]


def without_faces(body: Body, faces: Sequence[int]) -> Body:
    """Faces taken away, those around run on until they meet. Raises KernelTrouble when they do
    not: the kernel would only warn and give the solid back unchanged."""
    healer = BOPAlgo_RemoveFeatures()
    healer.SetShape(body.shape)
    for i in faces:
        healer.AddFaceToRemove(body.faces[i])
    healer.SetRunParallel(False)
    healer.Perform()
    if healer.HasErrors():
        raise KernelTrouble("the faces around do not meet when run on")
    shape = checked("taking the faces away", healer.Shape())
    left = {Key(f) for f in faces_of(shape)}
    if any(Key(body.faces[i]) in left for i in faces):
        raise KernelTrouble(
            "the faces around do not meet when run on; take their neighbours (a whole row of "
            "fillets, say) away with them"
        )
    gone = set(faces)
    named: dict[Key, set[str]] = {}
    for i, (face, name) in enumerate(body.named_faces()):
        if i not in gone:
            for f in items(healer.Modified(face)) or [face]:
                named.setdefault(Key(f), set()).add(name)
    return Body(shape, tuple(joined(named.get(Key(f), {"healed"})) for f in faces_of(shape)))


def smooth_beside(body: Body) -> dict[int, set[int]]:
    """For each face those that run on smoothly from it."""
    smooth: dict[int, set[int]] = {}
    for edge, pair in zip(body.edges, body.edge_faces, strict=True):
        if len(pair) != 2:
            continue
        curve = BRepAdaptor_Curve(edge)
        t = 0.5 * (curve.FirstParameter() + curve.LastParameter())
        normals = [outward_normal(body.faces[i], edge, t) for i in pair]
        if normals[0] is None or normals[1] is None:
            continue
        if float(np.dot(normals[0], normals[1])) > 1.0 - 1e-6:
            smooth.setdefault(pair[0], set()).add(pair[1])
            smooth.setdefault(pair[1], set()).add(pair[0])
    return smooth


def smooth_groups(body: Body, faces: Sequence[int]) -> list[list[int]]:
    """Faces with all that run on smoothly from them, in groups that hang together so."""
    smooth = smooth_beside(body)
    groups: list[list[int]] = []
    done: set[int] = set()
    for start in faces:
        if start in done:
            continue
        group = [start]
        done.add(start)
        for f in group:
            more = sorted(smooth.get(f, set()) - done)
            done.update(more)
            group += more
        groups.append(group)
    return groups


def running_on(body: Body, faces: Sequence[int]) -> set[int]:
    """Faces that run on smoothly from some, without those: what moves along with them."""
    return {i for g in smooth_groups(body, faces) for i in g} - set(faces)

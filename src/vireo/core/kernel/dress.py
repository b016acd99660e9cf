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
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from vireo.core.kernel.boolean import combine, join_names
from vireo.core.kernel.gate import KernelTrouble, checked, finite
from vireo.core.kernel.measure import outward_normal, volume_of
from vireo.core.kernel.shape import Body, Key, edges_of, faces_of, items

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
            Key(f): f"{step}/inner/{name}"
            for face, name in body.named_faces()
            for f in items(maker.Generated(face))
        }
        names = tuple(table.get(Key(f), f"{step}/inner") for f in faces_of(other))
        made = Body(other, names)
        big, small = (made, body) if outwards else (body, made)
        if volume_of(small.shape) >= volume_of(big.shape):
            raise KernelTrouble("the shell leaves no room inside")
        return combine("cut", big, [small], "the shell")
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
            named[Key(f)] = f"{step}/{role}/{name}"
        if i not in gone:
            for f in items(maker.Modified(face)) or [face]:
                named.setdefault(Key(f), name)
    faces = faces_of(shape)
    for f in faces:
        if Key(f) not in named:
            rim = next((i for i in open_ if _lies_on(f, body.faces[i])), None)
            named[Key(f)] = f"{step}/rim" + (f"/{body.names[rim]}" if rim is not None else "")
    return Body(shape, tuple(named[Key(f)] for f in faces))


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
    if all(d > 0 for d in by.values()) and volume_of(shape) <= volume_of(body.shape):
        raise KernelTrouble(f"{what}: nothing was added")
    if all(d < 0 for d in by.values()) and volume_of(shape) >= volume_of(body.shape):
        raise KernelTrouble(f"{what}: nothing was taken away")
    named: dict[Key, set[str]] = {}
    for face, name in body.named_faces():
        for f in items(maker.Generated(face)) or items(maker.Modified(face)) or [face]:
            named.setdefault(Key(f), set()).add(name)
    return Body(shape, tuple(join_names(named.get(Key(f), {"offset"})) for f in faces_of(shape)))


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
    return Body(shape, tuple(join_names(named.get(Key(f), {"healed"})) for f in faces_of(shape)))


def running_on(body: Body, faces: Sequence[int]) -> set[int]:
    """Faces that run on smoothly from some, without those: what moves along with them."""
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
    found, front = set(faces), list(faces)
    while front:
        for other in smooth.get(front.pop(), set()) - found:
            found.add(other)
            front.append(other)
    return found - set(faces)

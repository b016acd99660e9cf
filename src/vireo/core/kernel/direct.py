"""Faces taken hold of directly: thickened, moved, replaced, split."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from OCP.BOPAlgo import BOPAlgo_Builder
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.BRepBuilderAPI import BRepBuilderAPI_Sewing
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.TopAbs import TopAbs_FACE, TopAbs_SHELL
from OCP.TopoDS import TopoDS_Shape

from vireo.core.geometry import dot, plane_frame
from vireo.core.kernel.boolean import carry, combine
from vireo.core.kernel.dress import faces_offset, without_faces
from vireo.core.kernel.gate import KernelTrouble, checked, finite
from vireo.core.kernel.locate import foot_on
from vireo.core.kernel.measure import (
    area_centre,
    area_of,
    bend_room,
    box_of,
    describe_face,
    volume_of,
)
from vireo.core.kernel.shape import Body, Key, compound_of, edges_of, faces_of, items, unwrap
from vireo.core.kernel.transform import Move, carried
from vireo.core.kernel.trim import plane_face, run_on, split
from vireo.core.kernel.witness import swept_budget, unmet
from vireo.core.naming.grammar import all_parts, answers, face_name, piece, under


def thickened(body: Body, faces: Sequence[int], by: float, step: str) -> Body:
    """Faces given a thickness (mm, outwards positive) as a body of its own.

    Faces are named ``<step>/base/<name>``, ``<step>/skin/<name>``, ``<step>/rim``.
    """
    finite(by)
    for i in faces:
        if (room := bend_room(body.faces[i], by)) is not None and room <= abs(by):
            raise KernelTrouble(f"a face bends with a radius of only {room:.4g} mm that way")
    names = {Key(body.faces[i]): body.names[i] for i in faces}
    if len(faces) == 1:
        skin: TopoDS_Shape = body.faces[faces[0]]
    else:
        sewing = BRepBuilderAPI_Sewing(1e-6)
        for i in faces:
            sewing.Add(body.faces[i])
        sewing.Perform()
        skin = sewing.SewedShape()
        if skin.ShapeType() not in (TopAbs_SHELL, TopAbs_FACE):
            raise KernelTrouble("the chosen faces do not hang together: thicken them in two steps")
        names = {
            Key(f): body.names[i] for i in faces for f in faces_of(sewing.Modified(body.faces[i]))
        }
    maker = BRepOffset_MakeOffset()
    try:
        maker.Initialize(
            skin, by, 1e-4, BRepOffset_Mode.BRepOffset_Skin, False, False,
            GeomAbs_JoinType.GeomAbs_Intersection, True, False,
        )  # fmt: skip
        maker.MakeOffsetShape()
        done = maker.IsDone()
    except Exception as error:
        raise KernelTrouble("this thickness does not go with these faces") from error
    if not done:
        raise KernelTrouble("this thickness does not go with these faces")
    shape = unwrap(maker.Shape())
    if volume_of(shape) < 0:
        shape = shape.Reversed()
    shape = checked("thickening", shape)
    table: dict[Key, str] = {}
    for key, name in names.items():
        table[key] = face_name(step, "base", name)
        for f in items(maker.Generated(key.shape)):
            table[Key(f)] = face_name(step, "skin", name)
    thick = Body(shape, tuple(table.get(Key(f), face_name(step, "rim")) for f in faces_of(shape)))
    skins = [
        sum(area_of(f) for f, n in thick.named_faces() if under(n, step, side))
        for side in ("base", "skin")
    ]
    swept_budget("thickening", volume_of(shape), [(skins[0], skins[1], abs(by))])
    unmet(thick, "thickening")
    return thick


def moved_faces(body: Body, faces: Sequence[int], move: Move, step: str) -> Body:
    """Faces moved: flat ones of the body itself with their neighbours running on to them, or a
    feature made of faces (a boss, a pocket, a bore) taken off, moved and put back.

    What the faces hold is found by healing the body without them: what that takes away is moved
    and added, what it fills is moved and cut. Names stay. Raises KernelTrouble when the faces
    around do not close.
    """
    try:
        bare = without_faces(body, faces)
    except KernelTrouble:
        if any(describe_face(body.faces[i])[0] != "plane" for i in faces):
            raise
        return _flat_moved(body, [body.names[i] for i in faces], move, step)
    gone = {body.names[i] for i in faces}
    result = bare
    change = 0.0
    for operation, a, b in (("cut", bare, body), ("add", body, bare)):
        if volume_of(a.shape) - volume_of(b.shape) < -1e-9 * volume_of(b.shape):
            continue
        try:
            feature = combine("cut", a, [b], "the feature")
        except KernelTrouble:
            continue
        named = Body(
            feature.shape, tuple(n if n in gone else face_name("moved", n) for n in feature.names)
        )
        change += volume_of(feature.shape)
        result = combine(operation, result, [carried(named, move)], "moving these faces")  # type: ignore[arg-type]
    if change == 0.0:
        raise KernelTrouble("taking the faces away leaves nothing to move")
    return result


def _flat_moved(body: Body, names: Sequence[str], move: Move, step: str) -> Body:
    """Flat faces each put onto its own plane moved, one after the other."""
    for name in names:
        if body.names.count(name) != 1:
            raise KernelTrouble("a face that stands in pieces is moved as a whole or not at all")
        face = body.names.index(name)
        _, at, normal, _ = describe_face(body.faces[face])
        assert normal is not None
        there, way = move.place(at), move.way(normal)
        if math.dist(way, normal) < 1e-12 and abs(dot(normal, there) - dot(normal, at)) < 1e-9:
            raise KernelTrouble("a flat face moved within its own plane stays as it is")
        frame = plane_frame(there, way)
        body = replaced(body, face, plane_face(frame), step)
    return body


def replaced(body: Body, face: int, target: TopoDS_Shape, step: str) -> Body:
    """A face put onto another surface, its neighbours run on or cut back to it.

    The face is first moved out beyond the surface, then the body is cut there. Raises
    KernelTrouble when the surface does not cut all across.
    """
    old = body.faces[face]
    name = body.names[face]
    low, high = box_of(compound_of([old, target]) if _is_small(target) else body.shape)
    reach = max(b - a for a, b in zip(low, high, strict=True))
    grown = body
    for share in (0.3, 1.0, 2.0):
        try:
            grown = faces_offset(body, {face: share * reach}, "running the faces on")
        except KernelTrouble:
            continue
        if _beyond(grown, name, target):
            break
    others = [n for n in body.names if n != name]
    pieces = split(grown, [target], face_name(step, "face"), "replacing the face")
    kept = [(s, n) for s, n in pieces if not _holds(n, name) and _holds_any(n, others)]
    if len(kept) != 1 or len(pieces) < 2:
        raise KernelTrouble(
            "the other surface does not cut all across where the face is: it must reach past all "
            "of its neighbours"
        )
    shape, names = kept[0]
    renamed = tuple(name if n == face_name(step, "face") else n for n in names)
    return Body(checked("replacing the face", shape), renamed)


def _is_small(shape: TopoDS_Shape) -> bool:
    low, high = box_of(shape)
    return max(b - a for a, b in zip(low, high, strict=True)) < 1e4


def _beyond(body: Body, name: str, target: TopoDS_Shape) -> bool:
    """Whether a named face no longer meets a surface."""
    faces = [f for f, n in body.named_faces() if answers(n, name)]
    return bool(faces) and BRepExtrema_DistShapeShape(faces[0], target).Value() > 1e-6


def _holds(names: Sequence[str], name: str) -> bool:
    return any(answers(n, name) for n in names)


def _holds_any(names: Sequence[str], wanted: Sequence[str]) -> bool:
    return bool(all_parts(names) & all_parts(wanted))


def split_faces(body: Body, faces: Sequence[int], cutter: TopoDS_Shape, step: str) -> Body:
    """Faces parted along where a cutter (faces) goes through them; the solid stays one.

    Pieces keep their face's name: they are told apart by their neighbours. Raises KernelTrouble
    when nothing of the cutter goes through.
    """
    chosen = compound_of([body.faces[i] for i in faces])
    section = BRepAlgoAPI_Section(chosen, cutter, False)
    section.Approximation(True)
    section.Build()
    edges = edges_of(section.Shape())
    if not edges:
        raise KernelTrouble("nothing goes through the chosen faces")
    builder: Any = BOPAlgo_Builder()
    builder.AddArgument(body.shape)
    for edge in edges:
        builder.AddArgument(edge)
    builder.SetRunParallel(False)
    builder.SetNonDestructive(True)
    builder.SetToFillHistory(True)
    builder.Perform()
    if builder.HasErrors():
        raise KernelTrouble("the faces could not be split there")
    shape = checked("splitting faces", builder.Shape())
    made = Body(shape, carry([body], builder, shape, face_name(step, "split")))
    if len(made.faces) == len(body.faces):
        raise KernelTrouble("what cuts ends inside the faces: it must go all across")
    index = dict.fromkeys(made.names, 0)
    names = []
    order = sorted(range(len(made.faces)), key=lambda i: (made.names[i], _place(made, i)))
    marks = {}
    whole = {body.names[i] for i in faces}
    for i in order:
        n = made.names[i]
        marks[i] = piece(n, step, index[n]) if n in whole and made.names.count(n) > 1 else n
        index[n] += 1
    names = [marks[i] for i in range(len(made.faces))]
    return Body(shape, tuple(names))


def _place(body: Body, i: int) -> tuple[float, ...]:
    return tuple(round(c, 6) for c in area_centre(body.faces[i]))


def surface_of(body: Body, face: int) -> TopoDS_Shape:
    """The surface of a face run on, to put others onto."""
    return run_on(body.faces[face])


def normal_at(body: Body, face: int) -> tuple[float, float, float]:
    """Outward normal at the middle of a face."""
    return foot_on(body.faces[face], area_centre(body.faces[face]))[1]

"""Bodies carried elsewhere: moved, turned, mirrored, scaled. Their names go along, marked."""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRepBuilderAPI import BRepBuilderAPI_GTransform, BRepBuilderAPI_Transform
from OCP.gp import gp_Ax1, gp_Ax2, gp_GTrsf, gp_Mat, gp_Trsf, gp_Vec, gp_XYZ
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape

from vireo.core.geometry import Frame, Triple, cross, dot
from vireo.core.kernel.forms.kind import form_of, sound
from vireo.core.kernel.gate import checked, finite
from vireo.core.kernel.measure import area_of, volume_of
from vireo.core.kernel.place import direction, point, to_place
from vireo.core.kernel.shape import Body, Key, compound_of, faces_of, items, solids_of, unwrap
from vireo.core.kernel.witness import budget
from vireo.core.naming.grammar import face_name


class Move:
    """A rigid motion, a mirror image or an even scaling; they can follow each other."""

    def __init__(self, trsf: gp_Trsf | None = None) -> None:
        self.trsf = trsf or gp_Trsf()

    @staticmethod
    def shift(by: Triple) -> Move:
        finite(*by)
        t = gp_Trsf()
        t.SetTranslation(gp_Vec(*by))
        return Move(t)

    @staticmethod
    def turn(at: Triple, axis: Triple, angle: float) -> Move:
        finite(*at, angle)
        t = gp_Trsf()
        t.SetRotation(gp_Ax1(point(at), direction(axis)), angle)
        return Move(t)

    @staticmethod
    def mirror(at: Triple, normal: Triple) -> Move:
        t = gp_Trsf()
        t.SetMirror(gp_Ax2(point(at), direction(normal)))
        return Move(t)

    @staticmethod
    def scale(at: Triple, factor: float) -> Move:
        finite(*at, factor)
        t = gp_Trsf()
        t.SetScale(point(at), factor)
        return Move(t)

    @staticmethod
    def between(start: Frame, end: Frame) -> Move:
        """What takes one frame to another."""
        return Move(to_place(end).Multiplied(to_place(start).Inverted()))

    def then(self, other: Move) -> Move:
        return Move(other.trsf.Multiplied(self.trsf))

    def place(self, p: Triple) -> Triple:
        q = point(p).Transformed(self.trsf)
        return (q.X(), q.Y(), q.Z())

    def way(self, d: Triple) -> Triple:
        q = direction(d).Transformed(self.trsf)
        return (q.X(), q.Y(), q.Z())

    def frame(self, f: Frame) -> Frame:
        return Frame(self.place(f.origin), self.way(f.x), self.way(f.z))

    @property
    def matrix(self) -> tuple[tuple[float, ...], ...]:
        """4x4, row by row."""
        rows = [tuple(self.trsf.Value(i, j) for j in (1, 2, 3, 4)) for i in (1, 2, 3)]
        return (*rows, (0.0, 0.0, 0.0, 1.0))

    @property
    def rigid(self) -> bool:
        """Whether it neither mirrors nor scales."""
        return not self.trsf.IsNegative() and math.isclose(self.trsf.ScaleFactor(), 1.0)

    @property
    def mirrors(self) -> bool:
        """Whether it is a mirror image of the same size."""
        return self.trsf.IsNegative() and math.isclose(abs(self.trsf.ScaleFactor()), 1.0)

    @property
    def rests(self) -> bool:
        """Whether it leaves everything where it is."""
        m = self.trsf
        off = [
            abs(m.Value(i, j) - (1.0 if i == j else 0.0)) for i in (1, 2, 3) for j in (1, 2, 3, 4)
        ]
        return bool(max(off) < 1e-12)


def carried(body: Body, move: Move, mark: str = "") -> Body:
    """The body carried elsewhere; faces are called ``<mark>/<name>`` when there is a mark.

    The geometry is copied: a shape that only carries a location makes later calls slower.
    """
    maker = BRepBuilderAPI_Transform(body.shape, move.trsf, True, False)
    if not solids_of(body.shape):
        shape = _open_carried(body, move, maker.Shape())
    elif move.rigid:
        # What passed the gate stays sound wherever it stands; that it is all there is asked.
        shape = unwrap(maker.Shape())
        volume = volume_of(body.shape)
        budget("the copy", volume_of(shape), volume, volume, 1e-6 * volume)
    else:
        shape = checked("the copy", maker.Shape())
    table = {
        Key(maker.ModifiedShape(face)): (face_name(mark, name) if mark else name)
        for face, name in body.named_faces()
    }
    return Body(shape, tuple(table[Key(f)] for f in faces_of(shape)))


def _open_carried(body: Body, move: Move, made: TopoDS_Shape) -> TopoDS_Shape:
    """What is no solid, carried: its area must have grown with the square of the scale."""
    shape = sound("the copy", made, form_of(body).word)
    area = sum(area_of(f) for f in body.faces) * move.trsf.ScaleFactor() ** 2
    budget("the copy", sum(area_of(f) for f in faces_of(shape)), area, area, 1e-6 * area)
    return shape


def settled(body: Body) -> Body:
    """The body with its geometry where it stands: one that carries a location of its own (from
    an assembly that was read) can neither be painted nor named in a file."""
    parts = solids_of(body.shape) or [body.shape]
    if body.shape.Location().IsIdentity() and all(s.Location().IsIdentity() for s in parts):
        return body
    moved = []
    for solid in parts:
        move = solid.Location().Transformation()
        bare = solid.Located(TopLoc_Location())
        moved.append(BRepBuilderAPI_Transform(bare, move, True, False).Shape())
    shape = moved[0] if len(moved) == 1 else compound_of(moved)
    return Body(shape, body.names)


def stretched(body: Body, at: Triple, factors: Sequence[float]) -> Body:
    """The body scaled by a factor of its own along each axis, about a place."""
    finite(*at, *factors)
    if max(factors) - min(factors) < 1e-12:
        return carried(body, Move.scale(at, factors[0]))
    g = gp_GTrsf()
    x, y, z = factors
    g.SetVectorialPart(gp_Mat(x, 0, 0, 0, y, 0, 0, 0, z))
    g.SetTranslationPart(gp_XYZ(*(a * (1.0 - k) for a, k in zip(at, factors, strict=True))))
    maker = BRepBuilderAPI_GTransform(body.shape, g, True)
    shape = checked("the scaling", maker.Shape())
    table: dict[Key, str] = {}
    for face, name in body.named_faces():
        for f in items(maker.Modified(face)) or [maker.ModifiedShape(face)]:
            table[Key(f)] = name
    return Body(shape, tuple(table.get(Key(f), "scaled") for f in faces_of(shape)))


def rolled(v: Triple, about: Triple, angle: float) -> Triple:
    """A direction turned about another (rad), by Rodrigues' formula."""
    c, s = math.cos(angle), math.sin(angle)
    w, k = cross(about, v), dot(about, v) * (1.0 - c)
    return (
        c * v[0] + s * w[0] + k * about[0],
        c * v[1] + s * w[1] + k * about[1],
        c * v[2] + s * w[2] + k * about[2],
    )


def spread(whole: float, count: int) -> float:
    """Angle between copies round `whole` (rad): a full turn closes on itself."""
    return whole / count if abs(abs(whole) - 2 * math.pi) < 1e-9 else whole / max(count - 1, 1)

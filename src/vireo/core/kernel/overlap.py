"""What two placed solids share: the exact common solid, how deep one reaches into the other and
which way out is shortest, and a second witness: places on the true faces of both.

How deep: of the places on the skin of either that lie inside the other, the one farthest from the
other's skin. That is the radial interference of a press fit, what a sunk block is sunk by, and half
of a tilted pin's play at its rim; twice the volume over the area, which is often told instead, is a
third of it where the overlap tapers.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BOPAlgo import BOPAlgo_BOP, BOPAlgo_Operation
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_IN, TopAbs_ON
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from vireo.core.geometry import Triple, Vector, triple
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.measure import describe_face
from vireo.core.kernel.mesh import read_triangles
from vireo.core.kernel.place import located
from vireo.core.kernel.shape import Body, Key, compound_of, faces_of, items, solids_of
from vireo.core.kernel.skin import skin_of
from vireo.core.kernel.witness import Line, Lined, Unclear, inside
from vireo.core.lately import Lately

#: The kernel's own tolerance (mm): what lies as near as this is on a face.
HAIR = 1e-7
#: An overlap that is thicker on the average than its skin reaches deep is one of solids whose skins
#: lie together: one doubled, or wholly inside.
FATTER = 1.05
#: At most so many places of an overlap are asked how deep they lie.
_PLACES = 160
#: Faces whose boxes are further apart than this (mm) are not looked at together.
_NEAR = 0.06
#: Surfaces whose foot of a place is known in closed form.
_OTHER, _PLANE, _CYLINDER, _SPHERE = range(4)
_FORMS = {"plane": _PLANE, "cylinder": _CYLINDER, "sphere": _SPHERE}
#: From so many faces on the kernel's own point test takes longer than the nearest face.
_MANY = 100
#: So many places are asked about all faces at once.
_AT_ONCE = 128
#: How finely a face is looked over for where it comes into a box.
_CELLS = 21


#: Numbers of faces.
Faces = NDArray[np.int64]


@dataclass(frozen=True)
class Deepest:
    """A place on the skin of one solid inside the other: how far it is from the other's skin (mm),
    where, and which way out is shortest for the second solid (a unit vector)."""

    depth: float
    at: Triple
    way: Triple


@dataclass(frozen=True)
class Overlap:
    """`volume` (mm3) of the common solid and its `depth` (mm); `at` its deepest place and `way` the
    direction the second body comes out by, in the first body's coordinates; which faces of each
    bound it. `certain` is False where the volume is summed over places on the faces, a share `loose`
    of it at its rim."""

    volume: float
    depth: float
    at: Triple
    way: Triple
    faces_a: tuple[str, ...]
    faces_b: tuple[str, ...]
    centre: Triple
    certain: bool = True
    loose: float = 0.0
    body: Body | None = None


@dataclass(frozen=True)
class Place:
    """Where a place lies, how deep, and the nearest on the other's skin."""

    p: Vector
    depth: float
    q: Vector


class Sounded:
    """A solid asked where places lie: inside, and how far from its skin. In its own coordinates."""

    def __init__(self, shape: TopoDS_Shape) -> None:
        self._inner = BRepClass3d_SolidClassifier(shape)
        self.faces = faces_of(shape)
        boxes = np.array([skin_of(f).boxes[0] for f in self.faces])
        self._low, self._high = boxes[:, :3], boxes[:, 3:]
        self.low, self.high = self._low.min(axis=0), self._high.max(axis=0)
        told = [describe_face(f) for f in self.faces]
        self._kind = np.array([_FORMS.get(t[0], _OTHER) for t in told])
        self._at, self._way = (np.array([t[k] or (0.0, 0.0, 0.0) for t in told]) for k in (1, 2))
        self._radius = np.array([t[3] or 0.0 for t in told])

    def box(self, face: int) -> tuple[Vector, Vector]:
        return self._low[face], self._high[face]

    def inside(self, p: Vector) -> bool:
        if (p < self.low).any() or (p > self.high).any():
            return False
        if len(self.faces) > _MANY:
            side = self._side(p)
            if side is not None:
                return side
        self._inner.Perform(gp_Pnt(*map(float, p)), HAIR)
        return bool(self._inner.State() == TopAbs_IN)

    def _side(self, p: Vector) -> bool | None:
        """Whether a place is inside, told by the side of the flat face it is nearest to; None where
        that is no flat one, or an edge is as near."""
        apart, foot, face = self._nearest(p, *self._told(p[None])[0], BRepClass_FaceClassifier())
        if face < 0 or self._kind[face] != _PLANE or apart <= HAIR:
            return None
        return bool((p - foot) @ self._way[face] < 0.0)

    def nearest(self, points: Vector) -> tuple[Vector, Vector]:
        """Distances of places (n, 3) to the skin (mm) and the nearest places on it."""
        points = np.asarray(points, dtype=float).reshape(-1, 3)
        distances, feet = np.full(len(points), math.inf), np.array(points)
        state = BRepClass_FaceClassifier()
        for start in range(0, len(points), _AT_ONCE):
            for i, told in enumerate(self._told(points[start : start + _AT_ONCE]), start):
                distances[i], feet[i], _ = self._nearest(points[i], *told, state)
        return distances, feet

    def _told(self, points: Vector) -> list[tuple[Faces, Vector, Vector]]:
        """For each of places (n, 3) the faces that may be the nearest, how far those are at least, and
        its feet on them."""
        if len(self.faces) <= _MANY:
            every = np.arange(len(self.faces))
            return [(every, *told) for told in zip(*self._bounds(points, every), strict=True)]
        found = []
        for p, near in zip(points, self._near(points), strict=True):
            bounds, feet = self._bounds(p[None], near)
            found.append((near, bounds[0], feet[0]))
        return found

    def _near(self, points: Vector) -> list[Faces]:
        """Of places (n, 3) the faces that may be the nearest: no further off by their boxes than the
        far side of another's."""
        least = np.zeros((len(points), len(self.faces)))
        most = np.zeros_like(least)
        for k in range(3):
            below, above = (
                self._low[:, k] - points[:, k, None],
                points[:, k, None] - self._high[:, k],
            )
            least += np.maximum(np.maximum(below, above), 0.0) ** 2
            most += np.minimum(below, above) ** 2
        # A face touches all sides of its box, but these may lie a little outside it.
        enough = most.min(axis=1) * (1 + 1e-9) + HAIR
        return [np.flatnonzero(of <= far) for of, far in zip(least, enough, strict=True)]

    def _nearest(
        self, p: Vector, near: Faces, bounds: Vector, feet: Vector, state: BRepClass_FaceClassifier
    ) -> tuple[float, Vector, int]:
        """How far a place is from the nearest of some faces (mm), the nearest place on it, and which it
        is right over: -1 where that place is on an edge or was not told by the foot."""
        best, foot, spot, right_over = math.inf, p, None, -1
        for n in np.argsort(bounds, kind="stable"):
            if bounds[n] >= best:
                break
            k, over = int(near[n]), feet[n]
            face = self.faces[k]
            # Right over it: its surface is as near as anything of it can be.
            if (over >= self._low[k] - HAIR).all() and (over <= self._high[k] + HAIR).all():
                state.Perform(face, gp_Pnt(*map(float, over)), HAIR)
                if state.State() in (TopAbs_IN, TopAbs_ON):
                    best, foot = float(np.linalg.norm(over - p)), over
                    right_over = k if state.State() == TopAbs_IN else -1
                    continue
            if spot is None:
                spot = BRepBuilderAPI_MakeVertex(gp_Pnt(*map(float, p))).Vertex()
            found = BRepExtrema_DistShapeShape(spot, face)
            if found.IsDone() and found.NbSolution() and found.Value() < best:
                q = found.PointOnShape2(1)
                best, foot, right_over = found.Value(), np.array([q.X(), q.Y(), q.Z()]), -1
        return best, foot, right_over

    def _bounds(self, points: Vector, near: Faces) -> tuple[Vector, Vector]:
        """What places (n, 3) are apart from faces at least (n, faces), by their boxes and by the whole
        surfaces they lie on; and their feet on those (nan where a surface does not tell)."""
        p, kind = points[:, None], self._kind[near]
        gap = np.maximum(np.maximum(self._low[near] - p, p - self._high[near]), 0.0)
        bounds = np.sqrt(np.einsum("nfk,nfk->nf", gap, gap))
        to, way, radius = p - self._at[near], self._way[near], self._radius[near]
        along = np.einsum("nfk,fk->nf", to, way)[..., None] * way
        # A plane is gone off along its normal, a cylinder and a sphere away from the middle.
        off = np.where((kind == _SPHERE)[:, None], to, to - along)
        far = np.sqrt(np.einsum("nfk,nfk->nf", off, off))
        # On the axis every foot is as near.
        off *= (1.0 - radius / np.maximum(far, 1e-12))[..., None]
        flat, other = kind == _PLANE, kind == _OTHER
        off[:, flat] = along[:, flat]
        off[:, other] = np.nan
        apart = np.sqrt(np.einsum("nfk,nfk->nf", off, off))
        return np.fmax(bounds, apart - 1e-9), p - off


_SOUNDED = Lately[Key, Sounded](512)


def sounded(shape: TopoDS_Shape) -> Sounded:
    return _SOUNDED.get(Key(shape), lambda: Sounded(shape))


@dataclass(frozen=True)
class Stand:
    """One of two solids and where its coordinates lie in the first's."""

    solid: Sounded
    names: tuple[str, ...]
    rotation: Vector
    position: Vector

    def own(self, p: Vector) -> Vector:
        """Places (..., 3) in its own coordinates."""
        return np.asarray((p - self.position) @ self.rotation)

    def out(self, p: Vector) -> Vector:
        return np.asarray(self.rotation @ p + self.position)

    def inside(self, p: Vector) -> bool:
        return self.solid.inside(self.own(p))

    def depths(self, points: Vector) -> list[Place]:
        """How deep places (n, 3) lie."""
        distances, feet = self.solid.nearest(self.own(points))
        return [
            Place(p, float(d), self.out(q)) for p, d, q in zip(points, distances, feet, strict=True)
        ]


def stands(a: Body, b: Body, rotation: Vector, position: Vector) -> tuple[Stand, Stand]:
    return (
        Stand(sounded(a.shape), a.names, np.eye(3), np.zeros(3)),
        Stand(sounded(b.shape), b.names, np.asarray(rotation), np.asarray(position)),
    )


# The common solid


def common(
    a: Body, b: Body, rotation: Vector, position: Vector, closely: bool = True
) -> Overlap | None:
    """Exact overlap of `a` with `b` turned and moved, or None when they share no volume. Not `closely`
    its depth is only its mean thickness. Raises KernelTrouble when the kernel cannot tell."""
    moved = located(b.shape, rotation, position)
    builder = BOPAlgo_BOP()
    builder.SetOperation(BOPAlgo_Operation.BOPAlgo_COMMON)
    builder.AddArgument(a.shape)
    builder.AddTool(moved)
    builder.SetRunParallel(False)
    builder.SetNonDestructive(True)
    builder.SetToFillHistory(True)
    builder.Perform()
    if builder.HasErrors():
        raise KernelTrouble("the overlap of two components could not be computed")
    solids = solids_of(builder.Shape())
    if not solids:
        return None
    whole = compound_of(solids)
    solid = GProp_GProps()
    BRepGProp.VolumeProperties_s(whole, solid)
    skin = GProp_GProps()
    BRepGProp.SurfaceProperties_s(whole, skin)
    volume, area = abs(float(solid.Mass())), float(skin.Mass())
    if volume <= 0.0 or area <= 0.0:
        return None
    c = solid.CentreOfMass()
    centre = triple((c.X(), c.Y(), c.Z()))
    present = {Key(f): f for f in faces_of(whole)}
    of_a: dict[str, list[TopoDS_Face]] = {}
    of_b: dict[str, list[TopoDS_Face]] = {}
    for body, shape, found in ((a, a.shape, of_a), (b, moved, of_b)):
        for face, name in zip(faces_of(shape), body.names, strict=True):
            for piece in items(builder.Modified(face)) or [face]:
                if Key(piece) in present:
                    found.setdefault(name, []).append(present[Key(piece)])
    first, second = stands(a, b, rotation, position)
    deep = Deepest(2 * volume / area, centre, (0.0, 0.0, 0.0)) if not closely else _deepest_of(
        [(f, False) for fs in of_a.values() for f in fs]
        + [(f, True) for fs in of_b.values() for f in fs],
        first, second, whole,
    )  # fmt: skip
    if 2 * volume / area > FATTER * deep.depth:
        deep = (
            fattest(first, second, [np.array(centre), np.array(deep.at)], 2 * volume / area) or deep
        )
    return Overlap(
        volume, deep.depth, deep.at, deep.way, tuple(sorted(of_a)), tuple(sorted(of_b)), centre,
        body=Body(whole, _sides(whole, of_a, of_b)),
    )  # fmt: skip


def _sides(
    whole: TopoDS_Shape, of_a: dict[str, list[TopoDS_Face]], of_b: dict[str, list[TopoDS_Face]]
) -> tuple[str, ...]:
    """Names of the faces of an overlap: those of whose face each is a piece."""
    known = {Key(f): name for of in (of_a, of_b) for name, faces in of.items() for f in faces}
    return tuple(known.get(Key(f), "overlap") for f in faces_of(whole))


def _deepest_of(
    faces: Sequence[tuple[TopoDS_Face, bool]], first: Stand, second: Stand, whole: TopoDS_Shape
) -> Deepest:  # fmt: skip
    """The deepest place of an overlap: over its faces, each known to be of the first's skin or of the
    second's, so that it lies inside the other."""
    low, high = (
        c for c in (skin_of(whole).boxes[:, :3].min(0), skin_of(whole).boxes[:, 3:].max(0))
    )
    size = float(np.linalg.norm(high - low))
    BRepMesh_IncrementalMesh(whole, max(size / 60, 1e-5), False, 0.35, False)
    each = max(6 if len(faces) <= _PLACES else 2, _PLACES // max(len(faces), 1))
    starts: list[tuple[Place, TopoDS_Face, bool]] = []
    for of_second, other in ((False, second), (True, first)):
        spread = [(p, f) for f, of in faces if of is of_second for p in _spread(f, each)]
        if spread:
            places = other.depths(np.array([p for p, _ in spread]))
            starts += [(d, f, of_second) for d, (_, f) in zip(places, spread, strict=True)]
    if not starts:
        return Deepest(0.0, triple(0.5 * (low + high)), (0.0, 0.0, 0.0))
    starts.sort(key=lambda s: -s[0].depth)
    best, best_second = starts[0][0], starts[0][2]
    # As deep at many places as at the deepest: a fit, or a face that is sunk; there is no more.
    level = sum(s[0].depth >= best.depth * (1 - 1e-6) for s in starts) > len(starts) // 4
    if level:
        return out_of(best, best_second)
    for start, face, of_second in _apart(starts, size / 8)[:2]:
        other = first if of_second else second
        found = climbed(start, size / 12, _held(face), other.depths)
        if found.depth > best.depth:
            best, best_second = found, of_second
    return out_of(best, best_second)


def fattest(
    first: Stand, second: Stand, starts: Sequence[Vector], thickness: float
) -> Deepest | None:
    """Of solids whose skins lie together, one at the other's place: the widest ball that fits into
    both, its diameter told for depth and its middle for the place."""

    def rooms(points: Vector) -> list[Place]:
        found = []
        for one, two in zip(first.depths(points), second.depths(points), strict=True):
            both = first.inside(one.p) and second.inside(one.p)
            near = one if one.depth < two.depth else two
            found.append(near if both else Place(one.p, 0.0, one.p))
        return found

    around = (
        np.concatenate([np.zeros((1, 3)), *(k * _WAYS for k in (0.004, 0.02, 0.1, 0.5, 1.0))])
        * thickness
    )
    tried = max(rooms(np.concatenate([s + around for s in starts])), key=lambda d: d.depth)
    if tried.depth <= 0.0:
        return None
    best = climbed(tried, thickness, lambda p: p, rooms, fine=1e-3)
    way = best.q - best.p
    length = float(np.linalg.norm(way))
    return Deepest(2 * best.depth, triple(best.p), triple(way / length if length > 0.0 else way))


def out_of(place: Place, of_second: bool) -> Deepest:
    way = place.q - place.p
    length = float(np.linalg.norm(way))
    way = way / length if length > 0.0 else np.zeros(3)
    # A place of the first inside the second: that has to move against the way out.
    way = way if of_second else -way
    return Deepest(place.depth, triple(place.p), triple(way))


def _apart(
    starts: Sequence[tuple[Place, TopoDS_Face, bool]], room: float
) -> list[tuple[Place, TopoDS_Face, bool]]:
    """The deepest starts that are not all beside each other."""
    found: list[tuple[Place, TopoDS_Face, bool]] = []
    for start in starts[:80]:
        if all(float(np.linalg.norm(start[0].p - f[0].p)) > room for f in found):
            found.append(start)
    return found


def _spread(face: TopoDS_Face, most: int) -> list[Vector]:
    """Places on a face: corners of its triangles and, put down on it, places within them."""
    points, triangles = read_triangles(face)
    if len(triangles) == 0:
        return []
    corners = points[triangles]
    within = [corners.mean(axis=1)]
    if len(triangles) < most:
        for k in range(3):
            within.append((corners.sum(axis=1) + 3 * corners[:, k]) / 6)
    if len(triangles) < 12:
        shares = [(a / 7, b / 7) for a in range(1, 7) for b in range(1, 7 - a)]
        within += [
            corners[:, 0]
            + s * (corners[:, 1] - corners[:, 0])
            + t * (corners[:, 2] - corners[:, 0])
            for s, t in shares
        ]
    inner = np.concatenate(within)
    half = max(most // 2, 1)
    held = _held(face)
    chosen = list(points[:: max(1, math.ceil(len(points) / half))])
    # Even on a flat face: a ring thinner than its chords has triangles that leave it.
    chosen += [held(p) for p in inner[:: max(1, math.ceil(len(inner) / (most - half)))]]
    return chosen


def _held(face: TopoDS_Face) -> Callable[[Vector], Vector]:
    """Puts places down on a face: on the nearest place of it."""

    def put(p: Vector) -> Vector:
        spot = BRepBuilderAPI_MakeVertex(gp_Pnt(*map(float, p))).Vertex()
        found = BRepExtrema_DistShapeShape(spot, face)
        if not found.IsDone() or not found.NbSolution():
            return p
        q = found.PointOnShape2(1)
        return np.array([q.X(), q.Y(), q.Z()])

    return put


def climbed(
    start: Place,
    step: float,
    held: Callable[[Vector], Vector],
    depths: Callable[[Vector], list[Place]],
    fine: float = 1e-2,
) -> Place:
    """From a place on a face to where it lies deepest: by steps that halve where none leads on, down
    to a share of the first."""
    best, least = start, max(step * fine, 1e-6)
    frame = np.concatenate([np.eye(3), -np.eye(3)])
    while step > least:
        moved = [held(best.p + step * way) for way in frame]
        places = [p for p in moved if float(np.linalg.norm(p - best.p)) > 1e-3 * step]
        found = max(depths(np.array(places)), key=lambda d: d.depth) if places else best
        if found.depth > best.depth * (1 + 1e-7):
            best = found
        else:
            step *= 0.5
            frame = frame @ _TURN
    return best


#: A turn about a skew axis, so that no two rounds of a search look the same ways.
_TURN: NDArray[np.float64] = np.array([[2.0, -1.0, 2.0], [2.0, 2.0, -1.0], [-1.0, 2.0, 2.0]]) / 3.0


#: Ways to look from a place: along the axes and between them.
_WAYS: NDArray[np.float64] = np.array(
    [w for w in itertools.product((-1.0, 0.0, 1.0), repeat=3) if any(w)]
)
_WAYS /= np.linalg.norm(_WAYS, axis=1, keepdims=True)

# The second witness


@dataclass(frozen=True)
class _Sample:
    """A place on a face in the first body's coordinates, the area it stands for (mm2), where it is in
    the grid over the face, and how many cells that has."""

    p: Vector
    area: float
    cell: tuple[int, int]
    cells: tuple[int, int]


def probed(
    a: Body,
    b: Body,
    rotation: Vector,
    position: Vector,
    pairs: Sequence[tuple[int, int]] | None = None,
) -> Overlap | None:
    """The overlap of two solids as places on their true faces tell it, or None when none of them lies
    inside the other. Asked of all faces, or of pairs of them (by number, of `a` and of `b`).

    The volume is the sum of the depths over the area sampled inside, exact for thin overlaps; of the
    two skins that one tells whose samples are less cut off by the rim of the overlap, and `loose` is
    how much of it is by the rim.
    """  # fmt: skip
    first, second = stands(a, b, rotation, position)
    mine = range(len(first.solid.faces)) if pairs is None else sorted({i for i, _ in pairs})
    theirs = range(len(second.solid.faces)) if pairs is None else sorted({j for _, j in pairs})
    sums: list[tuple[float, float]] = []
    names: tuple[set[str], set[str]] = (set(), set())
    best: tuple[Place, TopoDS_Face, Stand, Stand] | None = None
    fat = False
    for own, other, faces, found in (
        (first, second, mine, names[0]), (second, first, theirs, names[1])
    ):  # fmt: skip
        volume = rim = 0.0
        for k in faces:
            within = [s for s in _samples(own, other, k) if other.inside(s.p)]
            if not within:
                continue
            places = other.depths(np.array([s.p for s in within]))
            shares = [d.depth * s.area for d, s in zip(places, within, strict=True)]
            fat = fat or any(_leaves(own, d) for d in places[:: max(1, len(places) // 8)])
            volume += sum(shares)
            rim += _at_the_rim(within, shares)
            place = max(places, key=lambda d: d.depth)
            if place.depth > HAIR:
                found.add(own.names[k])
            if best is None or place.depth > best[0].depth:
                best = (place, own.solid.faces[k], own, other)
        if volume > 0.0:
            sums.append((rim / volume, volume))
    if best is None:
        return None
    place, face, own, other = best
    size = float(np.linalg.norm(place.p - place.q))

    def held(p: Vector) -> Vector:
        return own.out(_held(face)(own.own(p)))

    def depths(points: Vector) -> list[Place]:
        return [d if other.inside(d.p) else Place(d.p, 0.0, d.p) for d in other.depths(points)]

    extent = float(np.linalg.norm(first.solid.high - first.solid.low))
    place = climbed(place, max(min(extent, 40.0) / 24, size), held, depths)
    deep = out_of(place, own is second)
    loose, volume = min(sums, default=(0.0, 0.0))
    if fat:
        loose, volume = 0.02, by_lines(a, b, rotation, position)
        wide = fattest(first, second, [np.array(deep.at)], 0.25 * extent)
        deep = wide if wide is not None and wide.depth > deep.depth else deep
    return Overlap(
        volume, deep.depth, deep.at, deep.way, tuple(sorted(names[0])), tuple(sorted(names[1])),
        deep.at, certain=False, loose=loose,
    )  # fmt: skip


def _leaves(own: Stand, place: Place) -> bool:
    """Whether the shortest way out of the other solid leads out of its own as well: the overlap is
    not between the two faces then, but all that lies behind them."""
    return place.depth > 10 * HAIR and not own.inside(0.5 * (place.p + place.q))


def by_lines(a: Body, b: Body, rotation: Vector, position: Vector, across: int = 40) -> float:
    """The common volume of two solids (mm3) by what parallel lines through both have in common; to a
    percent or so for what is as wide as it is long."""
    moved = located(b.shape, rotation, position)
    one, two = skin_of(a.shape).close_box, skin_of(moved).close_box
    low, high = np.maximum(one[:3], two[:3]), np.minimum(one[3:], two[3:])
    if (low >= high).any():
        return 0.0
    middle, reach = 0.5 * (low + high), 0.5 * float(np.linalg.norm(high - low))
    frame = np.linalg.qr(np.array([[0.36, 0.71, -0.2], [0.48, -0.1, 0.91], [0.8, 0.3, 0.1]]))[0]
    along, u, v = frame.T
    ticks = reach * ((np.arange(across) + 0.5) / across * 2 - 1)
    lines = [Line(middle + x * u + y * v, along) for x in ticks for y in ticks]
    solids = [Lined([a.shape], {}), Lined([moved], {})]
    for solid in solids:
        solid.aim(lines)
    total, clear = 0.0, 0
    for line in lines:
        try:
            first, second = (inside(s.crossings(line)) for s in solids)
        except Unclear:
            continue
        clear += 1
        total += sum(max(0.0, min(p[1], q[1]) - max(p[0], q[0])) for p in first for q in second)
    return total * (2 * reach) ** 2 / clear if clear else 0.0


def _at_the_rim(within: Sequence[_Sample], shares: Sequence[float]) -> float:
    """What of a sum comes from samples beside one that is not inside."""
    inner = {s.cell for s in within}
    found = 0.0
    for sample, share in zip(within, shares, strict=True):
        (i, j), (m, n) = sample.cell, sample.cells
        beside = ((i - 1, j), (i + 1, j), (i, j - 1), (i, j + 1))
        if any(0 <= c[0] < m and 0 <= c[1] < n and c not in inner for c in beside):
            found += share
    return found


def within_reach(
    a: Body, b: Body, rotation: Vector, position: Vector, pairs: Iterable[tuple[int, int]]
) -> list[tuple[int, int]]:
    """Of pairs of faces those whose boxes come near each other."""
    first, second = stands(a, b, rotation, position)
    found = []
    for i, j in pairs:
        low, high = _moved_box(*second.solid.box(j), second)
        own_low, own_high = first.solid.box(i)
        if (low <= own_high + _NEAR).all() and (own_low <= high + _NEAR).all():
            found.append((i, j))
    return found


def _moved_box(low: Vector, high: Vector, stand: Stand) -> tuple[Vector, Vector]:
    middle, half = stand.out(0.5 * (low + high)), np.abs(stand.rotation) @ (0.5 * (high - low))
    return middle - half, middle + half


def _samples(own: Stand, other: Stand, face: int) -> list[_Sample]:
    """Places on a face of one solid within the other's box, about two for three millimetres and no
    fewer than a dozen across what of it lies there."""
    shape = own.solid.faces[face]
    surface = BRepAdaptor_Surface(shape)
    low, high = _moved_box(other.solid.low, other.solid.high, other)
    low, high = low - HAIR, high + HAIR
    face_low, face_high = _moved_box(*own.solid.box(face), own)
    if (face_low > high).any() or (low > face_high).any():
        return []
    u0, u1, v0, v1 = BRepTools.UVBounds_s(shape)
    bounds = _narrowed(surface, own, (u0, u1, v0, v1), low, high)
    if bounds is None:
        return []
    u0, u1, v0, v1 = bounds
    along_u = _steps(surface, u0, u1, 0.5 * (v0 + v1), True)
    along_v = _steps(surface, v0, v1, 0.5 * (u0 + u1), False)
    cell = (u1 - u0) * (v1 - v0) / (along_u * along_v)
    found = []
    state, p, du, dv = BRepClass_FaceClassifier(), gp_Pnt(), gp_Vec(), gp_Vec()
    for i in range(along_u):
        for j in range(along_v):
            u = u0 + (i + 0.5) * (u1 - u0) / along_u
            v = v0 + (j + 0.5) * (v1 - v0) / along_v
            surface.D1(u, v, p, du, dv)
            at = own.out(np.array([p.X(), p.Y(), p.Z()]))
            if (at < low).any() or (at > high).any():
                continue
            state.Perform(shape, gp_Pnt2d(u, v), HAIR)
            if state.State() in (TopAbs_IN, TopAbs_ON):
                found.append(
                    _Sample(
                        at, float(du.Crossed(dv).Magnitude()) * cell, (i, j), (along_u, along_v)
                    )
                )
    return found


def _narrowed(
    surface: BRepAdaptor_Surface, own: Stand, bounds: tuple[float, float, float, float],
    low: Vector, high: Vector,
) -> tuple[float, float, float, float] | None:  # fmt: skip
    """The range of parameters over which a face comes into a box: a long shaft in a short bore is
    looked at where the bore is."""
    u0, u1, v0, v1 = bounds
    us, vs = np.linspace(u0, u1, _CELLS), np.linspace(v0, v1, _CELLS)
    places = np.array([[_at(surface, u, v) for v in vs] for u in us]).reshape(-1, 3)
    out = (places @ own.rotation.T + own.position).reshape(_CELLS, _CELLS, 3)
    # A cell counts when the box of its corners comes near.
    corners = np.stack([out[:-1, :-1], out[1:, :-1], out[:-1, 1:], out[1:, 1:]])
    least, most = corners.min(axis=0), corners.max(axis=0)
    bulge = 0.2 * (most - least).max(axis=2, keepdims=True)
    hit = ((most + bulge >= low) & (least - bulge <= high)).all(axis=2)
    if not hit.any():
        return None
    iu, iv = np.flatnonzero(hit.any(axis=1)), np.flatnonzero(hit.any(axis=0))
    return (
        float(us[iu[0]]), float(us[iu[-1] + 1]), float(vs[iv[0]]), float(vs[iv[-1] + 1]),
    )  # fmt: skip


def _at(surface: BRepAdaptor_Surface, u: float, v: float) -> tuple[float, float, float]:
    p = surface.Value(float(u), float(v))
    return p.X(), p.Y(), p.Z()


def _steps(surface: BRepAdaptor_Surface, a: float, b: float, other: float, along_u: bool) -> int:
    points = []
    for k in range(9):
        t = a + (b - a) * k / 8
        points.append(surface.Value(t, other) if along_u else surface.Value(other, t))
    length = sum(p.Distance(q) for p, q in itertools.pairwise(points))
    return int(min(max(length / 1.5, 12), 32))


# Places


def places_of(overlap: Body) -> Vector:
    """Corners of the triangles of a common solid, (n, 3) mm; they lie on its true faces."""
    points = [read_triangles(f)[0] for f in overlap.faces]
    return np.concatenate(points) if points else np.zeros((0, 3))


def holds(body: Body, at: Vector) -> bool:
    """Whether a place (mm, in the body's coordinates) lies inside a solid."""
    return sounded(body.shape).inside(at)


def proved(a: Body, b: Body, rotation: Vector, position: Vector, overlap: Overlap) -> bool:
    """Whether some place is inside both by the kernel's own point test: half way out of the deepest
    place, or beside it."""  # fmt: skip
    first, second = stands(a, b, rotation, position)
    at, way = np.array(overlap.at), np.array(overlap.way)
    for share in (0.5, -0.5, 0.25, -0.25):
        p = at + share * overlap.depth * way
        if first.inside(p) and second.inside(p):
            return True
    return all(s.inside(np.array(overlap.centre)) for s in (first, second))

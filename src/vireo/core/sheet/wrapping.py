"""A sheet round flat faces of a solid: bent where they meet, open where it is to be, and where it cannot but be."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from vireo.core.curves import Line2, Pair
from vireo.core.geometry import Frame, triple
from vireo.core.kernel.sides import FlatSide
from vireo.core.panels.loops import SAME, Loop, Motion2, Seg, line, moved_loop, ring
from vireo.core.panels.model import Bend, Panel, Sheet
from vireo.core.panels.places import Floats
from vireo.core.sheet.allowance import Rule
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.flange import LEAST_ALLOWANCE, Relief
from vireo.core.sheet.sharp import eased
from vireo.core.trouble import BadInput

#: How far (mm) a flat piece may lie off the face it was made on.
_OFF = 1e-6
#: Faces that lean to each other by less (rad) lie in one plane.
_FLUSH = 1e-6


@dataclass(frozen=True)
class Wrap:
    """What a sheet round faces is made by: its thickness lies `inside` the faces or on them; lengths in mm."""

    thickness: float
    radius: float
    rule: Rule
    gap: float
    inside: bool
    relief: Relief


@dataclass(frozen=True)
class _Meeting:
    """A straight edge two faces share: which piece of the outer loop of each, and by what the sheet bends over it
    from the first to the second (rad, positive towards the outside)."""

    a: int
    b: int
    at: tuple[int, int]
    turn: float

    @property
    def key(self) -> frozenset[int]:
        return frozenset((self.a, self.b))


def wrapped(
    sides: Sequence[FlatSide], opened: Collection[frozenset[int]], wrap: Wrap, name: str
) -> SheetBody:
    """The sheet, hung on the first face. `opened` are pairs of faces (by their index in the body) it is open
    between. Raises BadInput where faces do not hang together or are too small for their bends."""
    faces = {s.index: s for s in sides}
    shared = _meetings(faces)
    tree = _tree(sides[0].index, faces, [m for m in shared if m.key not in opened])
    bent = {(m.a, m.at[0]) for m in tree} | {(m.b, m.at[1]) for m in tree}
    offs: dict[int, dict[int, float]] = {i: {} for i in faces}
    for m in shared:
        for face, piece in ((m.a, m.at[0]), (m.b, m.at[1])):
            off = _setback(m.turn, wrap) if (face, piece) in bent else _parting(m.turn, wrap)
            offs[face][piece] = max(off, offs[face].get(piece, 0.0))
    loops = {i: (_shrunk(s, offs[i]), *s.loops[1:]) for i, s in faces.items()}
    called = {i: f"{name}/{s.name.replace('/', '.')}" for i, s in faces.items()}
    root = sides[0]
    t = wrap.thickness
    into = {root.index: Motion2()}
    panels = [Panel(called[root.index], loops[root.index])]
    bends = []
    for m in tree:
        bend, motion = _bent(m, faces, loops, offs, into[m.a], wrap, called)
        into[m.b] = motion
        panels.append(Panel(called[m.b], tuple(moved_loop(lp, motion) for lp in loops[m.b])))
        bends.append(bend)
    sheet = eased(Sheet(t, called[root.index], {p.id: p for p in panels}, {b.id: b for b in bends}))
    low = -t if wrap.inside else 0.0
    frame = Frame(root.frame.out((0.0, 0.0, low)), root.frame.x, root.frame.z)
    made = SheetBody(sheet, frame, wrap.radius, wrap.rule, wrap.relief, wrap.gap)
    _proved(made, faces, called, wrap)
    return made


def _meetings(faces: dict[int, FlatSide]) -> list[_Meeting]:
    """Straight edges between faces, one for each two: the longest."""
    found: dict[frozenset[int], tuple[float, _Meeting]] = {}
    for i, side in faces.items():
        for k, seg in enumerate(side.loops[0]):
            j = side.beside[0, k]
            if j not in faces or j == i or not isinstance(seg.curve, Line2):
                continue
            other = faces[j]
            ends = [np.array(side.frame.out(p)) for p in (seg.b, seg.a)]
            at = next(
                (n for n, s in enumerate(other.loops[0])
                 if other.beside[0, n] == i and isinstance(s.curve, Line2)
                 and np.linalg.norm(np.array(other.frame.out(s.a)) - ends[0]) < SAME
                 and np.linalg.norm(np.array(other.frame.out(s.b)) - ends[1]) < SAME), None,
            )  # fmt: skip
            if at is None:
                continue
            out, away = _outward(side, seg), -_outward(other, other.loops[0][at])
            turn = math.atan2(float(away @ np.array(side.frame.z)), float(away @ out))
            key = frozenset((i, j))
            if key not in found or found[key][0] < seg.curve.length - SAME:
                found[key] = (seg.curve.length, _Meeting(i, j, (k, at), turn))
    return [m for _, m in found.values()]


def _outward(side: FlatSide, seg: Seg) -> Floats:
    """Out of a face at a piece of its outer loop, in space."""
    (ax, ay), (bx, by) = seg.a, seg.b
    size = math.dist(seg.a, seg.b)
    out = ((by - ay) / size, (ax - bx) / size)
    return np.asarray(np.array(side.frame.x) * out[0] + np.array(side.frame.y) * out[1])


def _tree(root: int, faces: dict[int, FlatSide], meetings: Sequence[_Meeting]) -> list[_Meeting]:
    """Meetings that hang all faces on the first, nearest ones and long edges first, each from its parent."""
    found: list[_Meeting] = []
    reached = [root]
    for face in reached:
        mine = [
            m if m.a == face else _Meeting(m.b, m.a, m.at[::-1], m.turn)
            for m in meetings
            if face in m.key
        ]
        mine.sort(key=lambda m: -faces[m.a].loops[0][m.at[0]].curve.length)
        for m in mine:
            if m.b in reached:
                continue
            if abs(m.turn) < _FLUSH:
                raise BadInput("two of the faces lie in one plane: join them in the solid first")
            reached.append(m.b)
            found.append(m)
    left = [s.name for i, s in faces.items() if i not in reached]
    if left:
        raise BadInput(
            f"{len(left)} of the faces share no straight edge with the others that is not open: pick faces that hang "
            "together, the one that stays flat first"
        )
    return found


def _outer(turn: float, wrap: Wrap) -> bool:
    """Whether the faces are on the outside of a bend."""
    return (turn < 0.0) == wrap.inside


def _setback(turn: float, wrap: Wrap) -> float:
    """How far off its edge a bend begins: to the corner of the faces by the radius they have there."""
    if abs(turn) > math.radians(170.0):
        raise BadInput(
            "two of the faces stand nearly on each other: they cannot be bent out of one sheet"
        )
    radius = wrap.radius + (wrap.thickness if _outer(turn, wrap) else 0.0)
    return radius * math.tan(0.5 * abs(turn))


def _parting(turn: float, wrap: Wrap) -> float:
    """How far off an edge that is open a flat piece ends, so that its inner corner is half the gap from it."""
    deep = wrap.thickness * math.tan(0.5 * abs(turn)) if _outer(turn, wrap) else 0.0
    return deep + 0.5 * wrap.gap


def _shrunk(side: FlatSide, offs: dict[int, float]) -> Loop:
    """The outer loop of a face with some pieces put inwards."""
    loop = side.loops[0]
    if not any(offs.values()):
        return loop
    count = len(loop)
    corners: list[list[Pair]] = []
    for k, seg in enumerate(loop):
        after = loop[(k + 1) % count]
        one, two = offs.get(k, 0.0), offs.get((k + 1) % count, 0.0)
        if not one and not two:
            corners.append([seg.b])
            continue
        if not isinstance(seg.curve, Line2) or not isinstance(after.curve, Line2):
            raise BadInput(
                "an edge that is bent or open meets a curved one: the sheet is made where such edges meet straight ones"
            )
        corners.append(_corner(seg, one, after, two))
    found: list[Seg] = []
    for k, seg in enumerate(loop):
        a, b = corners[k - 1][-1], corners[k][0]
        if not isinstance(seg.curve, Line2):
            found.append(seg)
            continue
        forward = (b[0] - a[0]) * (seg.b[0] - seg.a[0]) + (b[1] - a[1]) * (seg.b[1] - seg.a[1])
        if forward <= SAME:
            raise BadInput(
                f"the face {side.name} is too small for the bends and gaps at its edges: take a smaller radius or "
                "thinner sheet"
            )
        found.append(line(a, b, seg.name))
        if len(corners[k]) > 1:
            found.append(line(corners[k][0], corners[k][1], f"{seg.name}.s"))
    return tuple(found)


def _corner(a: Seg, one: float, b: Seg, two: float) -> list[Pair]:
    """Where two neighbouring straight pieces meet once they are put inwards; a step where they run on."""
    u, v = (
        np.array([q[0] - p[0], q[1] - p[1]]) / math.dist(p, q) for p, q in ((a.a, a.b), (b.a, b.b))
    )
    p = np.array(a.b) + one * np.array([-u[1], u[0]])
    q = np.array(b.a) + two * np.array([-v[1], v[0]])
    cross = float(u[0] * v[1] - u[1] * v[0])
    if abs(cross) < 1e-9:
        ends = [(float(p[0]), float(p[1])), (float(q[0]), float(q[1]))]
        return ends[:1] if math.dist(*ends) < SAME else ends
    w = q - p
    found = p + u * float(w[0] * v[1] - w[1] * v[0]) / cross
    return [(float(found[0]), float(found[1]))]


def _bent(
    m: _Meeting, faces: dict[int, FlatSide], loops: dict[int, tuple[Loop, ...]],
    offs: dict[int, dict[int, float]], into: Motion2, wrap: Wrap, called: dict[int, str],
) -> tuple[Bend, Motion2]:  # fmt: skip
    """The bend over an edge as it is in its parent, and what carries the child's outline into the child."""
    parent, child = faces[m.a], faces[m.b]
    seg, other = parent.loops[0][m.at[0]], child.loops[0][m.at[1]]
    size = math.dist(seg.a, seg.b)
    # Outward lies to the left of the bend's line: it runs against the loop.
    d = ((seg.a[0] - seg.b[0]) / size, (seg.a[1] - seg.b[1]) / size)
    along = np.array(parent.frame.x) * d[0] + np.array(parent.frame.y) * d[1]
    home = np.array(parent.frame.out(seg.b))
    spans = []
    for side, loop, off, name in (
        (parent, loops[m.a][0], offs[m.a][m.at[0]], seg), (child, loops[m.b][0], offs[m.b][m.at[1]], other),
    ):  # fmt: skip
        inward = -_outward(side, name) * off
        span = None
        for s in loop:
            a, b = (np.array(side.frame.out(p)) - home - inward for p in (s.a, s.b))
            # The piece that lies where the edge was put.
            if all(np.linalg.norm(x - along * float(x @ along)) < SAME for x in (a, b)):
                ends = sorted((float(a @ along), float(b @ along)))
                span = (
                    (min(span[0], ends[0]), max(span[1], ends[1])) if span else (ends[0], ends[1])
                )
        assert span is not None
        spans.append(span)
    low, high = max(s[0] for s in spans), min(s[1] for s in spans)
    if high - low < SAME:
        raise BadInput(
            "two of the faces are left no edge to bend along: take a smaller radius or gap"
        )
    off = offs[m.a][m.at[0]]
    p = (seg.b[0] + d[0] * low + d[1] * off, seg.b[1] + d[1] * low - d[0] * off)
    turn = abs(m.turn)
    allowance = max(wrap.rule.allowance(turn, wrap.radius, wrap.thickness), LEAST_ALLOWANCE)
    wide = high - low
    zone = ring(
        [(0.0, 0.0), (wide, 0.0), (wide, allowance), (0.0, allowance)], ["in", "s1", "out", "s0"]
    )
    bend = Bend(
        f"{called[m.b]}/bend", called[m.a], called[m.b], into(p), into.way(d), m.turn, wrap.radius, allowance, (zone,)
    )  # fmt: skip
    # The child's frame: from where the bend begins along its line, and away from the edge.
    away = -_outward(child, other)
    origin = home + along * low + away * offs[m.b][m.at[1]]
    x2, y2 = (np.array(v) for v in (child.frame.x, child.frame.y))
    cosine, sine = float(along @ x2), float(along @ y2)
    off2 = origin - np.array(child.frame.origin)
    here = Motion2(cosine, sine, float(off2 @ x2), float(off2 @ y2))
    return bend, here.inverse


def _proved(
    made: SheetBody, faces: dict[int, FlatSide], called: dict[int, str], wrap: Wrap
) -> None:
    """Raises BadInput where a flat piece does not lie in the face it was made on: that would be a fault of this."""
    stands = made.places()
    for i, side in faces.items():
        place = stands[called[i]]
        level = wrap.thickness if wrap.inside else 0.0
        off = np.array(side.frame.origin) - place.at((0.0, 0.0), level)
        z = np.array(triple(place.z))
        if abs(float(off @ z)) > _OFF or float(z @ np.array(side.frame.z)) < 1.0 - 1e-9:
            raise BadInput(f"the sheet could not be laid on the face {side.name}")

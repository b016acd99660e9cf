"""An order to bend a sheet in on a press brake: no flat piece may meet the punch or the die on the way.

The part is followed as it is struck: bends done are bent, others flat, the one in hand at shares of its angle with
the radius that keeps its neutral line. It lies so that the bend's inside is at the tip of the punch and both legs
stand alike; what bends down is turned over. The die follows the legs: its shoulders touch them; forms that stand out
of them may not meet it. Tools are as long as the bend times a share, since shops set them up from segments. Rolled
zones of other bends are not looked at, the two legs of a bend only against the punch.

Angles in rad, lengths in mm. Profiles of tools are ours: x across, y up from the tip of the punch, or from the top of
the die down.
"""

from __future__ import annotations

import heapq
import itertools
import math
import time
from collections.abc import Callable, Collection
from dataclasses import dataclass

import fcl
import numpy as np
import shapely
from numpy.typing import NDArray

from vireo.core.kernel.stamp import taken
from vireo.core.panels.forms import Form
from vireo.core.panels.loops import grouped
from vireo.core.panels.model import Bend, Panel, Sheet
from vireo.core.panels.places import Bent, Place, places
from vireo.core.sheet.rules.leg import die_width

Floats = NDArray[np.float64]
#: Shares of its angle at which a bend is looked at.
_SHARES = (0.25, 0.5, 0.75, 1.0)
#: Tools are this much thinner than they are: what lies on them is no clash.
_CLEAR = 0.15
#: How deep the V of a die is, by half its opening angle (rad).
_OPENING = math.radians(43.0)
_DIE_HEIGHT = 60.0
#: Profiles of punches from the tip up, and of the ram that holds them.
_TOP, _RAM, _HIGH = 105.0, 40.0, 800.0
PUNCHES: dict[str, list[tuple[float, float]]] = {
    "straight": [(0, 0), (4.5, 4.9), (4.5, 62), (13, 76), (13, _TOP), (_RAM, _TOP), (_RAM, _HIGH), (-_RAM, _HIGH),
                 (-_RAM, _TOP), (-13, _TOP), (-13, 76), (-4.5, 62), (-4.5, 4.9)],
    "swan neck": [(0, 0), (3.8, 4.1), (3.8, 13), (20, 40), (20, 72), (13, _TOP), (_RAM, _TOP), (_RAM, _HIGH),
                  (-_RAM, _HIGH), (-_RAM, _TOP), (-13, _TOP), (-13, 82), (-1, 56), (-1, 50), (-3.8, 13),
                  (-3.8, 4.1)],
    "acute": [(0, 0), (9, 33.6), (9, 62), (13, 76), (13, _TOP), (_RAM, _TOP), (_RAM, _HIGH), (-_RAM, _HIGH),
              (-_RAM, _TOP), (-13, _TOP), (-13, 76), (-9, 62), (-9, 33.6)],
}  # fmt: skip
#: What is bent further than this (rad) is struck so far, and pressed on from there between flat tools.
FURTHEST = math.radians(140.0)


@dataclass(frozen=True)
class Strike:
    """A bend as it is struck: with which punch, the part turned over or not, and half round or not; `pressed` on
    from there where it is bent back further than a punch goes."""

    bend: str
    punch: str
    over: bool
    round: bool
    pressed: bool = False


@dataclass(frozen=True)
class Stop:
    """Why a bend cannot be struck: at what share of its angle which panel meets which tool, with which punch, the
    part half round or not."""

    bend: str
    share: float
    panel: str
    tool: str
    punch: str = "straight"
    round: bool = False


@dataclass(frozen=True)
class Order:
    """`strikes` in order, all of them where it is `whole`; else as far as it was found, with what stops those left.
    `turns` is how often the part is turned over or the punch changed."""

    strikes: tuple[Strike, ...]
    whole: bool
    turns: int
    stops: tuple[Stop, ...]
    in_time: bool = True


def bend_order(
    sheet: Sheet, seconds: float = 20.0, segment: float = 0.75,
    progress: Callable[[float], None] = lambda share: None,
) -> Order:  # fmt: skip
    """An order with few turns, by best first over what is bent already."""
    brake = _Brake(sheet, segment)
    bends = list(sheet.bends)
    depth = {id: n for n, (id, _) in enumerate(sheet.outward())}
    began = time.monotonic()
    count = itertools.count()
    heap: list[tuple[float, int, int, frozenset[str], tuple[Strike, ...]]] = [
        (0.0, next(count), 0, frozenset(), ())
    ]
    seen: dict[tuple[frozenset[str], tuple[bool, str] | None], int] = {}
    furthest: tuple[Strike, ...] = ()
    in_time = True
    while heap:
        _, _, turns, done, path = heapq.heappop(heap)
        if len(path) > len(furthest):
            furthest = path
            progress(len(path) / max(len(bends), 1))
        if len(done) == len(bends):
            return Order(path, True, turns, ())
        last = (path[-1].over, path[-1].punch) if path else None
        if seen.get((done, last), 1 << 30) <= turns:
            continue
        seen[done, last] = turns
        if time.monotonic() - began > seconds:
            in_time = False
            break
        for id in bends:
            if id in done:
                continue
            for strike in brake.ways(id, done):
                now = (strike.over, strike.punch)
                more = turns + (last is not None and now != last)
                left = len(bends) - len(done) - 1
                # Bends far out come first: what is long then lies flat.
                rank = more + 1.0 * left - 0.001 * depth[sheet.bends[id].child]
                heapq.heappush(heap, (rank, next(count), more, done | {id}, (*path, strike)))
    done = frozenset(s.bend for s in furthest)
    stops = [stop for id in bends if id not in done and (stop := brake.stop(id, done)) is not None]
    return Order(furthest, False, 0, tuple(stops), in_time)


class _Brake:
    def __init__(self, sheet: Sheet, segment: float) -> None:
        self.sheet, self.segment, self.v = sheet, segment, die_width(sheet.thickness)
        self.solids = {
            p.id: _prism(_polygon(p), 0.0, sheet.thickness, (0, 1, 2)) for p in sheet.panels.values() if p.loops
        }  # fmt: skip
        bodies = [(id, False, s) for id, s in self.solids.items()]
        bodies += [
            (p.id, True, _standing(f, sheet.thickness))
            for p in sheet.panels.values()
            for f in p.forms
        ]
        #: What may meet a tool: its panel, whether it is a form in that, its mesh and box.
        self.bodies = [
            (id, form, fcl.CollisionObject(_mesh(*s)), (s[0].min(axis=0), s[0].max(axis=0)))
            for id, form, s in bodies
        ]
        self._tools: dict[tuple[str, float], tuple[fcl.CollisionObject, Floats]] = {}
        self._known: dict[tuple[str, frozenset[str], str, bool], Stop | None] = {}

    def ways(self, id: str, done: frozenset[str]) -> list[Strike]:
        """How a bend can be struck as the part is."""
        over = self.sheet.bends[id].angle < 0.0
        found = []
        for punch in PUNCHES:
            round_ = next(
                (r for r in (False, True) if self._stop(id, done, punch, r) is None), None
            )
            if round_ is not None:
                found.append(
                    Strike(id, punch, over, round_, abs(self.sheet.bends[id].angle) > FURTHEST)
                )
        return found

    def stop(self, id: str, done: frozenset[str]) -> Stop | None:
        """What stops a bend where it gets furthest."""
        found = [self._stop(id, done, punch, r) for punch in PUNCHES for r in (False, True)]
        return None if None in found else max((s for s in found if s), key=lambda s: s.share)

    def _stop(self, id: str, done: frozenset[str], punch: str, round_: bool) -> Stop | None:
        key = (id, done, punch, round_)
        if key not in self._known:
            self._known[key] = self._met(*key)
        return self._known[key]

    def _met(self, id: str, done: frozenset[str], punch: str, round_: bool) -> Stop | None:
        bend, t = self.sheet.bends[id], self.sheet.thickness
        sign = 1.0 if bend.angle > 0.0 else -1.0
        low, high = along(bend)
        length = (high - low) * self.segment
        for share in _SHARES:
            turn = min(abs(bend.angle), FURTHEST) * share
            state, radius = struck_state(self.sheet, id, done, turn)
            stands = places(self.sheet, state)
            frame, at = struck(stands[id], 0.5 * (low + high), sign, turn, t, round_)
            by = drop(radius, turn, t, self.v)
            tools = (
                ("punch", *self._tool(punch, length), 0.0),
                ("die", *self._tool("", length), by),
            )
            for panel, form, solid, box in self.bodies:
                place = stands[panel]
                turned = frame @ np.stack([place.x, place.y, place.z], axis=1)
                moved = frame @ (place.o - at)
                middle = turned @ (0.5 * (box[0] + box[1])) + moved
                half = np.abs(turned) @ (0.5 * (box[1] - box[0]))
                for name, tool, reach, lifted in tools:
                    if name == "die" and not form and panel in (bend.parent, bend.child):
                        continue  # they lie on it
                    off = np.array([0.0, 0.0, lifted])
                    if (middle - half > reach[1] + off).any() or (
                        middle + half < reach[0] + off
                    ).any():
                        continue
                    solid.setTransform(fcl.Transform(turned, moved))
                    tool.setTransform(fcl.Transform(np.eye(3), off))
                    if fcl.collide(solid, tool, fcl.CollisionRequest(), fcl.CollisionResult()):
                        return Stop(id, share, panel, name, punch, round_)
        return None

    def _tool(self, punch: str, length: float) -> tuple[fcl.CollisionObject, Floats]:
        """A punch, or the die, of a length, and its box; x along the bend, y across, z up."""
        key = (punch, round(length, 1))
        if key not in self._tools:
            if punch:
                profile = shapely.Polygon(PUNCHES[punch]).buffer(-0.5 * _CLEAR)
                profile = shapely.affinity.translate(profile, 0.0, _CLEAR)
            else:
                profile = shapely.affinity.translate(
                    die_profile(self.v).buffer(-0.5 * _CLEAR), 0.0, -_CLEAR
                )
            solid = _prism(profile, -0.5 * length, 0.5 * length, (1, 2, 0))
            box = np.stack([solid[0].min(axis=0), solid[0].max(axis=0)])
            self._tools[key] = (fcl.CollisionObject(_mesh(*solid)), box)
        return self._tools[key]


def struck_state(
    sheet: Sheet, id: str, done: Collection[str], turn: float
) -> tuple[dict[str, Bent], float]:
    """The sheet while a bend is struck so far (rad), those done bent, others flat; and the radius it has then, which
    keeps its neutral line."""
    bend, t = sheet.bends[id], sheet.thickness
    k = (bend.allowance / abs(bend.angle) - bend.radius) / t
    radius = max(bend.allowance / turn - k * t, 0.0) if turn else 0.0
    state: dict[str, Bent] = {
        b.id: (b.angle, b.radius) if b.id in done else (0.0, 0.0) for b in sheet.bends.values()
    }
    state[id] = (math.copysign(turn, bend.angle), radius) if turn else (0.0, 0.0)
    return state, radius


def struck(
    zone: Place, middle: float, sign: float, turn: float, t: float, round_: bool
) -> tuple[Floats, Floats]:
    """What turns space to the brake, and the place that comes to the tip of the punch: inside the bend, half-way."""
    at = zone.at((middle, 0.5 * zone.allowance), t if sign > 0.0 else 0.0)
    c, s = math.cos(0.5 * turn), math.sin(0.5 * turn)
    across = zone.y * c + zone.z * (sign * s)
    up = zone.z * c - zone.y * (sign * s)
    frame = np.array([zone.x, across, up]) if sign > 0.0 else np.array([-zone.x, across, -up])
    return (np.diag([-1.0, -1.0, 1.0]) @ frame if round_ else frame), at


def drop(radius: float, turn: float, t: float, v: float) -> float:
    """How high the top of the die is over the tip of the punch: its shoulders touch the legs, or the round itself
    while that lies on them."""
    half, s = 0.5 * v, math.sin(0.5 * turn)
    if turn >= math.pi - 0.05:
        return -2.0 * t
    if (radius + t) * s > half:
        return radius - math.sqrt(max((radius + t) ** 2 - half**2, 0.0))
    return radius - (radius + t) / math.cos(0.5 * turn) + half * math.tan(0.5 * turn)


def die_profile(v: float) -> shapely.Polygon:
    half = 0.5 * v
    wide, deep = half + 8.0, half / math.tan(_OPENING)
    return shapely.Polygon(
        [(-wide, 0), (-half, 0), (0, -deep), (half, 0), (wide, 0), (wide, -_DIE_HEIGHT), (-wide, -_DIE_HEIGHT)]
    )  # fmt: skip


def along(bend: Bend) -> tuple[float, float]:
    s = [x for loop in bend.loops for seg in loop for x in (seg.a[0], seg.b[0])]
    return min(s), max(s)


def _polygon(panel: Panel) -> shapely.Geometry:
    found = []
    for outer, holes in grouped(panel.loops):
        rings = [[p for s in lp for p in s.points(0.3)[:-1]] for lp in (outer, *holes)]
        found.append(shapely.Polygon(rings[0], [r for r in rings[1:] if len(r) > 2]))
    return shapely.union_all(found).buffer(-1e-3)


def _standing(form: Form, t: float) -> tuple[Floats, NDArray[np.int64]]:
    """What a form takes of its panel, as far up and down as it stands out: it is within that."""
    below, above = form.spans
    around = shapely.union_all([
        shapely.Polygon([p for s in lp for p in s.points(0.2)[:-1]]) for lp in taken(form)
    ])  # fmt: skip
    return _prism(around, -below, t + above, (0, 1, 2))


def _prism(
    profile: shapely.Geometry, low: float, high: float, axes: tuple[int, int, int]
) -> tuple[Floats, NDArray[np.int64]]:
    """Triangles of a plane shape run from a height to another; `axes` say which of x, y, z its x, its y and the
    height are."""
    points: list[tuple[float, float, float]] = []
    faces: list[tuple[int, int, int]] = []
    for piece in shapely.constrained_delaunay_triangles(profile).geoms:
        corners = list(shapely.geometry.polygon.orient(piece).exterior.coords)[:3]
        n = len(points)
        points += [(x, y, high) for x, y in corners] + [(x, y, low) for x, y in corners]
        faces += [(n, n + 1, n + 2), (n + 5, n + 4, n + 3)]
    for polygon in getattr(profile, "geoms", [profile]):
        for ring in (polygon.exterior, *polygon.interiors):
            for (x0, y0), (x1, y1) in itertools.pairwise(ring.coords):
                n = len(points)
                points += [(x0, y0, low), (x1, y1, low), (x1, y1, high), (x0, y0, high)]
                faces += [(n, n + 1, n + 2), (n, n + 2, n + 3)]
    found = np.empty((len(points), 3))
    for k, axis in enumerate(axes):
        found[:, axis] = np.array(points)[:, k]
    return found, np.array(faces, dtype=np.int64)


def _mesh(points: Floats, faces: NDArray[np.int64]) -> fcl.BVHModel:
    made = fcl.BVHModel()
    made.beginModel(len(points), len(faces))
    made.addSubModel(points, faces)
    made.endModel()
    return made

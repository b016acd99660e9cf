"""Conditions and sizes that would settle what is loose, each tried before it is proposed."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from vireo.core.quantity import ANGLE, Quantity
from vireo.core.sketch.constraints import KINDS
from vireo.core.sketch.model import Constraint, Drawing
from vireo.core.sketch.seats import ORIGIN, Seats
from vireo.core.sketch.solved import Solved, solve_drawing

#: Nearer than this to level, tangent or equal it was meant to be.
_LEVEL = math.radians(2.0)
_ALIKE = 0.02


@dataclass(frozen=True)
class Proposal:
    """A constraint that takes away `takes` freedoms, why it is proposed, in words."""

    constraint: Constraint
    words: str
    takes: int


def proposals(
    drawing: Drawing, names: Mapping[str, Quantity] | None = None, most: int = 60
) -> list[Proposal]:
    """A set of constraints that together settle the drawing as far as they can.

    Conditions that nearly hold come first: level, touching, alike; then what lies on, in the
    middle of or mirrored over something; numbers only for what is left. A number where a relation
    is meant breaks as soon as another size changes. Nothing is proposed that contradicts or
    repeats what is there, or moves anything by more than it was off.
    """
    now = solve_drawing(drawing, names)
    if not now.holds:
        return []
    found: list[Proposal] = []
    numbers = itertools.count(1)
    used = {c.id for c in drawing.constraints} | {e.id for e in drawing.entities}

    def fresh(prefix: str) -> str:
        return next(i for n in numbers if (i := f"{prefix}{n}") not in used)

    seats = Seats.of(now.drawing)
    for type, on, words in [*_conditions(seats), *_places(seats), *_sizes(seats)]:
        if now.freedom == 0 or len(found) >= most:
            break
        if not _touches(seats, on, now):
            continue
        kind = KINDS[type]
        c = Constraint(id=fresh("d" if kind.dimension else "k"), type=type, on=on)
        if kind.dimension is not None:
            assert kind.measure is not None
            value = kind.measure(Seats.of(now.drawing), c)
            text = (
                f"{round(math.degrees(value), 2):g} deg" if kind.dimension == ANGLE
                else f"{round(value, 2):g} mm"
            )  # fmt: skip
            if round(value, 2) <= 0:
                continue
            c = c.model_copy(update={"formula": text})
            words = f"{words} {text}"
        tried = now.drawing.model_copy(update={"constraints": (*now.drawing.constraints, c)})
        after = solve_drawing(tried, names)
        if after.holds and after.freedom < now.freedom and c.id not in after.culprits:
            found.append(Proposal(c, words, now.freedom - after.freedom))
            now = after
    return found


def _touches(seats: Seats, on: tuple[str, ...], now: Solved) -> bool:
    """Whether something it is put on is loose still."""
    for id in on:
        entity = seats.entities.get(id)
        if id in now.loose or (entity and any(p in now.loose for p in entity.stands_on())):
            return True
    return False


Candidate = tuple[str, tuple[str, ...], str]


def _conditions(seats: Seats) -> Iterator[Candidate]:
    own = [id for id in seats.lines if not id.endswith("_axis")]
    lines = {id: (seats.at(seats.lines[id][0]), seats.at(seats.lines[id][1])) for id in own}
    for id, (a, b) in lines.items():
        angle = math.atan2(b[1] - a[1], b[0] - a[0]) % math.pi
        if min(angle, math.pi - angle) < _LEVEL:
            yield "horizontal", (id,), f"{id} is nearly level"
        elif abs(angle - math.pi / 2) < _LEVEL:
            yield "vertical", (id,), f"{id} is nearly upright"
    for id, at in seats.places().items():
        if id[0] != "_" and id != ORIGIN and math.hypot(*at) < 1e-3 * seats.scale:
            yield "coincident", (ORIGIN, id), f"{id} stands nearly on the origin"
    for arc, ends in seats.arc_ends.items():
        if seats.form(arc) != "circle":
            continue
        for line, (a, b) in lines.items():
            shared = set(ends) & set(seats.lines[line])
            if shared:
                c, p = seats.at(seats.centres[arc]), seats.at(next(iter(shared)))
                u, w = (b[0] - a[0], b[1] - a[1]), (p[0] - c[0], p[1] - c[1])
                sine = (u[0] * w[0] + u[1] * w[1]) / (math.hypot(*u) * math.hypot(*w) or 1.0)
                if abs(sine) < _LEVEL:
                    yield "tangent", (line, arc), f"{line} and {arc} nearly touch"
    radii = sorted(seats.radii.items(), key=lambda r: seats.start[r[1]])
    for (one, i), (two, j) in itertools.pairwise(radii):
        if abs(seats.start[i] - seats.start[j]) < _ALIKE * seats.start[j]:
            yield "equal", (one, two), f"{one} and {two} are nearly alike"
    sizes = sorted((math.dist(*ends), id) for id, ends in lines.items())
    for (short, one), (long, two) in itertools.pairwise(sizes):
        if abs(short - long) < _ALIKE * long / 4:
            yield "equal", (one, two), f"{one} and {two} are nearly alike"


#: Nearer to something than this share of the drawing's size a point was meant to be on it.
_NEAR = 2e-3


def _places(seats: Seats) -> Iterator[Candidate]:
    """Points on points, on curves, in the middle of lines, mirrored over axes; lines in line."""
    near = _NEAR * seats.scale
    points = [(p, seats.at(p)) for p in seats.points if p[0] != "_" and p != ORIGIN]
    stands = {id: set(e.stands_on()) for id, e in seats.entities.items()}
    for (p, at), (q, there) in itertools.combinations(points, 2):
        if math.dist(at, there) < near:
            yield "coincident", (p, q), f"{p} and {q} nearly are one"
    places = seats.places()
    curves = [
        (e.id, c)
        for e in seats.entities.values()
        if e.form in ("line", "circle", "arc") and (c := e.curve(places)) is not None
    ]
    lines = [(id, c) for id, c in curves if seats.form(id) == "line"]
    for p, at in points:
        for id, c in lines:
            if p not in stands[id] and math.dist(at, c.at(0.5)) < near:
                yield "midpoint", (id, p), f"{p} stands nearly in the middle of {id}"
    for p, at in points:
        for id, c in curves:
            if p in stands[id]:
                continue
            low, high = c.range
            t = c.parameter(at)
            if low - 1e-9 <= t <= high + 1e-9 and math.dist(at, c.at(t)) < near:
                yield "on_curve", (p, id), f"{p} lies nearly on {id}"
        for axis, k in (("y_axis", 0), ("x_axis", 1)):
            if abs(at[k]) < near:
                yield "on_curve", (p, axis), f"{p} lies nearly on the {axis[0].upper()} axis"
    for axis, k in (("y_axis", 0), ("x_axis", 1)):
        for (p, at), (q, there) in itertools.combinations(points, 2):
            mirrored = abs(at[k] + there[k]) + abs(at[1 - k] - there[1 - k])
            if mirrored < near < abs(at[k]):
                yield (
                    "symmetric",
                    (axis, p, q),
                    f"{p} and {q} mirror each other over {axis[0].upper()}",
                )
    for (one, a), (two, b) in itertools.combinations(lines, 2):
        if stands[one] & stands[two]:
            continue
        off = [math.dist(q, a.at(a.parameter(q))) for q in b.ends]
        if max(off) < near:
            yield "collinear", (one, two), f"{one} and {two} nearly are in one line"


def _sizes(seats: Seats) -> Iterator[Candidate]:
    for id in seats.radii:
        kind = "radius" if id in seats.arc_ends else "diameter"
        yield kind, (id,), f"{kind} of {id}"
    for id in (e.id for e in seats.entities.values() if e.form == "ellipse"):
        yield "width", (id,), f"width of {id}"
        yield "height", (id,), f"height of {id}"
    for id in seats.lines:
        if not id.endswith("_axis"):
            yield "distance", (id,), f"length of {id}"
    points = sorted(
        (p for p in seats.points if p[0] != "_" and p != ORIGIN),
        key=lambda p: math.hypot(*seats.at(p)),
    )
    for id in points:
        for type, word in (("distance_x", "across"), ("distance_y", "up")):
            yield type, (ORIGIN, id), f"{id} {word} from the origin"
    own = [id for id in seats.lines if not id.endswith("_axis")]
    for one, two in itertools.pairwise(own):
        yield "angle", (one, two), f"angle of {one} and {two}"

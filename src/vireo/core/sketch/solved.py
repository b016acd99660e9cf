"""A drawing with its formulas put in, solved and diagnosed: what the screen and steps use."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache

from vireo.core.curves import Curve2
from vireo.core.quantity import FormulaError, Quantity, evaluate, names_in
from vireo.core.sketch.constraints import KINDS, ConstraintKind, kind_of
from vireo.core.sketch.diagnose import Diagnosis, diagnose
from vireo.core.sketch.entities.base import FARTHEST
from vireo.core.sketch.model import Constraint, Drawing, Parallel, Point, Spline
from vireo.core.sketch.residuals import Array
from vireo.core.sketch.seats import Places, Seats
from vireo.core.sketch.system import System, assemble, drag, solve
from vireo.core.sketch.tools.copies import refreshed
from vireo.core.trouble import BadInput, Report, Trouble

#: A solved sketch misses no constraint by more than this share of its size.
_GOOD = 1e-8
#: A curve shorter than this share of the sketch is not a curve any more.
_DEGENERATE = 1e-6


class SketchTrouble(Trouble):
    code = "sketch"


@dataclass
class Solved:
    """The drawing at its solution, with what is loose and what clashes.

    `values` are dimensions in mm or rad; `loose` maps a loose point or circle to the
    directions it can still move in: "x", "y" or "r".
    """

    drawing: Drawing
    values: dict[str, float]
    freedom: int
    loose: dict[str, str]
    holds: bool
    culprits: tuple[str, ...] = ()
    loop: tuple[str, ...] = ()
    troubles: list[Report] = field(default_factory=list)


def _kind(c: Constraint) -> ConstraintKind:
    """The kind of a constraint; what it is put on is checked where its equations are made."""
    kind = KINDS.get(c.type)
    if kind is None:
        raise BadInput(f"there is no constraint called {c.type}", [f"constraint:{c.id}"])
    return kind


def dimension_values(
    drawing: Drawing, names: Mapping[str, Quantity]
) -> tuple[dict[str, float], list[Report]]:
    """Values of the driving dimensions in mm or rad; a formula that fails keeps the drawn size.

    A formula may use other driving sizes of the sketch by their ids; parameters come first.
    """
    values: dict[str, float] = {}
    troubles: list[Report] = []
    drawn: list[Seats] = []

    def measured(c: Constraint) -> float:
        if not drawn:
            drawn.append(Seats.of(drawing))
        kind_of(c, drawn[0])
        measure = KINDS[c.type].measure
        assert measure is not None
        return measure(drawn[0], c)

    driving = {c.id: c for c in drawing.constraints if _kind(c).dimension and not c.reference}
    asked: list[str] = []

    def value_of(id: str) -> float:
        if id in values:
            return values[id]
        c, kind = driving[id], KINDS[driving[id].type]
        if c.formula is None:
            values[id] = measured(c)
            return values[id]
        if id in asked:
            loop = " -> ".join([*asked[asked.index(id) :], id])
            raise FormulaError(f"sizes go round in a circle: {loop}")
        asked.append(id)
        try:
            found = evaluate(c.formula, {**names, **used(c.formula)})
        finally:
            asked.pop()
        if found.dimension != kind.dimension:
            assert kind.dimension is not None
            raise FormulaError(
                f"{kind.label.lower()} is {kind.dimension.name}, but “{c.formula}” is "
                f"{found.dimension.name}"
            )
        if found.value < 0 or (found.value == 0 and not kind.zero):
            raise FormulaError(f"{kind.label.lower()} cannot be {c.formula}: it must be positive")
        values[id] = found.value
        return values[id]

    def used(formula: str) -> dict[str, Quantity]:
        found = {}
        for n in (names_in(formula) & driving.keys()) - names.keys():
            dimension = KINDS[driving[n].type].dimension
            assert dimension is not None
            found[n] = Quantity(value_of(n), dimension)
        return found

    for id, c in driving.items():
        try:
            value_of(id)
        except FormulaError as error:
            values[id] = measured(c)
            troubles.append(Report(code="formula", text=error.text, where=[f"constraint:{id}"]))
    return values, troubles


@lru_cache(maxsize=32)
def _system(drawing: Drawing, values: tuple[tuple[str, float], ...]) -> System:
    return assemble(drawing, dict(values))


def moved(drawing: Drawing, system: System, z: Array) -> Drawing:
    """The drawing with its points and radii where the solution puts them."""
    p = system.expand(z) * system.scale
    entities = tuple(e.moved(system.seats, p) for e in drawing.entities)
    return drawing.model_copy(update={"entities": entities})


#: Turns of solving anew with the parameters of splines taken from where their points went.
_TURNS = 8


def _solution(
    drawing: Drawing, values: dict[str, float], pull: Mapping[str, tuple[float, float]] | None
) -> tuple[Drawing, System, Array, float]:
    """(drawing moved to its solution, its system, unknowns, largest residual).

    What touches a spline through points is solved with the spline's parameters held, which
    themselves go with the points: solving again from there converges in a few turns.
    """
    splines = {e.id for e in drawing.entities if isinstance(e, Spline)}
    tied = any(splines & set(c.on) for c in drawing.constraints if not c.reference)
    now = drawing
    for turn in range(_TURNS if tied else 1):
        system = _system(now, tuple(sorted(values.items())))
        z, worst = solve(system)
        if pull and turn == 0 and worst < _GOOD:
            pulled, bad = drag(system, z, _targets(system, z, pull))
            if bad < _GOOD:
                z, worst = pulled, bad
        if worst >= _GOOD or system.clashing:
            return now, system, z, worst
        last, now = now, moved(now, system, z)
        if turn and _shift(last, now) < 1e-11 * system.scale:
            break
    return now, system, z, worst


def _shift(a: Drawing, b: Drawing) -> float:
    places = ((e.x, e.y) for e in a.entities if isinstance(e, Point))
    others = ((e.x, e.y) for e in b.entities if isinstance(e, Point))
    return max((math.dist(p, q) for p, q in zip(places, others, strict=True)), default=0.0)


def with_senses(drawing: Drawing) -> Drawing:
    """Sides and directions written down for new constraints, from the drawn state."""
    fresh = [c for c in drawing.constraints if not c.sense and _kind(c).sense is not None]
    if not fresh:
        return drawing
    seats = Seats.of(drawing)
    constraints = []
    for c in drawing.constraints:
        if not c.sense and (kind := _kind(c)).sense is not None:
            kind_of(c, seats)
            assert kind.sense is not None
            c = c.model_copy(update={"sense": kind.sense(seats, c)})
        constraints.append(c)
    return drawing.model_copy(update={"constraints": tuple(constraints)})


def solve_drawing(
    drawing: Drawing,
    names: Mapping[str, Quantity] | None = None,
    pull: Mapping[str, tuple[float, float]] | None = None,
    full: bool = True,
) -> Solved:
    """Solve a drawing; `pull` drags points (or, for a circle, its rim) to places in mm.

    Nothing raises for a sketch that has no solution: `holds` is False, the culprits are
    named, and the drawing comes back as it was.
    """
    before, broken = drawing, list[Report]()
    if drawing.links and not pull:
        try:
            drawing = refreshed(drawing, names or {})
        except Trouble as trouble:
            broken.append(trouble.report())
    drawing = with_senses(drawing)
    values, troubles = dimension_values(drawing, names or {})
    troubles += broken
    result, system, z, worst = _solution(drawing, values, pull)
    holds = worst < _GOOD and not system.clashing
    if not holds:
        result = drawing = before if before.links else drawing
    diagnosis = diagnose(system, z) if full else Diagnosis(-1, frozenset(), (), ())
    if holds and (flat := _degenerate(result, system.scale)):
        holds, result = False, drawing
        troubles.append(
            Report(
                code="degenerate",
                text=f"{', '.join(flat)} would shrink to nothing",
                where=[f"entity:{i}" for i in flat],
            )
        )
    if holds and any(abs(v) > FARTHEST for p in places_of(result).values() for v in p):
        holds, result = False, drawing
        text = f"a point would lie more than {FARTHEST / 1000:g} m away: look for a wrong unit"
        troubles.append(Report(code="degenerate", text=text))
    if holds and (tight := _beyond_limits(result, values)):
        holds, result = False, drawing
        troubles += tight
    culprits = (*system.clashing, *diagnosis.culprits)
    if not holds and not troubles:
        troubles.append(_no_solution(drawing, culprits, diagnosis.loop))
    wanted = [
        c for c in result.constraints if _kind(c).measure and (c.reference or c.id not in values)
    ]
    read = Seats.of(result) if wanted else None
    for c in wanted:
        measure = _kind(c).measure
        assert measure is not None
        assert read is not None
        values[c.id] = measure(read, c)
    return Solved(
        drawing=result,
        values=values,
        freedom=diagnosis.freedom,
        loose=_loose(system, diagnosis),
        holds=holds,
        culprits=tuple(dict.fromkeys(culprits)),
        loop=diagnosis.loop,
        troubles=troubles,
    )


def _beyond_limits(drawing: Drawing, values: Mapping[str, float]) -> list[Report]:
    """Limits the drawing does not keep. Values become what is measured for those it keeps."""
    limits = [c for c in drawing.constraints if _kind(c).limit and not c.reference]
    found = _folded(drawing)
    if not limits:
        return found
    read = Seats.of(drawing)
    for c in limits:
        kind = _kind(c)
        assert kind.measure is not None
        has = kind.measure(read, c)
        if has < values[c.id] * (1.0 - 1e-9):
            text = f"{kind.label.lower()} of {c.on[0]} is {has:.4g} mm, less than {values[c.id]:.4g} mm"
            where = [f"constraint:{c.id}", f"entity:{c.on[0]}"]
            found.append(Report(code="limit", text=text, where=where))
    return found


def _folded(drawing: Drawing) -> list[Report]:
    """Offsets larger than the bends they run inside of."""
    beside = [e for e in drawing.entities if isinstance(e, Parallel)]
    places = places_of(drawing) if beside else None
    found = []
    for e in beside:
        assert places is not None
        radius = e.tight(places)
        if radius is not None:
            text = f"the offset {e.id} by {e.gap:.4g} mm would fold over: {e.of} bends to {radius:.4g} mm"
            found.append(Report(code="limit", text=text, where=[f"entity:{e.of}"]))
    return found


def _no_solution(drawing: Drawing, culprits: tuple[str, ...], loop: tuple[str, ...]) -> Report:
    names = {c.id: KINDS[c.type].label.lower() for c in drawing.constraints}
    if culprits:
        first = culprits[0]
        others = [i for i in loop if i != first and i in names][:6]
        text = f"{names.get(first, 'a constraint')} {first} contradicts " + (
            ", ".join(f"{names[i]} {i}" for i in others) or "what is already settled"
        )
    else:
        text = "these sizes have no solution together; the sketch stays as it was"
    where = [f"constraint:{i}" for i in dict.fromkeys((*culprits[:1], *loop)) if i in names]
    return Report(code="no_solution", text=text, where=where)


def _targets(system: System, z: Array, pull: Mapping[str, tuple[float, float]]) -> dict[int, float]:
    seats, p = system.seats, system.expand(z) * system.scale
    targets: dict[int, float] = {}
    for id, (x, y) in pull.items():
        if id in seats.points:
            i, j = seats.points[id]
            targets |= {i: x, j: y}
        elif id in seats.radii:
            i, j = seats.points[seats.centres[id]]
            targets[seats.radii[id]] = max(math.hypot(x - p[i], y - p[j]), 1e-6 * system.scale)
    return targets


def _loose(system: System, diagnosis: Diagnosis) -> dict[str, str]:
    found: dict[str, str] = {}

    def free(variable: int) -> bool:
        return int(system.column[variable]) in diagnosis.loose

    for id, (i, j) in system.seats.points.items():
        way = ("x" if free(i) else "") + ("y" if free(j) else "")
        if way:
            found[id] = way
    for id, r in system.seats.radii.items():
        if free(r) and id not in system.seats.arc_ends:
            found[id] = "r"
    for (id, _), number in system.seats.numbers.items():
        if free(number):
            found[id] = "r"
    return found


def _degenerate(drawing: Drawing, scale: float) -> list[str]:
    at = places_of(drawing)
    curves = ((e.id, e.curve(at)) for e in drawing.entities if e.one_curve)
    return [id for id, c in curves if c is not None and c.length < _DEGENERATE * scale]


def places_of(drawing: Drawing) -> Places:
    """Where the points of a drawing are, the origin among them."""
    at = {"origin": (0.0, 0.0)}
    at |= {e.id: (e.x, e.y) for e in drawing.entities if isinstance(e, Point)}
    return Places(at, {e.id: e for e in drawing.entities})


def curves_of(drawing: Drawing, construction: bool = False) -> tuple[tuple[str, Curve2], ...]:
    """Curves of a solved drawing, `(id, curve)`, construction ones left out unless asked for.

    Where an entity makes several (text), ids are its own with a suffix behind a dot.
    """
    at = places_of(drawing)
    found: list[tuple[str, Curve2]] = []
    for e in drawing.entities:
        if e.construction and not construction:
            continue
        found += [(e.id + suffix, curve) for suffix, curve in e.curves(at)]
    return tuple(found)


def aids_of(drawing: Drawing) -> tuple[tuple[str, Curve2], ...]:
    """Construction curves of a solved drawing."""
    aids = {e.id for e in drawing.entities if e.construction}
    return tuple(c for c in curves_of(drawing, construction=True) if c[0].split(".")[0] in aids)


def free_points(drawing: Drawing) -> dict[str, tuple[float, float]]:
    """Points that belong to no curve: hole centres and the like, `id -> (x, y)`."""
    used = {p for e in drawing.entities for p in e.stands_on()}
    return {e.id: (e.x, e.y) for e in drawing.entities if isinstance(e, Point) and e.id not in used}


__all__ = ["Constraint", "SketchTrouble", "Solved", "curves_of", "free_points", "solve_drawing"]

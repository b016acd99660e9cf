"""Trim, extend, split: curves cut at what crosses them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from vireo.core.curves import Circle2, Curve2, Ellipse2, Line2, Spline2, crossings
from vireo.core.sketch.entities.spline import FreeCurve
from vireo.core.sketch.seats import Pair
from vireo.core.sketch.tools.base import Given, Pen, Spot, Tool, ToolTrouble, away, register

#: What no longer holds of a curve once it is cut.
_OF_THE_WHOLE = {"midpoint", "arc_length", "equal", "ratio", "along"}


@dataclass(frozen=True)
class _Cut:
    """A place on a curve: what crosses it there, or the point that is already there."""

    t: float
    at: Pair
    other: str | None = None
    point: str | None = None


def _clicked(pen: Pen, spots: Sequence[Spot]) -> tuple[Any, Curve2, float]:
    snap = spots[0].snap
    at = spots[0].at
    if snap is not None and snap.kind in ("curve", "midpoint") and not snap.id.endswith("_axis"):
        id = snap.id
    else:
        curves = [(e.id, pen.curve(e.id)) for e in pen.entities if e.one_curve]
        if not curves:
            raise ToolTrouble("there is no curve here")
        id = min(curves, key=lambda x: away(x[1].at(_inside(x[1], at)), at))[0]
    curve = pen.curve(id)
    return pen.entity(id), curve, _inside(curve, at)


def _inside(curve: Curve2, at: Pair) -> float:
    low, high = curve.range
    t = curve.parameter(at)
    if isinstance(curve, Circle2) or (isinstance(curve, Ellipse2) and curve.closed):
        return t
    if t > high:  # angles past the end: whichever end is nearer
        ends = [(away(curve.ends[0], at), low), (away(curve.ends[1], at), high)]
        t = min(ends)[1]
    return min(max(t, low), high)


def _closed(entity: Any) -> bool:
    return entity.type in ("circle", "ellipse") or bool(getattr(entity, "closed", False))


def _cuts(pen: Pen, entity: Any, curve: Curve2) -> list[_Cut]:
    """Where other curves cross this one, in its order, without its own ends."""
    places = pen.places()
    found: list[_Cut] = []
    for other in pen.entities:
        if other.id == entity.id or not other.one_curve:
            continue
        for t, _, at in crossings(curve, pen.curve(other.id)):
            ends = [p for p in other.stands_on() if away(places[p], at) < 1e-6]
            found.append(_Cut(t, at, other.id, ends[0] if ends else None))
    low, high = curve.range
    if not _closed(entity):
        found = [c for c in found if low + 1e-7 * (high - low) < c.t < high - 1e-7 * (high - low)]
    found.sort(key=lambda c: c.t)
    return [c for i, c in enumerate(found) if i == 0 or c.t - found[i - 1].t > 1e-9 * (high - low)]


def _mark(pen: Pen, cut: _Cut) -> str:
    """The point of a cut, held on what crosses there."""
    if cut.point is not None:
        return cut.point
    id = pen.place(cut.at)
    if cut.other is not None:
        pen.constrain("on_curve", id, cut.other)
    return id


def _forget(pen: Pen, id: str) -> None:
    for c in pen.constraints:
        if id in c.on and (c.type in _OF_THE_WHOLE or (c.type == "distance" and c.on == (id,))):
            pen.drop(c.id)


def _piece(pen: Pen, entity: Any, curve: Curve2, low: float, high: float, ends: tuple[str, str],
           id: str) -> None:  # fmt: skip
    """Put the part of a curve between two parameters under an id, ending in given points."""
    shared = {"id": id, "construction": entity.construction}
    if entity.type == "line":
        pen.add("line", a=ends[0], b=ends[1], **shared)
    elif entity.form == "circle":
        pen.add("arc", centre=entity.centre, start=ends[0], end=ends[1], **shared)
    elif entity.form == "ellipse":
        pen.add("elliptic_arc", centre=entity.centre, major=entity.major, minor=entity.minor,
                start=ends[0], end=ends[1], **shared)  # fmt: skip
    else:
        assert isinstance(curve, Spline2)
        cut = curve.cut(low, high)
        inner = [pen.place(p) for p in cut.poles[1:-1]]
        pen.add("control_spline", poles=[ends[0], *inner, ends[1]], degree=cut.degree,
                knots=cut.knots, weights=cut.weights, **shared)  # fmt: skip


def _clean(pen: Pen, before: set[str]) -> None:
    """Points that stood only in what was cut away."""
    used = {p for e in pen.entities for p in e.stands_on()}
    pen.remove(before - used)


def _run(entity: Any) -> tuple[str, str]:
    """Points in which an open curve begins and ends."""
    if isinstance(entity, FreeCurve):
        first, last = entity.run()
        return first, last
    return (entity.a, entity.b) if entity.type == "line" else (entity.start, entity.end)


def _keep(
    pen: Pen, entity: Any, curve: Curve2, parts: Sequence[tuple[_Cut | None, _Cut | None]]
) -> None:
    """Leave only the given parts of a curve; None stands for its own end."""
    before = set(entity.stands_on())
    low, high = curve.range
    ends = None if _closed(entity) else _run(entity)
    _forget(pen, entity.id)
    ids = [entity.id, *(pen.id(entity.id[0]) for _ in parts[1:])]
    for id, (one, two) in zip(ids, parts, strict=True):
        a = _mark(pen, one) if one else ends[0]  # type: ignore[index]
        b = _mark(pen, two) if two else ends[1]  # type: ignore[index]
        t0, t1 = one.t if one else low, two.t if two else high
        _piece(pen, entity, curve, t0, t1, (a, b), id)
        if id != entity.id and entity.form == "line":
            # Pieces that share their end are in line when the far end is.
            shared = a in pen.entity(entity.id).stands_on()
            pen.constrain("on_curve", b, entity.id) if shared else pen.constrain(
                "collinear", entity.id, id
            )
        elif id != entity.id and entity.form == "circle":
            pen.constrain("equal", entity.id, id)
    _clean(pen, before)


@register
class Trim(Tool):
    name, label, icon, group, key = "trim", "Trim", "trim", "Change", "u"
    line = "Takes the piece clicked, up to what crosses it"
    spots = ("the piece to take away",)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        entity, curve, t = _clicked(pen, spots)
        cuts = _cuts(pen, entity, curve)
        if _closed(entity):
            if len(cuts) < 2:
                before = {entity.id}
                pen.remove(before)
                return None
            if isinstance(curve, Spline2):
                raise ToolTrouble("a closed spline cannot be trimmed; draw it open")
            after = next((c for c in cuts if c.t > t), cuts[0])
            ahead = [c for c in cuts if c.t <= t]
            _keep(pen, entity, curve, [(after, ahead[-1] if ahead else cuts[-1])])
            return None
        below = [c for c in cuts if c.t <= t]
        above = [c for c in cuts if c.t > t]
        parts: list[tuple[_Cut | None, _Cut | None]] = []
        if below:
            parts.append((None, below[-1]))
        if above:
            parts.append((above[0], None))
        if not parts:
            pen.remove([entity.id])
        else:
            _keep(pen, entity, curve, parts)
        return None


@register
class Split(Tool):
    name, label, icon, group, key = "split", "Split", "split", "Change", "U"
    line = "Makes two curves of one where it is clicked"
    spots = ("where to split",)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        entity, curve, t = _clicked(pen, spots)
        if _closed(entity):
            raise ToolTrouble("a closed curve has to be split in two places: trim it instead")
        low, high = curve.range
        if not low + 1e-6 * (high - low) < t < high - 1e-6 * (high - low):
            raise ToolTrouble("click inside the curve, not on its end")
        snap = spots[0].snap
        point = snap.id if snap and snap.kind == "point" else pen.place(curve.at(t))
        cut = _Cut(t, curve.at(t), None, point)
        _keep(pen, entity, curve, [(None, cut), (cut, None)])
        return None


@register
class Extend(Tool):
    name, label, icon, group, key = "extend", "Extend", "extend", "Change", "J"
    line = "Runs the end clicked on to the next curve"
    spots = ("near the end to run on",)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        entity, curve, t = _clicked(pen, spots)
        if entity.form not in ("line", "circle") or _closed(entity):
            raise ToolTrouble("lines and arcs can be run on")
        low, high = curve.range
        last = t > (low + high) / 2
        longer = self._longer(pen, curve, last)
        found = []
        for other in pen.entities:
            if other.id == entity.id or not other.one_curve:
                continue
            for s, _, at in crossings(longer, pen.curve(other.id)):
                if s > 1e-7:
                    places = pen.places()
                    ends = [p for p in other.stands_on() if away(places[p], at) < 1e-6]
                    found.append(_Cut(s, at, other.id, ends[0] if ends else None))
        if not found:
            raise ToolTrouble("nothing lies ahead to run on to")
        before = set(entity.stands_on())
        _forget(pen, entity.id)
        cut = min(found, key=lambda c: c.t)
        role = {("line", False): "a", ("line", True): "b"}.get((entity.form, last)) or (
            "end" if last else "start"
        )
        pen.change(entity.id, **{role: _mark(pen, cut)})
        _clean(pen, before)
        return None

    def _longer(self, pen: Pen, curve: Curve2, last: bool) -> Curve2:
        """What lies ahead of an end, its parameter growing from there."""
        if isinstance(curve, Line2):
            size = (
                10 * max((abs(c) for p in pen.places().values() for c in p), default=1.0)
                + curve.length
            )
            a, b = (curve.a, curve.b) if last else (curve.b, curve.a)
            k = size / max(curve.length, 1e-9)
            return Line2(b, (b[0] + k * (b[0] - a[0]), b[1] + k * (b[1] - a[1])))
        assert hasattr(curve, "radius")
        whole = _Rest(curve, last)
        return whole  # type: ignore[return-value]


class _Rest:
    """The rest of the circle of an arc, walked away from one end; its parameter starts at 0."""

    form = "arc"

    def __init__(self, arc: Any, last: bool) -> None:
        self._arc, self._last = arc, last
        self.range = (0.0, 2 * math.pi - (arc.end - arc.start))

    def at(self, t: float) -> Pair:
        angle = self._arc.end + t if self._last else self._arc.start - t
        found: Pair = self._arc.at(angle)
        return found

    def parameter(self, point: Pair) -> float:
        angle = math.atan2(point[1] - self._arc.centre[1], point[0] - self._arc.centre[0])
        turn = angle - self._arc.end if self._last else self._arc.start - angle
        return float(turn % (2 * math.pi))

    @property
    def ends(self) -> tuple[Pair, Pair]:
        return self.at(self.range[0]), self.at(self.range[1])

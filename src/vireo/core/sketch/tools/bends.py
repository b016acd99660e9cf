"""Points and handles of splines: put in, taken out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from vireo.core.curves import Pair, Spline2
from vireo.core.sketch.entities.spline import ControlSpline, Spline
from vireo.core.sketch.tools.base import Given, Pen, Spot, Tool, ToolTrouble, away, plus, register


def _spline_at(pen: Pen, spot: Spot) -> Any:
    """The spline under a place."""
    known = {e.id: e for e in pen.entities}
    if spot.snap is not None and isinstance(known.get(spot.snap.id), Spline | ControlSpline):
        return known[spot.snap.id]
    splines = [e for e in pen.entities if isinstance(e, Spline | ControlSpline)]
    if not splines:
        raise ToolTrouble("there is no spline in this sketch")

    def gap(e: Any) -> float:
        curve = pen.curve(e.id)
        return away(curve.at(curve.parameter(spot.at)), spot.at)

    return min(splines, key=gap)


@register
class InsertPoint(Tool):
    name, label, icon, group, key = "insert_point", "Insert a point", "insert_point", "Spline", "v"
    line = "One more point on a spline; control points keep its shape exactly"
    spots = ("a place on a spline",)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        e = _spline_at(pen, spots[0])
        curve = pen.curve(e.id)
        assert isinstance(curve, Spline2)
        t = curve.parameter(spots[0].at)
        if isinstance(e, Spline):
            u = e.parameters(pen.places())
            if min(abs(u - t)) < 1e-6:
                raise ToolTrouble("the spline has a point here already")
            after = int(np.searchsorted(u, t))
            through = [*e.through[:after], pen.place(curve.at(t)), *e.through[after:]]
            pen.change(e.id, through=through)
            return None
        _insert_knot(pen, e, curve, t)
        return None


def _insert_knot(pen: Pen, e: ControlSpline, curve: Spline2, t: float) -> None:
    """Boehm's knot insertion: the same curve with one control point more."""
    k, knots = curve.degree, np.array(curve.knots)
    if not knots[k] < t < knots[-k - 1] or np.isclose(knots, t).sum() >= k:
        raise ToolTrouble("no point fits in here")
    r = int(np.searchsorted(knots, t, side="right")) - 1
    w = np.ones(len(curve.poles)) if curve.weights is None else np.array(curve.weights)
    h = np.column_stack([np.array(curve.poles) * w[:, None], w])
    new = np.empty((len(h) + 1, 3))
    new[: r - k + 1] = h[: r - k + 1]
    new[r + 1 :] = h[r:]
    for i in range(r - k + 1, r + 1):
        a = (t - knots[i]) / (knots[i + k] - knots[i])
        new[i] = a * h[i] + (1.0 - a) * h[i - 1]
    places: list[Pair] = [(float(x / g), float(y / g)) for x, y, g in new]
    # Of the points that move one is new: the first of them.
    ids = list(e.poles)
    ids.insert(r - k + 1, pen.place(places[r - k + 1]))
    for id, at in zip(ids, places, strict=True):
        if id != "origin":
            pen.move(id, at)
    pen.change(
        e.id, poles=ids, degree=k,
        knots=[*knots[: r + 1].tolist(), t, *knots[r + 1 :].tolist()],
        weights=None if curve.weights is None else [float(g) for g in new[:, 2]],
    )  # fmt: skip


@register
class TakeOutPoint(Tool):
    name, label, icon, group, key = (
        "take_out_point",
        "Take points out",
        "take_out_point",
        "Spline",
        "V",
    )
    line = "Selected points of splines go, the splines stay"
    wants = ("point",)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        gone = set(selected)
        touched = False
        for e in pen.entities:
            if isinstance(e, Spline) and gone & set(e.stands_on()):
                through = [p for p in e.through if p not in gone]
                if len(through) < (3 if e.closed else 2):
                    raise ToolTrouble("too few points would be left of the spline")
                handles = {p: h for p, h in e.handles.items() if not gone & {p, h}}
                bare = e.with_handles({}).model_dump() | {"through": through}
                pen.put(Spline.model_validate(bare).with_handles(handles))
                gone |= set(e.handles.values()) - set(handles.values())
                touched = True
            elif isinstance(e, ControlSpline) and gone & set(e.poles):
                poles = [p for p in e.poles if p not in gone]
                if len(poles) < 2:
                    raise ToolTrouble("too few points would be left of the spline")
                degree = min(e.degree, len(poles) - 1)
                weights = e.weights and [
                    w for p, w in zip(e.poles, e.weights, strict=True) if p not in gone
                ]
                # Knots of a cut curve belong to its old points; the rest runs evenly.
                pen.change(e.id, poles=poles, degree=degree, knots=None, weights=weights)
                touched = True
        if not touched:
            raise ToolTrouble("select points of splines first")
        used = {p for e in pen.entities for p in e.stands_on()}
        pen.remove(gone - used)
        return None


@register
class Handle(Tool):
    name, label, icon, group, key = "handle", "Handle", "handle", "Spline", "h"
    line = "Click a point of a spline: it gets a handle for its direction, or loses it"
    spots = ("a point of a spline",)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        splines = [e for e in pen.entities if isinstance(e, Spline) and not e.closed]
        if not splines:
            raise ToolTrouble("handles go on open splines through points")
        e, p = min(
            ((e, p) for e in splines for p in e.through),
            key=lambda x: away(pen.at(x[1]), spots[0].at),
        )
        handles = e.handles
        if p in handles:
            gone = handles.pop(p)
            pen.put(e.with_handles(handles))
            pen.remove([gone])
            return None
        curve = pen.curve(e.id)
        assert isinstance(curve, Spline2)
        u = e.parameters(pen.places())
        i = e.through.index(p)
        spans = [u[k + 1] - u[k] for k in (i - 1, i) if 0 <= k < len(u) - 1]
        slope = curve.derivatives(float(u[i]), 1)[1][0] * sum(spans) / len(spans) / 3.0
        way = -1.0 if i == len(u) - 1 else 1.0
        handles[p] = pen.place(plus(pen.at(p), (float(slope[0]), float(slope[1])), way))
        pen.put(e.with_handles(handles))
        return None

"""Splines and conics."""

from __future__ import annotations

from collections.abc import Sequence

from vireo.core.sketch.tools.base import (
    Given,
    Pen,
    Size,
    Spot,
    Tool,
    ToolTrouble,
    away,
    middle,
    minus,
    plus,
    register,
)


def _chain(spots: Sequence[Spot]) -> list[Spot]:
    """Spots without those clicked twice in a row."""
    found: list[Spot] = []
    for s in spots:
        if not found or away(found[-1].at, s.at) > 1e-9:
            found.append(s)
    return found


def _points(pen: Pen, spots: Sequence[Spot]) -> tuple[list[str], bool]:
    """Points of a chain of spots; True when it came back to its first one."""
    chain = _chain(spots)
    closed = len(chain) > 3 and away(chain[0].at, chain[-1].at) < 1e-9
    if closed:
        chain = chain[:-1]
    ids = [pen.point(Spot(at=s.at, snap=s.snap)) for s in chain]
    if len(ids) < 2 or len(set(ids)) != len(ids):
        raise ToolTrouble("a spline needs at least two different points")
    return ids, closed


@register
class SplineTool(Tool):
    name, label, icon, group, key = "spline", "Spline through points", "curve", "Spline", "s"
    line = "Smooth in curvature; Enter ends it, its first point closes it"
    spots = ("first point", "next point; Enter ends")
    more = True
    sizes = (Size("handles", "End handles", "flag", after=0),)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        ids, closed = _points(pen, spots)
        handles: dict[str, str] = {}
        if given.flag("handles") and not closed:
            a, b, y, z = (pen.at(ids[i]) for i in (0, 1, -2, -1))
            handles["start_handle"] = pen.place(plus(a, minus(b, a), 1 / 3))
            handles["end_handle"] = pen.place(plus(z, minus(y, z), 1 / 3))
        pen.add("spline", through=ids, closed=closed, **handles)
        return None


@register
class ControlSplineTool(Tool):
    name, label, icon, group, key = (
        "control_spline",
        "Spline by control points",
        "control_spline",
        "Spline",
        "S",
    )
    line = "Pulled towards its points; Enter ends it"
    spots = ("first control point", "next control point; Enter ends")
    more = True
    sizes = (Size("degree", "Degree", "count", after=0, default="3"),)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        ids, closed = _points(pen, spots)
        degree = given.count("degree", 1, 5) if given.text("degree") else 3
        if closed:
            raise ToolTrouble("a spline by control points is open: end it in another point")
        pen.add("control_spline", poles=ids, degree=degree)
        return None


@register
class ConicTool(Tool):
    name, label, icon, group, key = "conic", "Conic", "conic", "Spline", "q"
    line = "Start, end, where its tangents meet, then how full"
    spots = ("start", "end", "where the tangents meet", "how full")
    sizes = (Size("rho", "Rho", "number", after=3),)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        places = [s.at for s in spots[:3]]
        a, b, apex = (pen.point(Spot(at=s.at, snap=s.snap)) for s in spots[:3])
        if min(away(p, q) for p, q in zip(places, places[1:] + places[:1], strict=True)) < 1e-9:
            raise ToolTrouble("a conic needs three different points")
        rho = given.value("rho") or self.read(spots, given)["rho"]
        if not 0.01 < rho < 0.99:
            raise ToolTrouble("rho lies between 0.01 and 0.99; 0.5 is a parabola")
        pen.add("conic", start=a, apex=apex, end=b, rho=rho)
        return None

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        if len(spots) < 4:
            return {}
        chord = middle(spots[0].at, spots[1].at)
        rise = minus(spots[2].at, chord)
        along = minus(spots[3].at, chord)
        size = rise[0] ** 2 + rise[1] ** 2 or 1.0
        rho = (along[0] * rise[0] + along[1] * rise[1]) / size
        return {"rho": min(max(rho, 0.02), 0.98)}

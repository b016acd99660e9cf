"""Move, turn and scale what is selected, or a copy of it."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from vireo.core.sketch.seats import Pair
from vireo.core.sketch.tools.base import (
    Given,
    Pen,
    Size,
    Spot,
    Tool,
    ToolTrouble,
    away,
    minus,
    plus,
    register,
    turned,
    unit,
)
from vireo.core.sketch.tools.copies import chosen, points_of

_COPY = Size("copy", "A copy", "flag", after=0)
#: What a turned or scaled thing no longer is.
_LEVEL = {"horizontal", "vertical", "distance_x", "distance_y", "fixed"}


class _Shift(Tool):
    group = "Copy"
    wants = ("any",)
    drops: frozenset[str] = frozenset({"fixed"})

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        sources = chosen(pen, selected)
        if not sources:
            raise ToolTrouble("select what to move first")
        go, k = self.motion(spots, given)
        points = points_of(sources)
        if given.flag("copy"):
            names = {p: pen.place(go(pen.at(p))) for p in points}
            for e in sources:
                if e.form != "point":
                    names[e.id] = pen.id(e.id[0])
                    pen.put(e.renamed(names))
                    pen.put(pen.entity(names[e.id]).grown(k))
            inside = [c for c in pen.constraints if set(c.on) <= set(names)]
            for c in inside:
                if c.type not in self.drops and not (k != 1.0 and c.formula):
                    on = tuple(names[i] for i in c.on)
                    new = pen.id(c.id[0])
                    pen.keep(c.model_copy(update={"id": new, "on": on, "at": None, "linked": None}))
            return None
        own = {*points, *(e.id for e in sources)}
        for p in points:
            pen.move(p, go(pen.at(p)))
        for e in sources:
            if e.form != "point":
                pen.put(e.grown(k))
        for c in pen.constraints:
            if set(c.on) & own and c.type in self.drops:
                pen.drop(c.id)
            elif k != 1.0 and c.formula and set(c.on) <= own and c.type not in ("angle", "ratio"):
                pen.keep(c.model_copy(update={"formula": f"({c.formula}) * {k:.9g}"}))
        return None

    def motion(self, spots: Sequence[Spot], given: Given) -> tuple[Callable[[Pair], Pair], float]:
        raise NotImplementedError


@register
class Move(_Shift):
    name, label, icon, key = "move", "Move", "move", "B"
    line = "From one place to another; what is held stays held"
    spots = ("from", "to")
    sizes = (Size("distance", "Distance"), _COPY)

    def motion(self, spots: Sequence[Spot], given: Given) -> tuple[Callable[[Pair], Pair], float]:
        way = minus(spots[1].at, spots[0].at)
        typed = given.value("distance")
        if typed:
            way = (unit(way)[0] * typed, unit(way)[1] * typed)
        return lambda p: plus(p, way), 1.0

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        return {"distance": away(spots[0].at, spots[1].at)} if len(spots) > 1 else {}


@register
class Rotate(_Shift):
    name, label, icon, key = "rotate", "Turn", "revolute", "Q"
    line = "About a point, from one direction to another"
    spots = ("about", "from", "to")
    sizes = (Size("angle", "Angle", "angle", after=1), _COPY)
    drops = frozenset(_LEVEL)

    def motion(self, spots: Sequence[Spot], given: Given) -> tuple[Callable[[Pair], Pair], float]:
        c = spots[0].at
        angle = given.value("angle")
        if angle is None:
            angle = self.read(spots, given)["angle"]
        return lambda p: plus(c, turned(minus(p, c), angle)), 1.0

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        if len(spots) < 3:
            return {}
        one, two = (math.atan2(*reversed(minus(s.at, spots[0].at))) for s in spots[1:3])
        return {"angle": (two - one + math.pi) % (2 * math.pi) - math.pi}


@register
class Scale(_Shift):
    name, label, icon, key = "scale", "Scale", "scale", "G"
    line = "About a point, by a factor; sizes go with it"
    spots = ("about", "from", "to")
    sizes = (Size("factor", "Factor", "number", after=1), _COPY)
    drops = frozenset({"fixed"})

    def motion(self, spots: Sequence[Spot], given: Given) -> tuple[Callable[[Pair], Pair], float]:
        c = spots[0].at
        k = given.value("factor")
        if k is None:
            k = self.read(spots, given)["factor"]
        if not 1e-4 < k < 1e4:
            raise ToolTrouble("the factor must be positive")
        return lambda p: plus(c, minus(p, c), k), k

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        if len(spots) < 3:
            return {}
        one, two = (away(s.at, spots[0].at) for s in spots[1:3])
        return {"factor": two / one if one > 1e-9 else 1.0}

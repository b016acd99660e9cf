"""Join ends that nearly meet; take away what is there twice."""

from __future__ import annotations

from collections.abc import Sequence

from vireo.core.sketch.tools.base import Given, Pen, Size, Spot, Tool, ToolTrouble, away, register
from vireo.core.sketch.tools.copies import chosen, points_of


@register
class Join(Tool):
    name, label, icon, group, key = "join", "Join ends", "coincident", "Change", "I"
    line = "Ends nearer than a tolerance become one point"
    sizes = (Size("tolerance", "Nearer than", after=0, default="0.1 mm"),)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        reach = given.need("tolerance")
        sources = chosen(pen, selected) or pen.entities
        curves = [e for e in sources if e.one_curve]
        points = points_of(curves)
        if any("origin" in e.stands_on() for e in curves):
            points.insert(0, "origin")
        into: dict[str, str] = {}
        for i, p in enumerate(points):
            for q in points[:i]:
                if q not in into and away(pen.at(p), pen.at(q)) <= reach:
                    into[p] = q
                    break
        if not into:
            raise ToolTrouble(f"no two ends are nearer than {reach:.4g} mm")
        _merge(pen, into)
        return None


def _merge(pen: Pen, into: dict[str, str]) -> None:
    for e in pen.entities:
        if set(e.stands_on()) & set(into):
            pen.put(e.renamed(into))
    for c in pen.constraints:
        on = tuple(into.get(i, i) for i in c.on)
        if len(set(on)) < len(on):
            pen.drop(c.id)
        elif on != c.on:
            pen.keep(c.model_copy(update={"on": on}))
    pen.remove(into)
    # A line whose ends became one is no line any more.
    pen.remove([e.id for e in pen.entities if e.type == "line" and e.a == e.b])


@register
class Simplify(Tool):
    name, label, icon, group, key = "simplify", "Take away doubles", "layers", "Change", "D"
    line = "Curves without length and curves that lie on one another"

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        seen: dict[tuple[object, ...], str] = {}
        gone = []
        for e in chosen(pen, selected) or pen.entities:
            if not e.one_curve:
                continue
            curve = pen.curve(e.id)
            if curve.length < 1e-6:
                gone.append(e.id)
                continue
            low, high = curve.range
            marks = [curve.at(low + k * (high - low) / 4) for k in range(5)]
            rounded = [(round(x, 6) + 0.0, round(y, 6) + 0.0) for x, y in marks]
            key = (e.form, round(curve.length, 6), *min(rounded, rounded[::-1]))
            if key in seen:
                gone.append(e.id)
            seen.setdefault(key, e.id)
        if not gone:
            raise ToolTrouble("nothing is there twice")
        pen.remove(gone)
        return None

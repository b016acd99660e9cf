"""Mirror images and rows of copies that follow what they were made from."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from vireo.core.quantity import Quantity
from vireo.core.sketch.model import Constraint, Drawing, Link, Typed
from vireo.core.sketch.seats import Pair
from vireo.core.sketch.tools.base import (
    Given,
    Pen,
    Size,
    Spot,
    Tool,
    ToolTrouble,
    cross,
    minus,
    plus,
    register,
    turned,
    unit,
)


def chosen(pen: Pen, selected: Sequence[str]) -> list[Any]:
    """Selected entities: curves, and loose points."""
    own = {e.id: e for e in pen.entities}
    return [own[i] for i in selected if i in own]


def points_of(entities: Sequence[Any]) -> list[str]:
    found: dict[str, None] = {}
    for e in entities:
        for p in (e.id,) if e.form == "point" else e.stands_on():
            if p != "origin":
                found[p] = None
    return list(found)


def _axis(pen: Pen, id: str) -> tuple[Pair, Pair]:
    if id == "x_axis":
        return (0.0, 0.0), (1.0, 0.0)
    if id == "y_axis":
        return (0.0, 0.0), (0.0, 1.0)
    e = pen.entity(id)
    return pen.at(e.a), pen.at(e.b)


def _twin(pen: Pen, e: Any, names: Mapping[str, str], id: str, link: str, swap: bool) -> None:
    """A copy of a curve on other points, its sizes tied to the original's."""
    if e.form == "parallel":
        raise ToolTrouble(
            "offsets of free curves are not copied: copy what they follow, then offset that"
        )
    copy = e.renamed({**names, e.id: id})
    if swap and copy.form == "text":
        copy = copy.model_copy(update={"mirrored": not copy.mirrored})
    elif swap and hasattr(copy, "start") and copy.form != "spline":
        copy = copy.model_copy(update={"start": copy.end, "end": copy.start})
    pen.put(copy)
    if e.form == "circle":
        pen.constrain("equal", e.id, id, linked=link)
    elif e.form in ("ellipse", "text"):
        pen.constrain("same_height", e.id, id, linked=link)


@register
class Mirror(Tool):
    name, label, icon, group, key = "mirror", "Mirror", "symmetric", "Copy", "M"
    line = "Select curves, then the line to mirror in, last"
    wants = ("any", "line")

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        if len(selected) < 2:
            raise ToolTrouble("select what to mirror and, last, the line to mirror in")
        *what, axis = selected
        own = {e.id: e for e in pen.entities}
        if axis not in ("x_axis", "y_axis") and getattr(own.get(axis), "form", "") != "line":
            raise ToolTrouble("the last thing selected is the line to mirror in")
        sources = chosen(pen, what)
        a, b = _axis(pen, axis)
        way = unit(minus(b, a))
        link = pen.id("m")
        names: dict[str, str] = {}
        for p in points_of(sources):
            at = pen.at(p)
            rise = cross(way, minus(at, a))
            if abs(rise) < 1e-7:
                names[p] = p
                continue
            names[p] = pen.place(plus(at, (-way[1], way[0]), -2 * rise))
            pen.constrain("symmetric", p, names[p], axis, linked=link)
        for e in sources:
            if e.form != "point" and any(names.get(p, p) != p for p in e.stands_on()):
                _twin(pen, e, names, pen.id(e.id[0]), link, swap=True)
        return None


class _Copies(Tool):
    group = "Copy"

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        if len(selected) < 2 or not chosen(pen, selected[:-1]):
            raise ToolTrouble(self.line)
        *what, about = selected
        self.check(pen, about)
        link = Link(
            id=pen.id("m"), tool=self.name, on=tuple(e.id for e in chosen(pen, what)),
            about=about, texts=tuple(Typed(name=k, formula=v) for k, v in given.texts.items() if v),
            skips=_skips(given.text("skips")),
        )  # fmt: skip
        self.fill(pen, link, given)
        pen.links.append(link)
        return None

    def check(self, pen: Pen, about: str) -> None:
        raise NotImplementedError

    def hold(self, pen: Pen, link: Link, given: Given) -> Callable[[str, str, int], Constraint]:
        """What holds the k-th copy of a point; also moves it there."""
        raise NotImplementedError

    def fill(self, pen: Pen, link: Link, given: Given) -> None:
        """Make the copies that are wanted and not there; take those away that are not."""
        wanted = {k for k in range(1, given.count("count", 1)) if k not in link.skips}
        sources = [pen.entity(i) for i in link.on if i in {e.id for e in pen.entities}]
        hold = self.hold(pen, link, given)
        there = {k for k in range(1, 501) if _name(points_of(sources)[:1], link, k, pen)}
        for k in sorted(there - wanted):
            pen.remove([f"{e}_{link.id}_{k}" for e in [*points_of(sources), *link.on]])
        for k in sorted(wanted - there):
            names = {p: f"{p}_{link.id}_{k}" for p in points_of(sources)}
            for p, q in names.items():
                pen.add("point", id=q, x=pen.at(p)[0], y=pen.at(p)[1])
                pen.keep(hold(p, q, k))
            for e in sources:
                if e.form != "point":
                    _twin(pen, e, names, f"{e.id}_{link.id}_{k}", link.id, swap=False)


def _name(points: Sequence[str], link: Link, k: int, pen: Pen) -> bool:
    return any(e.id == f"{p}_{link.id}_{k}" for p in points for e in pen.entities)


def _skips(text: str) -> tuple[int, ...]:
    try:
        return tuple(int(t) for t in text.replace(",", " ").split())
    except ValueError as error:
        raise ToolTrouble("skips are numbers of copies, like 2, 5") from error


@register
class LinearCopies(_Copies):
    name, label, icon, key = "linear_copies", "Copies along a line", "copies", "W"
    line = "Select what to copy and, last, a line or axis to go along"
    wants = ("any", "line")
    sizes = (
        Size("count", "How many in all", "count", after=0, default="3"),
        Size("spacing", "Spacing", after=0, default="10 mm"),
        Size("back", "The other way", "flag", after=0),
        Size("skips", "Leave out", "number", after=0),
    )

    def check(self, pen: Pen, about: str) -> None:
        form = {e.id: e.form for e in pen.entities}.get(about, "line" if "axis" in about else "")
        if form != "line":
            raise ToolTrouble("the last thing selected is the line the copies go along")

    def hold(self, pen: Pen, link: Link, given: Given) -> Callable[[str, str, int], Constraint]:
        a, b = _axis(pen, link.about)
        way = unit(minus(b, a))
        sign = -1 if given.flag("back") else 1
        spacing = given.need("spacing")
        if abs(spacing) < 1e-6:
            raise ToolTrouble("without a spacing the copies would lie on one another")

        def held(p: str, q: str, k: int) -> Constraint:
            pen.move(q, plus(pen.at(p), way, sign * k * spacing))
            return Constraint(
                id=pen.id("k"), type="spaced", on=(link.about, p, q), sense=(sign,),
                formula=f"{k} * ({given.text('spacing')})", linked=link.id,
            )  # fmt: skip

        return held


@register
class CircularCopies(_Copies):
    name, label, icon, key = "circular_copies", "Copies round a point", "copies_round", "Y"
    line = "Select what to copy and, last, the point to go round"
    wants = ("any", "point")
    sizes = (
        Size("count", "How many in all", "count", after=0, default="6"),
        Size("angle", "Spread over", "angle", after=0, default="360 deg"),
        Size("skips", "Leave out", "number", after=0),
    )

    def check(self, pen: Pen, about: str) -> None:
        form = {e.id: e.form for e in pen.entities}.get(about, "point" if about == "origin" else "")
        if form != "point":
            raise ToolTrouble("the last thing selected is the point the copies go round")

    def hold(self, pen: Pen, link: Link, given: Given) -> Callable[[str, str, int], Constraint]:
        c = pen.at(link.about)
        count, angle = given.count("count", 1), given.need("angle")
        if abs(angle) < 1e-9:
            raise ToolTrouble("without an angle the copies would lie on one another")
        whole = abs(angle - 6.283185307179586) < 1e-9
        steps = count if whole else max(count - 1, 1)

        def held(p: str, q: str, k: int) -> Constraint:
            pen.move(q, plus(c, turned(minus(pen.at(p), c), k * angle / steps)))
            across = f"({given.text('count')})" if whole else f"(({given.text('count')}) - 1)"
            return Constraint(
                id=pen.id("k"), type="turned", on=(link.about, p, q),
                formula=f"{k} * ({given.text('angle')}) / {across}", linked=link.id,
            )  # fmt: skip

        return held


def refreshed(drawing: Drawing, names: Mapping[str, Quantity]) -> Drawing:
    """A drawing with as many copies as its formulas ask for now. Raises ToolTrouble."""
    from vireo.core.sketch.tools.base import TOOLS

    pen = Pen(drawing)
    before = len(pen.entities)
    for link in drawing.links:
        tool = TOOLS[link.tool]
        assert isinstance(tool, _Copies)
        tool.fill(pen, link, Given({t.name: t.formula for t in link.texts}, names))
    return pen.drawing() if len(pen.entities) != before else drawing

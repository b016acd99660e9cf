"""The contract of a sketch tool: what it asks for, and how it changes a drawing.

A tool is one entry in the registry. The screen asks it on every move of the pointer for a
preview and once more for good; a script calls it with the same arguments.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, TypeAdapter, ValidationError

from vireo.core.curves import Curve2
from vireo.core.quantity import FormulaError, Quantity, evaluate
from vireo.core.sketch.entities.base import FARTHEST
from vireo.core.sketch.model import Constraint, Drawing, Entity, Point
from vireo.core.sketch.seats import ANCHORS, Pair, Places
from vireo.core.trouble import Trouble

_ENTITY: TypeAdapter[Any] = TypeAdapter(Entity)


class ToolTrouble(Trouble):
    """The tool cannot do this here."""

    code = "tool"


class Snap(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: Literal["point", "midpoint", "curve", "tangent"]
    id: str


class Spot(BaseModel):
    """A place clicked (mm): what it was snapped to, whether it is level with the one before."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    at: Pair
    snap: Snap | None = None
    level: Literal["horizontal", "vertical"] | None = None


@dataclass(frozen=True)
class Size:
    """A value that can be typed: asked for once `after` spots stand.

    A flag is on when its text is ``yes``.
    """

    name: str
    label: str
    kind: Literal["length", "angle", "count", "number", "flag", "text"] = "length"
    after: int = 1
    default: str = ""


@dataclass(frozen=True)
class Given:
    """What was typed, by name of the size."""

    texts: Mapping[str, str] = field(default_factory=dict)
    names: Mapping[str, Quantity] = field(default_factory=dict)

    def text(self, name: str) -> str:
        return self.texts.get(name, "").strip()

    def flag(self, name: str) -> bool:
        return self.text(name) in ("1", "true", "yes")

    def value(self, name: str) -> float | None:
        """The typed value in mm or rad; None when nothing is typed. Raises ToolTrouble."""
        text = self.text(name)
        if not text:
            return None
        try:
            return evaluate(text, self.names).value
        except FormulaError as error:
            raise ToolTrouble(error.text) from error

    def need(self, name: str) -> float:
        found = self.value(name)
        if found is None:
            raise ToolTrouble(f"type a value for {name}")
        return found

    def count(self, name: str, least: int = 2, most: int = 500) -> int:
        found = self.need(name)
        if abs(found - round(found)) > 1e-9 or not least <= found <= most:
            raise ToolTrouble(f"{name} must be a whole number from {least} to {most}")
        return round(found)


class Pen:
    """Adds to, changes and takes from a drawing."""

    def __init__(self, drawing: Drawing, construction: bool = False) -> None:
        self.base = drawing
        self.construction = construction
        self._entities: dict[str, Any] = {e.id: e for e in drawing.entities}
        self._constraints: dict[str, Constraint] = {c.id: c for c in drawing.constraints}
        self.links = list(drawing.links)
        self._used = {*self._entities, *self._constraints, *ANCHORS, *(k.id for k in self.links)}
        self._next: dict[str, int] = {}

    # --- looking

    def entity(self, id: str) -> Any:
        return self._entities[id]

    @property
    def entities(self) -> list[Any]:
        return list(self._entities.values())

    @property
    def constraints(self) -> list[Constraint]:
        return list(self._constraints.values())

    def at(self, point: str) -> Pair:
        if point == "origin":
            return (0.0, 0.0)
        p = self._entities[point]
        return (p.x, p.y)

    def places(self) -> Places:
        found = {"origin": (0.0, 0.0)}
        found |= {e.id: (e.x, e.y) for e in self.entities if isinstance(e, Point)}
        return Places(found, self._entities)

    def curve(self, id: str) -> Curve2:
        found: Curve2 | None = self._entities[id].curve(self.places())
        assert found is not None
        return found

    def users(self, point: str) -> list[Any]:
        """Curves that stand on a point."""
        return [e for e in self.entities if point in e.stands_on()]

    # --- drawing

    def id(self, prefix: str) -> str:
        n = self._next.get(prefix, 0)
        while True:
            n += 1
            id = f"{prefix}{n}"
            if id not in self._used:
                self._used.add(id)
                self._next[prefix] = n
                return id

    def add(self, type: str, **fields: Any) -> str:
        fields.setdefault("construction", self.construction and type != "point")
        id = fields.pop("id", None) or self.id(_PREFIX.get(type, "e"))
        self._entities[id] = _ENTITY.validate_python({"type": type, "id": id, **fields})
        return id

    def put(self, entity: Any) -> None:
        """Add or replace a whole entity."""
        self._used.add(entity.id)
        self._entities[entity.id] = entity

    def place(self, at: Pair) -> str:
        return self.add("point", x=at[0], y=at[1])

    def point(self, spot: Spot) -> str:
        """The point of a spot: the one it was snapped to, or a new one."""
        if spot.snap and spot.snap.kind == "point":
            return spot.snap.id
        id = self.place(spot.at)
        if spot.snap and spot.snap.kind == "midpoint":
            self.constrain("midpoint", id, spot.snap.id)
        elif spot.snap:
            self.constrain("on_curve", id, spot.snap.id)
        return id

    def line(self, a: str, b: str, **more: Any) -> str:
        return self.add("line", a=a, b=b, **more)

    def circle(self, centre: str, radius: float) -> str:
        if radius < 1e-6:
            raise ToolTrouble("a circle needs a size")
        return self.add("circle", centre=centre, radius=radius)

    def arc(self, centre: str, start: str, end: str, turn: float = 1.0) -> str:
        """An arc; drawn clockwise (turn < 0) its ends are swapped."""
        start, end = (start, end) if turn >= 0 else (end, start)
        return self.add("arc", centre=centre, start=start, end=end)

    def constrain(self, type: str, *on: str, **more: Any) -> str:
        id = self.id("k")
        self._constraints[id] = Constraint(id=id, type=type, on=on, **more)
        return id

    def dimension(self, type: str, on: Sequence[str], formula: str) -> None:
        """A driving size, when one was typed."""
        if formula:
            id = self.id("d")
            self._constraints[id] = Constraint(id=id, type=type, on=tuple(on), formula=formula)

    # --- changing

    def change(self, id: str, **fields: Any) -> None:
        data = self._entities[id].model_dump()
        self._entities[id] = _ENTITY.validate_python({**data, **fields})

    def move(self, point: str, to: Pair) -> None:
        self.change(point, x=to[0], y=to[1])

    def keep(self, constraint: Constraint) -> None:
        self._used.add(constraint.id)
        self._constraints[constraint.id] = constraint

    def drop(self, constraint: str) -> None:
        self._constraints.pop(constraint, None)

    def remove(self, ids: Iterable[str]) -> None:
        """Without entities, what stands on them, and points that served only what is gone."""
        before = {p for e in self.entities for p in e.stands_on()}
        gone = set(ids)
        grew = True
        while grew:
            needing = (e for e in self.entities if gone & {*e.stands_on(), *e.leans_on()})
            more = {e.id for e in needing} - gone
            gone |= more
            grew = bool(more)
        for id in gone:
            self._entities.pop(id, None)
            self._constraints.pop(id, None)
        after = {p for e in self.entities for p in e.stands_on()}
        for id in before - after:
            self._entities.pop(id, None)
        known = {*self._entities, *ANCHORS}
        for c in self.constraints:
            if not set(c.on) <= known:
                self.drop(c.id)

    def drawing(self) -> Drawing:
        return Drawing(
            entities=tuple(self._entities.values()),
            constraints=tuple(self._constraints.values()),
            links=tuple(k for k in self.links if set(k.on) <= set(self._entities)),
        )


_PREFIX = {
    "point": "p", "line": "l", "circle": "c", "arc": "a", "ellipse": "e", "elliptic_arc": "e",
    "spline": "s", "control_spline": "s", "conic": "q", "text": "t",
    "parallel": "b",
}  # fmt: skip


class Tool:
    """Subclass, fill in what is declared, write `draw`, register.

    `spots` are prompts for the places it wants; with `more` it takes any number, ended by
    Enter. `wants` are the forms of what has to be selected first (`curve` is any curve).
    `key` starts it. `chain` begins the next one where this one ended.
    """

    name: ClassVar[str]
    label: ClassVar[str]
    icon: ClassVar[str]
    group: ClassVar[str]
    line: ClassVar[str]
    key: ClassVar[str] = ""
    spots: ClassVar[tuple[str, ...]] = ()
    more: ClassVar[bool] = False
    wants: ClassVar[tuple[str, ...]] = ()
    sizes: ClassVar[tuple[Size, ...]] = ()
    chain: ClassVar[bool] = False

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        """Change the drawing. Returns the point the next one of a chain begins at."""
        raise NotImplementedError

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        """Sizes as drawn, in mm and rad, shown where nothing is typed."""
        return {}


TOOLS: dict[str, Tool] = {}


def register(cls: type[Tool]) -> type[Tool]:
    TOOLS[cls.name] = cls()
    return cls


@dataclass(frozen=True)
class Drawn:
    """The changed drawing (not solved yet), what is new or other in it, sizes as drawn."""

    drawing: Drawing
    touched: tuple[str, ...]
    read: dict[str, float]
    chain: str | None


def use(
    name: str,
    drawing: Drawing,
    spots: Sequence[Spot] = (),
    texts: Mapping[str, str] | None = None,
    selected: Sequence[str] = (),
    names: Mapping[str, Quantity] | None = None,
    construction: bool = False,
) -> Drawn:
    """Use a tool. Raises ToolTrouble (in words for the person) when it cannot be done."""
    tool = TOOLS.get(name)
    if tool is None:
        raise ToolTrouble(f"there is no sketch tool called {name}")
    known = {e.id for e in drawing.entities} | {c.id for c in drawing.constraints} | set(ANCHORS)
    lost = [i for i in selected if i not in known]
    lost += [s.snap.id for s in spots if s.snap and s.snap.id not in known]
    if lost:
        raise ToolTrouble(f"{lost[0]} is not in the sketch")
    given = Given(texts or {}, names or {})
    pen = Pen(drawing, construction)
    try:
        chain = tool.draw(pen, spots, given, selected)
        made = pen.drawing()
    except ValidationError as error:
        raise ToolTrouble(_worded(error)) from error
    old = {e.id: e for e in drawing.entities}
    touched = tuple(e.id for e in made.entities if old.get(e.id) is not e)
    return Drawn(made, touched, tool.read(spots, given), chain)


def _worded(error: ValidationError) -> str:
    """Why an entity cannot be stored as drawn, for the person."""
    first = error.errors()[0]
    field = str(first["loc"][-1]) if first["loc"] else "it"
    if first["type"] in ("less_than_equal", "greater_than_equal"):
        return f"that goes beyond {FARTHEST / 1000:g} m, where sketches end: look for a wrong unit"
    if first["type"] == "string_too_long":
        return f"the {field} is too long: at most {first['ctx']['max_length']} letters"
    return f"{field}: {first['msg'][0].lower()}{first['msg'][1:]}"


# --- plane geometry the tools share


def away(a: Pair, b: Pair) -> float:
    return math.dist(a, b)


def plus(a: Pair, b: Pair, k: float = 1.0) -> Pair:
    return (a[0] + k * b[0], a[1] + k * b[1])


def minus(a: Pair, b: Pair) -> Pair:
    return (a[0] - b[0], a[1] - b[1])


def unit(v: Pair) -> Pair:
    n = math.hypot(*v)
    return (v[0] / n, v[1] / n) if n > 1e-12 else (1.0, 0.0)


def left(v: Pair) -> Pair:
    return (-v[1], v[0])


def cross(a: Pair, b: Pair) -> float:
    return a[0] * b[1] - a[1] * b[0]


def dot(a: Pair, b: Pair) -> float:
    return a[0] * b[0] + a[1] * b[1]


def turned(v: Pair, angle: float) -> Pair:
    c, s = math.cos(angle), math.sin(angle)
    return (c * v[0] - s * v[1], s * v[0] + c * v[1])


def middle(a: Pair, b: Pair) -> Pair:
    return ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)


def centre_of(a: Pair, b: Pair, c: Pair) -> Pair:
    """Centre of the circle through three places. Raises ToolTrouble when they are in line."""
    d = 2 * (a[0] * (b[1] - c[1]) + b[0] * (c[1] - a[1]) + c[0] * (a[1] - b[1]))
    size = max(away(a, b), away(b, c), away(a, c))
    if abs(d) < 1e-9 * max(size * size, 1e-12):
        raise ToolTrouble("these three points lie in one line")
    sq = [p[0] ** 2 + p[1] ** 2 for p in (a, b, c)]
    return (
        (sq[0] * (b[1] - c[1]) + sq[1] * (c[1] - a[1]) + sq[2] * (a[1] - b[1])) / d,
        (sq[0] * (c[0] - b[0]) + sq[1] * (a[0] - c[0]) + sq[2] * (b[0] - a[0])) / d,
    )


def level_line(pen: Pen, line: str, spots: Sequence[Spot]) -> None:
    """Make a line level when the pointer took it to be so (not between two held points)."""
    first, last = spots[0], spots[-1]
    held = all(s.snap is not None and s.snap.kind == "point" for s in (first, last))
    if last.level and not held:
        pen.constrain(last.level, line)

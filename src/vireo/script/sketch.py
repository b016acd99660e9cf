"""A drawing built up by coordinates and conditions."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, ClassVar

#: Constraints whose value is an angle: a plain number is in degrees there, in mm elsewhere.
ANGLES = frozenset({"angle", "turned"})


class Solved:
    """A sketch at its solution: what is still free, what clashes.

    `freedom` is the number of ways it can still move, 0 when it is settled; `loose` says for each
    loose point or circle which ("x", "y", "r"); `places` are the points (mm); `values` its
    dimensions in mm and degrees; `troubles` says in words what contradicts what, then `holds` is
    False and the points are as drawn.
    """

    def __init__(self, found: dict[str, Any]) -> None:
        self.holds: bool = found["holds"]
        self.freedom: int = found["freedom"]
        self.loose: dict[str, str] = found["loose"]
        self.values: dict[str, float] = found["values"]
        self.troubles: list[str] = found["troubles"]
        self.places: dict[str, tuple[float, float]] = {
            e["id"]: (e["x"], e["y"]) for e in found["entities"] if e["type"] == "point"
        }


class Sketch:
    """A drawing built up by coordinates; the conditions given must settle it."""

    #: Asks the program around the script; what a sketch is built up of needs no asking.
    ask: ClassVar[Callable[..., Any] | None] = None

    def __init__(self) -> None:
        self.entities: list[dict[str, Any]] = []
        self.constraints: list[dict[str, Any]] = []
        self.links: list[dict[str, Any]] = []

    def point(self, x: float, y: float) -> str:
        id = self._new("p", self.entities)
        self.entities.append({"type": "point", "id": id, "x": x, "y": y})
        return id

    def line(self, a: str, b: str, construction: bool = False) -> str:
        id = self._new("l", self.entities)
        self.entities.append(
            {"type": "line", "id": id, "a": a, "b": b, "construction": construction}
        )
        return id

    def circle(self, centre: str, radius: float) -> str:
        id = self._new("c", self.entities)
        self.entities.append({"type": "circle", "id": id, "centre": centre, "radius": radius})
        return id

    def arc(self, centre: str, start: str, end: str) -> str:
        id = self._new("a", self.entities)
        self.entities.append(
            {"type": "arc", "id": id, "centre": centre, "start": start, "end": end}
        )
        return id

    def add(self, type: str, **fields: Any) -> str:
        """Any other entity by its fields."""
        id = self._new("e", self.entities)
        self.entities.append({"type": type, "id": id, **fields})
        return id

    def put(self, type: str, *on: str, formula: str | float | None = None) -> str:
        """A constraint, or with a formula a dimension; a number is in mm, of angles in degrees."""
        id = self._new("k", self.constraints)
        if isinstance(formula, int | float):
            formula = f"{formula!r} {'deg' if type in ANGLES else 'mm'}"
        self.constraints.append({"id": id, "type": type, "on": list(on), "formula": formula})
        return id

    def box(self, x0: float, y0: float, x1: float, y1: float) -> list[str]:
        """Corners of a level rectangle, from the lower left counter-clockwise."""
        corners = [self.point(*c) for c in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))]
        for i in range(4):
            side = self.line(corners[i], corners[(i + 1) % 4])
            self.put("vertical" if i % 2 else "horizontal", side)
        return corners

    def at(self, point: str, x: str, y: str) -> None:
        """Hold a point at distances from the origin; zero puts it on the axis."""
        for axis, formula, line in (("distance_x", x, "y_axis"), ("distance_y", y, "x_axis")):
            if formula == "0":
                self.put("on_curve", point, line)
            else:
                self.put(axis, "origin", point, formula=formula)

    def polygon(self, points: list[tuple[float, float]]) -> list[str]:
        """Corners of a closed outline; level and upright sides are made so."""
        ids = [self.point(*p) for p in points]
        for i, (p, q) in enumerate(zip(points, points[1:] + points[:1], strict=True)):
            side = self.line(ids[i], ids[(i + 1) % len(ids)])
            if p[1] == q[1]:
                self.put("horizontal", side)
            elif p[0] == q[0]:
                self.put("vertical", side)
        return ids

    def solve(self, part: Any = None) -> Solved:
        """Where the conditions put it, and what is still free; formulas may name parameters of
        `part`."""
        found = self._asked("solve", drawing=self.drawing, id=part and part.id)
        if found["holds"]:
            self.entities = found["entities"]
        return Solved(found)

    def use(
        self,
        tool: str,
        spots: Sequence[tuple[float, float]] = (),
        sizes: dict[str, Any] | None = None,
        selected: Sequence[str] = (),
        part: Any = None,
        **more: Any,
    ) -> list[str]:
        """Use a tool of the sketcher at places (mm), on what is selected, with its sizes (numbers
        in mm, degrees or plain): ``s.use("offset", [(3, 4)], gap=2, selected=["l3"])``. Ids of
        what is new."""
        found = self._asked(
            "draw", tool=tool, drawing=self.drawing, spots=[list(s) for s in spots],
            sizes={**(sizes or {}), **more}, selected=list(selected), id=part and part.id,
        )  # fmt: skip
        had = {e["id"] for e in self.entities}
        self.entities, self.constraints = found["entities"], found["constraints"]
        self.links = found["links"]
        return [e["id"] for e in self.entities if e["id"] not in had]

    def _asked(self, method: str, **given: Any) -> Any:
        if self.ask is None:
            raise RuntimeError("a sketch is solved and drawn with tools only inside a script")
        return type(self).ask(method, **given)  # type: ignore[misc]

    def _new(self, prefix: str, among: list[dict[str, Any]]) -> str:
        taken = {e["id"] for e in among}
        number = len(among) + 1
        while f"{prefix}{number}" in taken:
            number += 1
        return f"{prefix}{number}"

    @property
    def drawing(self) -> dict[str, Any]:
        found = {"entities": self.entities, "constraints": self.constraints}
        return {**found, "links": self.links} if self.links else found


def use(
    tool: str,
    drawing: Sketch,
    spots: Sequence[tuple[float, float]] = (),
    sizes: dict[str, Any] | None = None,
    selected: Sequence[str] = (),
) -> list[str]:
    """Use a tool of the sketcher on a sketch; ids of what is new."""
    return drawing.use(tool, spots, sizes, selected)

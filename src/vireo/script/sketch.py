"""A drawing built up by coordinates and conditions."""

from __future__ import annotations

from typing import Any


class Sketch:
    """A drawing built up by coordinates; the conditions given must settle it."""

    def __init__(self) -> None:
        self.entities: list[dict[str, Any]] = []
        self.constraints: list[dict[str, Any]] = []

    def point(self, x: float, y: float) -> str:
        id = f"p{len(self.entities) + 1}"
        self.entities.append({"type": "point", "id": id, "x": x, "y": y})
        return id

    def line(self, a: str, b: str, construction: bool = False) -> str:
        id = f"l{len(self.entities) + 1}"
        self.entities.append(
            {"type": "line", "id": id, "a": a, "b": b, "construction": construction}
        )
        return id

    def circle(self, centre: str, radius: float) -> str:
        id = f"c{len(self.entities) + 1}"
        self.entities.append({"type": "circle", "id": id, "centre": centre, "radius": radius})
        return id

    def arc(self, centre: str, start: str, end: str) -> str:
        id = f"a{len(self.entities) + 1}"
        self.entities.append(
            {"type": "arc", "id": id, "centre": centre, "start": start, "end": end}
        )
        return id

    def add(self, type: str, **fields: Any) -> str:
        """Any other entity by its fields."""
        id = f"e{len(self.entities) + 1}"
        self.entities.append({"type": type, "id": id, **fields})
        return id

    def put(self, type: str, *on: str, formula: str | None = None) -> str:
        """A constraint, or with a formula a dimension."""
        id = f"k{len(self.constraints) + 1}"
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

    @property
    def drawing(self) -> dict[str, Any]:
        return {"entities": self.entities, "constraints": self.constraints}

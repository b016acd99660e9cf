"""Loose curves made into a drawing: ends that meet become one point."""

from __future__ import annotations

from collections.abc import Iterable

from vireo.core.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Pair
from vireo.core.sketch.model import Drawing
from vireo.core.sketch.tools.base import Pen

#: Ends nearer than this (mm) are one.
JOIN = 1e-6


def as_drawing(items: Iterable[Curve2 | Pair], construction: bool = False) -> Drawing:
    """Curves and points as entities. Curves without length are passed over."""
    pen = Pen(Drawing(), construction)
    known: dict[tuple[int, int], str] = {}

    def point(p: Pair) -> str:
        cell = (round(p[0] / JOIN / 2), round(p[1] / JOIN / 2))
        for i in (-1, 0, 1):
            for j in (-1, 0, 1):
                id = known.get((cell[0] + i, cell[1] + j))
                if id is not None:
                    return id
        known[cell] = pen.place(p)
        return known[cell]

    for item in items:
        if isinstance(item, tuple):
            point(item)
            continue
        if item.length < JOIN:
            continue
        a, b = item.ends
        if isinstance(item, Line2):
            pen.line(point(a), point(b))
        elif isinstance(item, Circle2):
            pen.circle(point(item.centre), item.radius)
        elif isinstance(item, Arc2):
            pen.add("arc", centre=point(item.centre), start=point(a), end=point(b))
        elif isinstance(item, Ellipse2):
            c = item.centre
            tip = (c[0] + item.major[0], c[1] + item.major[1])
            fields = {"centre": point(c), "major": point(tip), "minor": item.minor}
            if item.closed:
                pen.add("ellipse", **fields)
            else:
                pen.add("elliptic_arc", **fields, start=point(a), end=point(b))
        else:
            inner = [pen.place(p) for p in item.poles[1:-1]]
            first, last = point(a), point(b)
            if first == last:  # closed: the last pole stands in the same place, by itself
                last = pen.place(item.poles[-1])
                pen.constrain("coincident", first, last)
            pen.add(
                "control_spline", poles=[first, *inner, last], degree=item.degree,
                knots=item.knots, weights=item.weights,
            )  # fmt: skip
    return pen.drawing()

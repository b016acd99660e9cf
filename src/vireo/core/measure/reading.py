"""Readings of picked things: each alone, two against each other, many together."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from vireo.core.geometry import Frame, Triple, cross, dot
from vireo.core.kernel.measure import Measured
from vireo.core.kernel.nearest import nearest
from vireo.core.kernel.sizes import Sizes, extent_of, off_line, sizes_of

Dimension = Literal["length", "area", "angle", "number"]


@dataclass(frozen=True)
class Reading:
    """A value in mm, mm2 or rad; `line` shows it in the picture, `key` tells what it is."""

    key: str
    label: str
    value: float
    dimension: Dimension
    line: tuple[Triple, ...] = ()


@dataclass(frozen=True)
class Taken:
    """A picked thing with its sizes."""

    shape: Measured
    sizes: Sizes

    @staticmethod
    def of(shape: Measured) -> Taken:
        return Taken(shape, sizes_of(shape.shape))


def readings(things: Sequence[Measured], frame: Frame) -> list[Reading]:
    """All there is to read of what is picked; coordinates along a frame. What says most comes
    first."""
    taken = [Taken.of(t) for t in things]
    if not taken:
        return []
    if len(taken) == 1:
        return _alone(taken[0].sizes, frame)
    found = _between(taken[0], taken[1], frame) if len(taken) == 2 else []
    return found + _together(taken)


def _alone(s: Sizes, frame: Frame) -> list[Reading]:
    found: list[Reading] = []
    if s.area is not None:
        found.append(Reading("area", "Area", s.area, "area"))
        if s.length is not None:
            found.append(Reading("perimeter", "Perimeter", s.length, "length"))
    elif s.length is not None:
        found.append(Reading("length", "Length", s.length, "length"))
    if s.radius is not None:
        found.append(Reading("diameter", "Diameter", 2 * s.radius, "length"))
        found.append(Reading("radius", "Radius", s.radius, "length"))
    if s.turn is not None:
        found.append(Reading("turn", "Turns by", s.turn, "angle"))
    found += _places(s.centre or s.at, "Centre" if s.centre and s.kind != "point" else "At", frame)
    return found


def _places(at: Triple, word: str, frame: Frame) -> list[Reading]:
    rel = tuple(a - b for a, b in zip(at, frame.origin, strict=True))
    axes = (frame.x, frame.y, frame.z)
    return [
        Reading(f"at_{k}", f"{word} {k.upper()}", dot(rel, axes[i]), "length")  # type: ignore[arg-type]
        for i, k in enumerate("xyz")
    ]


def _between(a: Taken, b: Taken, frame: Frame) -> list[Reading]:
    near = nearest(a.shape.shape, b.shape.shape)
    across = tuple(q - p for p, q in zip(near.a, near.b, strict=True))
    found = [Reading("least", "Least distance", near.distance, "length", (near.a, near.b))]
    for i, (k, way) in enumerate(zip("xyz", (frame.x, frame.y, frame.z), strict=True)):
        start = [near.a]
        for w in (frame.x, frame.y, frame.z)[:i]:
            start.append(_along(start[-1], w, dot(across, w)))  # type: ignore[arg-type]
        step = dot(across, way)  # type: ignore[arg-type]
        if near.distance > 1e-9:
            line = (start[-1], _along(start[-1], way, step))
            found.append(Reading(f"along_{k}", f"along {k.upper()}", abs(step), "length", line))
    for rule in (_centres, _axes, _planes, _angle):
        found += rule(a.sizes, b.sizes)
    return found


Rule = Callable[[Sizes, Sizes], list[Reading]]


def _along(p: Triple, way: Triple, by: float) -> Triple:
    return (p[0] + by * way[0], p[1] + by * way[1], p[2] + by * way[2])


def _centres(a: Sizes, b: Sizes) -> list[Reading]:
    if a.centre is None or b.centre is None or "cylinder" in (a.kind, b.kind):
        return []
    line = (a.centre, b.centre)
    return [Reading("centres", "Between centres", math.dist(*line), "length", line)]


_STRAIGHT = ("cylinder", "cone", "torus", "circle", "line")


def _line(s: Sizes) -> tuple[Triple, Triple] | None:
    """The axis of what is round, or the line of a straight edge."""
    if s.kind not in _STRAIGHT or s.direction is None:
        return None
    return (s.centre or s.at), s.direction


def _axes(a: Sizes, b: Sizes) -> list[Reading]:
    """Between two axes or lines: how far they pass each other; from a place to an axis."""
    one, two = _line(a), _line(b)
    if one and two:
        (p, u), (q, v) = one, two
        n = cross(u, v)
        sine = math.sqrt(dot(n, n))
        if sine < 1e-9:
            return [Reading("axes", "Between axes", off_line(q, p, u), "length")]
        gap = tuple(y - x for x, y in zip(p, q, strict=True))
        return [Reading("axes", "Between axes", abs(dot(gap, n)) / sine, "length")]  # type: ignore[arg-type]
    for axis, other in ((one, b), (two, a)):
        if axis and other.kind in ("point", "sphere"):
            return [Reading("axes", "From the axis", off_line(other.at, *axis), "length")]
    return []


def _planes(a: Sizes, b: Sizes) -> list[Reading]:
    """Between parallel planes; from a plane to a centre or an axis along it."""
    for plane, other in ((a, b), (b, a)):
        if plane.kind != "plane" or plane.direction is None:
            continue
        n = plane.direction
        if (
            other.kind == "plane"
            and other.direction
            and abs(abs(dot(n, other.direction)) - 1) > 1e-9
        ):
            return []
        if other.kind == "plane" or other.centre is not None or other.kind == "point":
            way = other.direction if other.kind in _STRAIGHT else None
            if way is not None and abs(dot(n, way)) > 1e-9:
                continue
            at = other.centre or other.at
            rise = dot(tuple(x - y for x, y in zip(at, plane.at, strict=True)), n)  # type: ignore[arg-type]
            return [
                Reading(
                    "planes", "Square to the plane", abs(rise), "length", (at, _along(at, n, -rise))
                )
            ]
    return []


def _angle(a: Sizes, b: Sizes) -> list[Reading]:
    """Between directions: of lines and axes the smaller one; of flat faces that between them; of a
    line and a face that to the face."""
    if a.direction is None or b.direction is None:
        return []
    c = min(1.0, abs(dot(a.direction, b.direction)))
    flat = [s.kind == "plane" for s in (a, b)]
    angle = math.acos(c)
    if flat[0] != flat[1]:
        angle = math.pi / 2 - angle
    return [Reading("angle", "Angle", angle, "angle")]


def _together(taken: Sequence[Taken]) -> list[Reading]:
    found = []
    areas = [t.sizes.area for t in taken if t.sizes.area is not None]
    lengths = [t.sizes.length for t in taken if t.sizes.area is None and t.sizes.length is not None]
    if len(areas) > 1:
        found.append(Reading("areas", f"Area of {len(areas)}", sum(areas), "area"))
    if len(lengths) > 1:
        found.append(Reading("lengths", f"Length of {len(lengths)}", sum(lengths), "length"))
    if len(taken) < 3:
        return found
    low, high = extent_of([t.shape.shape for t in taken])
    for i, k in enumerate("xyz"):
        found.append(Reading(f"extent_{k}", f"Extent {k.upper()}", high[i] - low[i], "length"))
    return found

"""Reading sizes off a drawing: of one thing, between two, along a chain."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import scipy

from vireo.core.curves import (
    Arc2,
    Circle2,
    Curve2,
    Ellipse2,
    Line2,
    Pair,
    Spline2,
    crossings,
    least_radius,
)
from vireo.core.sketch.model import Drawing, Text
from vireo.core.sketch.seats import X_AXIS, Y_AXIS
from vireo.core.sketch.solved import places_of
from vireo.core.trouble import BadInput

#: How far the axes run (mm).
_FAR = 1e4


@dataclass(frozen=True)
class Reading:
    """A value in mm, mm2 or rad."""

    label: str
    value: float
    dimension: Literal["length", "angle", "area"] = "length"


@dataclass(frozen=True)
class Readings:
    """What was read, and the stretch between which the first of it is taken."""

    readings: tuple[Reading, ...]
    line: tuple[Pair, Pair] | None = None


_Thing = Curve2 | Pair


def measured(drawing: Drawing, ids: Sequence[str]) -> Readings:
    """Sizes of the chosen entities. Raises BadInput for one that is not in the drawing."""
    places = places_of(drawing)
    known = {e.id: e for e in drawing.entities}
    things: list[_Thing] = []
    for id in ids:
        if id in places:
            things.append(places[id])
        elif id in (X_AXIS, Y_AXIS):
            far = (_FAR, 0.0) if id == X_AXIS else (0.0, _FAR)
            things.append(Line2((-far[0], -far[1]), far))
        elif id in known and isinstance(known[id], Text):
            text = known[id]
            assert isinstance(text, Text)
            things.append(Line2(places[text.start], places[text.end]))
        elif id in known:
            curve = known[id].curve(places)
            assert curve is not None
            things.append(curve)
        else:
            raise BadInput(f"{id} is not in the sketch")
    if not things or (len(things) == 1 and ids[0] in (X_AXIS, Y_AXIS)):
        return Readings(())
    if len(things) == 1:
        return _one(things[0])
    return _two(*things) if len(things) == 2 else _many(things)


def _one(thing: _Thing) -> Readings:
    if isinstance(thing, tuple):
        return Readings((Reading("X", thing[0]), Reading("Y", thing[1])))
    length = Reading("Length", thing.length)
    if isinstance(thing, Line2):
        (x0, y0), (x1, y1) = thing.a, thing.b
        turn = math.atan2(y1 - y0, x1 - x0) % math.pi
        across = (Reading("Across", abs(x1 - x0)), Reading("Up", abs(y1 - y0)))
        return Readings(
            (length, *across, Reading("To the X axis", turn, "angle")), (thing.a, thing.b)
        )
    if isinstance(thing, Circle2):
        r = thing.radius
        return Readings(
            (Reading("Diameter", 2 * r), Reading("Radius", r), Reading("Round", thing.length),
             Reading("Area", math.pi * r * r, "area"))
        )  # fmt: skip
    if isinstance(thing, Arc2):
        swept = Reading("Swept", thing.end - thing.start, "angle")
        return Readings(
            (
                Reading("Radius", thing.radius),
                length,
                swept,
                Reading("Chord", math.dist(*thing.ends)),
            )
        )
    tight = Reading("Least radius", least_radius(thing)[0])
    if isinstance(thing, Ellipse2):
        wide = (Reading("Width", 2 * math.hypot(*thing.major)), Reading("Height", 2 * thing.minor))
        return Readings((*wide, length, tight))
    return Readings((length, Reading("End to end", math.dist(*thing.ends)), tight))


def _two(a: _Thing, b: _Thing) -> Readings:
    p, q = _nearest(a, b)
    gap = math.dist(p, q)
    found = [
        Reading("Least distance", gap), Reading("Across", abs(q[0] - p[0])),
        Reading("Up", abs(q[1] - p[1])),
    ]  # fmt: skip
    if isinstance(a, Line2) and isinstance(b, Line2):
        u, v = ((c.b[0] - c.a[0], c.b[1] - c.a[1]) for c in (a, b))
        sine, cosine = u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1]
        turn = abs(math.atan2(sine, cosine))
        found.append(Reading("Angle", min(turn, math.pi - turn), "angle"))
    centres = [c.centre for c in (a, b) if isinstance(c, Circle2 | Arc2 | Ellipse2)]
    centres += [c for c in (a, b) if isinstance(c, tuple)]
    if len(centres) == 2 and not (isinstance(a, tuple) and isinstance(b, tuple)):
        found.append(Reading("Between centres", math.dist(*centres)))
    return Readings(tuple(found), (p, q))


def _nearest(a: _Thing, b: _Thing) -> tuple[Pair, Pair]:
    """The nearest two places of two things.

    For two curves that do not meet: from every sample that is nearer than those beside it and from
    all ends, feet are dropped from one to the other and back a few times, then both settled.
    """
    if isinstance(a, tuple):
        return a, b if isinstance(b, tuple) else _foot(b, a)
    if isinstance(b, tuple):
        return _foot(a, b), b
    met = crossings(a, b)
    if met:
        return met[0][2], met[0][2]
    p, q = (np.array([c.at(float(t)) for t in np.linspace(*c.range, 97)]) for c in (a, b))
    near = ((p[:, None] - q[None]) ** 2).sum(axis=2).min(axis=1)
    padded = np.concatenate([[np.inf], near, [np.inf]])
    # Curves may come near at several places, and samples tell only roughly which is nearest.
    dips = np.flatnonzero((near <= padded[:-2]) & (near <= padded[2:]))
    dips = dips[np.argsort(near[dips])][:6]
    found = []
    starts = [(float(p[i, 0]), float(p[i, 1])) for i in dips]
    for start in (*starts, *a.ends, *(_foot(a, e) for e in b.ends)):
        one = start
        for _ in range(4):
            two = _foot(b, one)
            back = _foot(a, two)
            if math.dist(back, one) < 1e-12:
                break
            one = back
        found.append((one, two))
    found.sort(key=lambda pair: math.dist(*pair))
    close = [pair for pair in found[:6] if math.dist(*pair) <= 1.1 * math.dist(*found[0]) + 1e-9]
    return min((_settled(a, b, pair) for pair in close), key=lambda pair: math.dist(*pair))


def _settled(a: Curve2, b: Curve2, pair: tuple[Pair, Pair]) -> tuple[Pair, Pair]:
    """Feet creep where both curves run nearly alike: both places are settled together, by Newton's
    method on the square of their distance with a step that never leads away."""
    low, high = np.array([a.range, b.range]).T
    closed = [isinstance(c, Circle2) or getattr(c, "closed", False) for c in (a, b)]
    x = np.array([a.parameter(pair[0]), b.parameter(pair[1])])
    width = 1e-4 * (high - low)

    def inside(x: Any) -> Any:
        # Past its seam a closed curve goes on.
        turned = low + np.remainder(x - low, high - low)
        return np.where(closed, turned, np.clip(x, low, high))

    def at(x: Any) -> Any:
        x = inside(x)
        return np.array(a.at(float(x[0]))), np.array(b.at(float(x[1])))

    def gap(x: Any) -> float:
        p, q = at(x)
        return float((p - q) @ (p - q))

    for _ in range(60):
        (p, q), here = at(x), gap(x)
        # Where a curve ends it is looked at from within.
        c = np.where(closed, x, np.clip(x, low + width, high - width))
        e1, e2 = np.array([width[0], 0.0]), np.array([0.0, width[1]])
        (p0, q0), (p1, _), (p2, _), (_, q1), (_, q2) = (
            at(c + e) for e in (0 * e1, e1, -e1, e2, -e2)
        )
        da, db = (p1 - p2) / (2 * width[0]), (q1 - q2) / (2 * width[1])
        dda, ddb = (p1 + p2 - 2 * p0) / width[0] ** 2, (q1 + q2 - 2 * q0) / width[1] ** 2
        off = p - q
        slope = np.array([off @ da, -off @ db])
        bend = np.array([[da @ da + off @ dda, -da @ db], [-da @ db, db @ db - off @ ddb]])
        least = float(np.linalg.eigvalsh(bend)[0])
        scale = float(np.abs(bend).max())
        bend += max(0.0, 1e-9 * scale - least) * np.eye(2)
        # Where a curve ends only the other goes on.
        ends = ~np.array(closed) & (((x <= low) & (slope > 0)) | ((x >= high) & (slope < 0)))
        slope, bend = np.where(ends, 0.0, slope), np.where(ends | ends[:, None], 0.0, bend)
        bend += np.diag(np.where(ends, scale, 0.0))
        step, share = -np.linalg.solve(bend, slope), 1.0
        while share > 1e-6 and gap(x + share * step) >= here:
            share *= 0.4
        if share <= 1e-6:
            break
        x = inside(x + share * step)
    p, q = at(x)
    found = ((float(p[0]), float(p[1])), (float(q[0]), float(q[1])))
    return min(found, pair, key=lambda ends: math.dist(*ends))


def _foot(curve: Curve2, at: Pair) -> Pair:
    low, high = curve.range
    if isinstance(curve, Ellipse2 | Spline2):
        grid = np.linspace(low, high, 193)
        p = np.array([curve.at(float(x)) for x in grid])
        k = int(((p - at) ** 2).sum(axis=1).argmin())
        best = scipy.optimize.minimize_scalar(
            lambda x: math.dist(curve.at(float(x)), at) ** 2, method="bounded",
            bounds=(grid[max(k - 1, 0)], grid[min(k + 1, 192)]), options={"xatol": 1e-13},
        )  # fmt: skip
        inside = [float(best.x), low, high]
    else:
        t = curve.parameter(at)
        inside = [t] if isinstance(curve, Circle2) else [min(max(t, low), high), low, high]
    return min((curve.at(x) for x in inside), key=lambda p: math.dist(p, at))


def _many(things: Sequence[_Thing]) -> Readings:
    curves = [c for c in things if not isinstance(c, tuple)]
    if len(curves) < 2:
        return Readings(())
    found = [Reading("Length together", sum(c.length for c in curves))]
    area = _enclosed(curves)
    if area is not None:
        found.append(Reading("Area inside", area, "area"))
    return Readings(tuple(found))


def _enclosed(curves: Sequence[Curve2]) -> float | None:
    """Area inside curves that make one closed run, by Green's theorem; None when they do not."""
    left = list(curves[1:])
    run: list[tuple[Curve2, bool]] = [(curves[0], True)]
    start, end = curves[0].ends
    while left:
        for c in left:
            a, b = c.ends
            if math.dist(a, end) < 1e-6 or math.dist(b, end) < 1e-6:
                forward = math.dist(a, end) < 1e-6
                run.append((c, forward))
                end = b if forward else a
                left.remove(c)
                break
        else:
            return None
    if math.dist(start, end) > 1e-6:
        return None
    return abs(sum(_swept(c) * (1.0 if forward else -1.0) for c, forward in run))


def _swept(c: Curve2) -> float:
    """Half the integral of x dy - y dx along a curve."""
    (x0, y0), (x1, y1) = c.ends
    if isinstance(c, Line2):
        return 0.5 * (x0 * y1 - x1 * y0)
    low, high = c.range
    if isinstance(c, Circle2 | Arc2):
        cx, cy = c.centre
        across = cx * (y1 - y0) - cy * (x1 - x0)
        return 0.5 * (c.radius**2 * (high - low) + across)
    if isinstance(c, Ellipse2):
        cx, cy = c.centre
        across = cx * (y1 - y0) - cy * (x1 - x0)
        return 0.5 * (math.hypot(*c.major) * c.minor * (high - low) + across)
    x, w = np.polynomial.legendre.leggauss(12)
    total = 0.0
    for a, b in itertools.pairwise(np.unique(c.knots)):
        p, d = c.derivatives(0.5 * (b - a) * x + 0.5 * (a + b), 1)
        total += 0.5 * (b - a) * float(w @ (p[:, 0] * d[:, 1] - p[:, 1] * d[:, 0]))
    return 0.5 * total

"""Ten sketches as they occur, each settled, with values worked out by hand.

`area` is that of all regions that are material, from closed forms; `feature` the smallest
feature (mm), against which sketches are shaken.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from tests.core.drawings import drawing, plate, slot
from vireo.core.sketch import Drawing
from vireo.script.sketch import Sketch as Sketcher


@dataclass(frozen=True)
class Sample:
    name: str
    drawing: Drawing
    feature: float
    area: float
    #: Places on curves by hand: (entity, place).
    touches: tuple[tuple[str, tuple[float, float]], ...] = ()


SAMPLES: dict[str, Callable[[], Sample]] = {}


def sample(make: Callable[[], Sample]) -> Callable[[], Sample]:
    SAMPLES[make.__name__] = make
    return make


def _anchored(s: Sketcher, radius: float, formula: str) -> str:
    """A circle about the origin."""
    c = s.circle("origin", radius)
    s.put("diameter", c, formula=formula)
    return c


@sample
def bored_plate() -> Sample:
    s = plate()
    for x, y in ((10, 10), (50, 10), (30, 30)):
        p = s.point(x, y)
        s.at(p, f"{x} mm", f"{y} mm")
        s.put("diameter", s.circle(p, 4.0), formula="8 mm")
    return Sample("bored plate", drawing(s), 4.0, 60 * 40 - 3 * math.pi * 16)


@sample
def straight_slot() -> Sample:
    return Sample("straight slot", drawing(slot()), 5.0, 300 + 25 * math.pi)


@sample
def lever() -> Sample:
    """Two eyes, R 12 and R 8, 60 apart, joined by their outer tangents, bored 10 and 6.

    With sin a = (R - r)/d the flanks touch at R (sin a, cos a) and are d cos a long.
    """
    big, small, d = 12.0, 8.0, 60.0
    a = math.asin((big - small) / d)
    s = Sketcher()
    one, two = "origin", s.point(d, 0)
    s.put("horizontal", one, two)
    s.put("distance", one, two, formula="60 mm")
    up = (big * math.sin(a), big * math.cos(a))
    far = (d + small * math.sin(a), small * math.cos(a))
    p = [s.point(*up), s.point(up[0], -up[1]), s.point(far[0], -far[1]), s.point(*far)]
    eye, tip = s.arc(one, p[0], p[1]), s.arc(two, p[2], p[3])
    flanks = s.line(p[1], p[2]), s.line(p[3], p[0])
    s.put("radius", eye, formula="12 mm")
    s.put("radius", tip, formula="8 mm")
    for flank in flanks:
        s.put("tangent", flank, eye)
        s.put("tangent", flank, tip)
    s.put("diameter", s.circle(one, 5.0), formula="10 mm")
    s.put("diameter", s.circle(two, 3.0), formula="6 mm")
    outline = (big + small) * d * math.cos(a) + big**2 * (math.pi / 2 + a)
    outline += small**2 * (math.pi / 2 - a)
    return Sample("lever", drawing(s), 3.0, outline - math.pi * (25 + 9), ((eye, up), (tip, far)))


@sample
def drum_end() -> Sample:
    """A disc 160 across with a bore of 26, four vents of 30 on a circle of 100."""
    s = Sketcher()
    _anchored(s, 80.0, "160 mm")
    _anchored(s, 13.0, "26 mm")
    for k in range(4):
        x, y = 50 * math.cos(k * math.pi / 2), 50 * math.sin(k * math.pi / 2)
        p = s.point(x, y)
        s.at(p, "50 mm" if k % 2 == 0 else "0", "50 mm" if k % 2 else "0")
        s.put("diameter", s.circle(p, 15.0), formula="30 mm")
    return Sample("drum end", drawing(s), 13.0, math.pi * (80**2 - 13**2 - 4 * 15**2))


@sample
def hexagon() -> Sample:
    """A hexagon in one circle and round another: sides touch the inner one in their middles."""
    s = Sketcher()
    c = _anchored(s, 10.0, "20 mm")
    r = 10 * 2 / math.sqrt(3)
    p = [s.point(r * math.cos(k * math.pi / 3), r * math.sin(k * math.pi / 3)) for k in range(6)]
    sides = [s.line(p[k], p[(k + 1) % 6]) for k in range(6)]
    outer = s.circle("origin", r)
    s.entities[-1]["construction"] = True
    s.put("on_curve", p[0], "x_axis")
    s.put("tangent", sides[0], c)
    for k in range(6):
        s.put("on_curve", p[k], outer)
    for k in range(5):
        s.put("equal", sides[k], sides[k + 1])
    touch = (10 * math.cos(math.pi / 6), 10 * math.sin(math.pi / 6))
    d = drawing(s)
    return Sample("hexagon", d, 10.0, 200 * math.sqrt(3), ((sides[0], touch), (c, touch)))


@sample
def triangle_with_incircle() -> Sample:
    """3-4-5 by ten: the incircle has r = (a + b - c)/2 and cuts the triangle in four."""
    s = Sketcher()
    b, c = s.point(40, 0), s.point(0, 30)
    sides = [s.line("origin", b), s.line(b, c), s.line(c, "origin")]
    s.put("on_curve", b, "x_axis")
    s.put("on_curve", c, "y_axis")
    s.put("distance", sides[0], formula="40 mm")
    s.put("distance", sides[2], formula="30 mm")
    inside = s.circle(s.point(9, 11), 9.0)
    for side in sides:
        s.put("tangent", side, inside)
    return Sample("3-4-5", drawing(s), 10.0, 600.0, ((inside, (10.0, 0.0)),))


@sample
def chute() -> Sample:
    """A trapezoid: base 90, height 50, left side at 70 deg, right at 60 deg."""
    s = Sketcher()
    left, right = 50 / math.tan(math.radians(70)), 50 / math.tan(math.radians(60))
    p = ["origin", s.point(90, 0), s.point(90 - right, 50), s.point(left, 50)]
    base, rise, top, fall = (s.line(p[k], p[(k + 1) % 4]) for k in range(4))
    s.put("horizontal", base)
    s.put("horizontal", top)
    s.put("distance", base, formula="90 mm")
    s.put("distance", base, top, formula="50 mm")
    s.put("angle", base, fall, formula="70 deg")
    s.put("angle", base, rise, formula="60 deg")
    return Sample("chute", drawing(s), 30.0, 50 * (180 - left - right) / 2)


@sample
def cam() -> Sample:
    """Two circles R 20 and r 8, 40 apart, a hollow of R 30 touching both from above.

    The centre of the hollow stands 50 and 38 from theirs; it touches the first at 2/5.
    """
    s = Sketcher()
    base = _anchored(s, 20.0, "40 mm")
    far = s.point(40, 0)
    s.put("on_curve", far, "x_axis")
    s.put("distance", "origin", far, formula="40 mm")
    nose = s.circle(far, 8.0)
    s.put("diameter", nose, formula="16 mm")
    x = (50**2 - 38**2 + 40**2) / 80
    y = math.sqrt(50**2 - x * x)
    touch = (x * 0.4, y * 0.4)
    end = (40 + (x - 40) * 8 / 38, y * 8 / 38)
    a, b = s.point(*touch), s.point(*end)
    hollow = s.arc(s.point(x, y), a, b)
    s.put("on_curve", a, base)
    s.put("on_curve", b, nose)
    s.put("tangent", hollow, base)
    s.put("tangent", hollow, nose)
    s.put("radius", hollow, formula="30 mm")
    return Sample(
        "cam", drawing(s), 8.0, math.pi * (400 + 64), ((base, touch), (hollow, touch), (nose, end))
    )


@sample
def bracket() -> Sample:
    """Symmetric about Y: 80 wide at the foot, 30 at the head, 60 high, foot 12 thick."""
    s = Sketcher()
    half = [(0, 0), (40, 0), (40, 12), (15, 12), (15, 60), (0, 60)]
    right = ["origin", *(s.point(*p) for p in half[1:5])]
    left = [s.point(-x, y) for x, y in half[1:5]]
    ring = [*right[1:], *left[::-1]]
    for k, p in enumerate(ring):
        line = s.line(p, ring[(k + 1) % 8])
        if k < 3:
            s.put("horizontal" if k % 2 else "vertical", line)
        if k == 7:
            s.put("on_curve", "origin", line)
    for a, b in zip(right[1:], left, strict=True):
        s.put("symmetric", a, b, "y_axis")
    s.put("distance_x", left[0], right[1], formula="80 mm")
    s.put("distance_x", left[3], right[4], formula="30 mm")
    s.put("distance_y", "origin", right[2], formula="12 mm")
    s.put("distance_y", "origin", right[4], formula="60 mm")
    return Sample("bracket", drawing(s), 12.0, 80 * 12 + 30 * 48)


@sample
def porthole() -> Sample:
    """An ellipse 60 by 36 in a box it touches on all four sides: five regions."""
    s = Sketcher()
    tip = s.point(30, 0)
    s.put("on_curve", tip, "x_axis")
    oval = s.add("ellipse", centre="origin", major=tip, minor=18.0)
    s.put("width", oval, formula="60 mm")
    s.put("height", oval, formula="36 mm")
    s.box(-30, -18, 30, 18)
    sides = [e["id"] for e in s.entities if e["type"] == "line"]
    for side in sides:
        s.put("tangent", oval, side)
    touch = (30 * math.cos(1.0), 18 * math.sin(1.0))
    d = drawing(s)
    return Sample(
        "porthole", d, 18.0, 60 * 36 - (math.pi * 30 * 18 - math.pi * 30 * 18), ((oval, touch),)
    )

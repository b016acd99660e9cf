"""Parts as engineers build them: each settled, with its volume from closed form where it has one.

`numbers` are parameters with the range over which the part must build, `volume` the exact volume
(mm3) for their values; where there is no closed form `member` says which points are in it.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from tests.core.parts import Maker, upright
from tests.core.test_threads import rod_area
from vireo.core.part.cache import Cache
from vireo.core.part.products.sketch import SKETCHES
from vireo.core.sketch import Drawing
from vireo.core.sketch.linking import relink
from vireo.core.sketch.tools import use
from vireo.script.sketch import Sketch as Sketcher

XZ = {"base": "XZ", "face": None}
YZ = {"base": "YZ", "face": None}
Values = dict[str, float]


@dataclass
class Piece:
    maker: Maker
    numbers: dict[str, tuple[float, float, float]]
    volume: Callable[[Values], float] | None = None
    #: Whether points (n, 3) are in it, by formula, where there is no closed form of the volume;
    #: NaN where the formula does not say.
    member: Callable[[Values, np.ndarray], np.ndarray] | None = None
    #: Steps that may be put asleep without those after them needing them.
    optional: list[str] = field(default_factory=list)

    def set(self, values: Values) -> None:
        for name, v in values.items():
            self.maker.do("edit_parameter", name=name, formula=f"{v!r} mm")


GALLERY: dict[str, Callable[[], Piece]] = {}
#: Where what was built is kept between the tests of one process; benches build everything anew.
kept: list[Cache] = []


def piece(make: Callable[[], Piece]) -> Callable[[], Piece]:
    GALLERY[make.__name__] = make
    return make


def with_numbers(**numbers: tuple[float, float, float]) -> Maker:
    """A part with parameters `(value, least, most)` in mm."""
    m = Maker(*kept)
    for name, (value, _, _) in numbers.items():
        m.do("add_parameter", name=name, formula=f"{value!r} mm")
    return m


def rectangle(x0, y0, x1, y1, width="", height="") -> Sketcher:
    """A held rectangle, its sizes formulas where given."""
    s = Sketcher()
    p = s.box(x0, y0, x1, y1)
    s.put("fixed", p[0])
    s.put("distance_x", p[0], p[1], formula=width or f"{x1 - x0} mm")
    s.put("distance_y", p[0], p[3], formula=height or f"{y1 - y0} mm")
    return s


def ring(x, y, diameter) -> Sketcher:
    s = Sketcher()
    c = s.circle(s.point(x, y), 5.0)
    s.put("diameter", c, formula=diameter)
    s.put("fixed", "p1")
    return s


def at(height: str) -> dict:
    return {"base": "XY", "face": None, "offset": {"formula": height}}


@piece
def turned_shaft() -> Piece:
    """Three seats and two grooves, eased ends."""
    numbers = {"d": (30, 20, 60), "l": (120, 80, 300), "groove": (2, 1, 4)}
    m = with_numbers(**numbers)
    m.step("extrude", sketch=m.sketch(ring(0, 0, "d"), YZ), depth="l")
    m.step(
        "extrude",
        sketch=m.sketch(ring(0, 0, "d + 10 mm"), YZ),
        depth="l/4",
        start="l/4",
        result="add",
    )
    cut = Sketcher()
    p = cut.box(90, 13, 92, 15)
    cut.put("distance_x", "origin", p[0], formula="l * 0.75")
    cut.put("distance_y", "origin", p[0], formula="d/2 - groove")
    cut.put("distance_x", p[0], p[1], formula="groove")
    cut.put("distance_y", p[0], p[3], formula="groove + 1 mm")
    m.step("revolve", sketch=m.sketch(cut), axis="x_axis", result="cut")
    m.step(
        "chamfer",
        edges=m.pick("edge", lambda e: e.kind == "circle" and e.at[0] < 0.01),
        size="1 mm",
    )

    def volume(v: Values) -> float:
        r, l, g = v["d"] / 2, v["l"], v["groove"]
        bar = math.pi * (r * r * l + ((r + 5) ** 2 - r * r) * l / 4)
        # The bevel takes a ring of area 1/2, its centre a third in from the rim.
        bevel = math.pi * (r - 1 / 3)
        return bar - math.pi * (r * r - (r - g) ** 2) * g - bevel

    return Piece(m, numbers, volume, optional=["s7"])


@piece
def lidded_box() -> Piece:
    """A moulded lid: drafted, rounded, hollow, with a boss and its bore."""
    numbers = {"w": (80, 50, 160), "t": (2, 1, 3), "boss": (12, 9, 18)}
    m = with_numbers(**numbers)
    m.step("extrude", sketch=m.sketch(rectangle(0, 0, 80, 50, "w")), depth="25 mm", draft="2 deg")
    m.step(
        "fillet",
        edges=m.pick("edge", lambda e: e.kind == "line" and abs(e.direction[2]) > 0.9),
        radius="5 mm",
    )
    under = m.pick("face", lambda f: f.kind == "plane" and f.direction[2] < -0.99)
    m.step("shell", open=under, wall="t")
    m.step("extrude", sketch=m.sketch(ring(25, 25, "boss")), reach="next", result="add")
    s = Sketcher()
    s.put("fixed", s.point(25, 25))
    m.step("hole", sketch=m.sketch(s), size="screw", screw="M4", form="tapped", reach="blind",
           depth="12 mm", thread="9 mm")  # fmt: skip
    return Piece(m, numbers)


@piece
def bored_flange() -> Piece:
    """A flange with a hub and six screws: all by closed form."""
    numbers = {"d": (120, 100, 200), "h": (12, 6, 25), "bore": (30, 10, 40)}
    m = with_numbers(**numbers)
    m.step("primitive", form="cylinder", diameter="d", height="h")
    m.step("primitive", form="cylinder", diameter="bore + 20 mm", height="h + 20 mm", result="add")
    s = Sketcher()
    s.put("fixed", s.point(0, 0))
    m.step("hole", sketch=m.sketch(s), bore="bore")
    r = Sketcher()
    p = r.point(42, 0)
    r.put("on_curve", p, "x_axis")
    r.put("distance_x", "origin", p, formula="d/2 - 10 mm")
    h = m.step("hole", sketch=m.sketch(r), size="screw", screw="M8")
    m.step("copies_circular", steps=[h], count="6")

    def volume(v: Values) -> float:
        q = math.pi / 4
        hub = q * ((v["bore"] + 20) ** 2 - v["bore"] ** 2) * (v["h"] + 20)
        disc = q * (v["d"] ** 2 - (v["bore"] + 20) ** 2 - 6 * 81) * v["h"]
        return hub + disc

    return Piece(m, numbers, volume, optional=["s7"])


@piece
def swept_handle() -> Piece:
    """A round bar bent twice, sharp, with feet."""
    numbers = {"d": (8, 4, 14), "w": (90, 60, 200)}
    m = with_numbers(**numbers)
    s = Sketcher()
    p = [s.point(*q) for q in ((0, 0), (0, 30), (90, 30), (90, 0))]
    lines = [s.line(a, b) for a, b in itertools.pairwise(p)]
    s.put("fixed", p[0])
    s.put("vertical", lines[0])
    s.put("vertical", lines[2])
    s.put("horizontal", lines[1])
    s.put("equal", lines[0], lines[2])
    s.put("distance", lines[0], formula="30 mm")
    s.put("distance", lines[1], formula="w")
    m.step("pipe", path=m.sketch(s, XZ), diameter="d")

    def volume(v: Values) -> float:
        # Mitred corners on the axis: area by length of the axis.
        return math.pi / 4 * v["d"] ** 2 * (60 + v["w"])

    return Piece(m, numbers, volume)


@piece
def lofted_hopper() -> Piece:
    """A throat from a square to a smaller one, hollowed both ways."""
    numbers = {"a": (100, 60, 160), "b": (40, 20, 50), "h": (70, 30, 140)}
    m = with_numbers(**numbers)
    sketches = []
    for name, height in (("a", "0 mm"), ("b", "h")):
        s = Sketcher()
        p = s.box(-20, -20, 20, 20)
        s.put("symmetric", p[0], p[2], "origin")
        s.put("distance_x", p[0], p[1], formula=name)
        s.put("distance_y", p[0], p[3], formula=name)
        sketches.append(m.sketch(s, at(height)))
    m.step("loft", sections=sketches, ruled="ruled")
    ends = m.pick("face", lambda f: f.kind == "plane" and abs(f.direction[2]) > 0.99)
    m.step("shell", open=ends, wall="1.5 mm")

    def volume(v: Values) -> float:
        # The inner faces lie 1.5 mm square to the outer ones, so further apart level.
        off = 2 * 1.5 * math.hypot(1, (v["a"] - v["b"]) / (2 * v["h"]))

        def frustum(a: float, b: float) -> float:
            return v["h"] / 3 * (a * a + a * b + b * b)

        return frustum(v["a"], v["b"]) - frustum(v["a"] - off, v["b"] - off)

    return Piece(m, numbers, volume)


@piece
def split_clamp() -> Piece:
    """A ring on a foot, slit."""
    numbers = {"d": (30, 16, 50), "w": (20, 12, 40)}
    m = with_numbers(**numbers)
    m.step("primitive", form="cylinder", diameter="d + 16 mm", height="w", plane="XZ")
    m.step("primitive", form="box", width="d + 16 mm", depth="14 mm", height="w", plane="XZ",
           x="-(d + 16 mm)/2", y="d/2 + 3 mm", result="add")  # fmt: skip
    m.step("primitive", form="cylinder", diameter="d", height="w", plane="XZ", result="cut")
    m.step("primitive", form="box", width="2 mm", depth="60 mm", height="w", plane="XZ", x="-1 mm",
           y="0 mm", result="cut")  # fmt: skip
    return Piece(m, numbers, optional=["s4"])


@piece
def wall_bracket() -> Piece:
    """An L of plate with a rib, holes and rounded corners."""
    numbers = {"w": (60, 40, 120), "t": (5, 3, 8), "leg": (50, 40, 90)}
    m = with_numbers(**numbers)
    s = Sketcher()
    a, b, c = s.point(0, 0), s.point(50, 0), s.point(0, 50)
    base, up = s.line(a, b), s.line(a, c)
    s.put("fixed", a)
    s.put("horizontal", base)
    s.put("vertical", up)
    s.put("distance", base, formula="leg")
    s.put("distance", up, formula="leg")
    m.step("extrude", sketch=m.sketch(s, XZ), profile="wall", thickness="t", side="middle",
           reach="symmetric", depth="w")  # fmt: skip
    inner = m.pick("edge", lambda e: e.kind == "line" and abs(e.direction[1]) > 0.99
                   and math.dist((e.at[0], e.at[2]), (2.5, 2.5)) < 0.01)  # fmt: skip
    m.step("fillet", edges=inner, radius="4 mm")
    return Piece(
        m, numbers, lambda v: v["w"] * (2 * v["leg"] * v["t"] + (4 - math.pi) * 4), optional=["s3"]
    )


@piece
def gear_like_wheel() -> Piece:
    """A wheel with slots all round and a keyed bore."""
    numbers = {"d": (80, 60, 160)}
    m = with_numbers(**numbers)
    m.step("primitive", form="cylinder", diameter="d", height="10 mm")
    m.step("primitive", form="cylinder", diameter="16 mm", height="10 mm", result="cut")
    slot = m.step("primitive", form="box", width="10 mm", depth="4 mm", height="10 mm",
                  x="d/2 - 5 mm", y="-2 mm", result="cut")  # fmt: skip
    m.step("copies_circular", steps=[slot], count="10")
    return Piece(m, numbers, optional=["s4"])


@piece
def cast_housing() -> Piece:
    """A drafted block hollowed, with a bearing bore through two walls and a bolted rim."""
    numbers = {"w": (100, 80, 160), "bore": (26, 16, 36)}
    m = with_numbers(**numbers)
    m.step("extrude", sketch=m.sketch(rectangle(0, 0, 100, 60, "w")), depth="50 mm")
    m.step("fillet", edges=m.pick("edge", upright), radius="8 mm")
    m.step(
        "shell",
        open=m.pick("face", lambda f: f.kind == "plane" and f.direction[2] > 0.99),
        wall="5 mm",
    )
    s = Sketcher()
    p = s.point(30, 25)
    s.put("distance_x", "origin", p, formula="30 mm")
    s.put("distance_y", "origin", p, formula="25 mm")
    m.step("hole", sketch=m.sketch(s, YZ), bore="bore")

    def volume(v: Values) -> float:
        def rounded(w, h, r):
            return w * h - (4 - math.pi) * r * r

        shell = rounded(v["w"], 60, 8) * 50 - rounded(v["w"] - 10, 50, 3) * 45
        return shell - 2 * 5 * math.pi / 4 * v["bore"] ** 2

    return Piece(m, numbers, volume, optional=["s5"])


@piece
def printed_twist_lock() -> Piece:
    """A cap with two lugs, eased, its bore wider by a clearance."""
    numbers = {"d": (40, 30, 70), "fit": (0.2, 0.05, 0.6)}
    m = with_numbers(**numbers)
    m.step("primitive", form="cylinder", diameter="d", height="12 mm")
    m.step(
        "primitive", form="cylinder", diameter="d - 6 mm", height="10 mm", z="2 mm", result="cut"
    )
    m.step("offset_faces", faces=m.pick("face", lambda f: f.name == "s2/wall"), by="-fit")
    lug = m.step("primitive", form="box", width="6 mm", depth="6 mm", height="3 mm", x="d/2 - 7 mm",
                 y="-3 mm", z="9 mm", result="add")  # fmt: skip
    m.step("copies_circular", steps=[lug], count="2")
    return Piece(m, numbers)


@piece
def threaded_knob() -> Piece:
    """A turned knob, its rim rounded, with a thread modelled into it."""
    numbers = {"d": (36, 24, 60), "h": (18, 14, 30), "r": (4, 1, 6)}
    m = with_numbers(**numbers)
    m.step("primitive", form="cylinder", diameter="d", height="h")
    m.step("fillet", edges=m.pick("edge", lambda e: e.kind == "circle" and e.at[2] > 1), radius="r")
    under = m.pick("face", lambda f: f.name == "s1/under")
    spot = {"id": "a", "face": under[0], "at": [{"formula": "0 mm"}] * 3}
    m.step("hole", at="faces", spots=[spot], size="screw", screw="M8", form="tapped", reach="blind",
           depth="9 mm", thread="6 mm", shown="modelled")  # fmt: skip

    def volume(v: Values) -> float:
        r, c = v["d"] / 2, v["r"]
        # Pappus: what a rounding of radius c takes off, its middle at c (10 - 3 pi)/(12 - 3 pi).
        area = (1 - math.pi / 4) * c * c
        arm = r - c * (10 - 3 * math.pi) / (12 - 3 * math.pi)
        bore = math.pi / 4 * 6.8**2 * 9
        groove = rod_area(4.0, 3.405, 1.25) - math.pi * 3.4**2
        return math.pi * r * r * v["h"] - 2 * math.pi * arm * area - bore - groove * 6

    return Piece(m, numbers, volume)


@piece
def guided_duct() -> Piece:
    """A duct from one round to another through a waist, along four guides."""
    numbers = {"a": (50, 40, 70), "b": (40, 34, 60), "h": (90, 60, 160)}
    m = with_numbers(**numbers)
    sections = [
        m.sketch(ring(0, 0, d), at(z)) for d, z in (("a", "0 mm"), ("30 mm", "h/2"), ("b", "h"))
    ]
    guides = []
    for plane in (XZ, YZ):
        for sign in (1.0, -1.0):
            s = Sketcher()
            p = [s.point(sign * x, z) for x, z in ((25, 0), (15, 45), (20, 90))]
            s.add("spline", through=p)
            s.put("on_curve", p[0], "x_axis")
            for q, size in zip(p, ("a", "30 mm", "b"), strict=True):
                s.put(
                    "distance_x",
                    *(("origin", q) if sign > 0 else (q, "origin")),
                    formula=f"{size}/2",
                )
            s.put("distance_y", "origin", p[1], formula="h/2")
            s.put("distance_y", "origin", p[2], formula="h")
            guides.append(m.sketch(s, plane))
    m.step("loft", sections=sections, guides=guides)
    return Piece(m, numbers)


@piece
def snapped_half() -> Piece:
    """Half an enclosure: a tray with two snap hooks inside its long walls and four bosses."""
    numbers = {"w": (80, 60, 150), "t": (2, 1.2, 4), "reach": (1.5, 0.8, 3)}
    m = with_numbers(**numbers)
    m.step("extrude", sketch=m.sketch(rectangle(0, 0, 80, 50, "w")), depth="20 mm")
    m.step(
        "shell",
        open=m.pick("face", lambda f: f.kind == "plane" and f.direction[2] > 0.99),
        wall="t",
    )
    s = Sketcher()
    # A stem on the floor with a nose: up 26, the nose 4 deep, leant to guide itself in.
    p = s.polygon([(10, 1), (13, 1), (13, 20), (14.5, 20), (13, 26), (10, 26)])
    s.put("distance_x", "origin", p[0], formula="10 mm")
    s.put("distance_y", "origin", p[0], formula="1 mm")
    s.put("distance_x", p[0], p[1], formula="3 mm")
    s.put("distance_y", p[1], p[2], formula="19 mm")
    s.put("distance_x", p[2], p[3], formula="reach")
    s.put("vertical", p[2], p[4])
    s.put("distance_y", p[2], p[4], formula="6 mm")
    hook = m.step(
        "extrude", sketch=m.sketch(s, YZ), depth="8 mm", start="w/2 - 20 mm", result="add"
    )
    m.step("copies_linear", steps=[hook], count="2", spacing="32 mm")
    pin = m.step("primitive", form="cylinder", diameter="7 mm", height="15 mm", x="12 mm", y="32 mm",
                 result="add")  # fmt: skip
    m.step("copies_linear", steps=[pin], count="2", spacing="w - 24 mm")

    def volume(v: Values) -> float:
        t = v["t"]
        tray = v["w"] * 50 * 20 - (v["w"] - 2 * t) * (50 - 2 * t) * (20 - t)
        hook = 8 * (3 * (26 - t) + v["reach"] * 6 / 2)
        return tray + 2 * hook + 2 * math.pi / 4 * 49 * (15 - t)

    return Piece(m, numbers, volume)


@piece
def ribbed_lid() -> Piece:
    """A moulded lid: a tray with two ribs across it, a boss where they cross, drafted walls."""
    numbers = {"w": (70, 50, 120), "rib": (2, 1, 4), "boss": (12, 8, 16)}
    m = with_numbers(**numbers)
    m.step("extrude", sketch=m.sketch(rectangle(0, 0, 70, 50, "w")), depth="16 mm")
    m.step(
        "shell",
        open=m.pick("face", lambda f: f.kind == "plane" and f.direction[2] > 0.99),
        wall="2 mm",
    )
    s = Sketcher()
    a, b = s.point(10, 25), s.point(60, 25)
    s.line(a, b)
    s.put("distance_x", "origin", a, formula="10 mm")
    s.put("distance_x", a, b, formula="w - 20 mm")
    for q in (a, b):
        s.put("distance_y", "origin", q, formula="25 mm")
    m.step("rib", sketch=m.sketch(s, at("10 mm")), thickness="rib", grows="across", flip=True)
    m.step("primitive", form="cylinder", diameter="boss", height="10 mm", x="w/2", y="25 mm",
           result="add")  # fmt: skip

    def volume(v: Values) -> float:
        tray = v["w"] * 50 * 16 - (v["w"] - 4) * 46 * 14
        r, k = v["boss"] / 2, v["rib"] / 2
        # What of the boss the rib does not fill already: two segments of the circle.
        half = math.asin(k / r)
        strip = 2 * (k * math.sqrt(r * r - k * k) + r * r * half)
        return tray + ((v["w"] - 4) * v["rib"] + math.pi * r * r - strip) * 8

    return Piece(m, numbers, volume, optional=["s5"])


@piece
def grooved_pulley() -> Piece:
    """A wheel with a trapezoid groove, a hub and a bore, turned."""
    numbers = {"d": (80, 60, 200), "w": (16, 12, 30), "bore": (12, 6, 20)}
    m = with_numbers(**numbers)
    m.step("primitive", form="cylinder", diameter="d", height="w")
    m.step("primitive", form="cylinder", diameter="bore", height="w", result="cut")
    s = Sketcher()
    p = s.polygon([(32, 6), (42, 4), (42, 12), (32, 10)])
    for q, x, y in ((p[0], "d/2 - 8 mm", "w/2 - 2 mm"), (p[1], "d/2 + 1 mm", "w/2 - 4 mm"),
                    (p[2], "d/2 + 1 mm", "w/2 + 4 mm"), (p[3], "d/2 - 8 mm", "w/2 + 2 mm")):  # fmt: skip
        s.put("distance_x", "origin", q, formula=x)
        s.put("distance_y", "origin", q, formula=y)
    m.step("revolve", sketch=m.sketch(s, XZ), axis="y_axis", result="cut")
    rims = m.pick("edge", lambda e: e.kind == "circle" and e.radius > 30 and e.at[2] < 1e-6)
    m.step("chamfer", edges=rims, size="0.5 mm")

    def volume(v: Values) -> float:
        r = v["d"] / 2
        disc = math.pi * (r * r - v["bore"] ** 2 / 4) * v["w"]
        # Half the groove's width grows evenly from 2 at its floor; integrate 2 pi x over it.
        top = 2 + 2 * 8 / 9
        a, n = r - 8, 4000
        groove = sum(
            2 * math.pi * (a + 8 * (k + 0.5) / n) * 2 * (2 + (top - 2) * (k + 0.5) / n) * 8 / n
            for k in range(n)
        )
        return disc - groove - math.pi * (r - 0.5 / 3) * 0.25

    return Piece(m, numbers, volume)


@piece
def bent_tube() -> Piece:
    """A tube round a quarter bend between two straight legs."""
    numbers = {"d": (20, 10, 30), "wall": (1.5, 1, 3), "bend": (40, 32, 90)}
    m = with_numbers(**numbers)
    s = Sketcher()
    p = [s.point(*q) for q in ((0, 0), (0, 50), (40, 50), (40, 90), (100, 90))]
    up, arc, on = s.line(p[0], p[1]), s.arc(p[2], p[3], p[1]), s.line(p[3], p[4])
    s.put("fixed", p[0])
    s.put("vertical", up)
    s.put("horizontal", on)
    s.put("tangent", up, arc)
    s.put("tangent", on, arc)
    s.put("distance", up, formula="50 mm")
    s.put("distance", on, formula="60 mm")
    s.put("radius", arc, formula="bend")
    m.step("pipe", path=m.sketch(s, XZ), diameter="d", hollow="hollow", wall="wall")

    def volume(v: Values) -> float:
        ring_ = math.pi / 4 * (v["d"] ** 2 - (v["d"] - 2 * v["wall"]) ** 2)
        return ring_ * (50 + 60 + math.pi / 2 * v["bend"])  # Pappus round the bend

    return Piece(m, numbers, volume)


def turned(points: np.ndarray, degrees: float) -> np.ndarray:
    """Points as seen from axes turned about Z."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return points @ np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])


def round_about_z(points: np.ndarray) -> np.ndarray:
    return np.hypot(points[:, 0], points[:, 1])


def bar_distance(points: np.ndarray, length: float, width: float, corner: float) -> np.ndarray:
    """How far points are from a bar of half length and half width with round corners, in plan."""
    a = np.abs(points[:, 0]) - (length - corner)
    b = np.abs(points[:, 1]) - (width - corner)
    return np.hypot(np.maximum(a, 0), np.maximum(b, 0)) + np.minimum(np.maximum(a, b), 0) - corner


def faces_at(m: Maker, kind: str, test: Callable[[np.ndarray], bool]) -> list[dict]:
    """Picks of faces of a kind by where they are."""
    return m.pick("face", lambda f: f.kind == kind and test(np.array(f.at)))


@piece
def twist_lock() -> Piece:
    """A socket whose bar goes in through a slot and turns by 12 degrees into a pocket: leaning
    outside, grooves that click, corners eased, clearance on the chosen faces last."""
    numbers = {"d": (60, 50, 90), "bar": (12, 8, 18), "play": (0.3, 0.1, 0.8)}
    m = with_numbers(**numbers)
    m.step("extrude", sketch=m.sketch(ring(0, 0, "d")), depth="16 mm")
    m.step("draft", faces=m.pick("face", lambda f: f.kind == "cylinder"), angle="2 deg")
    s = Sketcher()
    p = s.box(-18, -6, 18, 6)
    s.put("symmetric", "y_axis", p[0], p[1])
    s.put("symmetric", "x_axis", p[0], p[3])
    s.put("distance_x", p[0], p[1], formula="36 mm")
    s.put("distance_y", p[0], p[3], formula="bar")
    slot = m.sketch(s)
    m.step("extrude", sketch=slot, reach="through", result="cut")
    m.step("fillet", edges=m.pick("edge", upright), radius="1 mm")
    m.step("sketch", plane=at("5 mm"), drawing=Sketcher().drawing,
           brought=[{"id": "x1", "sketch": slot}])  # fmt: skip
    outline = m.part.steps[-1]
    found = next(x.made(SKETCHES) for x in m.build().steps if x.id == outline.id)
    taken = relink(
        Drawing.model_validate(outline.fields["drawing"]), "x1",
        [(id[3:], c) for id, c in found.curves],
    )  # fmt: skip
    twice = use("circular_copies", taken, (), {"count": "2", "angle": "12 deg"},
                [*(id for id, _ in found.curves), "origin"])  # fmt: skip
    m.do("edit_step", id=outline.id, fields={"drawing": twice.drawing.model_dump(mode="json")})
    m.step("extrude", sketch=outline.id, depth="6 mm", result="cut")
    groove = Sketcher()
    q = groove.polygon([(31.0, 6.5), (27.0, 8.0), (31.0, 9.5)])
    groove.put("distance_x", "origin", q[1], formula="d/2 - 2 mm")
    groove.put("distance_y", "origin", q[1], formula="8 mm")
    groove.put("distance_x", q[1], q[0], formula="4 mm")
    groove.put("distance_y", q[1], q[2], formula="2 mm")
    groove.put("distance_y", q[0], q[1], formula="2 mm")
    cut = m.step("revolve", sketch=m.sketch(groove, XZ), axis="y_axis", reach="symmetric",
                 angle="10 deg", result="cut")  # fmt: skip
    m.step("copies_circular", steps=[cut], count="6", skips=[4])
    m.step("offset_faces", by="-play",
           faces=faces_at(m, "plane", lambda c: max(abs(c[:2])) < 18.1 and abs(c[2] - 8) > 4
                          and max(abs(c[:2])) > 5.9))  # fmt: skip

    def member(v: Values, x: np.ndarray) -> np.ndarray:
        z = x[:, 2]
        solid = round_about_z(x) < v["d"] / 2 - z * math.tan(math.radians(2))
        slot = bar_distance(x, 18, v["bar"] / 2, 1.0) < v["play"]
        # The pocket's own walls in the planes of the slot's move along with them, where they touch
        # them: not the stubs beyond the turned pocket at two corners.
        half = v["bar"] / 2
        straight = np.maximum(np.abs(x[:, 0]) - 18, np.abs(x[:, 1]) - half) < v["play"]
        if 17 * math.cos(math.radians(12)) + half * math.sin(math.radians(12)) < 18:
            straight &= ~((x[:, 0] * np.sign(x[:, 1]) > 17) & (np.abs(x[:, 1]) > half))
        pocket = straight | (bar_distance(turned(x, 12), 18, v["bar"] / 2, 0.0) < 0)
        away = v["d"] / 2 - 2 - round_about_z(x)  # from the bottom of the V
        around = np.degrees(np.arctan2(x[:, 1], x[:, 0]))
        off = (around + 30) % 60 - 30
        left_out = np.abs(around - (around - off) - 180) % 360 < 1
        groove = (np.abs(z - 8) < -away / 2) & (np.abs(off) < 5) & ~left_out
        return (
            solid & (z > 0) & (z < 16) & ~groove & ~np.where((z > 5) & (z < 11), pocket, slot)
        )  # fmt: skip

    return Piece(m, numbers, member=member)


@piece
def ball_joint() -> Piece:
    """A ball on a stud in a socket: hollowed by it, opened for the stud where it leans, given
    play; a threaded end in its loosest class, a fluted knob."""
    numbers = {"ball": (25.4, 18, 40), "wall": (3, 2, 5), "gap": (0.3, 0.1, 0.6)}
    m = with_numbers(**numbers)
    ball = m.step("primitive", form="sphere", diameter="ball")
    m.step("primitive", form="cylinder", diameter="ball / 3", height="1.5 * ball",
           z="-1.5 * ball", result="add")  # fmt: skip
    m.step("primitive", form="sphere", diameter="ball + 2 * wall", result="new")
    inner, socket = m.build().bodies
    assert inner == f"b_{ball}"
    m.step("combine", operation="cut", target=[socket], tools=[inner], keep=True)
    m.step("split_body", bodies=[socket], by="XY", shift="-ball / 4", keep="front")
    for angle in ("45 deg", "-45 deg"):
        m.step("move_body", bodies=[inner], angle=angle, axis="Y")
        if angle == "45 deg":
            m.step("combine", operation="cut", target=[socket], tools=[inner], keep=True)
    m.step("offset_faces", by="-gap",
           faces=m.pick("face", lambda f: f.kind == "sphere" and f.hollow, socket))  # fmt: skip
    m.step("primitive", form="cylinder", diameter="0.19 in", height="14 mm",
           z="-1.5 * ball - 14 mm", result="add", into=[inner])  # fmt: skip
    m.step("thread", shown="modelled", size="screw", screw="#10-32 UNF", grade="1A",
           faces=m.pick("face", lambda f: f.kind == "cylinder" and abs(f.radius - 2.413) < 0.01,
                        inner))  # fmt: skip
    m.step("primitive", form="cylinder", diameter="20 mm", height="8 mm",
           z="-1.5 * ball - 30 mm", result="new")  # fmt: skip
    knob = list(m.build().bodies)[-1]
    flute = m.step("primitive", form="cylinder", diameter="5 mm", height="8 mm", x="10 mm",
                   z="-1.5 * ball - 30 mm", result="cut", into=[knob])  # fmt: skip
    m.step("copies_circular", steps=[flute], count="8")

    def member(v: Values, x: np.ndarray) -> np.ndarray:
        r, low, z = v["ball"] / 2, -1.5 * v["ball"], x[:, 2]
        out, across = np.linalg.norm(x, axis=1), round_about_z(x)
        stud = (across < v["ball"] / 6) & (z > low) & (z < 0)
        end = (across < 1.8) & (z > low - 14) & (z <= low)
        # The stud as it stood when the socket was opened for it.
        axis = np.array([-1.0, 0.0, -1.0]) / math.sqrt(2)
        far = x @ axis
        beside = np.linalg.norm(x - np.outer(far, axis), axis=1)
        opened = (beside < v["ball"] / 6) & (far > 0)
        shell = (out > r + v["gap"]) & (out < r + v["wall"]) & (z > -v["ball"] / 4) & ~opened
        knob = (across < 10) & (z > low - 30) & (z < low - 22)
        for k in range(8):
            p = turned(x, 45.0 * k)
            knob &= np.hypot(p[:, 0] - 10, p[:, 1]) > 2.5
        found = ((out < r) | stud | end | shell | knob).astype(float)
        found[(across > 1.8) & (across < 2.6) & (z > low - 14.2) & (z < low)] = np.nan
        return found

    return Piece(m, numbers, member=member)

"""Parts as engineers build them: each settled, with its volume from closed form where it has one.

`numbers` are parameters with the range over which the part must build, `volume` the exact volume
(mm3) for their values, None where there is no closed form.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass, field

from tests.core.parts import Maker, upright
from vireo.work.script import Sketcher

XZ = {"base": "XZ", "face": None}
YZ = {"base": "YZ", "face": None}
Values = dict[str, float]


@dataclass
class Piece:
    maker: Maker
    numbers: dict[str, tuple[float, float, float]]
    volume: Callable[[Values], float] | None = None
    #: Steps that may be put asleep without those after them needing them.
    optional: list[str] = field(default_factory=list)

    def set(self, values: Values) -> None:
        for name, v in values.items():
            self.maker.do("edit_parameter", name=name, formula=f"{v!r} mm")


GALLERY: dict[str, Callable[[], Piece]] = {}


def piece(make: Callable[[], Piece]) -> Callable[[], Piece]:
    GALLERY[make.__name__] = make
    return make


def with_numbers(**numbers: tuple[float, float, float]) -> Maker:
    """A part with parameters `(value, least, most)` in mm."""
    m = Maker()
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

    return Piece(m, numbers, volume, ["s7"])


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

    return Piece(m, numbers, volume, ["s7"])


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
    return Piece(m, numbers)


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
    return Piece(m, numbers, lambda v: v["w"] * (2 * v["leg"] * v["t"] + (4 - math.pi) * 4), ["s3"])


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

    return Piece(m, numbers, volume, ["s5"])


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

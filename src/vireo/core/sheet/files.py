"""Blanks handed over: DXF for the machine that cuts, SVG, a table of the bends as CSV."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from typing import Any

from ezdxf import units
from ezdxf.enums import TextEntityAlignment
from ezdxf.filemanagement import new

from vireo.core.curves import Arc2, Circle2, Line2, Pair
from vireo.core.panels.loops import Loop, area
from vireo.core.sheet.blanks import Flat, FlatBend
from vireo.core.sketch.exchange.dxf import add_curve
from vireo.core.sketch.exchange.svg import path_of
from vireo.core.tables import csv_of

#: Layers by kind, with a colour by number: what is cut, what is bent, what is only told.
LAYERS = {"OUTER": 7, "INNER": 7, "BEND_UP": 5, "BEND_DOWN": 1, "TEXT": 8}


def told(bend: FlatBend) -> str:
    """What a bend line says: its number, which way, angle, radius and length in the flat."""
    way = "up" if bend.up else "down"
    return f"{bend.number} {way} {bend.angle:.5g}° R{bend.radius:.4g} BA{bend.allowance:.4g}"


def blank_dxf(flat: Flat, notes: bool = True) -> bytes:
    """The blank as DXF (AC1015, mm): loops closed, lines and arcs as such; bend lines and, with `notes`, what
    they say."""
    document = new("R2000", units=units.MM)
    for name, colour in LAYERS.items():
        document.layers.add(name, color=colour)
    space = document.modelspace()
    for loop in flat.outline.loops:
        _outline(space, loop, "OUTER" if area([loop]) > 0.0 else "INNER")
    for bend in flat.bends:
        layer = "BEND_UP" if bend.up else "BEND_DOWN"
        for a, b in bend.lines:
            space.add_line(a, b, dxfattribs={"layer": layer})
        if notes and bend.lines:
            at, turn, height = place(bend, flat)
            text = space.add_text(told(bend), height=height, rotation=turn, dxfattribs={"layer": "TEXT"})  # fmt: skip
            text.set_placement(at, align=TextEntityAlignment.BOTTOM_CENTER)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode(document.output_encoding)


def _outline(space: Any, loop: Loop, layer: str) -> None:
    if len(loop) == 1 and isinstance(loop[0].curve, Circle2):
        add_curve(space, loop[0].curve, layer)
        return
    if not all(isinstance(s.curve, Line2 | Arc2) for s in loop):
        # A spline has no place in a polyline.
        for s in loop:
            add_curve(space, s.curve, layer)
        return
    points = []
    for s in loop:
        bulge = 0.0
        if isinstance(s.curve, Arc2):
            bulge = math.tan((s.curve.end - s.curve.start) / 4.0) * (-1.0 if s.back else 1.0)
        points.append((*s.a, bulge))
    space.add_lwpolyline(points, format="xyb", close=True, dxfattribs={"layer": layer})


def place(bend: FlatBend, flat: Flat) -> tuple[Pair, float, float]:
    """Where the text of a bend stands (over the middle of its longest line), its turn (deg) so that it is read
    from below or from the right, its height (mm)."""
    a, b = max(bend.lines, key=lambda ab: math.dist(*ab))
    turn = math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
    if not -89.999 < turn <= 90.001:
        turn += 180.0 if turn < 0.0 else -180.0
    height = min(max(*flat.size) / 60.0, 0.09 * math.dist(a, b), 5.0)
    off = 0.4 * height
    up = math.radians(turn + 90.0)
    middle = (0.5 * (a[0] + b[0]) + off * math.cos(up), 0.5 * (a[1] + b[1]) + off * math.sin(up))
    return middle, turn, max(height, 0.5)


def blank_svg(flat: Flat) -> bytes:
    """The blank as SVG at true size: 1 user unit is 1 mm."""
    w, h = flat.size
    margin = 0.02 * max(w, h)
    line = max(w, h) / 800.0
    loops = "".join(f'  <path d="{_path(loop)}"/>\n' for loop in flat.outline.loops)
    bends = "".join(
        f'  <path d="M{a[0]:.6f} {-a[1]:.6f}L{b[0]:.6f} {-b[1]:.6f}"'
        f'{"" if bend.up else f" stroke-dasharray={chr(34)}{6 * line:.4g} {3 * line:.4g}{chr(34)}"}/>\n'
        for bend in flat.bends for a, b in bend.lines
    )  # fmt: skip
    words = ""
    for bend in flat.bends:
        if bend.lines:
            (x, y), turn, height = place(bend, flat)
            words += (
                f'  <text x="{x:.4f}" y="{-y:.4f}" font-size="{height:.4g}" '
                f'transform="rotate({-turn:.5g} {x:.4f} {-y:.4f})">{told(bend)}</text>\n'
            )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w + 2 * margin:.6g}mm" height="{h + 2 * margin:.6g}mm" '
        f'viewBox="{-margin:.6g} {-h - margin:.6g} {w + 2 * margin:.6g} {h + 2 * margin:.6g}">\n'
        f' <g fill="none" stroke="#22312b" stroke-width="{line:.4g}">\n{loops} </g>\n'
        f' <g fill="none" stroke="#2f6f8f" stroke-width="{line:.4g}">\n{bends} </g>\n'
        f' <g fill="#22312b" font-family="sans-serif" text-anchor="middle">\n{words} </g>\n</svg>\n'
    ).encode()


def _path(loop: Loop) -> str:
    return "".join(path_of(s.curve) for s in loop)


def bend_table(flat: Flat, titles: Sequence[str]) -> bytes:
    """The bends as CSV (mm, deg), a line each, with what each is called."""
    header = [
        "bend", "name", "way", "angle deg", "radius mm", "length mm", "allowance mm", "deduction mm", "K",
    ]  # fmt: skip
    rows = [
        [b.number, title, "up" if b.up else "down", *(round(v, 6) for v in (b.angle, b.radius, b.length,
         b.allowance, b.deduction, b.k))]
        for b, title in zip(flat.bends, titles, strict=True)
    ]  # fmt: skip
    return csv_of(header, rows)

"""Blanks handed over: DXF for the machine that cuts, SVG, a table of the bends as CSV."""

from __future__ import annotations

import functools
import io
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ezdxf import units
from ezdxf.enums import TextEntityAlignment
from ezdxf.filemanagement import new
from reportlab.lib.colors import HexColor
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen import canvas
from reportlab.pdfgen.pathobject import PDFPathObject

from vireo.core.curves import Arc2, Circle2, Line2, Pair
from vireo.core.panels.loops import Loop, Motion2, area, extent, line, moved_loop
from vireo.core.sheet.blanks import Flat, FlatBend, FlatForm
from vireo.core.sketch.exchange.dxf import add_curve
from vireo.core.sketch.exchange.svg import path_of
from vireo.core.sketch.lettering import FOLDER
from vireo.core.tables import csv_of

#: Layers by kind, with a colour by number: what is cut, what is bent, what is only told.
LAYERS = {
    "OUTER": 7, "INNER": 7, "BEND_UP": 5, "BEND_DOWN": 1, "FORM_UP": 4, "FORM_DOWN": 6, "GRAIN": 3, "TEXT": 8,
}  # fmt: skip


#: By what a layer of each kind is called in a file; one that is left out is not drawn.
Layers = Mapping[str, str]


@dataclass(frozen=True)
class Ink:
    """One run of curves of a kind of layer, and whether it closes."""

    layer: str
    segs: Loop
    closed: bool = True


@dataclass(frozen=True)
class Words:
    """A text where it stands, over the middle of its foot; its turn in deg, its height in mm."""

    text: str
    at: Pair
    turn: float
    height: float


def told(bend: FlatBend) -> str:
    """What a bend line says: its number, which way, angle, radius and length in the flat."""
    way = "up" if bend.up else "down"
    return f"{bend.number} {way} {bend.angle:.5g}° R{bend.radius:.4g} BA{bend.allowance:.4g}"


def told_form(form: FlatForm) -> str:
    """What a form says: what it is, which way, how far it stands out, the hole it is drawn from."""
    pilot = f" from Ø{form.pilot:.4g}" if form.pilot else ""
    return f"{form.kind} {'up' if form.up else 'down'} {form.height:.4g}{pilot}"


def inked(flat: Flat) -> Iterator[Ink]:
    """All lines of a blank: what is cut, where it is bent, what is pressed, which way it was rolled."""
    for loop in flat.outline.loops:
        yield Ink("OUTER" if area([loop]) > 0.0 else "INNER", loop)
    for bend in flat.bends:
        for a, b in bend.lines:
            yield Ink("BEND_UP" if bend.up else "BEND_DOWN", (line(a, b, bend.id),), False)
    for form in flat.forms:
        layer = "FORM_UP" if form.up else "FORM_DOWN"
        for loop in form.loops:
            yield Ink(layer, loop)
        if form.path:
            yield Ink(layer, form.path, form.path[0].a == form.path[-1].b)
    if flat.grain is not None:
        w, h = flat.size
        size, c, s = 0.12 * max(w, h), math.cos(flat.grain), math.sin(flat.grain)
        a, b = ((0.5 * w + k * size * c, 0.5 * h + k * size * s) for k in (-0.5, 0.5))
        yield Ink("GRAIN", (line(a, b, "grain"),), False)
        for tip, way in ((a, 1.0), (b, -1.0)):
            for turn in (0.4, -0.4):
                x = tip[0] + way * 0.2 * size * math.cos(flat.grain + turn)
                y = tip[1] + way * 0.2 * size * math.sin(flat.grain + turn)
                yield Ink("GRAIN", (line(tip, (x, y), "grain"),), False)


def worded(flat: Flat) -> Iterator[Words]:
    """What stands on bends and beside forms."""
    for bend in flat.bends:
        if bend.lines:
            at, turn, height = place(bend, flat)
            yield Words(told(bend), at, turn, height)
    for form in flat.forms:
        x0, y0, x1, y1 = extent([s for loop in form.loops for s in loop])
        text, middle = told_form(form), (0.5 * (x0 + x1), 0.5 * (y0 + y1))
        # Along the longer side of what it takes.
        long, short = max(x1 - x0, y1 - y0), min(x1 - x0, y1 - y0)
        height = max(min(1.6 * long / len(text), 0.3 * short, 3.0), 0.5)
        if x1 - x0 >= y1 - y0:
            yield Words(text, (middle[0], middle[1] - 0.35 * height), 0.0, height)
        else:
            yield Words(text, (middle[0] + 0.35 * height, middle[1]), 90.0, height)


def blank_dxf(flat: Flat, layers: Layers | None = None) -> bytes:
    """The blank as DXF (AC1015, mm): loops closed, lines and arcs as such; bend lines, forms, and what they say."""
    called = dict(zip(LAYERS, LAYERS, strict=True)) if layers is None else layers
    document = new("R2000", units=units.MM)
    for kind, name in called.items():
        if name not in document.layers:
            document.layers.add(name, color=LAYERS[kind])
    space = document.modelspace()
    for ink in inked(flat):
        if ink.layer not in called:
            continue
        add_ink(space, ink, called[ink.layer])
    for words in worded(flat) if "TEXT" in called else ():
        text = space.add_text(
            words.text,
            height=words.height,
            rotation=words.turn,
            dxfattribs={"layer": called["TEXT"]},
        )
        text.set_placement(words.at, align=TextEntityAlignment.BOTTOM_CENTER)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode(document.output_encoding)


def add_ink(space: Any, ink: Ink, layer: str) -> None:
    """A run of curves in a layer of a DXF."""
    if ink.closed:
        _outline(space, ink.segs, layer)
        return
    for seg in ink.segs:
        add_curve(space, seg.curve, layer)


def moved_ink(ink: Ink, m: Motion2) -> Ink:
    return replace(ink, segs=moved_loop(ink.segs, m))


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


#: Strokes of a picture by layer: colour, and whether it is dashed.
_PENS = {
    "OUTER": ("#22312b", False), "INNER": ("#22312b", False), "BEND_UP": ("#2f6f8f", False),
    "BEND_DOWN": ("#2f6f8f", True), "FORM_UP": ("#8a6d1f", False), "FORM_DOWN": ("#8a6d1f", True),
    "GRAIN": ("#4f8f5f", False),
}  # fmt: skip


def blank_svg(flat: Flat) -> bytes:
    """The blank as SVG at true size: 1 user unit is 1 mm."""
    w, h = flat.size
    margin = 0.02 * max(w, h)
    pen = max(w, h) / 800.0
    lines = ""
    for ink in inked(flat):
        colour, dashed = _PENS[ink.layer]
        dash = f' stroke-dasharray="{6 * pen:.4g} {3 * pen:.4g}"' if dashed else ""
        lines += f'  <path stroke="{colour}"{dash} d="{_path(ink.segs)}"/>\n'
    words = "".join(
        f'  <text x="{x:.4f}" y="{-y:.4f}" font-size="{t.height:.4g}" '
        f'transform="rotate({-t.turn:.5g} {x:.4f} {-y:.4f})">{t.text}</text>\n'
        for t in worded(flat) for x, y in (t.at,)
    )  # fmt: skip
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w + 2 * margin:.6g}mm" height="{h + 2 * margin:.6g}mm" '
        f'viewBox="{-margin:.6g} {-h - margin:.6g} {w + 2 * margin:.6g} {h + 2 * margin:.6g}">\n'
        f' <g fill="none" stroke-width="{pen:.4g}">\n{lines} </g>\n'
        f' <g fill="#22312b" font-family="sans-serif" text-anchor="middle">\n{words} </g>\n</svg>\n'
    ).encode()


def _path(loop: Loop) -> str:
    return "".join(path_of(s.curve) for s in loop)


#: Around the blank on its page (mm), and the bar by which a print is measured.
_MARGIN, _BAR = 15.0, 50.0
#: A round by cubics that turn by no more than this (rad) is off by 3e-8 of its radius.
_CUBIC = math.pi / 8.0


def blank_pdf(flat: Flat, title: str) -> bytes:
    """The blank as PDF on a page of its own at true size, with a bar to measure the print by."""
    out = io.BytesIO()
    (w, h), one = flat.size, 72.0 / 25.4
    page = canvas.Canvas(
        out, pagesize=((max(w, 120.0) + 2 * _MARGIN) * one, (h + 3 * _MARGIN) * one), invariant=1
    )
    page.setTitle(f"{title}, blank at 1:1")
    font = own_font()
    page.scale(one, one)
    page.translate(_MARGIN, 2.0 * _MARGIN)
    for ink in inked(flat):
        colour, dashed = _PENS[ink.layer]
        page.setStrokeColor(HexColor(colour))
        page.setLineWidth(0.25 if ink.layer in ("OUTER", "INNER") else 0.13)
        page.setDash([2.0, 1.0] if dashed else [])
        page.drawPath(_drawn(page, ink), stroke=1, fill=0)
    page.setDash([])
    page.setFillColor(HexColor("#22312b"))
    for words in worded(flat):
        page.saveState()
        page.translate(*words.at)
        page.rotate(words.turn)
        page.setFont(font, words.height)
        page.drawCentredString(0.0, 0.0, words.text)
        page.restoreState()
    page.setFont(font, 3.5)
    page.drawString(
        0.0, -_MARGIN + 3.0, f"{title}   {flat.thickness:.4g} mm   {w:.2f} × {h:.2f} mm   1:1"
    )
    page.setLineWidth(0.25)
    page.setStrokeColor(HexColor("#22312b"))
    foot = -_MARGIN - 3.0
    page.line(0.0, foot, _BAR, foot)
    for x in (0.0, _BAR):
        page.line(x, foot - 1.0, x, foot + 1.0)
    page.drawString(_BAR + 2.0, foot - 1.2, f"{_BAR:g} mm")
    page.save()
    return out.getvalue()


def _drawn(page: canvas.Canvas, ink: Ink) -> PDFPathObject:
    """Lines as such, rounds by cubics, other curves by short chords."""
    path = page.beginPath()
    path.moveTo(*ink.segs[0].a)
    for seg in ink.segs:
        curve = seg.curve
        if isinstance(curve, Line2):
            path.lineTo(*seg.b)
        elif isinstance(curve, Arc2 | Circle2):
            low, high = curve.range[::-1] if seg.back else curve.range
            count = max(1, math.ceil(abs(high - low) / _CUBIC - 1e-9))
            step = (high - low) / count
            pull = 4.0 / 3.0 * math.tan(step / 4.0) * curve.radius
            for k in range(count):
                a, b = low + k * step, low + (k + 1) * step
                p, q = curve.at(a), curve.at(b)
                path.curveTo(
                    p[0] - pull * math.sin(a), p[1] + pull * math.cos(a),
                    q[0] + pull * math.sin(b), q[1] - pull * math.cos(b), *q,
                )  # fmt: skip
        else:
            for p in seg.points(0.01)[1:]:
                path.lineTo(*p)
    if ink.closed:
        path.close()
    return path


@functools.cache
def own_font() -> str:
    """The font that comes along, to be embedded."""
    name = "Vireo"
    pdfmetrics.registerFont(TTFont(name, str(FOLDER / "regular.ttf")))
    return name


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

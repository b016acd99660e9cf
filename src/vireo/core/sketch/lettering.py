"""Text as outlines of the shipped fonts, shaped (kerning, ligatures) by HarfBuzz.

Outlines are quadratic: every curved piece is a parabola, exactly as the font draws it.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Literal

import uharfbuzz
from fontTools.pens.recordingPen import RecordingPen

from vireo.core.curves import Curve2, Line2, Pair, Spline2
from vireo.core.trouble import BadInput

Font = Literal["regular", "bold"]
FOLDER = Path(__file__).parent / "fonts"
#: Pieces shorter than this share of the capitals' height are no pieces.
_SHORT = 1e-4


@dataclass(frozen=True)
class Lettering:
    """A line of text with capitals one unit high, its baseline from the origin along x."""

    width: float
    #: Closed outlines, each a run of pieces.
    outlines: tuple[tuple[Curve2, ...], ...]


@lru_cache(maxsize=4)
def _font(name: Font) -> tuple[uharfbuzz.Font, float]:
    """The font and the height of its capitals in its own units, read off the letter H."""
    blob = uharfbuzz.Blob.from_file_path(str(FOLDER / f"{name}.ttf"))
    font = uharfbuzz.Font(uharfbuzz.Face(blob))
    extents = font.get_glyph_extents(font.get_nominal_glyph(ord("H")))
    return font, float(extents.y_bearing)


@lru_cache(maxsize=256)
def letter(text: str, font: Font = "regular") -> Lettering:
    """Outlines of one line of text. Raises BadInput for letters the font does not have."""
    found, capital = _font(font)
    missing = [c for c in text if not c.isspace() and found.get_nominal_glyph(ord(c)) is None]
    if missing:
        raise BadInput(f"the lettering has no {', '.join(dict.fromkeys(missing))}")
    buffer = uharfbuzz.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    uharfbuzz.shape(found, buffer, {"kern": True, "liga": True})
    outlines: list[tuple[Curve2, ...]] = []
    x = y = 0.0
    for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
        pen = RecordingPen()
        found.draw_glyph_with_pen(info.codepoint, pen)
        outlines += _outlines(pen, (x + place.x_offset, y + place.y_offset), 1.0 / capital)
        x += place.x_advance
        y += place.y_advance
    return Lettering(x / capital, tuple(outlines))


def _outlines(pen: RecordingPen, shift: Pair, scale: float) -> list[tuple[Curve2, ...]]:
    def at(p: Pair) -> Pair:
        return ((p[0] + shift[0]) * scale, (p[1] + shift[1]) * scale)

    found: list[tuple[Curve2, ...]] = []
    run: list[Curve2] = []
    start = last = (0.0, 0.0)

    def put(curve: Curve2) -> None:
        if curve.length > _SHORT:
            run.append(curve)

    for name, points in pen.value:
        places = [at(p) for p in points]
        if name == "moveTo":
            start = last = places[0]
            run = []
        elif name == "lineTo":
            put(Line2(last, places[0]))
            last = places[0]
        elif name == "qCurveTo":
            put(Spline2(2, (0.0,) * 3 + (1.0,) * 3, (last, places[0], places[1])))
            last = places[1]
        elif name == "curveTo":
            put(Spline2(3, (0.0,) * 4 + (1.0,) * 4, (last, *places)))
            last = places[2]
        else:
            put(Line2(last, start))
            if run:
                found.append(tuple(run))
    return found

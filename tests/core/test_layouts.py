"""DXF and SVG: what is written is read back, blocks and units, damaged and odd files."""

import io
import math
import re

import ezdxf
import numpy as np
import pytest

from vireo.core.curves import Arc2, Circle2, Ellipse2, Line2, Spline2
from vireo.core.kernel.profile import arrange
from vireo.core.sketch import curves_of, solve_drawing
from vireo.core.sketch.exchange.drawing import as_drawing
from vireo.core.sketch.exchange.dxf import _curves, _mended, _sound, read_dxf, write_dxf
from vireo.core.sketch.exchange.svg import write_svg
from vireo.core.trouble import BadInput

CURVES = [
    Line2((0.0, 0.0), (30.0, 5.0)),
    Circle2((4.0, 4.0), 2.5),
    Arc2((1.0, 2.0), 7.0, 0.3, 4.0),
    Ellipse2((5.0, 5.0), (2.0, 1.0), 4.0),
    Ellipse2((5.0, 5.0), (6.0, 1.0), 2.0, 0.4, 3.0),
    Spline2(3, (0, 0, 0, 0, 0.4, 1, 1, 1, 1), ((0, 0), (1, 3), (4, 2), (5, -1), (7, 0))),
    Spline2(2, (0, 0, 0, 1, 1, 1), ((5, 0), (5, 5), (0, 5)), (1.0, math.sqrt(0.5), 1.0)),
]


def test_what_is_written_is_read_back():
    found = [i.curve for i in read_dxf(write_dxf(CURVES, [(9.0, 9.0)])).items]
    assert found.pop() == pytest.approx((9.0, 9.0))
    for was, now in zip(CURVES, found, strict=True):
        assert now.length == pytest.approx(was.length, rel=1e-6)
        if not isinstance(was, Circle2) and not (isinstance(was, Ellipse2) and was.closed):
            assert [c for p in now.ends for c in p] == pytest.approx(
                [c for p in was.ends for c in p], abs=1e-6
            )
        for p in was.points(0.3):
            assert math.dist(now.at(now.parameter(p)), p) < 1e-6


def made(fill, units=ezdxf.units.MM):
    document = ezdxf.new("R2010", units=units)
    fill(document)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_blocks_layers_polylines_units_and_mirrored_arcs():
    def fill(document):
        block = document.blocks.new("LUG")
        block.add_lwpolyline([(0, 0, 0), (4, 0, 1), (4, 2, 0), (0, 2, 0)], format="xyb", close=True)
        space = document.modelspace()
        space.add_blockref("LUG", (10, 0), dxfattribs={"xscale": 2, "yscale": 2, "layer": "cut"})
        space.add_circle((-5, 1), 1, dxfattribs={"layer": "holes", "extrusion": (0, 0, -1)})
        space.add_text("not geometry")

    sheet = read_dxf(made(fill, ezdxf.units.CM))
    assert sheet.left == {"TEXT": 1}
    assert sheet.layers == ["cut", "holes"]
    d = as_drawing(i.curve for i in sheet.items)
    areas = sorted(r.area for r in arrange(curves_of(d)).regions)
    # The lug at twice its size in cm: 8 x 4 and half a disc of radius 2; the hole at +5.
    assert areas == pytest.approx([100 * math.pi, 100 * (32 + 2 * math.pi)])
    circle = next(c for _, c in curves_of(d) if isinstance(c, Circle2))
    assert circle.centre == pytest.approx((50, 10))
    assert solve_drawing(d).holds


@pytest.mark.parametrize(
    "data",
    [b"", b"no dxf at all", b"0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n", b"\x00\xff" * 999],
)
def test_files_that_hold_nothing_are_refused_in_words(data):
    with pytest.raises(BadInput):
        read_dxf(data)


def test_numbers_that_are_none_are_refused():
    def fill(document):
        document.modelspace().add_line((0, 0), (1, 1))

    text = made(fill).decode()
    at = text.index("AcDbLine\n 10")
    with pytest.raises(BadInput, match="finite"):
        read_dxf((text[:at] + re.sub(r"1\.0\n", "nan\n", text[at:], count=2)).encode())


def test_twenty_thousand_curves_are_taken_and_one_more_is_not():
    def rows(count):
        def fill(document):
            for k in range(count):
                document.modelspace().add_line((k % 200, k // 200), (k % 200 + 0.5, k // 200))

        return fill

    sheet = read_dxf(made(rows(20000)))
    assert len(sheet.items) == 20000
    # A fifth of them as a drawing: each line is free in its two ends.
    found = solve_drawing(as_drawing(i.curve for i in sheet.items[:4000]))
    assert found.freedom == 4 * 4000
    with pytest.raises(BadInput, match="more than 20000"):
        read_dxf(made(rows(20001)))


def test_svg_has_true_size_and_every_curve():
    text = write_svg(CURVES).decode()
    assert text.count("<path") == len(CURVES)
    width = float(re.search(r'width="([\d.]+)mm"', text).group(1))
    view = [float(v) for v in re.search(r'viewBox="([^"]+)"', text).group(1).split()]
    assert width == pytest.approx(view[2])
    assert 36 < width < 40


def _damaged(data: bytes, rng) -> bytes:
    """A file with some of its lines gone, doubled or changed for others."""
    lines = data.split(b"\n")
    for _ in range(int(rng.integers(1, 6))):
        k, j = (int(v) for v in rng.integers(0, len(lines), 2))
        way = rng.integers(0, 4)
        if way == 0:
            del lines[k : k + int(rng.integers(1, 30))]
        elif way == 1:
            lines[k:k] = lines[j : j + 4]
        elif way == 2:
            lines[k] = lines[j]
        else:
            lines[k] = bytes(rng.integers(32, 127, 6, dtype="uint8"))
    return b"\n".join(lines)


@pytest.mark.parametrize("seed", range(4))
def test_reading_a_sound_file_is_what_mending_it_gives_and_damage_is_refused_in_words(seed):
    """The short way for sound files against the long way for all; no damage falls through."""
    rng = np.random.default_rng(seed)
    good = write_dxf(CURVES)
    assert _curves(_sound(good)).items == _curves(_mended(good)).items
    refused = []
    for _ in range(25):
        try:
            found = read_dxf(_damaged(good, rng))
        except BadInput as error:
            refused.append(str(error))
        else:
            assert all(math.isfinite(i.curve.length) for i in found.items if i.form != "point")
    assert len(refused) < 25
    assert all("file" in said for said in refused)

"""Solids read as sheets: what was a sheet gives the same blank again, also through a file; what is none says why."""

import math
import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.core.test_panels import sheets
from tests.core.test_sheet_parts import edge, plated, sheet_of, trouble
from tests.core.test_sheet_steps import met_by_points, rims
from vireo.core.kernel.exchange import Placed, write_step
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.shape import Body, faces_of, solids_of
from vireo.core.kernel.sheetread import NoSheet
from vireo.core.kernel.weave import woven
from vireo.core.panels.flat import blank
from vireo.core.panels.loops import area, ring
from vireo.core.samples.maker import Maker
from vireo.core.samples.ways import boxed, circle
from vireo.core.sheet.allowance import KFactor
from vireo.core.sheet.blanks import flattened
from vireo.core.sheet.reading import sheet_read

RULE = KFactor(k=0.37)


@settings(max_examples=8)
@given(rims())
def test_a_mitred_box_is_read_as_it_was_made(rim):
    sheet, _ = rim
    solid = woven(sheet)
    # With the rule the sheet was made by the blank is the same; the fixture's is K 0.44.
    found = sheet_read(solid, KFactor(), "s9", 0.2)
    a, b = blank(sheet), blank(found.sheet)
    assert b.area == pytest.approx(a.area, rel=1e-7)
    assert len(found.sheet.bends) == len(sheet.bends)
    assert volume_of(found.body().shape) == pytest.approx(volume_of(solid.shape), rel=1e-9)


@settings(max_examples=15)
@given(sheets(), st.floats(-3, 3), st.data())
def test_what_was_a_sheet_is_read_again_anywhere_in_space(sheet, turn, data):
    """Partial flanges, reliefs, holes in bends, any side for the top; or refused in words, never read otherwise."""
    c, s = math.cos(turn), math.sin(turn)
    frame = (
        np.array([5.0, -3.0, 8.0]),
        np.array([c, s, 0.0]),
        np.array([0.0, 0.0, 1.0]),
        np.array([s, -c, 0.0]),
    )
    solid = woven(sheet, frame=frame)
    assume(all(b.radius > 0.0 for b in sheet.bends.values()))
    try:
        found = sheet_read(solid, RULE, "s9", 0.2)
    except NoSheet:
        # A sheet that runs into itself, or lies on itself, is no sound solid to read.
        assert met_by_points(sheet, np.random.default_rng(1)) or any(
            abs(b.angle) > math.radians(150) for b in sheet.bends.values()
        )
        return
    assert found.sheet.thickness == pytest.approx(sheet.thickness, abs=1e-6)
    assert len(found.sheet.bends) == len(sheet.bends)
    turned = sum(abs(b.angle) for b in sheet.bends.values())
    assert sum(abs(b.angle) for b in found.sheet.bends.values()) == pytest.approx(turned, abs=1e-6)
    # Areas of flat pieces do not hang on the rule.
    was = sorted(area(p.loops) for p in sheet.panels.values())
    now = sorted(area(p.loops) for p in found.sheet.panels.values())
    assert now == pytest.approx(was, rel=1e-6)


def test_an_opening_and_a_second_bend_come_back_through_the_step_that_reads():
    m = plated()
    around = [p for at in ((50, 0), (100, 30), (50, 60), (0, 30)) for p in edge(m, *at, 1.5)]
    m.step("sheet_flange", edges=around, length="25 mm")
    m.step("sheet_flange", edges=edge(m, 50, 0, 25), length="10 mm", width="centred", wide="40 mm")
    m.step("sheet_cut", sketch=m.sketch(circle(6.0, 50.0, 3.0)), way="flat")
    before = flattened(sheet_of(m))
    # A hole made by another step ends the sheet; read again it is one, with the hole.
    hole = m.sketch(circle(4.0, 30.0, 30.0))
    m.step("extrude", sketch=hole, reach="through", result="cut")
    assert not m.build().bodies["b_s2"]["sheet"]
    m.step("sheet_of")
    assert trouble(m) == ""
    after = flattened(sheet_of(m))
    assert after.outline.area == pytest.approx(before.outline.area - math.pi * 16, rel=1e-9)
    assert after.outline.pierces == before.outline.pierces + 1
    assert len(after.bends) == len(before.bends)
    # And it goes on as any other.
    m.step("sheet_flange", edges=edge(m, 50, 60, 25), length="8 mm")
    assert trouble(m) == ""


def refused(m):
    m.step("sheet_of")
    return trouble(m)


def test_what_is_no_sheet_says_why():
    m = Maker()
    m.step("primitive", width="40 mm", depth="30 mm", height="20 mm")
    m.step("fillet", edges=m.pick("edge", lambda e: abs(e.at[2] - 20) < 1e-6), radius="5 mm")
    assert "no bent sheet" in refused(m) or "no sheet" in refused(m)
    # A square tube with rounded corners: a ring.
    m = Maker()
    m.step("primitive", width="40 mm", depth="40 mm", height="100 mm")
    m.step(
        "fillet",
        edges=m.pick("edge", lambda e: e.kind == "line" and abs(e.direction[2]) > 0.9),
        radius="5 mm",
    )
    m.step(
        "shell",
        open=m.pick("face", lambda f: f.kind == "plane" and abs(f.direction[2]) > 0.9),
        wall="2 mm",
    )
    assert trouble(m) == ""
    assert "close in a ring" in refused(m)
    # A slanted hole, a bevelled rim, a wall that is thicker.
    m = plated()
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="25 mm")
    m.step(
        "chamfer",
        edges=m.pick(
            "edge", lambda e: e.kind == "line" and e.at[0] < 0.01 and abs(e.at[2] - 1.5) < 0.01
        ),
        size="0.5 mm",
    )
    assert trouble(m) == ""
    assert "side" in refused(m) or "no flat piece" in refused(m)
    m = plated()
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="25 mm")
    # The whole of it thickened runs on smoothly: a sheet of 1.9 mm, and its bend is tighter.
    m.step(
        "offset_faces",
        faces=m.pick("face", lambda f: f.name.endswith("/panel/s2.l6/top")),
        by="0.4 mm",
    )
    assert refused(m) == ""
    assert sheet_of(m).sheet.thickness == pytest.approx(1.9, abs=1e-6)
    assert sheet_of(m).radius == pytest.approx(1.6, abs=1e-6)
    # A pad on one wall is not.
    m = plated()
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="25 mm")
    plane = {"base": "YZ", "face": None, "offset": {"formula": "100 mm"}}
    m.step("extrude", sketch=m.sketch(boxed(30, 12, (15, 8)), plane), depth="1 mm", result="add")
    assert trouble(m) == ""
    assert "flat piece" in refused(m)
    # Nor is a wall whose end leans.
    m = plated()
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="25 mm")
    m.step(
        "draft",
        faces=m.pick("face", lambda f: f.name.endswith("/side/far")),
        about="YZ",
        angle="20 deg",
    )
    if trouble(m) == "":
        assert refused(m) != ""


def test_a_sheet_is_read_from_its_own_file():
    """Written as STEP, read into another part: recognised there, the same blank."""
    m = plated()
    around = [p for at in ((50, 0), (100, 30), (50, 60), (0, 30)) for p in edge(m, *at, 1.5)]
    m.step("sheet_flange", edges=around, length="25 mm")
    m.step("sheet_cut", sketch=m.sketch(circle(6.0, 99.0, 30.0)), way="flat")
    before = flattened(sheet_of(m))
    _, body = m.body()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "out.step"
        write_step(
            "sheet", [Placed("sheet", body, "#aabbcc", np.eye(3), np.zeros(3))], str(path), "AP214"
        )
        (shape,) = solids_of(read_shape(path.read_bytes()).shape)
    solid = Body(shape, tuple(f"f{k}" for k in range(len(faces_of(shape)))))
    found = sheet_read(solid, KFactor(), "s9", 0.2)
    after = flattened(found)
    assert after.outline.area == pytest.approx(before.outline.area, rel=1e-8)
    assert after.size == pytest.approx(before.size, abs=1e-6)
    assert [b.angle for b in after.bends] == pytest.approx([b.angle for b in before.bends])


@pytest.mark.parametrize(("w", "h", "r", "t"), [(40, 30, 2.0, 1.5), (25, 60, 4.0, 1.0)])
def test_a_ring_is_ripped_open_at_a_bend_and_as_long_as_by_hand(w, h, r, t):
    m = Maker()
    m.step("primitive", width=f"{w} mm", depth="70 mm", height=f"{h} mm", result="new")
    m.step(
        "fillet", edges=m.pick("edge", lambda e: abs(e.length - 70) < 1e-6), radius=f"{r + t} mm"
    )
    m.step("primitive", width=f"{w - 2 * t} mm", depth="70 mm", height=f"{h - 2 * t} mm", x=f"{t} mm",
           z=f"{t} mm", result="new")  # fmt: skip
    one, two = m.build().bodies
    m.step(
        "fillet", edges=m.pick("edge", lambda e: abs(e.length - 70) < 1e-6, two), radius=f"{r} mm"
    )
    m.step("combine", operation="cut", target=[one], tools=[two])
    solid = volume_of(m.build().state.bodies[one].load().shape)
    m.step("sheet_of", bodies=[one], rings="rip")
    assert trouble(m) == ""
    made = sheet_of(m)
    bends = 4 * math.pi / 2 * (r + 0.44 * t)
    long = 2 * (w + h) - 8 * (r + t) + bends
    assert sorted(flattened(made).size) == pytest.approx(sorted([70.0, long]), abs=1e-6)
    assert made.sheet.volume == pytest.approx(solid, rel=1e-9)


@pytest.mark.parametrize("angle", [40, 90, 200, 300])
def test_a_rolled_end_is_read_again(angle):
    """Nothing flat hangs on its far side."""
    m = plated(60, 40, radius="6 mm")
    m.step(
        "sheet_flange", edges=edge(m, 60, 20, 1.5), length="30 mm", angle=f"{min(angle, 100)} deg"
    )
    was = sheet_of(m)
    (bend,) = was.sheet.bends.values()
    long = math.radians(angle) * (6 + 0.44 * 1.5)
    turned = replace(bend, angle=math.radians(angle), allowance=long, loops=(_zone(40.0, long),))
    was = was.with_(was.sheet.with_(turned, replace(was.sheet.panels[bend.child], loops=())))
    found = sheet_read(was.body(), KFactor(), "s9", 0.2)
    (read,) = found.sheet.bends.values()
    assert abs(read.angle) == pytest.approx(math.radians(angle), abs=1e-9)
    assert blank(found.sheet).area == pytest.approx(blank(was.sheet).area, rel=1e-7)


def _zone(wide, long):
    return ring([(0.0, 0.0), (wide, 0.0), (wide, long), (0.0, long)], ["in", "s1", "out", "s0"])

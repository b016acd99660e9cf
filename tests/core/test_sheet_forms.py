"""Forms pressed into sheets: weight by Pappus, heights point by point, where they may not be, what the blank says of
them; blanks laid on stock; bend tables."""

import base64
import io
import json
import math
import re
import zlib

import ezdxf
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_sheet_parts import edge, plated, sheet_of, trouble
from vireo.core.curves import Arc2
from vireo.core.kernel.exchange import Placed, write_step
from vireo.core.kernel.gate import checked
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import box_of, volume_of
from vireo.core.kernel.overlap import holds
from vireo.core.kernel.shape import Body, faces_of, solids_of
from vireo.core.kernel.stamp import taken
from vireo.core.kernel.weave import woven
from vireo.core.panels.forms import Form, Pressing, arched, collared, pointed, raised, walled
from vireo.core.panels.loops import Motion2, Seg, area, line, ring
from vireo.core.panels.model import Panel, Sheet
from vireo.core.samples.ways import boxed, spots
from vireo.core.samples.ways import line as drawn
from vireo.core.sheet.allowance import KFactor, table_read
from vireo.core.sheet.blanks import flattened
from vireo.core.sheet.brake import bend_order
from vireo.core.sheet.combine import mirrored
from vireo.core.sheet.files import blank_dxf, blank_pdf
from vireo.core.sheet.nesting import Piece, Stock, nest_dxf, nested, used
from vireo.core.sheet.reading import sheet_read
from vireo.core.sheet.rules.kind import faults_of
from vireo.core.trouble import BadInput


@st.composite
def pressings(draw):
    t = draw(st.sampled_from([0.8, 1.5, 3.0]))
    base = draw(st.sampled_from([0.0, 0.5, 1.5])) * t
    rise = draw(st.floats(1.2, 3.0)) * t
    reach = draw(st.floats(6.0, 12.0)) * t
    section = draw(st.sampled_from(["arched", "raised", "pointed"]))
    made = {
        "arched": lambda: arched(t, reach, rise, base),
        "raised": lambda: raised(
            t, reach, rise, base, base, math.radians(draw(st.integers(35, 60)))
        ),
        "pointed": lambda: pointed(t, reach, rise, base, base),
    }[section]
    straight = draw(st.floats(2.5, 6.0)) * reach
    path = (line((0.0, 0.0), (straight, 0.0), "l"),)
    kind = draw(st.sampled_from(["dimple", "bead", "curved", "louvre", "outline", "collar"]))
    try:
        if kind == "collar":
            wall = draw(st.sampled_from([0.5, 1.0])) * t
            return Pressing("collar", t, collared(t, 6.0 * t, rise + base, base, wall))
        if kind == "outline":
            wide = walled(t, rise, base + 0.2, base + 0.2, math.radians(draw(st.integers(30, 80))))
            corners = [(0.0, 0.0), (straight, 0.0), (straight, 3.0 * reach), (0.0, 2.0 * reach)]
            return Pressing("outline", t, wide, ring(corners, list("abcd")), "ring")
        if kind == "dimple":
            return Pressing("dimple", t, made())
        if kind == "curved":
            turn = Seg(Arc2((straight, 2.0 * reach), 2.0 * reach, -0.5 * math.pi, 0.3), "r")
            return Pressing("bead", t, made(), (*path, turn))
        if kind == "louvre":
            return Pressing("louvre", t, made(), path, "left")
        return Pressing(
            "bead", t, made(), path, "both", draw(st.sampled_from(["formed", "slit", "open"]))
        )
    except BadInput:
        return Pressing("dimple", t, arched(t, reach, rise, 0.0))


@settings(max_examples=14, deadline=None)
@given(pressings(), st.floats(0, 6.28), st.booleans(), st.booleans())
def test_a_form_weighs_what_its_section_sweeps_and_stands_as_high_as_it_says(made, turn, up, image):
    """Volume by areas and ways of centroids against the kernel's; of the middle of the sheet, its height."""
    t = made.thickness
    form = Form("f", made, Motion2(math.cos(turn), math.sin(turn), 300.0, 300.0), up)
    corners = [(0.0, 0.0), (600.0, 0.0), (600.0, 600.0), (0.0, 600.0)]
    sheet = Sheet(t, "p", {"p": Panel("p", (ring(corners, list("abcd")),), (form,))})
    assert Sheet.of(json.loads(json.dumps(sheet.to_json()))) == sheet
    sheet = mirrored(sheet) if image else sheet
    body = woven(sheet)
    checked("a form", body.shape)
    assert volume_of(body.shape) == pytest.approx(sheet.volume, rel=1e-9)
    assert len(set(body.names)) == len(body.names)
    low, high = box_of(body.shape)
    rise = made.section.rise
    assert (low[2], high[2]) == pytest.approx((0.0, t + rise) if up else (-rise, t), abs=1e-6)
    # What it takes of the panel, by the pieces of its path and by the rim the kernel gave it.
    (own,) = sheet.panels["p"].forms
    assert -area(taken(own)) == pytest.approx(made.covers, rel=1e-9)


@settings(max_examples=10, deadline=None)
@given(st.floats(10, 25), st.floats(2, 6), st.sampled_from([0.0, 1.5]), st.integers(0, 10_000))
def test_points_are_in_an_arched_dimple_as_its_two_spheres_say(reach, rise, base, seed):
    """By the circle of the crown: radius and centre from the chord and the arch, written out here once more."""
    t = 1.5
    made = Pressing("dimple", t, arched(t, reach, rise, base))
    corners = [(-60.0, -60.0), (60.0, -60.0), (60.0, 60.0), (-60.0, 60.0)]
    body = woven(
        Sheet(
            t, "p", {"p": Panel("p", (ring(corners, list("abcd")),), (Form("f", made, Motion2()),))}
        )
    )
    half = math.atan2(rise, reach)
    crown = reach / math.sin(2 * half) - (base + 0.5 * t)
    dice = np.random.default_rng(seed)
    wide = crown * math.sin(2 * half)
    for _ in range(40):
        r, a = wide * math.sqrt(dice.uniform(0, 0.98)), dice.uniform(0, 6.28)
        z = dice.uniform(-1.0, t + rise + 1.0)
        depth = math.hypot(r, z - (0.5 * t + rise - crown)) - crown
        if abs(abs(depth) - 0.5 * t) < 1e-3:
            continue
        assert holds(body, np.array([r * math.cos(a), r * math.sin(a), z])) == (
            abs(depth) < 0.5 * t
        )


def pressed(kind, at, w=100.0, h=60.0, t="1.5 mm", **fields):
    m = plated(w, h, t)
    m.step(kind, sketch=m.sketch(at), **fields)
    return m


def test_a_form_that_is_not_all_in_flat_sheet_is_refused_with_its_place():
    m = pressed("sheet_dimple", spots((5, 30)), width="20 mm", height="3 mm")
    assert "a dimple runs over an edge" in trouble(m)
    m = pressed("sheet_dimple", spots((30, 30), (45, 30)), width="20 mm", height="3 mm")
    assert "a dimple runs into another dimple" in trouble(m)
    m = pressed("sheet_louvre", drawn((30, 30), (45, 30)), width="10 mm", height="3 mm")
    assert "15 mm long" in trouble(m)
    m = pressed("sheet_bead", drawn((30, 20), (60, 20), (60, 45)), width="10 mm", height="3 mm")
    assert "corner" in trouble(m)
    m = pressed("sheet_dimple", spots((30, 30)), width="20 mm", height="12 mm")
    assert "at most 10 mm high" in trouble(m)


def test_what_comes_after_a_form_goes_round_it_or_is_refused():
    m = pressed("sheet_dimple", spots((30, 30)), width="20 mm", height="3 mm")
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="20 mm")
    m.step("sheet_fold", sketch=m.sketch(drawn((60, 65), (60, -5))), angle="60 deg")
    assert trouble(m) == ""
    made = sheet_of(m)
    (home,) = [p.id for p in made.sheet.panels.values() if p.forms]
    # It is still about where it was drawn, 30 mm from the two edges of the plate.
    assert made.places()[home].at(
        (made.sheet.panels[home].forms[0].at.x, made.sheet.panels[home].forms[0].at.y), 0.0
    ) == (pytest.approx((30.0, 30.0, 0.0)))
    assert made.rooted(home).body().shape is not None
    assert volume_of(made.rooted(home).body().shape) == pytest.approx(made.sheet.volume, rel=1e-9)
    before = m.part
    m.step("sheet_cut", sketch=m.sketch(boxed(4, 4, (38, 28))))
    assert "a dimple runs over an edge, a cut" in trouble(m)
    m.part = before
    m.step("sheet_fold", sketch=m.sketch(drawn((25, -5), (25, 65))), angle="30 deg")
    assert "the fold runs through a dimple" in trouble(m)


def test_a_tall_form_that_runs_into_a_wall_is_refused():
    m = plated(100, 60)
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="30 mm", angle="150 deg")
    m.step("sheet_dimple", sketch=m.sketch(spots((80, 30))), width="28 mm", height="14 mm")
    assert "run into itself" in trouble(m)


def test_a_collar_keeps_the_sheet_of_its_hole_and_the_blank_has_that_hole():
    """By hand: ring of the wall, and the quarter of a torus that leads to it, less what was there before."""
    m = pressed(
        "sheet_collar", spots((50, 30)), bore="10 mm", height="2 mm", radius="0 mm", wall="1 mm"
    )
    assert trouble(m) == ""
    t, bore, rise, wall = 1.5, 10.0, 2.0, 1.0
    solid = math.pi * ((bore / 2 + wall) ** 2 - (bore / 2) ** 2) * (t + rise)
    # The mouth's rounding takes a square less a quarter disc.
    gap = wall**2 * (1 - math.pi / 4)
    solid -= 2 * math.pi * gap * _way(bore / 2, wall)
    pilot = 2 * math.sqrt((bore / 2 + wall) ** 2 - solid / (math.pi * t))
    flat = flattened(sheet_of(m))
    (form,) = flat.forms
    assert form.pilot == pytest.approx(pilot, rel=1e-9)
    assert flat.outline.pierces == 2
    assert flat.outline.area == pytest.approx(6000 - math.pi / 4 * pilot**2, rel=1e-9)


def _way(inner, wall):
    """Where the centroid is of what a mouth rounded by `wall` leaves of its square, from the axis."""
    square, disc = wall**2, math.pi * wall**2 / 4
    # The disc's centre is at the far side of the square, its centroid 4 r / 3 pi from there.
    moment = square * (inner + wall / 2) - disc * (inner + wall - 4 * wall / (3 * math.pi))
    return moment / (square - disc)


def test_the_shop_is_told_of_forms_too_near_and_bends_along_the_grain():
    m = plated(100, 60, rolled="said", grain="90 deg", radius="1 mm")
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="20 mm")
    m.step("sheet_dimple", sketch=m.sketch(spots((84, 30))), width="18 mm", height="3 mm")
    rules = {f.rule for f in faults_of(sheet_of(m))}
    assert {"form", "radius"} <= rules
    m = plated(100, 60, rolled="said", grain="0 deg", radius="1 mm")
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="20 mm")
    m.step("sheet_dimple", sketch=m.sketch(spots((50, 30))), width="18 mm", height="3 mm")
    assert not faults_of(sheet_of(m))


def test_files_show_forms_grain_and_true_size():
    m = plated(100, 60, rolled="said", grain="30 deg")
    m.step("sheet_louvre", sketch=m.sketch(drawn((20, 20), (60, 20))), width="8 mm", height="3 mm")
    flat = flattened(sheet_of(m))
    read = ezdxf.read(io.StringIO(blank_dxf(flat).decode("cp1252")))
    layers = [e.dxf.layer for e in read.modelspace()]
    assert layers.count("GRAIN") == 5
    assert layers.count("FORM_UP") == 2
    # What it takes is half a slot: the slit less its round ends, and these.
    (outline,) = [
        e for e in read.modelspace() if e.dxf.layer == "FORM_UP" and e.dxftype() == "LWPOLYLINE"
    ]
    corners = np.array([p[:2] for p in outline.get_points()])
    assert np.ptp(corners[:, 0]) == pytest.approx(40.0, abs=1e-6)
    some = ezdxf.read(
        io.StringIO(blank_dxf(flat, {"OUTER": "cut", "INNER": "cut"}).decode("cp1252"))
    )
    assert {e.dxf.layer for e in some.modelspace()} == {"cut"}
    page = blank_pdf(flat, "Plate")
    width, height = map(float, re.search(rb"/MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]", page).groups())
    assert (width, height) == pytest.approx(
        ((120 + 30) * 72 / 25.4, (60 + 45) * 72 / 25.4), abs=1e-3
    )
    streams = re.findall(rb"ASCII85Decode.*?stream\r?\n(.*?)~>", page, re.S)
    text = b"".join(zlib.decompress(base64.a85decode(s.strip())) for s in streams)
    scales = [float(x) for x in re.findall(rb"([\d.]+) 0 0 [\d.]+ [\d.]+ [\d.]+ cm", text)]
    assert max(scales) == pytest.approx(72 / 25.4, abs=1e-5)
    assert b"100 0 l" in text


@pytest.mark.parametrize(("turns", "count"), [((0.0, 90.0, 180.0, 270.0), 14), ((0.0, 180.0), 5)])
def test_blanks_laid_on_stock_keep_their_distances(turns, count):
    m = plated(160, 100)
    m.step("sheet_cut", sketch=m.sketch(boxed(90, 60, (100, 50))))
    piece = Piece("a", flattened(sheet_of(m)), count, turns)
    stock = Stock((500.0, 300.0), 8.0, 4.0)
    found = nested([piece], stock, 2.0)
    assert sum(map(len, found)) == count
    share = sum(used(s, [piece], stock) for s in found)
    assert share == pytest.approx(count * (160 * 100 - 60 * 50) / (500 * 300), rel=1e-9)
    read = ezdxf.read(io.StringIO(nest_dxf(found, [piece], stock)))
    pieces = [
        shapely.Polygon([p[:2] for p in e.get_points()])
        for e in read.modelspace()
        if e.dxf.layer == "OUTER"
    ]
    assert len(pieces) == count
    least = min(a.distance(b) for i, a in enumerate(pieces) for b in pieces[:i])
    assert least > 4.0 - 2e-3
    with pytest.raises(BadInput, match="does not fit"):
        nested([piece], Stock((150.0, 90.0), 0.0, 0.0), 2.0)


def test_a_bend_table_is_read_and_said_to_be_wrong_by_its_line():
    table = "thickness;radius;angle;value;kind\n1,5;2;90;3,2;deduction\n1,5;2;45;1,1;deduction\n"
    m = plated(100, 60, lengths="table", table=table)
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="20 mm")
    assert flattened(sheet_of(m)).size[0] == pytest.approx(100 + 20 - 3.2, abs=1e-9)
    m = plated(100, 60, lengths="table", table=table)
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="20 mm", angle="120 deg")
    assert "the nearest row is 2 mm and 90 deg" in trouble(m)
    for text, said in (
        ("", "is empty"), ("thickness,radius\n1,2\n", "no column angle"),
        ("thickness,radius,angle,value\n1.5,2,90,x\n", "line 2"),
        ("thickness,radius,angle,value,kind\n1.5,2,90,3,often\n", "“often”"),
        ("thickness,radius,angle,value\n1.5,2,90,nan\n", "line 2"),
        ("thickness,radius,angle,value\n1.5,2,90,99\n", "no length in the flat"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=re.escape(said)):
            table_read(text)


@settings(max_examples=12, deadline=None)
@given(pressings(), st.floats(0, 6.28), st.booleans())
def test_what_is_pressed_in_is_found_again_in_the_bare_solid(made, turn, up):
    """Kept as it is, in its place, also mirrored; the panel round it is flat as it was."""
    t = made.thickness
    form = Form("f", made, Motion2(math.cos(turn), math.sin(turn), 300.0, 300.0), up)
    corners = [(0.0, 0.0), (600.0, 0.0), (600.0, 600.0), (0.0, 600.0)]
    sheet = Sheet(t, "p", {"p": Panel("p", (ring(corners, list("abcd")),), (form,))})
    found = sheet_read(woven(sheet), KFactor(), "s9", 0.2)
    (panel,) = found.sheet.panels.values()
    (read,) = panel.forms
    assert found.sheet.volume == pytest.approx(sheet.volume, rel=1e-9)
    assert read.pressing.gains == pytest.approx(made.gains, abs=1e-6 * sheet.volume)
    assert -area(taken(read)) == pytest.approx(made.covers, rel=1e-6)
    assert sorted(read.spans) == pytest.approx([0.0, made.section.rise], abs=1e-6)
    image = woven(mirrored(found.sheet))
    checked("the image", image.shape)
    assert volume_of(image.shape) == pytest.approx(sheet.volume, rel=1e-9)
    assert Sheet.of(json.loads(json.dumps(found.sheet.to_json()))) == found.sheet


def test_a_part_with_bends_and_forms_is_read_from_its_file_and_a_tab_stays_a_bend(tmp_path):
    m = plated(120, 80)
    m.step("sheet_flange", edges=[*edge(m, 120, 40, 1.5), *edge(m, 60, 0, 1.5)], length="25 mm")
    m.step("sheet_louvre", sketch=m.sketch(drawn((20, 50), (60, 50))), width="8 mm", height="3 mm")
    m.step(
        "sheet_dimple", sketch=m.sketch(spots((85, 50))), width="18 mm", height="3 mm", flip=True
    )
    was = sheet_of(m)
    path = tmp_path / "part.step"
    write_step(
        "part", [Placed("part", was.body(), "#888888", np.eye(3), np.zeros(3))], str(path), "AP214"
    )
    (shape,) = solids_of(read_shape(path.read_bytes()).shape)
    body = Body(shape, tuple(f"f{k}" for k in range(len(faces_of(shape)))))
    found = sheet_read(body, KFactor(), "s9", 0.2)
    assert sum(len(p.forms) for p in found.sheet.panels.values()) == 2
    assert len(found.sheet.bends) == 2
    assert flattened(found).outline.area == pytest.approx(flattened(was).outline.area, rel=1e-7)
    # A tab bent up out of a window hangs on one line: it is unfolded, not taken for a form.
    m = plated(100, 80)
    m.step("sheet_cut", sketch=m.sketch(boxed(40, 30, (30, 25))))
    m.step("sheet_flange", edges=edge(m, 50, 25, 1.5), length="12 mm")
    m.step("sheet_dimple", sketch=m.sketch(spots((85, 60))), width="18 mm", height="3 mm")
    assert trouble(m) == ""
    was = sheet_of(m)
    found = sheet_read(was.body(), KFactor(), "s9", 0.2)
    assert (len(found.sheet.bends), sum(len(p.forms) for p in found.sheet.panels.values())) == (
        1,
        1,
    )
    assert flattened(found).outline.area == pytest.approx(flattened(was).outline.area, rel=1e-7)


def test_tabs_in_a_window_stay_bends_beside_a_form_and_what_is_open_is_said():
    m = plated(140, 100)
    m.step("sheet_cut", sketch=m.sketch(boxed(50, 40, (30, 30))))
    for y in (30, 70):
        m.step("sheet_flange", edges=edge(m, 55, y, 1.5), length="12 mm")
    m.step(
        "sheet_collar", sketch=m.sketch(spots((115, 50))), bore="8 mm", height="2 mm", wall="1 mm"
    )
    assert trouble(m) == ""
    was = sheet_of(m)
    found = sheet_read(was.body(), KFactor(), "s9", 0.2)
    assert len(found.sheet.bends) == 2
    (form,) = [f for p in found.sheet.panels.values() for f in p.forms]
    assert form.pressing.kind == "open form"
    # The solid does not tell the hole it was drawn from: the blank is larger by that, and it is said.
    (pilot,) = [f.pilot for f in flattened(was).forms]
    more = flattened(found).outline.area - flattened(was).outline.area
    assert more == pytest.approx(math.pi / 4 * pilot**2, rel=1e-6)
    assert any("the blank has no hole or slit" in f.text for f in faults_of(found))


@pytest.mark.parametrize(("far", "whole"), [(16.0, False), (45.0, True)])
def test_a_form_that_the_die_would_crush_stops_the_bend(far, whole):
    """The die is 12.5 mm wide to either side: a dimple downwards that lies within has no room on it."""
    m = plated(120, 80)
    m.step(
        "sheet_dimple",
        sketch=m.sketch(spots((120 - far, 40))),
        width="22 mm",
        height="3 mm",
        flip=True,
    )
    m.step("sheet_flange", edges=edge(m, 120, 40, 1.5), length="40 mm", position="beyond")
    found = bend_order(sheet_of(m).sheet)
    assert found.whole == whole
    assert [s.tool for s in found.stops] == ([] if whole else ["die"])

"""Sheets as trees of panels and bends: flat lengths by hand, the solid against closed forms, any state of it."""

import itertools
import json
import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from vireo.core.curves import Arc2, Circle2, Ellipse2, Line2, Spline2
from vireo.core.kernel.gate import checked
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.region import combined
from vireo.core.kernel.weave import woven
from vireo.core.panels import Motion2, Panel, Seg, Sheet
from vireo.core.panels.flat import blank, laid
from vireo.core.panels.joints import patches
from vireo.core.panels.loops import area, joined, line, moved_loop, ring
from vireo.core.panels.places import flat
from vireo.core.sheet.allowance import Din6935, KFactor, Row, Table, deduction, sprung
from vireo.core.sheet.cutting import cut_flat
from vireo.core.sheet.flange import Flange, Reach, Relief, Run, flanged, flat_length, spot
from vireo.core.trouble import BadInput

#: Thickness, inner radius, opening angle (deg); compensation v of DIN 6935, then allowance and deduction at
#: K = 0.44: each worked out by hand from the formulas of the standard and of the neutral line.
BY_HAND = [
    (1, 1, 90, -1.9187, 2.2619, 1.7381), (1, 1, 135, -0.6162, 1.1310, 0.5259), (1, 1, 60, -1.2249, 3.0159, 0.9841),
    (1, 1, 165, -0.1797, 0.3770, 0.1496), (1, 1, 170, 0.0, 0.2513, 0.0986), (2, 2, 90, -3.8374, 4.5239, 3.4761),
    (2, 2, 120, -1.8437, 3.0159, 1.6029), (2, 2, 45, -1.7561, 6.7858, 1.2142), (2, 2, 30, -1.0623, 7.5398, 0.4602),
    (1.5, 2.5, 90, -3.1766, 4.9637, 3.0363), (1.5, 2.5, 150, -0.5358, 1.6546, 0.4890),
    (1.5, 2.5, 15, 0.8430, 9.1001, -1.1001), (3, 1, 90, -5.4598, 3.6442, 4.3558), (3, 6, 90, -6.6891, 11.4982, 6.5018),
    (3, 6, 100, -5.0496, 10.2206, 4.8831), (3, 15, 90, -10.0831, 25.6354, 10.3646),
    (3, 18, 90, -11.3695, 30.3478, 11.6522), (3, 30, 90, -16.5199, 49.1973, 16.8027),
    (0.8, 0.4, 90, -1.4578, 1.1812, 1.2188), (2, 0.2, 90, -3.8502, 1.6965, 2.7035),
]  # fmt: skip


@pytest.mark.parametrize(("t", "r", "opening", "v", "allowance", "less"), BY_HAND)
def test_flat_lengths_are_those_worked_out_by_hand(t, r, opening, v, allowance, less):
    turn = math.radians(180 - opening)
    k = KFactor(k=0.44)
    assert k.allowance(turn, r, t) == pytest.approx(allowance, abs=6e-5)
    assert deduction(k, turn, r, t) == pytest.approx(less, abs=6e-5)
    assert -deduction(Din6935(), turn, r, t) == pytest.approx(v, abs=6e-5)
    # And so it comes out of a sheet: legs of 150 and 90 measured outside.
    for rule, whole in ((k, 240 - less), (Din6935(), 240 + v)):
        sheet = plate(t, 150, 20)
        made = leg(sheet, "p", "e1", "f", 90.0, turn, r, rule)
        assert blank(made).size == pytest.approx((whole, 20.0), abs=2e-4)


def test_tables_are_read_between_their_rows_and_never_beyond():
    rows = tuple(
        Row(thickness=2, radius=r, angle=a, value=10 * r + a / 10, what="allowance")
        for r in (1, 3) for a in (60, 120)
    )  # fmt: skip
    table = Table(rows=rows)
    assert table.allowance(math.radians(75), 1.5, 2) == pytest.approx(15 + 7.5)
    for turn, r, t, words in (
        (90, 2, 1.5, "no rows for 1.5 mm; it has 2 mm"), (90, 4, 2, "nearest row is 3 mm"), (130, 2, 2, "120 deg"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=words):
            table.allowance(math.radians(turn), r, t)
    same = (
        KFactor(k=0.4),
        Table(rows=(Row(thickness=1, radius=2, angle=90, value=0.4, what="k"),)),
    )
    by_outside = Row(thickness=1, radius=2, angle=90, value=deduction(same[0], math.pi / 2, 2, 1))
    for rule in (*same, Table(rows=(by_outside,))):
        assert rule.allowance(math.pi / 2, 2, 1) == pytest.approx(math.pi / 2 * 2.4)


def test_overbending_keeps_the_neutral_line():
    assert sprung(0.34, math.radians(90), math.radians(95), 0.3, 0.44) == pytest.approx(
        0.3152, abs=1e-4
    )
    with pytest.raises(BadInput, match="less than nothing"):
        sprung(0.1, math.radians(90), math.radians(120), 1.0, 0.44)


def plate(t, wide, deep):
    corners = [(0.0, 0.0), (wide, 0.0), (wide, deep), (0.0, deep)]
    return Sheet(t, "p", {"p": Panel("p", (ring(corners, ["e0", "e1", "e2", "e3"]),))})


def leg(
    sheet, panel, edge, id, length, angle, radius, rule, position="inside", measure="outer", **more
):
    """The sheet with a flange on one edge: bend `id`, panel `id`.p."""
    far = flat_length(length, measure, angle, radius, sheet.thickness)
    made = Flange((Run(angle, radius, (far, far)),), position, **more)
    at = {spot(sheet.panels[panel].loops, edge): "e"}
    return flanged(sheet, panel, at, made, rule, lambda edge, n: (id, f"{id}.p"))


@st.composite
def sheets(draw):
    """A plate with flanges on its edges and on each other's, of any angle, radius, place and width, with
    reliefs; holes in panels and in the middle of bends."""
    t = draw(st.floats(0.5, 3.0))
    sheet = plate(t, draw(st.floats(60, 120)), draw(st.floats(50, 90)))
    rule = draw(st.sampled_from([KFactor(k=0.0), KFactor(k=0.44), KFactor(k=0.5), Din6935()]))
    edges = [("p", e) for e in draw(st.sets(st.sampled_from(["e0", "e2"]), min_size=1))]
    for n in range(draw(st.integers(1, 4))):
        if not edges:
            break
        panel, edge = edges.pop(0)
        n_loop, place = spot(sheet.panels[panel].loops, edge)
        size = sheet.panels[panel].loops[n_loop][place].curve.length
        wide = size < 30 or draw(st.booleans())
        radius = draw(st.sampled_from([0.0, 0.4, 2.0, 5.0]))
        sheet = leg(
            sheet, panel, edge, f"b{n}", draw(st.floats(18, 30)),
            math.radians(draw(st.sampled_from([-170, -90, -35, 20, 90, 120, 180]))), radius, rule,
            draw(st.sampled_from(["inside", "outside", "beyond", "tangent"])), "flat",
            reach=Reach() if wide else Reach(8.0, draw(st.floats(7, size - 15))),
            relief=Relief(t, draw(st.sampled_from([0.0, 1.0])), draw(st.booleans())),
        )  # fmt: skip
        bend = sheet.bends[f"b{n}"]
        if radius > 0.0 and bend.allowance > 1.0 and draw(st.booleans()):
            hole = Circle2(
                (bend.width / 2, bend.allowance / 2), 0.3 * min(bend.allowance, bend.width)
            )
            cut = type(bend)(**{**vars(bend), "loops": (*bend.loops, (Seg(hole, "hole", True),))})
            sheet = sheet.with_(cut)
        edges.append((bend.child, "far"))
    return sheet


@settings(max_examples=25)
@given(sheets(), st.floats(0.05, 0.95), st.floats(0.2, 4.0))
def test_the_solid_weighs_what_its_panels_and_bends_do_in_every_state(sheet, share, r):
    """Folded, flat and between: sound, its volume that of the closed form (areas times thickness, zones by
    their middle surface), every face with a name of its own, the same ones; the flat has the blank's outline."""
    known = patches(sheet)
    states = [None, flat(sheet)]
    # Half bent with another radius: not the sharp ones, which have no room to be cut.
    states.append({b.id: (b.angle * share, r) for b in sheet.bends.values()})
    names = set()
    for state in states:
        body = woven(sheet, state, known=known)
        checked("the sheet", body.shape)
        bent = {b.id: (state or {}).get(b.id, (b.angle, b.radius)) for b in sheet.bends.values()}
        t = sheet.thickness
        by_hand = sum(area(p.loops) for p in sheet.panels.values()) * t
        for b in sheet.bends.values():
            angle, radius = bent[b.id]
            middle = abs(angle) * (radius + t / 2) if angle else b.allowance
            by_hand += area(b.loops) * t * middle / b.allowance
        assert volume_of(body.shape) == pytest.approx(by_hand, rel=1e-7)
        assert len(set(body.names)) == len(body.names)
        names.add(frozenset(n for n in body.names if not n.startswith(tuple(
            f"{b.id}/" for b in sheet.bends.values() if b.radius == 0.0
        ))))  # fmt: skip
    assert len(names) == 1
    assert sheet.volume == pytest.approx(volume_of(woven(sheet).shape), rel=1e-7)
    out = blank(sheet, known)
    whole = sum(area(p.loops) for p in (*sheet.panels.values(), *sheet.bends.values()))
    assert out.area == pytest.approx(whole)
    assert out.area * t == pytest.approx(volume_of(woven(sheet, flat(sheet)).shape), rel=1e-7)
    assert Sheet.of(json.loads(json.dumps(sheet.to_json()))) == sheet


@settings(max_examples=20)
@given(sheets())
def test_the_flat_lies_the_same_from_whichever_panel_it_is_seen(sheet):
    """What two patches are to each other in the flat does not hang on where one begins; the middle line of a
    bend keeps its length when the neutral line is there."""
    at = laid(sheet)
    for start in sheet.panels:
        seen = laid(sheet, start)
        for id, motion in seen.items():
            direct = motion.then(at[start])
            for p in ((0.0, 0.0), (7.0, 3.0)):
                assert direct(p) == pytest.approx(at[id](p), abs=1e-9)
    assert set(laid(sheet, through=())) == {sheet.root}


@given(st.floats(-3, 3), st.floats(-40, 40), st.floats(-40, 40), st.booleans())
def test_areas_are_exact_for_every_curve_and_move_along(turn, x, y, back):
    """An ellipse, a circle, a half disk, a parabola's segment (two thirds of its box)."""
    bow = Spline2(2, (0.0, 0.0, 0.0, 1.0, 1.0, 1.0), ((0.0, 0.0), (3.0, 8.0), (6.0, 0.0)))
    shapes = [
        ((Seg(Ellipse2((3, 1), (4.0, 3.0), 2.0), "a"),), math.pi * 5 * 2),
        ((Seg(Circle2((3, 1), 4.0), "a"),), math.pi * 16),
        ((Seg(Arc2((0, 0), 4.0, 0.0, math.pi), "a"), Seg(Line2((-4, 0), (4, 0)), "b")), math.pi * 8),
        ((Seg(bow, "a", True), Seg(Line2((0, 0), (6, 0)), "b")), 2 / 3 * 6 * 4),
    ]  # fmt: skip
    m = Motion2(math.cos(turn), math.sin(turn), x, y)
    for loop, by_hand in shapes:
        there = moved_loop(loop, m)
        if back:
            there = tuple(s.turned for s in reversed(there))
        assert area([there]) == pytest.approx(-by_hand if back else by_hand)
        home = moved_loop(there, m.inverse)
        stood = loop if not back else tuple(s.turned for s in reversed(loop))
        assert np.allclose([s.at(0.3) for s in home], [s.at(0.3) for s in stood])


def disk(x, y, r):
    return ((Seg(Circle2((x, y), r), "disk"),),)


def box_of(x, y, w, h):
    return (ring([(x, y), (x + w, y), (x + w, y + h), (x, y + h)], ["q0", "q1", "q2", "q3"]),)


def round_box(x, y, w, h, r):
    """A box with one corner rounded."""
    corner = Seg(Arc2((x + w - r, y + h - r), r, 0.0, math.pi / 2), "c")
    a, b = corner.a, corner.b
    around = [(x, y), (x + w, y), a, b, (x, y + h), (x, y)]
    lines = [
        line(p, q, f"s{k}") for k, (p, q) in enumerate(itertools.pairwise(around)) if p is not a
    ]
    return ((*lines[:2], corner, *lines[2:]),)


HOLED = (*box_of(-10, -8, 20, 16), tuple(s.turned for s in disk(1, 0, 4)[0]))


@settings(max_examples=60)
@given(
    st.sampled_from([disk(0, 0, 10), box_of(-10, -8, 20, 16), round_box(-10, -8, 20, 16, 5), HOLED]),
    st.sampled_from([disk(0, 0, 6), box_of(-3, -9, 6, 4), round_box(-4, -4, 9, 7, 3)]),
    st.floats(-20, 20), st.floats(-20, 20), st.floats(-3, 3),
)  # fmt: skip
def test_what_is_cut_off_and_what_is_common_are_the_whole(region, tool, x, y, turn):
    """Areas: without the tool and within it make the region, and the two together both less what they share."""
    m = Motion2(math.cos(turn), math.sin(turn), x, y)
    there = tuple(moved_loop(lp, m) for lp in tool)
    cut, common, both = (
        area(combined(op, region, there, "new")) for op in ("cut", "common", "fuse")
    )
    assert cut + common == pytest.approx(area(region), abs=1e-6)
    assert both == pytest.approx(area(region) + area(there) - common, abs=1e-6)
    assert 0 <= common <= min(area(region), area(there)) + 1e-6
    known = {s.name for lp in (*region, *there) for s in lp}
    assert {s.name for lp in combined("cut", region, there, "new") for s in lp} <= known


@settings(max_examples=25)
@given(sheets(), st.floats(-10, 40), st.floats(-25, 25), st.floats(1.0, 5.0), st.booleans())
def test_a_cut_in_the_flat_takes_the_same_off_flat_and_folded(sheet, x, y, r, square):
    """Through panels and bends: sound folded and flat, the flat lighter by the tool's area in it times the
    thickness, the names of what is left kept."""
    tool = box_of(x, y, 2 * r, r) if square else disk(x, y, r)
    before = blank(sheet)
    took = area(combined("common", before.loops, tool, "t"))
    if took < 1e-6:
        with pytest.raises(BadInput, match="meets nothing"):
            cut_flat(sheet, "p", tool, "t")
        return
    assume(took < 0.2 * before.area)
    cut = cut_flat(sheet, "p", tool, "t")
    assert blank(cut).area == pytest.approx(before.area - took, abs=1e-5)
    t = sheet.thickness
    for state in (None, flat(cut)):
        body = woven(cut, state)
        checked("the sheet", body.shape)
        if state:
            assert volume_of(body.shape) == pytest.approx((before.area - took) * t, rel=1e-6)


def test_each_part_of_a_tool_is_looked_at_by_itself():
    """Two disks at once, one in the region and one in its hole: the second takes nothing."""
    tools = (*disk(-7, 0, 1), *disk(1, 0, 2))
    assert area(combined("cut", HOLED, tools, "t")) == pytest.approx(area(HOLED) - math.pi)


def test_a_cut_that_parts_the_sheet_is_refused():
    sheet = leg(plate(1.0, 60, 40), "p", "e1", "f", 30.0, 1.2, 2.0, KFactor())
    with pytest.raises(BadInput, match="into 2 pieces"):
        cut_flat(sheet, "p", box_of(30, -5, 4, 60), "t")
    with pytest.raises(BadInput, match="meets nothing"):
        cut_flat(sheet, "p", disk(-50, 0, 4), "t")


def test_pieces_of_a_line_and_a_circle_are_joined():
    half = [Seg(Arc2((0, 0), 2.0, a, a + math.pi), "c") for a in (1.0, 1.0 + math.pi)]
    (whole,) = joined(half)
    assert isinstance(whole.curve, Circle2)
    corners = [(0, 0), (2, 0), (5, 0), (5, 5), (0, 5), (0, 1)]
    assert len(joined(ring(corners, list("abcdef")))) == 4
    assert len(joined(ring(corners, list("abcdef")), by_name=True)) == 6


@pytest.mark.parametrize(
    ("edge", "length", "angle", "radius", "reach", "why"),
    [
        ("e0", 1.0, math.pi / 2, 2.0, Reach(), "all bend"),
        ("e0", 20.0, 0.0, 2.0, Reach(), "more than nothing"),
        ("e0", 20.0, 1.0, -1.0, Reach(), "not less than nothing"),
        ("e9", 20.0, 1.0, 1.0, Reach(), "not there"),
        ("e0", 20.0, 1.0, 1.0, Reach(30.0, 40.0), "from 30 to 20 mm on an edge of 60 mm"),
        ("e0", 20.0, 1.0, 1.0, Reach(width=61.0), "edge of 60 mm"),
        ("e0", 90.0, 3.0, 60.0, Reach(), "takes 61 mm of the panel, and the edge beside it is only 40 mm"),
    ],
)  # fmt: skip
def test_flanges_that_cannot_be_say_why(edge, length, angle, radius, reach, why):
    with pytest.raises(BadInput, match=why):
        leg(plate(1.0, 60, 40), "p", edge, "f", length, angle, radius, KFactor(), reach=reach)

"""Parts of sheet metal through their steps: lengths by hand, picks kept, unfolded and refolded, refused in words."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vireo.core.kernel.measure import box_of, volume_of
from vireo.core.naming import resolve
from vireo.core.naming.pick import Pick
from vireo.core.panels.loops import inside
from vireo.core.part.products.sheets import SHEETS
from vireo.core.part.state import topology_by_key
from vireo.core.samples.maker import Maker
from vireo.core.samples.ways import boxed, circle, line
from vireo.core.sheet.blanks import flattened
from vireo.script.sketch import Sketch


def sheet_of(m, id=None):
    found = m.build()
    return SHEETS.current(found.state, id or next(iter(found.bodies))).load()


def plated(w=100.0, h=60.0, t="1.5 mm", **more):
    m = Maker()
    m.step("sheet_plate", sketch=m.sketch(boxed(w, h)), thickness=t, **{"radius": "2 mm", **more})
    return m


def edge(m, x, y, z, body=None):
    """The pick of the straight edge whose middle is nearest to a place."""
    t = m.topology(body)
    lines = [e for e in t.edges if e.kind == "line"]
    at = min(lines, key=lambda e: math.dist(e.at, (x, y, z))).at
    return m.pick("edge", lambda e: e.kind == "line" and e.at == at, body)


def trouble(m):
    return next((s.error.text for s in m.build().steps if s.error), "")


@settings(max_examples=15, deadline=None)
@given(
    st.integers(5, 175), st.sampled_from([0.0, 0.3, 1.0, 2.0, 6.0, 15.0]), st.sampled_from([0.8, 1.5, 3.0]),
    st.integers(25, 60), st.sampled_from(["k", "din"]), st.sampled_from(["outer", "inner", "flat"]), st.booleans(),
)  # fmt: skip
def test_the_blank_of_a_bent_strip_is_the_length_by_hand(angle, r, t, leg, lengths, measure, under):
    """Both legs less their setbacks, and the bend by the rule, written out here once more."""
    m = plated(100, 30, f"{t} mm", radius=f"{r} mm", lengths=lengths)
    m.step("sheet_flange", edges=edge(m, 100, 15, 0 if under else t), length=f"{leg} mm", angle=f"{angle} deg",
           measure=measure)  # fmt: skip
    turn = math.radians(angle)
    tangent = math.tan(min(turn, math.pi / 2) / 2)
    side = {"outer": r + t, "inner": r, "flat": 0.0}[measure] * tangent
    k = 0.44
    if lengths == "din":
        factor = 0.0 if r == 0 else min(1.0, max(0.0, 0.65 + 0.5 * math.log10(r / t)))
        k = factor / 2
    bend = max(turn * (r + k * t), 1e-4)
    if lengths == "din" and angle < 15:
        bend = 2 * (r + t) * math.tan(turn / 2)
    made = sheet_of(m)
    flat = flattened(made)
    assert flat.size == pytest.approx((100 - (r + t) * tangent + bend + leg - side, 30.0), abs=1e-6)
    (told,) = flat.bends
    assert told.up != under
    assert told.angle == pytest.approx(angle)
    # And as high as a leg measured outside is to be.
    if measure == "outer" and angle >= 90.0:
        low, high = box_of(made.body().shape)
        assert high[2] - low[2] >= t


@given(st.sampled_from(["top", "bottom"]), st.floats(-180, 180))
@settings(max_examples=10, deadline=None)
def test_a_blank_seen_from_behind_or_turned_is_the_same_blank(side, turn):
    m = plated()
    m.step("sheet_flange", edges=[*edge(m, 100, 30, 1.5), *edge(m, 50, 0, 1.5)], length="20 mm")
    made = sheet_of(m)
    first, other = flattened(made), flattened(made, side, turn)
    assert other.outline.area == pytest.approx(first.outline.area)
    assert other.outline.cut == pytest.approx(first.outline.cut)
    assert [b.length for b in other.bends] == pytest.approx([b.length for b in first.bends])
    assert [b.up for b in other.bends] == [b.up == (side == "top") for b in first.bends]
    xs = [p for loop in other.outline.loops for s in loop for p in s.points()]
    assert np.min(xs, axis=0) == pytest.approx((0.0, 0.0), abs=1e-9)


def test_unfolded_cut_and_refolded_is_what_cut_in_the_flat_is():
    """Unfolding and refolding alone gives the same solid; a hole made in between lies in the bend."""
    m = plated()
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="25 mm", angle="70 deg")
    before = volume_of(m.body()[1].shape)
    m.step("sheet_unfold")
    flat = sheet_of(m)
    area = flattened(flat).outline.area
    assert volume_of(m.body()[1].shape) == pytest.approx(area * 1.5)
    low, high = box_of(m.body()[1].shape)
    assert high[2] - low[2] == pytest.approx(1.5, abs=1e-6)
    m.step("sheet_refold")
    assert volume_of(m.body()[1].shape) == pytest.approx(before, abs=1e-6)
    # Across the bend, in the plane it lies in now.
    m.part = m.part.model_copy(update={"steps": m.part.steps[:-1], "marker": None})
    m.step("sheet_cut", sketch=m.sketch(circle(6.0, 99.0, 30.0)))
    m.step("sheet_refold")
    assert trouble(m) == ""
    assert flattened(sheet_of(m)).outline.area == pytest.approx(area - math.pi * 36, abs=1e-6)
    other = plated()
    other.step("sheet_flange", edges=edge(other, 100, 30, 1.5), length="25 mm", angle="70 deg")
    other.step("sheet_cut", sketch=other.sketch(circle(6.0, 99.0, 30.0)), way="flat")
    assert volume_of(other.body()[1].shape) == pytest.approx(volume_of(m.body()[1].shape), rel=1e-9)


def test_a_flange_reaches_up_to_a_face_and_a_slanted_one():
    for turn, axis, near in ((0, "X", 4), (20, "Y", 4), (20, "X", 2)):
        m = plated()
        m.step("primitive", form="box", width="300 mm", depth="300 mm", height="10 mm", x="-50 mm", y="-100 mm",
               z="40 mm", result="new")  # fmt: skip
        if turn:
            m.step("move_body", bodies=["b_s3"], angle=f"{turn} deg", axis=axis)
        under = next(i for i, f in enumerate(m.topology("b_s3").faces) if f.name == "s3/under")
        from vireo.core.naming import make_pick

        face = make_pick(m.topology("b_s3"), "b_s3", "face", under).model_dump(mode="json")
        m.step(
            "sheet_flange",
            edges=edge(m, 50, 0, 1.5, "b_s2"),
            reach="face",
            upto=[face],
            short="2 mm",
        )
        assert trouble(m) == ""
        plane = m.topology("b_s3").faces[under]
        points = [np.array(v.at) for v in m.topology("b_s2").vertices]
        off = [float((np.array(plane.origin) - p) @ -np.array(plane.direction)) for p in points]
        assert min(off) == pytest.approx(2.0, abs=1e-6)
        # At both ends of the edge it comes that near, of a face that leans away only on one side.
        assert sum(abs(v - 2.0) < 1e-6 for v in off) == near


def test_a_joggle_rises_by_its_height_and_a_fold_keeps_what_it_hangs_on():
    m = plated(120, 40)
    m.step("sheet_joggle", sketch=m.sketch(line((60, -5), (60, 45))), height="7 mm", angle="55 deg")
    low, high = box_of(m.body()[1].shape)
    assert high[2] - low[2] == pytest.approx(7 + 1.5, abs=1e-6)
    assert flattened(sheet_of(m)).size == pytest.approx((120, 40))
    for measure, more in (("outer", 0.0), ("inner", 3.0)):
        m.do("edit_step", id="s4", fields={"measure": measure, "height": "8 mm"})
        low, high = box_of(m.body()[1].shape)
        assert high[2] - low[2] == pytest.approx(8 + more, abs=1e-6)
    m.do("edit_step", id="s4", fields={"height": "1 mm", "measure": "face"})
    assert "smaller angle or radius" in trouble(m)
    m = plated(120, 40)
    m.step("sheet_flange", edges=edge(m, 120, 20, 1.5), length="60 mm")
    plane = {"base": "YZ", "face": None, "offset": {"formula": "120 mm"}}
    m.sketch(line((-5, 40), (45, 40)), plane)
    m.step("sheet_fold", sketch="s4", angle="90 deg")
    assert trouble(m) == ""
    # The upper end of the wall turned; the plate stands where it stood.
    low, high = box_of(m.body()[1].shape)
    assert low[0] == pytest.approx(0.0, abs=1e-6)
    assert abs(high[2] - 40.0) < 4
    m.do("edit_step", id="s5", fields={"other": True})
    assert trouble(m) == ""
    low, high = box_of(m.body()[1].shape)
    assert high[2] == pytest.approx(60.0, abs=1e-6)


def test_two_hands_become_one_and_a_plate_is_joined_flush():
    m = plated(60, 40)
    m.step("sheet_flange", edges=edge(m, 60, 20, 1.5), length="20 mm")
    half = m.build().volume
    m.step("sheet_join", plane="YZ")
    assert trouble(m) == ""
    assert m.build().volume == pytest.approx(2 * half, rel=1e-9)
    assert len(flattened(sheet_of(m)).bends) == 2
    ear = Sketch()
    ear.box(-10, 40, 10, 55)
    m.step("sheet_plate", sketch=m.sketch(ear), result="join")
    assert trouble(m) == ""
    assert m.build().volume == pytest.approx(2 * half + 20 * 15 * 1.5, rel=1e-9)
    far = Sketch()
    far.box(200, 200, 210, 210)
    m.step("sheet_plate", sketch=m.sketch(far), result="join")
    assert "does not touch" in trouble(m)


def test_hems_are_as_thick_and_long_as_they_are_asked():
    for fields, high in (
        ({"form": "closed"}, 2 * 1.5 + 2 * 0.02 * 1.5), ({"form": "open", "gap": "2 mm"}, 2 * 1.5 + 2.0),
    ):  # fmt: skip
        m = plated()
        m.step("sheet_hem", edges=edge(m, 100, 30, 1.5), length="9 mm", **fields)
        low, top = box_of(m.body()[1].shape)
        assert top[2] - low[2] == pytest.approx(high, abs=1e-6)
        # Its outermost line lies in the edge.
        assert top[0] == pytest.approx(100.0, abs=1e-6)
    m = plated()
    m.step(
        "sheet_hem",
        edges=edge(m, 100, 30, 1.5),
        form="teardrop",
        length="12 mm",
        radius="3 mm",
        gap="0.5 mm",
    )
    assert trouble(m) == ""
    # The end of the lip is the gap above the sheet: lowest of what its inside face holds.
    lip = next(f for f in m.topology().faces if "/panel/" in f.name and f.name.endswith("/top"))
    far = [
        v.at[2]
        for v in m.topology().vertices
        if lip.name in {m.topology().faces[k].name for k in v.faces}
    ]
    assert min(far) == pytest.approx(1.5 + 0.5, abs=1e-6)


CHANGES = [("s2", {"thickness": "2 mm"}), ("s2", {"radius": "4 mm"}), ("s3", {"length": "33 mm"}),
           ("s3", {"angle": "60 deg"}), ("s3", {"flip": True}), ("s3", {"position": "beyond"}),
           ("s4", {"wide": "50 mm"}), ("s2", {"lengths": "din"}), ("s2", {"side": "down"})]  # fmt: skip


@pytest.mark.parametrize(
    ("step", "fields"), CHANGES, ids=[f"{s}-{next(iter(v))}" for s, v in CHANGES]
)
def test_picks_stay_on_what_they_meant(step, fields):
    """Every face, edge and corner of a box with a lip is found again by its own name after a change."""
    m = plated()
    around = [p for at in ((50, 0), (100, 30), (50, 60), (0, 30)) for p in edge(m, *at, 1.5)]
    m.step("sheet_flange", edges=around, length="25 mm")
    m.step("sheet_flange", edges=edge(m, 50, 0, 25), length="10 mm", width="centred", wide="40 mm")
    m.step("sheet_cut", sketch=m.sketch(circle(6.0, 40.0, 30.0)))
    assert trouble(m) == ""
    key, body = m.body()
    t = topology_by_key(key, body)
    from vireo.core.naming import make_pick

    picks = [
        make_pick(t, "b_s2", kind, i)
        for kind, group in (("face", t.faces), ("edge", t.edges), ("vertex", t.vertices))
        for i in range(len(group))
    ]
    names = {p: p.name for p in picks}
    m.do("edit_step", id=step, fields=fields)
    assert trouble(m) == ""
    now = m.topology()
    for pick in picks:
        found = resolve(Pick.model_validate(pick), now)
        assert found.index is not None, pick.name
        assert now.names[pick.kind][found.index] == names[pick]


@pytest.mark.parametrize(
    ("make", "why"),
    [
        (lambda m: m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="2 mm"), "all bend"),
        (lambda m: m.step("sheet_flange", edges=edge(m, 100, 60, 0.75), length="20 mm"), "long edge"),
        (lambda m: m.step("sheet_cut", sketch=m.sketch(circle(5.0, 300, 300))), "over no flat piece"),
        (lambda m: m.step("sheet_fold", sketch=m.sketch(line((200, 0), (200, 50)))), "over no flat piece"),
        (lambda m: m.step("sheet_unfold"), "no bends yet"),
        (lambda m: m.step("sheet_refold"), "none of these bends lies flat"),
        (lambda m: m.step("sheet_hem", edges=edge(m, 100, 30, 1.5), form="rolled", length="8 mm"), "run into itself"),
        (lambda m: m.step("sheet_join", plane="YZ", what="sheets"), "choose the two sheets"),
        (lambda m: m.step("sheet_cut", sketch=m.sketch(boxed(4, 100, (50, -10)))), "into 2 pieces"),
    ],
)  # fmt: skip
def test_what_cannot_be_says_why(make, why):
    m = plated()
    make(m)
    assert why in trouble(m)


def test_a_solid_step_on_a_sheet_ends_it_and_later_steps_say_so():
    m = plated()
    m.step(
        "fillet",
        edges=m.pick("edge", lambda e: abs(e.at[2] - 0.75) < 1e-6 and e.length < 2),
        radius="5 mm",
    )
    assert trouble(m) == ""
    found = m.build()
    assert not found.bodies["b_s2"]["sheet"]
    assert "no sheet any more" in found.steps[-1].notes[0].text
    assert m.build().steps[-1].notes == found.steps[-1].notes
    m.step("sheet_unfold", into=["b_s2"])
    assert "no longer a sheet" in trouble(m)


def test_what_cannot_be_made_is_told_with_its_place_and_what_would_do():
    """A box that can be made is clear; each fault by numbers worked out here: the die of 9 mm for 1.5 mm bears on
    a leg of 1.05 x 4.5 / cos 45; a hole keeps 2 t + r off."""
    from vireo.core.sheet.rules.kind import faults_of

    m = plated()
    around = [p for at in ((50, 0), (100, 30), (50, 60), (0, 30)) for p in edge(m, *at, 1.5)]
    m.step("sheet_flange", edges=around, length="25 mm")
    assert faults_of(sheet_of(m)) == []
    m = plated()
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="6.6 mm")
    (leg,) = faults_of(sheet_of(m))
    assert (leg.rule, leg.mend) == ("leg", "make it at least 6.68 mm")
    m.do("edit_step", id="s3", fields={"length": "6.7 mm"})
    assert faults_of(sheet_of(m)) == []
    m.step("sheet_flange", edges=edge(m, 50, 0, 1.5), length="20 mm", width="centred", wide="30 mm")
    assert faults_of(sheet_of(m)) == []
    # The bend begins 3.5 mm inside: a hole of 3 mm radius with its middle at 11 leaves 4.5 mm, at 12 more than 5.
    hole = m.sketch(circle(3.0, 50, 11))
    m.step("sheet_cut", sketch=hole)
    (near,) = faults_of(sheet_of(m))
    assert (near.rule, near.mend) == ("hole", "keep it 5 mm off, or cut it through the bend")
    assert near.text.startswith("a hole 4.5 mm from")
    m = plated(relief="none")
    m.step("sheet_flange", edges=edge(m, 50, 0, 1.5), length="20 mm", width="ends", start="10 mm", end="0 mm",
           position="beyond")  # fmt: skip
    (torn,) = faults_of(sheet_of(m))
    assert torn.rule == "relief"
    m = plated()
    m.step("sheet_cut", sketch=m.sketch(circle(5.0, 50, 30)))
    m.step("sheet_cut", sketch=m.sketch(circle(5.0, 61.2, 30)))
    (web,) = faults_of(sheet_of(m))
    assert web.rule == "web"
    assert web.at[0] == pytest.approx(55.6, abs=0.7)


def test_a_spiral_of_walls_is_seen_to_lie_on_itself_in_the_flat():
    from vireo.core.sheet.rules.kind import faults_of

    m = plated(60, 40)
    m.step("sheet_flange", edges=edge(m, 60, 20, 1.5), length="70 mm")
    m.step("sheet_flange", edges=edge(m, 60, 0, 40), length="60 mm", angle="90 deg")
    assert trouble(m) == ""
    flat = flattened(sheet_of(m))
    assert flat.laps == ()
    m.step("sheet_flange", edges=edge(m, 30, 0, 1.5), length="60 mm", position="beyond", flip=True)
    m.step("sheet_flange", edges=edge(m, 60, -1, -30), length="20 mm")
    assert trouble(m) == ""
    (lap,) = flattened(sheet_of(m)).laps
    assert lap.area > 100
    assert "lap" in {f.rule for f in faults_of(sheet_of(m))}


@settings(max_examples=12, deadline=None)
@given(
    st.sampled_from([30, 60, 90, 120]), st.sampled_from([0.5, 2.0, 5.0]), st.booleans(),
    st.floats(60, 118), st.floats(-2, 45), st.floats(3, 9), st.sampled_from(["XY", "YZ"]), st.booleans(),
    st.integers(0, 2**30),
)  # fmt: skip
def test_a_cut_from_space_takes_what_lies_under_it_on_either_face(
    angle, r, down, x, y, size, plane, square, seed
):  # fmt: skip
    """Through plate, bend and wall, from above and from the side: a place of the sheet is gone just when it is
    within the tool on its one face or its other."""
    m = plated(100, 40, radius=f"{r} mm")
    m.step(
        "sheet_flange",
        edges=edge(m, 100, 20, 0.0 if down else 1.5),
        length="30 mm",
        angle=f"{angle} deg",
    )
    before = sheet_of(m)
    # A hole that touches a rim and does not cut it leaves no solid: rarely so with odd places.
    u, v = (x + 0.2113, y + 0.1377) if plane == "XY" else (y + 0.1377, x - 85.2113)
    drawn = boxed(2 * size, size, (u - size, v)) if square else circle(size, u, v)
    sketch = m.sketch(drawn, {"base": plane, "face": None})
    m.step("sheet_cut", sketch=sketch, way="through")
    told = trouble(m)
    at, dice = before.places(), np.random.default_rng(seed)

    def within(p):
        a, b = (p[0], p[1]) if plane == "XY" else (p[1], p[2])
        if square:
            return abs(a - u) < size and v < b < v + size
        return math.hypot(a - u, b - v) < size

    def near(p):
        a, b = (p[0], p[1]) if plane == "XY" else (p[1], p[2])
        off = abs(math.hypot(a - u, b - v) - size)
        if square:
            off = min(abs(abs(a - u) - size), abs(b - v), abs(b - v - size))
        return off < 0.02

    after = sheet_of(m) if not told else before
    seen = False
    patches = {**before.sheet.panels, **before.sheet.bends}
    now = {**after.sheet.panels, **after.sheet.bends}
    for id, patch in patches.items():
        corners = np.array([s.a for lp in patch.loops for s in lp])
        for p in dice.uniform(corners.min(axis=0) + 0.01, corners.max(axis=0) - 0.01, (300, 2)):
            spots = [at[id].at(tuple(p), h) for h in (0.0, 1.5)]
            if any(map(near, spots)):
                continue
            gone = any(map(within, spots))
            seen = seen or gone
            if not told:
                assert inside(tuple(p), now[id].loops) != gone, (id, p)
    if told:
        # Refused where it parts the sheet, or where it goes by.
        assert ("pieces" in told) or (not seen and "meets nothing" in told) or "hangs on" in told, (
            told
        )


def test_an_opening_cut_straight_through_a_box_goes_through_both_walls():
    m = plated()
    around = [p for at in ((50, 0), (100, 30), (50, 60), (0, 30)) for p in edge(m, *at, 1.5)]
    m.step("sheet_flange", edges=around, length="30 mm")
    before = m.build().volume
    hole = m.sketch(circle(5.0, 30.0, 15.0), {"base": "YZ", "face": None})
    m.step("sheet_cut", sketch=hole, way="through")
    assert trouble(m) == ""
    assert m.build().volume == pytest.approx(before - 2 * math.pi * 25 * 1.5, rel=1e-9)
    m.do("edit_step", id=m.part.steps[-1].id, fields={"toward": "ahead"})
    # The plane lies in the outer face of the left wall: ahead of it are both.
    assert m.build().volume == pytest.approx(before - 2 * math.pi * 25 * 1.5, rel=1e-9)
    m.do("edit_step", id=hole, fields={"plane": {"base": "YZ", "offset": {"formula": "50 mm"}}})
    assert m.build().volume == pytest.approx(before - math.pi * 25 * 1.5, rel=1e-9)


@pytest.mark.parametrize(
    ("kind", "fields", "own"),
    [
        ("move_body", {"x": "30 mm", "angle": "37 deg", "axis": "X"}, "b_s2"),
        ("move_body", {"z": "50 mm", "copy_": True}, "b_s4"),
        ("mirror", {"what": "bodies", "plane": "YZ"}, "b_s4_mirror"),
        ("copies_linear", {"what": "bodies", "count": "2", "spacing": "150 mm"}, "b_s4_2"),
    ],
)
def test_a_sheet_that_is_moved_or_copied_stays_one(kind, fields, own):
    """Its tree stands where its solid does, faces are called alike; and it goes on."""
    m = plated()
    m.step("sheet_flange", edges=[*edge(m, 100, 30, 1.5), *edge(m, 50, 0, 1.5)], length="20 mm")
    before = flattened(sheet_of(m))
    m.step(kind, bodies=["b_s2"], **fields)
    assert trouble(m) == ""
    assert m.build().bodies[own]["sheet"]
    made, solid = sheet_of(m, own), m.body(own)[1]
    again = made.body()
    for one, two in zip(box_of(again.shape), box_of(solid.shape), strict=True):
        assert one == pytest.approx(two, abs=1e-6)
    assert volume_of(again.shape) == pytest.approx(volume_of(solid.shape), rel=1e-9)
    assert sorted(again.names) == sorted(solid.names)
    at = {n: f.at for n, f in zip(solid.names, m.topology(own).faces, strict=True)}
    from vireo.core.kernel.measure import topology_of

    for face in topology_of(again).faces:
        assert face.at == pytest.approx(at[face.name], abs=1e-6)
    assert flattened(made).outline.area == pytest.approx(before.outline.area)
    m.step("sheet_unfold", into=[own])
    assert trouble(m) == ""


def test_a_sheet_that_is_scaled_is_none_any_more():
    m = plated()
    m.step("scale_body", bodies=["b_s2"], factor="2")
    assert trouble(m) == ""
    assert not m.build().bodies["b_s2"]["sheet"]


def test_reliefs_that_cross_in_a_corner_are_said_to():
    m = plated(153, 78, "2 mm")
    corner = [*edge(m, 76.5, 78, 0), *edge(m, 153, 39, 0)]
    m.step("sheet_flange", edges=corner, length="43 mm", angle="165 deg", position="outside", width="ends",
           start="3 mm", end="2 mm")  # fmt: skip
    assert "cross each other" in trouble(m)
    m.do("edit_step", id="s3", fields={"width": "full", "angle": "90 deg"})
    assert trouble(m) == ""


def test_a_sharp_bend_is_looked_at_alone_too():
    """Two sharp walls whose boxes meet: whether they run into each other is told, not failed over."""
    m = plated(radius="0 mm")
    m.step("sheet_flange", edges=edge(m, 100, 30, 1.5), length="25 mm", angle="165 deg")
    m.step("sheet_flange", edges=edge(m, 50, 0, 1.5), length="25 mm", angle="165 deg")
    assert "run into itself" in trouble(m)
    m.do("edit_step", id="s4", fields={"width": "ends", "start": "0 mm", "end": "30 mm"})
    assert "kernel" not in trouble(m)

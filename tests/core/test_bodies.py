"""Shells, offsets, drafts, deleted faces, primitives, copies, combined and split bodies."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.parts import Maker, block, near, upright
from tests.core.test_grow import boxed, names, trouble, volume
from vireo.script.sketch import Sketch as Sketcher


def up(f) -> bool:
    return f.kind == "plane" and f.direction[2] > 0.99


def down(f) -> bool:
    return f.kind == "plane" and f.direction[2] < -0.99


def brick(x=60.0, y=40.0, z=10.0) -> Maker:
    m = Maker()
    m.step("primitive", width=f"{x} mm", depth=f"{y} mm", height=f"{z} mm")
    return m


# --- primitives


@pytest.mark.parametrize(
    ("form", "sizes", "exact"),
    [
        ("box", {"width": "4 mm", "depth": "5 mm", "height": "6 mm"}, 120),
        ("cylinder", {"diameter": "10 mm", "height": "7 mm"}, 175 * math.pi),
        (
            "cone",
            {"diameter": "10 mm", "top": "4 mm", "height": "9 mm"},
            math.pi * 3 * (25 + 10 + 4),
        ),
        ("cone", {"diameter": "10 mm", "top": "0 mm", "height": "9 mm"}, math.pi * 75),
        ("sphere", {"diameter": "10 mm"}, 4 / 3 * math.pi * 125),
        ("torus", {"diameter": "30 mm", "tube": "8 mm"}, 2 * math.pi**2 * 15 * 16),
        ("wedge", {"width": "12 mm", "depth": "5 mm", "height": "6 mm", "ridge": "4 mm"}, 8 * 30),
    ],
)
def test_plain_solids_have_their_volumes_and_stand_where_they_should(form, sizes, exact):
    m = Maker()
    m.step("primitive", form=form, x="7 mm", z="3 mm", **sizes)
    assert volume(m) == pytest.approx(exact, rel=1e-9)
    if form in ("box", "wedge", "cylinder", "cone"):
        low = min(v.at[2] for v in m.topology().vertices)
        assert low == pytest.approx(3)
    if form in ("box", "wedge"):
        assert min(v.at[1] for v in m.topology().vertices) == pytest.approx(0)
        assert len(names(m)) == 6


def test_plain_solids_refuse_what_they_cannot_be():
    m = Maker()
    k = m.step("primitive", form="torus", diameter="10 mm", tube="12 mm")
    assert "thinner" in trouble(m).text
    m.do("edit_step", id=k, fields={"form": "cone", "top": "10 mm"})
    assert "cylinder" in trouble(m).text
    m.do("edit_step", id=k, fields={"top": "-1 mm"})
    assert "at least 0" in trouble(m).text


# --- shell


@given(st.floats(0.5, 4.5), st.sampled_from(["in", "out", "both"]), st.booleans())
@settings(max_examples=12, deadline=None)
def test_a_shelled_box_has_its_closed_form(t, grow, opened):
    m = brick()
    top = m.pick("face", up) if opened else []
    m.step("shell", open=top, wall=f"{t!r} mm", grow=grow)
    a, b = {"in": (0, t), "out": (t, 0), "both": (t / 2, t / 2)}[grow]

    def room(d):  # the box moved by d on all sides but the open one
        return (60 + 2 * d) * (40 + 2 * d) * (10 + d * (1 if opened else 2))

    assert volume(m) == pytest.approx(room(a) - room(-b), rel=1e-9)


def test_a_shell_names_its_faces_takes_other_walls_and_says_what_fits():
    m = brick()
    side = m.pick("face", lambda f: f.kind == "plane" and f.direction[0] > 0.99)
    k = m.step("shell", open=m.pick("face", up), wall="2 mm", others=side, other="5 mm")
    assert volume(m) == pytest.approx(24000 - 53 * 36 * 8)
    found = names(m)
    assert {"s1/front", "s2/inner/s1/front", "s2/rim/s1/top"} <= found
    m.do("edit_step", id=k, fields={"wall": "3 mm"})
    assert volume(m) == pytest.approx(24000 - 52 * 34 * 7)
    m.do("edit_step", id=k, fields={"wall": "25 mm", "others": []})
    error = trouble(m)
    assert "largest that works" in error.text
    offered = float(error.offers[0].fields["wall"].split()[0])
    assert 9 < offered < 20.01  # open above: the floor may be as thick as the box but one edge
    m.do("edit_step", id=k, fields=error.offers[0].fields)
    assert volume(m) < 24000
    m.do("edit_step", id=k, fields={"open": side, "others": side})
    assert "cannot be open" in trouble(m).text
    every = brick()
    every.step("shell", open=every.pick("face", lambda f: True), wall="1 mm")
    assert "nothing is left" in trouble(every).text


# --- faces


def test_a_bore_is_widened_by_a_parameter_and_a_chain_moves_as_one():
    m = block(holes=((20.0, 20.0),))
    m.step("hole", sketch="s1", bore="16 mm")
    m.do("add_parameter", name="fit", formula="0.2 mm")
    wall = m.pick("face", lambda f: f.kind == "cylinder")
    k = m.step("offset_faces", faces=wall, by="-fit")
    assert volume(m) == pytest.approx(24000 - math.pi * 8.2**2 * 10)
    m.do("edit_parameter", name="fit", formula="0.5 mm")
    assert volume(m) == pytest.approx(24000 - math.pi * 8.5**2 * 10)
    m.do("edit_step", id=k, fields={"by": "20 mm"})
    assert "largest that works" in trouble(m).text
    m = block()
    m.step("fillet", edges=m.pick("edge", upright), radius="3 mm")
    side = m.pick("face", lambda f: f.kind == "plane" and f.direction[0] > 0.99)
    m.step("offset_faces", faces=side, by="1 mm")
    found = m.build()
    assert "run on smoothly" in found.steps[-1].notes[0].text
    rounding = (4 - math.pi) * 16
    assert found.volume == pytest.approx((62 * 42 - rounding) * 10)


def test_faces_are_taken_away_and_what_cannot_be_says_why():
    m = block(holes=((20.0, 20.0),))
    m.step("hole", sketch="s1", bore="16 mm")
    m.step("fillet", edges=m.pick("edge", upright), radius="3 mm")
    k = m.step(
        "delete_faces", faces=m.pick("face", lambda f: f.kind == "cylinder" and f.radius > 5)
    )
    assert volume(m) == pytest.approx(24000 - (4 - math.pi) * 9 * 10)
    m.do("edit_step", id=k, fields={"faces": m.pick("face", lambda f: f.name == "s2/cap/end")})
    error = trouble(m)
    assert "cannot be taken away" in error.text


@given(st.floats(-15, 15))
@settings(max_examples=12, deadline=None)
def test_drafted_sides_make_a_frustum(angle):
    if abs(angle) < 0.05:
        return
    m = brick(50, 30, 20)
    sides = m.pick("face", lambda f: f.kind == "plane" and abs(f.direction[2]) < 0.01)
    m.step("draft", faces=sides, angle=f"{angle!r} deg", height="5 mm")

    def area(z):
        t = 2 * (z - 5) * math.tan(math.radians(angle))
        return (50 - t) * (30 - t)

    exact = 20 / 6 * (area(0) + 4 * area(10) + area(20))
    assert volume(m) == pytest.approx(exact, rel=1e-9)
    assert names(m) == {f"s1/{n}" for n in ("left", "right", "front", "back", "top", "under")}


def test_a_draft_about_a_face_and_after_fillets():
    m = brick(50, 30, 20)
    front = m.pick("face", lambda f: f.kind == "plane" and f.direction[1] < -0.99)
    m.step("draft", faces=front, angle="5 deg", about="face", face=m.pick("face", up))
    # The top keeps its outline; below, the face leans inwards the way it is pulled.
    assert volume(m) == pytest.approx(30000 - 50 * 20 * 20 * math.tan(math.radians(5)) / 2)
    m = block()
    m.step("fillet", edges=m.pick("edge", upright), radius="3 mm")
    side = m.pick("face", lambda f: f.kind == "plane" and f.direction[0] > 0.99)
    m.step("draft", faces=side, angle="4 deg")
    assert "run on smoothly from the chosen ones leant along" in m.build().steps[-1].notes[0].text


# --- copies


def bored_row() -> tuple[Maker, str]:
    m = brick(120, 40, 10)
    s = Sketcher()
    s.point(10, 20)
    sketch = m.sketch(s)
    return m, m.step("hole", sketch=sketch, bore="6 mm")


def test_steps_are_done_again_in_rows_with_skips_and_formulas():
    m, hole = bored_row()
    m.do("add_parameter", name="n", formula="5")
    k = m.step("copies_linear", steps=[hole], count="n", spacing="20 mm")
    bore = 9 * math.pi * 10
    assert volume(m) == pytest.approx(48000 - 5 * bore)
    assert {f"{k}/{i}/{hole}/p1/wall" for i in range(2, 6)} <= names(m)
    wall = m.pick("face", lambda f: f.name == f"{k}/4/{hole}/p1/wall")
    m.do("edit_parameter", name="n", formula="6")
    assert volume(m) == pytest.approx(48000 - 6 * bore)
    m.do("edit_step", id=k, fields={"skips": [3]})
    assert volume(m) == pytest.approx(48000 - 5 * bore)
    assert m.pick("face", lambda f: f.name == wall[0]["name"][0])
    m.do("edit_step", id=k, fields={"skips": [], "count": "3", "spacing": "100 mm", "measure": "whole",
                                    "count2": "2", "way2": "Y", "spacing2": "12 mm"})  # fmt: skip
    assert volume(m) == pytest.approx(48000 - 6 * bore)
    m.do("edit_step", id=k, fields={"spacing": "0 mm"})
    assert "one another" in trouble(m).text
    m.do("edit_step", id=k, fields={"count": "2.5"})
    assert "whole number" in trouble(m).text
    m.do("edit_step", id=k, fields={"count": "3", "spacing": "20 mm", "steps": ["s1", "s2"]})
    assert "cannot be copied" in trouble(m).text


def test_copies_round_an_axis_and_about_a_picked_bore():
    m = Maker()
    m.step("primitive", form="cylinder", diameter="100 mm", height="8 mm")
    s = Sketcher()
    s.point(35, 0)
    hole = m.step("hole", sketch=m.sketch(s), bore="10 mm")
    k = m.step("copies_circular", steps=[hole], count="6")
    exact = math.pi * (2500 - 6 * 25) * 8
    assert volume(m) == pytest.approx(exact)
    rim = m.pick("face", lambda f: f.kind == "cylinder" and f.radius > 40)
    m.do(
        "edit_step",
        id=k,
        fields={"axis": "pick", "axis_pick": rim, "angle": "180 deg", "count": "4"},
    )
    assert volume(m) == pytest.approx(math.pi * (2500 - 4 * 25) * 8)


def test_a_mirror_copies_bodies_and_steps_and_adds_them():
    m = Maker()
    m.step("primitive", width="20 mm", depth="10 mm", height="5 mm")
    k = m.step("mirror", what="bodies")
    assert len(m.build().bodies) == 2
    m.do("edit_step", id=k, fields={"result": "add"})
    assert volume(m) == pytest.approx(2000)
    assert len(m.topology().faces) == 6  # flush faces became one
    m = brick()
    lug = m.step("extrude", sketch=m.sketch(boxed(6, 8, (2, 3))), depth="14 mm", result="add")
    right = m.pick("face", lambda f: f.kind == "plane" and f.direction[0] > 0.99 and f.area > 300)
    k = m.step("mirror", what="steps", steps=[lug], plane="face", face=right)
    assert trouble(m).code == "nothing"  # beyond the face there is no body
    m.do("edit_step", id="s1", fields={"x": "-30 mm"})
    m.do("edit_step", id=k, fields={"plane": "YZ"})
    assert volume(m) == pytest.approx(24000 + 2 * 6 * 8 * 4)


def test_copies_at_points_of_a_sketch():
    m = brick(100, 60, 6)
    s = Sketcher()
    for p in ((10, 10), (40, 12), (70, 30), (20, 50)):
        s.point(*p)
    places = m.sketch(s)
    boss = m.step("primitive", form="cylinder", diameter="8 mm", height="10 mm", x="10 mm", y="10 mm",
                  result="add")  # fmt: skip
    m.step("copies_points", sketch=places, steps=[boss])
    assert volume(m) == pytest.approx(36000 + 4 * math.pi * 16 * 4)
    m.do("edit_step", id=m.part.steps[-1].id, fields={"skips": [2]})
    assert volume(m) == pytest.approx(36000 + 3 * math.pi * 16 * 4)


# --- whole bodies


def test_bodies_are_combined_split_moved_and_scaled():
    m = brick(40, 40, 10)
    m.step("primitive", form="cylinder", diameter="20 mm", height="30 mm", x="20 mm", y="20 mm")
    k = m.step("combine", operation="cut", target=["b_s1"], tools=["b_s2"], keep=True)
    bore = math.pi * 100 * 10
    assert m.build().bodies["b_s1"]["volume"] == pytest.approx(16000 - bore)
    assert len(m.build().bodies) == 2
    m.do("edit_step", id=k, fields={"keep": False})
    assert volume(m) == pytest.approx(16000 - bore)
    m.do("edit_step", id=k, fields={"operation": "overlap"})
    assert volume(m) == pytest.approx(bore)
    m.do("edit_step", id=k, fields={"operation": "add"})
    assert volume(m) == pytest.approx(16000 + math.pi * 100 * 20)
    s = m.step("split_body", by="XY", shift="10 mm")
    found = m.build()
    assert sorted(b["volume"] for b in found.bodies.values()) == pytest.approx(
        [math.pi * 100 * 20, 16000]
    )
    m.do("edit_step", id=s, fields={"keep": "front"})
    assert volume(m) == pytest.approx(math.pi * 100 * 20)
    m.do("edit_step", id=s, fields={"shift": "90 mm"})
    assert "misses" in trouble(m).text
    m.do("remove_step", id=s)
    m.step("move_body", x="5 mm", angle="90 deg", copy_=True)
    assert len(m.build().bodies) == 2
    m.step("scale_body", how="each", x="2", y="1", z="0.5")
    before = 2 * (16000 + math.pi * 100 * 20)
    assert volume(m) == pytest.approx(before, rel=1e-6)
    m.do("edit_step", id=m.part.steps[-1].id, fields={"how": "even", "factor": "1.1"})
    assert volume(m) == pytest.approx(before * 1.331)


def test_a_split_by_a_leaning_face_runs_on():
    m = block()
    m.step("chamfer", edges=m.pick("edge", lambda x: near(x.at, (30, 0, 10))), size="4 mm")
    (slope,) = m.pick(
        "face", lambda f: f.direction and near(f.direction, (0, -(0.5**0.5), 0.5**0.5))
    )
    m.step("primitive", width="60 mm", depth="40 mm", height="10 mm", z="10 mm")
    m.step("split_body", bodies=["b_s4"], by="face", face=[slope])
    # y - z = -6 leaves, in the box from z 10 to 20, below the plane: y > z - 6.
    pieces = sorted(b["volume"] for i, b in m.build().bodies.items() if i.startswith("b_s4"))
    front = 60 * (4 * 10 + 50)
    assert pieces == pytest.approx([front, 24000 - front])

"""Ribs, held and between fillets, aligned bodies, copies along curves, filling, growing."""

import math

import pytest

from tests.core.parts import Maker, block, near
from tests.core.test_bodies import brick, up
from tests.core.test_grow import boxed, names, trouble, volume
from tests.core.test_guided import circle, line
from vireo.script.sketch import Sketch as Sketcher

XZ = {"base": "XZ", "face": None}
YZ = {"base": "YZ", "face": None}


def angle_bar(w=60.0, leg=40.0, t=5.0) -> Maker:
    """An L: foot along X, leg along Z, w along Y."""
    m = Maker()
    m.step("primitive", form="box", width=f"{leg} mm", depth=f"{w} mm", height=f"{t} mm")
    m.step("primitive", form="box", width=f"{t} mm", depth=f"{w} mm", height=f"{leg} mm",
           result="add")  # fmt: skip
    return m


def mid(y: float) -> dict:
    return {"base": "XZ", "face": None, "offset": {"formula": f"{-y} mm"}}


def test_a_rib_fills_the_corner_and_stops_at_the_walls():
    m = angle_bar()
    s = m.sketch(line((10, 30), (30, 10)), mid(30))
    k = m.step("rib", sketch=s, thickness="4 mm")
    before = 40 * 60 * 5 + 35 * 60 * 5
    # The line x + z = 40 with the walls at 5: a right triangle with legs of 30.
    assert volume(m) == pytest.approx(before + 30 * 30 / 2 * 4)
    assert any(n.startswith(f"{k}/side/l") for n in names(m))
    m.do("edit_step", id=k, fields={"flip": True})
    assert "reaches out of the body" in trouble(m).text
    m.do("edit_step", id=k, fields={"flip": False})
    m.do("edit_step", id="s2", fields={"height": "80 mm"})
    assert volume(m) == pytest.approx(40 * 60 * 5 + 75 * 60 * 5 + 30 * 30 / 2 * 4)


def test_ribs_across_run_to_the_walls_of_a_tray():
    m = brick(60, 40, 20)
    m.step("shell", open=m.pick("face", up), wall="2 mm")
    s = m.sketch(line((20, 20), (40, 20)), {"base": "XY", "face": None,
                 "offset": {"formula": "12 mm"}})  # fmt: skip
    m.step("rib", sketch=s, thickness="3 mm", grows="across", flip=True)
    tray = 60 * 40 * 20 - 56 * 36 * 18
    assert volume(m) == pytest.approx(tray + 56 * 3 * 10)


def test_an_extrusion_up_to_a_body():
    m = brick(60, 40, 10)
    m.step("primitive", form="sphere", diameter="30 mm", x="30 mm", y="20 mm", z="50 mm")
    ball = next(b for b in m.build().bodies if b != "b_s1")
    s = m.sketch(boxed(4, 4, (28, 18)), {"base": "XY", "face": None,
                 "offset": {"formula": "10 mm"}})  # fmt: skip
    k = m.step("extrude", sketch=s, reach="body", stop=[ball], result="new")
    found = m.build()
    assert not [x.error for x in found.steps if x.error]
    top = max(v.at[2] for v in m.topology(f"b_{k}").vertices)
    assert top == pytest.approx(50 - math.sqrt(225 - 8), abs=1e-5)
    m.do("edit_step", id=k, fields={"stop": []})
    assert "choose the bodies" in trouble(m).text


def test_an_extrusion_up_to_a_plane_that_leans():
    m = brick(60, 40, 10)
    edge = m.pick("edge", lambda e: near(e.at, (0, 20, 10)))
    plane = m.step("plane", form="turned", face=m.pick("face", up), edge=edge, angle="20 deg")
    s = m.sketch(boxed(10, 10, (5, 15)))
    k = m.step("extrude", sketch=s, reach="plane", plane=f"step:{plane}", result="new")
    found = m.build()
    assert not [x.error for x in found.steps if x.error]
    # The plane goes through x = 0 at 10 and rises (or falls) with the tangent: mean at x = 10.
    slope = math.tan(math.radians(20))
    got = found.bodies[f"b_{k}"]["volume"] / 100 - 10
    assert abs(got) == pytest.approx(10 * slope, rel=1e-9)
    m.do("edit_step", id=k, fields={"short": "1 mm"})
    assert m.build().bodies[f"b_{k}"]["volume"] / 100 - 10 == pytest.approx(got - 1)
    m.do("edit_step", id=k, fields={"plane": "YZ"})
    assert trouble(m)


# --- fillets


def test_a_rounding_held_at_an_edge_ends_there():
    m = brick(60, 40, 20)
    s = m.sketch(line((5, 0), (15, 40)), {"base": "XY", "face": None,
                 "offset": {"formula": "30 mm"}})  # fmt: skip
    m.step("split_faces", faces=m.pick("face", up), by="sketch", sketch=s)
    hold = m.pick("edge", lambda e: near(e.at, (10, 20, 20)))
    edge = m.pick("edge", lambda e: near(e.at, (0, 20, 20)))
    k = m.step("fillet", edges=edge, form="held", hold=hold)
    # r goes evenly from 5 to 15 over 40 mm: (1 - pi/4) times the mean of r2.
    mean = (25 + 75 + 225) / 3
    assert volume(m) == pytest.approx(48000 - (1 - math.pi / 4) * mean * 40, rel=1e-4)
    m.do("edit_step", id=k, fields={"hold": m.pick("edge", lambda e: near(e.at, (60, 0, 10)))})
    assert "does not run along all of it" in trouble(m).text


def test_faces_rounded_into_each_other_with_one_between():
    m = brick(60, 40, 20)
    edge = m.pick("edge", lambda e: near(e.at, (30, 0, 20)))
    m.step("chamfer", edges=edge, size="3 mm")
    top = m.pick("face", up)
    front = m.pick("face", lambda f: f.kind == "plane" and f.direction[1] < -0.99)
    k = m.step("fillet", of="faces", one=top, two=front, radius="6 mm")
    assert volume(m) == pytest.approx(48000 - (1 - math.pi / 4) * 36 * 60)
    m.do("edit_step", id=k, fields={"radius": "50 mm"})
    assert "largest that works" in trouble(m).text
    back = m.pick("face", lambda f: f.kind == "plane" and f.direction[1] > 0.99)
    m.do("edit_step", id=k, fields={"radius": "2 mm", "one": back, "two": front})
    assert trouble(m)


def test_draft_both_ways_from_a_parting_plane():
    m = brick(40, 40, 20)
    sides = m.pick("face", lambda f: abs(f.direction[2]) < 0.01)
    m.step("draft", faces=sides, angle="5 deg", height="10 mm", both=True)
    small = 40 - 2 * 10 * math.tan(math.radians(5))
    half = 10 / 3 * (1600 + 40 * small + small**2)
    assert volume(m) == pytest.approx(2 * half)
    assert len(m.topology().faces) == 10


@pytest.mark.parametrize("rise", [0.0, 6.0, -9.0])
def test_draft_off_a_parting_line_keeps_the_line_and_leans_to_the_angle(rise):
    # The front face is split by a line that climbs by `rise`; both halves turn about it.
    m = brick(40, 30, 20)
    front = m.pick("face", lambda f: f.kind == "plane" and f.direction[1] < -0.99)
    line_of_parting = m.sketch(line((0, 10 - rise / 2), (40, 10 + rise / 2)), XZ)
    m.step("split_faces", faces=front, by="sketch", sketch=line_of_parting)
    split = m.pick("edge", lambda e: near(e.at, (20, 0, 10)))
    k = m.step("draft", by="line", edges=split, angle="8 deg", both=True)
    leaning = [f for f in m.topology().faces if f.name.startswith("s1/front")]
    assert sorted(f.direction[2] for f in leaning) == pytest.approx(
        [-math.sin(math.radians(8)), math.sin(math.radians(8))]
    )
    assert any(near(e.at, (20, 0, 10)) for e in m.topology().edges)
    if rise == 0.0:
        assert volume(m) == pytest.approx(24000 - 2 * 10 * 10 * math.tan(math.radians(8)) / 2 * 40)
    m.do("edit_step", id=k, fields={"both": False})
    tilted = [f for f in m.topology().faces if abs(f.direction[2]) > 0.01 > abs(f.direction[0])]
    assert rise or len(tilted) == 3
    # Pulled along the line nothing can turn about it.
    m.do("edit_step", id=k, fields={"pull": "X"})
    assert rise or "an edge along the pull" in trouble(m).text


def test_a_round_boss_leans_about_its_rim():
    m = Maker()
    m.step("primitive", form="cylinder", diameter="20 mm", height="15 mm")
    rim = m.pick("edge", lambda e: e.kind == "circle" and near(e.centre, (0, 0, 15)))
    k = m.step("draft", by="line", edges=rim, angle="6 deg", flip=True)
    small = 10 - 15 * math.tan(math.radians(6))
    assert volume(m) == pytest.approx(math.pi * 15 / 3 * (100 + 10 * small + small**2))
    m.do("edit_step", id=k, fields={"flip": False})
    assert "lies on the pulled side" in trouble(m).text
    assert [o.fields for o in trouble(m).offers] == [{"flip": True}]
    m.do("edit_step", id=k, fields={"flip": True, "pull": "X"})
    assert "square to the pull" in trouble(m).text
    assert not trouble(m).offers
    m.do("edit_step", id=k, fields={"pull": "Z", "angle": "50 deg"})
    assert "largest that works" in trouble(m).text


# --- align


def test_bodies_aligned_face_to_face_axis_on_axis_corner_on_corner():
    m = brick(60, 40, 10)
    m.step("primitive", form="cylinder", diameter="10 mm", height="30 mm", x="200 mm")
    pin = next(b for b in m.build().bodies if b != "b_s1")
    m.step("primitive", form="cylinder", diameter="10.5 mm", height="10 mm", x="20 mm", y="15 mm",
           result="cut", into=["b_s1"])  # fmt: skip
    bore = m.pick("face", lambda f: f.kind == "cylinder", "b_s1")
    shaft = m.pick("face", lambda f: f.kind == "cylinder", pin)
    k = m.step("align_body", what=shaft, to=bore, sense="along")
    assert m.build().bodies[pin]["centre"] == pytest.approx([20, 15, 5])
    m.do("edit_step", id=k, fields={
        "what": m.pick("face", lambda f: f.kind == "plane" and f.direction[2] < -0.5, pin),
        "to": m.pick("face", lambda f: f.kind == "plane" and f.direction[0] > 0.99, "b_s1"),
        "sense": "facing", "gap": "2 mm"})  # fmt: skip
    m.do("remove_step", id=k)
    under = m.pick("face", lambda f: f.kind == "plane" and f.direction[2] < -0.5, pin)
    side = m.pick("face", lambda f: f.kind == "plane" and f.direction[0] > 0.99, "b_s1")
    m.step("align_body", what=under, to=side, gap="2 mm")
    centre = m.build().bodies[pin]["centre"]
    assert centre == pytest.approx([60 + 2 + 15, 20, 5])


# --- copies


def post(m: Maker, x: float, y: float, z: float) -> str:
    return m.step("primitive", form="cylinder", diameter="4 mm", height="5 mm", x=f"{x} mm",
                  y=f"{y} mm", z=f"{z} mm", result="add")  # fmt: skip


def test_copies_along_a_curve_turn_with_it_or_keep_their_way():
    m = brick(100, 100, 10)
    s = Sketcher()
    s.arc(s.point(50, 50), s.point(90, 50), s.point(50, 90))
    path = m.sketch(s, {"base": "XY", "face": None, "offset": {"formula": "10 mm"}})
    p = m.step("primitive", form="box", width="6 mm", depth="2 mm", height="5 mm", x="87 mm",
               y="50 mm", z="10 mm", result="add")  # fmt: skip
    k = m.step("copies_curve", steps=[p], path=path, count="4")
    assert volume(m) == pytest.approx(100_000 + 4 * 60)
    last = [f for f in m.topology().faces if f.name.startswith(f"{k}/4/") and "top" in f.name]
    assert last[0].at == pytest.approx((49, 90, 15), abs=1e-6)
    m.do("edit_step", id=k, fields={"turning": "keep"})
    last = [f for f in m.topology().faces if f.name.startswith(f"{k}/4/") and "top" in f.name]
    assert last[0].at == pytest.approx((50, 91, 15), abs=1e-6)
    m.do("edit_step", id=k, fields={"spread": "step", "spacing": "40 mm"})
    assert "2 fit" in trouble(m).text


@pytest.mark.parametrize("grid", ["square", "staggered", "rings"])
def test_a_grid_fills_a_region_clear_of_its_border(grid):
    m = brick(100, 80, 3)
    s = boxed(90, 70, (5, 5))
    s.point(50, 40)
    sketch = m.sketch(s)
    h = m.step("hole", at="sketch", sketch=sketch, bore="4 mm")
    k = m.step("copies_fill", steps=[h], sketch=sketch, grid=grid, spacing="9 mm", margin="3 mm")
    walls = [f for f in m.topology().faces if f.kind == "cylinder"]
    assert volume(m) == pytest.approx(24000 - len(walls) * math.pi * 4 * 3)
    places = [f.at[:2] for f in walls]
    assert all(8 - 1e-6 <= x <= 92 + 1e-6 and 8 - 1e-6 <= y <= 72 + 1e-6 for x, y in places)
    gaps = [math.dist(a, b) for i, a in enumerate(places) for b in places[:i]]
    assert min(gaps) > 8.9
    density = len(walls) * 81 / (84 * 64)
    assert 0.8 < density * (math.sqrt(0.75) if grid == "staggered" else 1.0) < 1.25
    # What stays keeps its name when the region grows.
    before = {f.name: f.at for f in walls}
    m.do("edit_step", id=k, fields={"margin": "0 mm"})
    after = {f.name: f.at for f in m.topology().faces}
    assert all(near(after[n], p) for n, p in before.items())
    m.do("edit_step", id=k, fields={"spacing": "0.1 mm"})
    assert "copies would fill it" in trouble(m).text


def test_a_number_grows_along_the_copies():
    m = block("120 mm", depth="5 mm")
    s = Sketcher()
    s.point(15, 20)
    h = m.step("hole", sketch=m.sketch(s), bore="4 mm")
    grow = {"step": h, "field": "bore", "by": {"formula": "1 mm"}}
    k = m.step("copies_linear", steps=[h], count="5", spacing="22 mm", varied=[grow])
    bores = sorted(2 * f.radius for f in m.topology().faces if f.kind == "cylinder")
    assert bores == pytest.approx([4, 5, 6, 7, 8])
    m.do("edit_step", id=h, fields={"bore": "6 mm"})
    bores = sorted(2 * f.radius for f in m.topology().faces if f.kind == "cylinder")
    assert bores == pytest.approx([6, 7, 8, 9, 10])
    m.do("edit_step", id=k, fields={"varied": [{**grow, "by": {"formula": "-2 mm"}}]})
    error = trouble(m)
    assert "copy 4 (bore 0)" in error.text
    m.do("edit_step", id=k, fields={"varied": [{**grow, "by": {"formula": "2 deg"}}]})
    assert "is length, not angle" in trouble(m).text
    m.do("edit_step", id=k, fields={"varied": [{**grow, "field": "depth"}]})
    assert "no number depth in use" in trouble(m).text


def test_copies_fill_round_regions_too():
    m = Maker()
    m.step("primitive", form="cylinder", diameter="60 mm", height="2 mm")
    sketch = m.sketch(circle(28.0))
    p = post(m, 0, 0, 2)
    m.step("copies_fill", steps=[p], sketch=sketch, grid="rings", spacing="8 mm", margin="2 mm")
    # Rings of 6, 12 and 18 at 8, 16 and 24 mm round the first.
    assert volume(m) == pytest.approx(math.pi * (900 * 2 + 37 * 4 * 5))

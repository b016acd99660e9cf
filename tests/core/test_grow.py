"""Extrude and revolve in all their reaches, walls and drafts, against closed forms."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.parts import Maker, block, near, upright
from vireo.core.samples.ways import boxed
from vireo.script.sketch import Sketch as Sketcher

XZ = {"base": "XZ", "face": None}


def volume(m: Maker) -> float:
    found = m.build()
    bad = next((s.error for s in found.steps if s.error), None)
    assert bad is None, bad
    return found.volume


def trouble(m: Maker):
    return next(s.error for s in m.build().steps if s.error)


def names(m: Maker, id=None) -> set[str]:
    return {f.name for f in m.topology(id).faces}


def corner_chain(closed=False) -> Sketcher:
    """An L of 30 and 20, or with a third side a closed triangle."""
    s = Sketcher()
    a, b, c = s.point(0, 0), s.point(30, 0), s.point(30, 20)
    s.line(a, b)
    s.line(b, c)
    if closed:
        s.line(c, a)
    return s


# --- extrude


@pytest.mark.parametrize(
    ("fields", "low", "high"),
    [
        ({"reach": "one"}, 0, 10),
        ({"reach": "one", "flip": True}, -10, 0),
        ({"reach": "symmetric"}, -5, 5),
        ({"reach": "two", "back": "4 mm"}, -4, 10),
        ({"reach": "two", "back": "4 mm", "flip": True}, -10, 4),
        ({"reach": "one", "start": "3 mm"}, 3, 13),
    ],
)
def test_each_reach_spans_what_it_says(fields, low, high):
    m = Maker()
    m.step("extrude", sketch=m.sketch(boxed()), depth="10 mm", **fields)
    heights = [v.at[2] for v in m.topology().vertices]
    assert (min(heights), max(heights)) == pytest.approx((low, high))
    assert volume(m) == pytest.approx(200 * (high - low))


@given(st.floats(-20, 20), st.booleans())
@settings(max_examples=16, deadline=None)
def test_a_draft_makes_a_frustum(angle, both):
    """Of sides leant by a: h/3 (A + A' + sqrt(A A')) does not hold for rectangles; the prismoid
    formula h/6 (A0 + 4 Am + A1) does exactly."""
    if abs(angle) < 0.1:
        return
    m = Maker()
    m.step("extrude", sketch=m.sketch(boxed(40, 30)), depth="20 mm", draft=f"{angle!r} deg",
           reach="symmetric" if both else "one")  # fmt: skip
    h = 10.0 if both else 20.0

    def area(z):
        t = 2 * z * math.tan(math.radians(angle))
        return (40 - t) * (30 - t)

    exact = h / 6 * (area(0) + 4 * area(h / 2) + area(h)) * (2 if both else 1)
    assert volume(m) == pytest.approx(exact, rel=1e-9)
    assert len(names(m)) == (10 if both else 6)


def test_a_draft_that_closes_says_so():
    m = Maker()
    m.step("extrude", sketch=m.sketch(boxed(10, 10)), depth="30 mm", draft="20 deg")
    error = trouble(m)
    most = math.degrees(math.atan(5 / 30))
    offered = float(error.offers[0].fields["draft"].split()[0])
    assert 0.95 * most < offered <= most
    m.do("edit_step", id="s2", fields=error.offers[0].fields)
    assert volume(m) > 0


def test_walls_along_open_chains():
    for side, area in (("middle", 50 * 2), ("left", 50 * 2 - 4), ("right", 50 * 2 + 4)):
        m = Maker()
        m.step("extrude", sketch=m.sketch(corner_chain()), profile="wall", thickness="2 mm",
               side=side, depth="5 mm")  # fmt: skip
        assert volume(m) == pytest.approx(area * 5), side
        found = names(m)
        assert {f"s2/side/l4/{s}" for s in ("left", "right")} <= found
        assert {"s2/side/end/0", "s2/side/end/1"} <= found
    m = Maker()
    m.step("extrude", sketch=m.sketch(corner_chain()), profile="wall", thickness="2 mm",
           ends="round", depth="5 mm")  # fmt: skip
    assert volume(m) == pytest.approx((100 + math.pi) * 5)


def test_walls_round_closed_runs_and_chosen_curves():
    s = Sketcher()
    c = s.circle(s.point(0, 0), 10.0)
    l = s.line(s.point(20, 0), s.point(50, 0))
    for side, r0, r1 in (("middle", 9, 11), ("left", 8, 10), ("right", 10, 12)):
        m = Maker()
        m.step("extrude", sketch=m.sketch(s), profile="wall", thickness="2 mm", chains=[c],
               side=side, depth="3 mm")  # fmt: skip
        assert volume(m) == pytest.approx(math.pi * (r1**2 - r0**2) * 3), side
    m.do("edit_step", id="s2", fields={"chains": []})
    assert volume(m) == pytest.approx((math.pi * 44 + 60) * 3)
    m.do("edit_step", id="s2", fields={"chains": [l, "q9"]})
    error = trouble(m)
    assert error.code == "lost_pick"
    assert error.offers[0].fields == {"chains": [l]}
    m = Maker()
    m.step("extrude", sketch=m.sketch(corner_chain(closed=True)), profile="wall",
           thickness="1 mm", side="left", depth="1 mm")  # fmt: skip
    girth = 50 + math.hypot(30, 20)
    inner = (300 / (girth / 2) - 1.0) / (300 / (girth / 2))  # inradius r shrinks to r - 1
    assert volume(m) == pytest.approx(300 * (1 - inner**2))
    too = m.do("edit_step", id="s2", fields={"thickness": "20 mm"})
    error = trouble(too)
    assert "does not fit" in error.text
    inradius = 300 / (girth / 2)
    assert 0.9 * inradius < float(error.offers[0].fields["thickness"].split()[0]) <= inradius


def test_a_path_does_not_guess_where_three_curves_meet():
    s = corner_chain()
    s.line("p2", s.point(50, 5))
    m = Maker()
    m.step("pipe", path=m.sketch(s), diameter="2 mm")
    assert "three curves meet" in trouble(m).text


def test_up_to_a_face_a_leaning_face_a_corner_and_the_next_body():
    m = block()  # 60 x 40 x 10
    post = m.sketch(boxed(10, 10, (5, 5)), {"base": "XY", "offset": {"formula": "30 mm"}})
    (top,) = m.pick("face", lambda f: f.kind == "plane" and f.direction[2] > 0.99)
    e = m.step("extrude", sketch=post, reach="upto", upto=[top], flip=True)
    assert volume(m) == pytest.approx(24000 + 100 * 20)
    m.do("edit_step", id=e, fields={"short": "2 mm"})
    assert volume(m) == pytest.approx(24000 + 100 * 18)
    m.do("edit_step", id=e, fields={"reach": "next", "short": "0 mm"})
    assert volume(m) == pytest.approx(24000 + 100 * 20)
    corner = {"body": "b_s2", "kind": "vertex", "name": ["s2/cap/end", "s2/side/l5", "s2/side/l8"]}
    m.do("edit_step", id=e, fields={"reach": "upto", "upto": [corner]})
    assert volume(m) == pytest.approx(24000 + 100 * 20)
    m.do("edit_step", id=e, fields={"flip": False})
    assert "behind" in trouble(m).text
    m.do("edit_step", id=e, fields={"reach": "next"})
    assert "nothing" in trouble(m).text
    # A face it has to run on beyond: the chamfered edge of the block, seen from beside.
    m = block()
    edge = m.pick("edge", lambda x: near(x.at, (30, 0, 10)))
    m.step("chamfer", edges=edge, size="4 mm")
    (slope,) = m.pick(
        "face", lambda f: f.direction and near(f.direction, (0, -(0.5**0.5), 0.5**0.5))
    )
    pin = m.sketch(boxed(2, 2, (70, 1)))
    m.step("extrude", sketch=pin, reach="upto", upto=[slope], depth="1 mm")
    # The plane runs on as y - z = -6: at y from 1 to 3 the pin is 7 to 9 high.
    assert volume(m) == pytest.approx(24000 - 8 * 60 + 4 * 8)


# --- revolve


@given(st.floats(2, 30), st.floats(1, 20), st.floats(1, 20), st.floats(5, 355))
@settings(max_examples=12, deadline=None)
def test_turned_profiles_have_the_volume_of_pappus(gap, w, h, angle):
    m = Maker()
    s = m.sketch(boxed(w, h, (gap, 3)), XZ)
    m.step("revolve", sketch=s, reach="one", angle=f"{angle!r} deg")
    exact = w * h * math.radians(angle) * (gap + w / 2)
    assert volume(m) == pytest.approx(exact, rel=1e-7)
    assert {"s2/cap/start", "s2/cap/end"} <= names(m)


def test_a_full_turn_names_every_face_by_its_curve():
    m = Maker()
    s = m.sketch(boxed(5, 8, (10, 0)), XZ)
    m.step("revolve", sketch=s)
    assert volume(m) == pytest.approx(40 * 2 * math.pi * 12.5)
    assert names(m) == {f"s2/side/l{k}" for k in (5, 6, 7, 8)}
    # On the axis: a solid shaft, the side on the axis sweeps nothing.
    m = Maker()
    m.step("revolve", sketch=m.sketch(boxed(5, 8), XZ))
    assert volume(m) == pytest.approx(math.pi * 25 * 8)
    assert len(names(m)) == 3


def test_the_axis_may_be_an_aid_and_the_reach_goes_both_ways():
    s = boxed(4, 10, (6, 0))
    a = s.line(s.point(2, -3), s.point(2, 30), construction=True)
    m = Maker()
    k = m.step("revolve", sketch=m.sketch(s), axis=a, reach="symmetric", angle="180 deg")
    whole = 40 * math.pi * 6
    assert volume(m) == pytest.approx(whole)
    assert max(v.at[0] for v in m.topology().vertices) < 2 + 8.001
    m.do("edit_step", id=k, fields={"reach": "two", "angle": "90 deg", "back": "90 deg"})
    assert volume(m) == pytest.approx(whole)
    m.do("edit_step", id=k, fields={"back": "300 deg"})
    assert "full turn" in trouble(m).text
    m.do("edit_step", id=k, fields={"axis": "l5", "reach": "whole"})
    assert volume(m) == pytest.approx(40 * 2 * math.pi * 5)  # about its own lower side
    m.do("edit_step", id=k, fields={"axis": "z9"})
    assert "field:axis" in trouble(m).where
    m = Maker()
    m.step("revolve", sketch=m.sketch(boxed(10, 5, (-3, 1))), axis="y_axis")
    assert "crosses the axis" in trouble(m).text


def test_a_turned_wall_and_a_groove_cut():
    m = Maker()
    s = Sketcher()
    s.line(s.point(10, 0), s.point(10, 20))
    m.step("revolve", sketch=m.sketch(s, XZ), profile="wall", thickness="2 mm", side="left")
    assert volume(m) == pytest.approx(math.pi * (100 - 64) * 20)
    g = m.sketch(boxed(1, 2, (9.5, 9)), XZ)
    m.step("revolve", sketch=g, result="cut")
    assert volume(m) == pytest.approx(math.pi * (36 * 20 - (100 - 9.5**2) * 2))


def test_picks_on_grown_faces_survive_other_sizes_and_an_inserted_step():
    m = Maker()
    s = m.sketch(corner_chain())
    e = m.step("extrude", sketch=s, profile="wall", thickness="3 mm", depth="8 mm")
    edges = m.pick("edge", lambda x: upright(x) and near(x.at, (28.5, 1.5, 4)))
    m.step("fillet", edges=edges, radius="1 mm")
    before = volume(m)
    m.do("edit_step", id=e, fields={"thickness": "4 mm", "depth": "9 mm"})
    grown = m.build()
    assert all(x.status == "ok" for x in grown.steps)
    assert grown.volume == pytest.approx(50 * 4 * 9 + (1 - math.pi / 4) * 9)
    assert grown.volume > before

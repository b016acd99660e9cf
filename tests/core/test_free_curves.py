"""Text, splines with their handles and points, limits; reading sizes; what keeps outlines open."""

import math

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.core.drawings import drawing, plate
from tests.core.test_sketch_tools import EMPTY, area, draw, spot
from vireo.core.curves import Ellipse2, Spline2, least_radius, self_crossing
from vireo.core.kernel.profile import arrange
from vireo.core.sketch import curves_of, solve_drawing
from vireo.core.sketch.advice import gaps, measured
from vireo.core.sketch.lettering import letter
from vireo.core.sketch.tools import ToolTrouble, use
from vireo.core.trouble import BadInput
from vireo.script.sketch import Sketch as Sketcher


def only(d, type):
    return next(e for e in d.entities if e.type == type)


# --- text


def test_letters_close_and_their_counters_are_open():
    d = draw("text", (3, 2), text="BoA8", height="10 mm")
    regions = arrange(curves_of(d)).regions
    assert sum(1 for r in regions if r.depth == 0) == 4
    assert sum(len(r.holes) for r in regions) == 2 + 1 + 1 + 2
    assert gaps(d) == []
    capital = [p[1] for r in arrange(curves_of(draw("text", (0, 0), text="H", height="7 mm"))).regions
               for p in r.outer]  # fmt: skip
    assert max(capital) - min(capital) == pytest.approx(7.0)


def test_text_keeps_its_shape_when_dragged_sized_and_written_anew():
    d = draw("text", (0, 0), text="Vent", height="5 mm")
    text = only(d, "text")
    found = solve_drawing(d)
    assert found.freedom == 2  # where it stands
    far = solve_drawing(d, pull={text.start: (20.0, 9.0)}).drawing
    assert area(far) == pytest.approx(area(d))
    size = next(c for c in d.constraints if c.type == "text_height")
    double = d.model_copy(update={"constraints": tuple(
        c.model_copy(update={"formula": "10 mm"}) if c is size else c for c in d.constraints)})  # fmt: skip
    assert area(solve_drawing(double).drawing) == pytest.approx(4 * area(d))
    other = text.model_copy(update={"text": "Drain"})
    said = d.model_copy(update={"entities": tuple(other if e is text else e for e in d.entities)})
    made = solve_drawing(said)
    assert made.holds
    ends = [next(p for p in made.drawing.entities if p.id == i) for i in (other.start, other.end)]
    assert ends[1].x - ends[0].x == pytest.approx(5 * letter("Drain").width)


def test_the_mirror_image_of_text_is_mirrored_and_copies_keep_their_words():
    d = draw("text", (5, 1), text="p1", height="6 mm")
    text = only(d, "text")
    made = draw("mirror", on=d, selected=(text.id, "y_axis"))
    twin = [e for e in made.entities if e.type == "text"][1]
    assert (twin.text, twin.mirrored) == ("p1", True)
    places = [p for r in arrange(curves_of(made)).regions for p in r.outer]
    assert min(x for x, _ in places) == pytest.approx(-max(x for x, _ in places))
    assert area(made) == pytest.approx(2 * area(d))


def test_letters_it_does_not_have_are_named():
    with pytest.raises(BadInput, match="漢"):
        use("text", EMPTY, [spot(0, 0)], {"text": "漢字", "height": "5 mm"})
    with pytest.raises(ToolTrouble, match="height"):
        use("text", EMPTY, [spot(0, 0)], {"text": "a", "height": "0 mm"})


# --- splines


def wave() -> tuple[Sketcher, str]:
    s = Sketcher()
    p = [s.point(x, y) for x, y in ((0, 0), (10, 8), (25, -4), (40, 3))]
    return s, s.add("spline", through=p)


@given(st.floats(-6, 6), st.floats(-6, 6), st.integers(0, 3))
@example(0.0, 0.5, 1)
@settings(max_examples=30, deadline=None)
def test_a_handle_gives_the_direction_and_curvature_runs_on(x, y, at):
    s, id = wave()
    d = drawing(s)
    through = d.entities[-1].through
    where = {e.id: (e.x, e.y) for e in d.entities[:-1]}
    made = use("handle", d, [spot(*where[through[at]])]).drawing
    spline = only(made, "spline")
    handle = spline.handles[through[at]]
    if math.hypot(x, y) < 0.5:
        return
    px, py = where[through[at]]
    moved = made.model_copy(update={"entities": tuple(
        e.model_copy(update={"x": px + x, "y": py + y}) if e.id == handle else e
        for e in made.entities)})  # fmt: skip
    curve = dict(curves_of(moved))[id]
    t = curve.parameter((px, py))
    assert math.dist(curve.at(t), (px, py)) < 1e-9
    slope = curve.derivatives(t, 1)[1][0]
    way = -1.0 if at == 3 else 1.0
    assert way * (slope[0] * y - slope[1] * x) == pytest.approx(0, abs=1e-6 * np.hypot(*slope))
    assert way * (slope[0] * x + slope[1] * y) > 0
    for p in (where[q] for q in through):
        u = curve.parameter(p)
        assert math.dist(curve.at(u), p) < 1e-7
    # Continuous in curvature at every knot inside.
    for k in sorted(set(curve.knots))[1:-1]:
        a, b = curve.curvature(np.array([k - 1e-9, k + 1e-9]))
        assert a == pytest.approx(b, rel=1e-4, abs=1e-4)
    again = use("handle", moved, [spot(px, py)]).drawing
    assert only(again, "spline").handles == {}


@given(st.floats(0.02, 0.98))
@settings(max_examples=30, deadline=None)
def test_a_control_point_more_leaves_the_curve_alone(t):
    s = Sketcher()
    p = [s.point(x, y) for x, y in ((0, 0), (5, 12), (18, 10), (22, -6), (30, 0), (41, 4))]
    s.add("control_spline", poles=p)
    d = drawing(s)
    (id, before), = curves_of(d)  # fmt: skip
    made = use("insert_point", d, [spot(*before.at(t), snap=id, kind="curve")]).drawing
    (_, after), = curves_of(made)  # fmt: skip
    assert len(after.poles) == len(before.poles) + 1
    for u in np.linspace(0, 1, 33):
        assert math.dist(after.at(u), before.at(u)) < 1e-9


def test_points_go_into_and_out_of_a_spline():
    s, id = wave()
    d = drawing(s)
    before = dict(curves_of(d))[id]
    d = use("insert_point", d, [spot(*before.at(0.5), snap=id, kind="curve")]).drawing
    through = only(d, "spline").through
    assert len(through) == 5
    assert dict(curves_of(d))[id].length == pytest.approx(before.length, rel=0.02)
    with pytest.raises(ToolTrouble, match="already"):
        use("insert_point", d, [spot(0, 0, snap=id, kind="curve")])
    d = use("handle", d, [spot(10, 8)]).drawing
    out = use("take_out_point", d, selected=(through[1], through[0])).drawing
    assert len(only(out, "spline").through) == 3
    assert sum(1 for e in out.entities if e.type == "point") == 3  # its handle went too
    with pytest.raises(ToolTrouble, match="too few"):
        use("take_out_point", out, selected=only(out, "spline").through[:2])
    with pytest.raises(ToolTrouble, match="of splines"):
        use("take_out_point", drawing(plate()), selected=("p1",))


def test_least_radii_have_their_closed_forms():
    assert least_radius(Ellipse2((0, 0), (10, 0), 4.0))[0] == pytest.approx(16 / 10)
    assert least_radius(Ellipse2((0, 0), (10, 0), 4.0, 1.2, 1.9))[0] > 16 / 10
    # A parabola y = x2/(2p) bends most in its vertex, with radius p.
    parabola = Spline2(2, (0, 0, 0, 1, 1, 1), ((-4.0, 4.0), (0.0, -4.0), (4.0, 4.0)))
    radius, at = least_radius(parabola)
    assert radius == pytest.approx(2.0)
    assert at == pytest.approx((0.0, 0.0), abs=1e-6)


def test_a_least_radius_is_a_limit():
    s = Sketcher()
    tip = s.point(10, 0)
    s.put("on_curve", tip, "x_axis")
    oval = s.add("ellipse", centre="origin", major=tip, minor=6.0)
    s.put("width", oval, formula="20 mm")
    s.put("least_radius", oval, formula="2 mm")
    d = drawing(s)
    found = solve_drawing(d)
    assert found.holds
    assert found.freedom == 1  # a bound takes no freedom
    s.put("height", oval, formula="8 mm")  # 16/10 would be less than 2
    tight = solve_drawing(drawing(s))
    assert not tight.holds
    assert tight.troubles[0].code == "limit"
    assert "1.6 mm, less than 2 mm" in tight.troubles[0].text


def test_a_drag_past_a_least_radius_leaves_the_curve_as_it_was():
    """An ellipse 12 high is pulled longer by its tip: the radius there is 36 over half its width."""
    s = Sketcher()
    tip = s.point(10, 0)
    s.put("on_curve", tip, "x_axis")
    oval = s.add("ellipse", centre="origin", major=tip, minor=6.0)
    s.put("height", oval, formula="12 mm")
    s.put("least_radius", oval, formula="2 mm")
    d, at = drawing(s), 10.0
    for to in (12.0, 16.0, 22.0, 60.0, 17.5):
        found = solve_drawing(d, pull={tip: (to, 0.0)})
        assert found.holds == (to <= 18.0)
        at = to if found.holds else at
        there = next(p for p in found.drawing.entities if p.id == tip)
        assert (there.x, there.y) == pytest.approx((at, 0.0), abs=0.02)
        d = found.drawing


# --- offsets of free curves


def test_an_offset_of_an_ellipse_keeps_its_distance_and_follows():
    d = draw("ellipse", (0, 0), (20, 0), (0, 9), width="40 mm", height="18 mm")
    oval = only(d, "ellipse")
    made = draw("offset", (40, 0), on=d, selected=(oval.id,), gap="3 mm", both="yes")
    curves = dict(curves_of(made))
    rims = [c for id, c in curves.items() if id != oval.id]
    fine = np.array(curves[oval.id].points(0.002))
    for rim in rims:
        for p in rim.points(0.2):
            assert np.hypot(*(fine - p).T).min() == pytest.approx(3.0, abs=1e-3)
    # Steiner: a convex outline grows by perimeter * d + pi d2, and shrinks inwards alike.
    sizes = sorted(r.area for r in arrange(curves_of(made)).regions)
    whole, girth = math.pi * 20 * 9, curves[oval.id].length
    assert sum(sizes) == pytest.approx(whole + 3 * girth + 9 * math.pi, rel=1e-5)
    assert len(sizes) == 3
    gap = next(c for c in made.constraints if c.type == "offset" and c.formula == "3 mm")
    wider = made.model_copy(update={"constraints": tuple(
        c.model_copy(update={"formula": "5 mm"}) if c is gap else c for c in made.constraints)})  # fmt: skip
    found = solve_drawing(wider)
    assert not found.holds  # inside, 5 mm is more than 81/20
    assert "bends to 4.05 mm" in found.troubles[0].text
    with pytest.raises(ToolTrouble, match=r"4\.05"):
        use("offset", d, [spot(0, 0)], {"gap": "4.2 mm"}, (oval.id,))


def test_an_offset_chain_of_a_line_running_on_into_a_spline():
    s = Sketcher()
    a, b = s.point(-30, 0), s.point(0, 0)
    line = s.line(a, b)
    far = [s.point(20, 6), s.point(45, -3)]
    handle = s.point(6, 0)
    spline = s.add("spline", through=[b, *far], start_handle=handle)
    s.put("horizontal", line)
    s.put("horizontal", b, handle)
    d = drawing(s)
    made = draw("offset", (-10, 9), on=d, selected=(line, spline), gap="4 mm")
    beside = only(made, "parallel")
    assert beside.side == 1
    ends = {p.id: (p.x, p.y) for p in made.entities if p.type == "point"}
    assert ends[beside.start] == pytest.approx((0, 4))
    # It goes with its spline.
    moved = solve_drawing(made, pull={far[0]: (20.0, 9.0)}).drawing
    curves = dict(curves_of(moved))
    fine = np.array(curves[spline].points(0.001))
    for p in curves[beside.id].points(0.2)[1:-1]:
        assert np.hypot(*(fine - p).T).min() == pytest.approx(4.0, abs=2e-3)
    with pytest.raises(ToolTrouble, match="not copied"):
        use("mirror", made, (), {}, (beside.id, "y_axis"))
    with pytest.raises(ToolTrouble, match="smoothly"):
        use("offset", drawing_with_corner(), [spot(0, 9)], {"gap": "1 mm"}, ("l3", "e6"))


def drawing_with_corner():
    s = Sketcher()
    a, b = s.point(-30, 0), s.point(0, 0)
    s.line(a, b)
    s.add("spline", through=[b, s.point(5, 20), s.point(12, 30)])
    return drawing(s)


# --- reading sizes


def by_label(d, *ids):
    return {r.label: r.value for r in measured(d, ids).readings}


def test_sizes_are_read_off():
    s = plate()
    c = s.circle(s.point(30, 20), 5.0)
    e = s.add("ellipse", centre=s.point(0, 80), major=s.point(10, 80), minor=4.0)
    d = drawing(s)
    lines = [x.id for x in d.entities if x.type == "line"]
    assert by_label(d, lines[0])["Length"] == pytest.approx(60)
    assert by_label(d, c)["Area"] == pytest.approx(25 * math.pi)
    assert by_label(d, *lines) == pytest.approx({"Length together": 200, "Area inside": 2400})
    assert by_label(d, lines[0], lines[1])["Angle"] == pytest.approx(math.pi / 2)
    assert by_label(d, lines[0], c)["Least distance"] == pytest.approx(15)
    assert by_label(d, "p1", c)["Least distance"] == pytest.approx(math.hypot(30, 20) - 5)
    assert by_label(d, c, e)["Between centres"] == pytest.approx(math.hypot(30, 60))
    assert by_label(d, e, "x_axis")["Least distance"] == pytest.approx(76)
    assert by_label(d, "p1", "p3") == pytest.approx(
        {"Least distance": math.hypot(60, 40), "Across": 60, "Up": 40}
    )
    assert measured(d, ["x_axis"]).readings == ()
    with pytest.raises(BadInput, match="not in the sketch"):
        measured(d, ["z9"])


@given(st.floats(-40, 40), st.floats(-40, 40), st.floats(0.3, 3.0))
@example(0.0, -31.0, 0.78125)
@example(0.0, -38.0, 0.875)
@settings(max_examples=25, deadline=None)
def test_the_least_distance_is_the_least_of_many(x, y, turn):
    s = Sketcher()
    p = [s.point(a, b) for a, b in ((0, 0), (10, 12), (25, -8), (40, 3))]
    one = s.add("spline", through=p)
    tip = s.point(x + 9 * math.cos(turn), y + 9 * math.sin(turn))
    two = s.add("ellipse", centre=s.point(x, y), major=tip, minor=3.0)
    d = drawing(s)
    curves = dict(curves_of(d))
    a = np.array(curves[one].points(0.01))
    b = np.array(curves[two].points(0.01))
    rough = np.sqrt(((a[:, None] - b[None]) ** 2).sum(axis=2).min())
    found = by_label(d, one, two)["Least distance"]
    assert found <= rough + 1e-6
    assert found == pytest.approx(rough, abs=0.3)


# --- what keeps an outline from closing


def test_overhangs_doubles_and_loops_are_pointed_at():
    s = Sketcher()
    a, b, c, e = (s.point(*p) for p in ((0, 0), (31.5, 0), (30, -2), (30, 20)))
    s.line(a, b)
    s.line(c, e)
    found = gaps(drawing(s))
    assert sorted((g.kind, round(g.size, 6)) for g in found if g.kind == "overhang") == [
        ("overhang", 1.5), ("overhang", 2.0),
    ]  # fmt: skip
    s = plate()
    s.line(s.point(10, 0), s.point(25, 0))
    s.arc(s.point(80, 80), s.point(90, 80), s.point(80, 90))
    s.circle(s.point(80, 80), 10.0)
    doubles = sorted(round(g.size, 6) for g in gaps(drawing(s)) if g.kind == "double")
    assert doubles == [15.0, round(5 * math.pi, 6)]
    s = Sketcher()
    s.add("spline", through=[s.point(*p) for p in ((0, 0), (30, 20), (15, 30), (0, 20), (30, 0))])
    (loop,) = (g for g in gaps(drawing(s)) if g.kind == "loop")
    curve = curves_of(drawing(s))[0][1]
    assert loop.at[0] == pytest.approx(15, abs=0.2)
    assert 0 < loop.size < curve.length
    straight = Spline2(3, (0,) * 4 + (1,) * 4, ((0, 0), (1, 1), (2, 0), (3, 1)))
    assert self_crossing(straight) is None

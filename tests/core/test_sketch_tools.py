"""Every tool on real drawings: what it draws, what stays held, what it refuses."""

import math
import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.drawings import drawing, plate
from vireo.core.curves import Arc2, Circle2, Ellipse2, Line2, Spline2, crossings
from vireo.core.kernel.profile import arrange
from vireo.core.quantity import LENGTH, NUMBER, Quantity
from vireo.core.sketch import Drawing, curves_of, solve_drawing
from vireo.core.sketch.advice import gaps, motions, proposals, reachable
from vireo.core.sketch.tools import TOOLS, Spot, ToolTrouble, use
from vireo.script.sketch import Sketch as Sketcher

EMPTY = Drawing()


def spot(x, y, snap=None, kind="point", level=None):
    return Spot(at=(x, y), snap={"kind": kind, "id": snap} if snap else None, level=level)


def draw(tool, *places, on=EMPTY, selected=(), **texts):
    """Use a tool and solve what it made."""
    spots = [p if isinstance(p, Spot) else spot(*p) for p in places]
    made = use(tool, on, spots, texts, selected)
    found = solve_drawing(made.drawing)
    assert found.holds, found.troubles
    new = {c.id for c in made.drawing.constraints} - {c.id for c in on.constraints}
    assert not new & set(found.culprits), "a tool says nothing twice"
    return found.drawing


def at(d, id):
    point = next(e for e in d.entities if e.id == id)
    return point.x, point.y


def area(d):
    return sum(r.area for r in arrange(curves_of(d)).regions if r.depth == 0)


AREAS = [
    ("rectangle", [(0, 0), (9, 7)], {"width": "20 mm", "height": "10 mm"}, 200),
    ("centre_rectangle", [(3, 3), (9, 7)], {"width": "20 mm", "height": "10 mm"}, 200),
    ("rectangle3", [(0, 0), (3, 4), (0, 9)], {"width": "20 mm", "height": "10 mm"}, 200),
    ("polygon", [(0, 0), (5, 1)], {"sides": "6", "across": "10 mm"}, 50 * math.sqrt(3)),
    ("polygon", [(0, 0), (5, 1)], {"sides": "4", "diameter": "10 mm"}, 50),
    ("circle", [(1, 1), (4, 1)], {"diameter": "10 mm"}, 25 * math.pi),
    ("circle2", [(0, 0), (6, 8)], {}, 25 * math.pi),
    ("circle3", [(5, 0), (0, 5), (-3, -4)], {}, 25 * math.pi),
    ("ellipse", [(0, 0), (5, 2), (0, 3)], {"width": "20 mm", "height": "8 mm"}, 40 * math.pi),
    ("slot", [(0, 0), (5, 2), (0, 3)], {"length": "20 mm", "width": "8 mm"}, 160 + 16 * math.pi),
    (
        "arc_slot", [(0, 0), (20, 0), (0, 20), (24, 0)], {"width": "8 mm"},
        (24**2 - 16**2) * math.pi / 4 + 16 * math.pi,
    ),
]  # fmt: skip


@pytest.mark.parametrize(("tool", "places", "texts", "size"), AREAS)
def test_closed_shapes_enclose_what_they_should(tool, places, texts, size):
    made = draw(tool, *places, **texts)
    assert area(made) == pytest.approx(size, rel=1e-7)


def test_every_tool_refuses_nonsense_in_words():
    d = drawing(plate())
    for tool in TOOLS.values():
        here = [spot(3.0, 3.0)] * max(len(tool.spots), 1)
        said = ""
        try:
            made = use(tool.name, d, here)
        except ToolTrouble as trouble:
            said = trouble.text
        assert len(said) > 10 or solve_drawing(made.drawing).holds


@pytest.mark.parametrize(
    ("tool", "places", "texts", "selected", "said"),
    [
        ("linear_copies", [], {"count": "3", "spacing": "0 mm"}, ("c", "x_axis"), "one another"),
        ("linear_copies", [], {"count": "501", "spacing": "5 mm"}, ("c", "x_axis"), "500"),
        ("circular_copies", [], {"count": "3", "angle": "0 deg"}, ("c", "origin"), "one another"),
        ("rectangle", [(0, 0), (9, 9)], {"width": "1e7 mm"}, (), "1000 m"),
        ("circle", [(0, 0), (9, 9)], {"diameter": "nan"}, (), "nan"),
        ("circle", [(0, 0), (9, 9)], {"diameter": "1/0 mm"}, (), "zero"),
        ("offset", [(200, 9)], {"gap": "1e8 mm"}, ("c",), "1000 m"),
        ("polygon", [(0, 0), (5, 1)], {"sides": "2.5"}, (), "whole number"),
        ("text", [(0, 0)], {"text": "a" * 300, "height": "5 mm"}, (), "200"),
        ("text", [(0, 0)], {"text": "ab", "height": "1e9 mm"}, (), "1000 m"),
    ],
)
def test_absurd_sizes_are_refused_in_words(tool, places, texts, selected, said):
    s = plate()
    c = s.circle(s.point(20, 20), 3.0)
    chosen = tuple(c if i == "c" else i for i in selected)
    with pytest.raises(ToolTrouble, match=said):
        use(tool, drawing(s), [spot(*p) for p in places], texts, chosen)


def test_very_small_and_very_large_sketches_are_solved_and_what_leaves_the_room_is_not():
    for scale in (1e-4, 1e3):
        found = solve_drawing(drawing(plate(f"{60 * scale} mm", f"{40 * scale} mm")))
        assert found.holds
        assert area(found.drawing) == pytest.approx(2400 * scale**2)
    far = solve_drawing(drawing(plate("60 mm", "1e9 mm")))
    assert not far.holds
    assert "1000 m" in far.troubles[0].text


def test_every_tool_has_its_key_and_no_two_the_same():
    keys = [t.key for t in TOOLS.values()]
    assert all(len(k) == 1 for k in keys)
    assert len(set(keys)) == len(keys)
    assert not set(keys) & set("dgimfbxt")  # sizes, links, measuring, the view


def test_lines_chain_close_and_keep_typed_sizes():
    first = use(
        "line", EMPTY, [spot(0, 0, "origin"), spot(9, 1)], {"length": "30 mm", "angle": "20 deg"}
    )
    assert first.chain is not None
    d = solve_drawing(first.drawing).drawing
    (line,) = (c for _, c in curves_of(d))
    assert line.b == pytest.approx(
        (30 * math.cos(math.radians(20)), 30 * math.sin(math.radians(20)))
    )
    on = [spot(*line.b, first.chain), spot(5, 20)]
    second = use("line", d, on)
    closed = use("line", second.drawing, [spot(5, 20, second.chain), spot(0, 0, "origin")])
    assert closed.chain is None
    assert len(arrange(curves_of(solve_drawing(closed.drawing).drawing)).regions) == 1


def test_arcs_run_on_smoothly_and_by_three_points():
    d = draw("line", (0, 0), (10, 0))
    end = next(e for e in d.entities if e.type == "line").b
    d = draw("arc_tangent", spot(10, 0, end), (14, 4), on=d)
    arc = next(c for _, c in curves_of(d) if isinstance(c, Arc2))
    assert arc.centre == pytest.approx((10, 4))
    assert arc.length == pytest.approx(2 * math.pi)
    d = draw("arc3", (0, 0), (10, 0), (5, 1), radius="13 mm")
    (arc,) = (c for _, c in curves_of(d))
    assert arc.centre == pytest.approx((5, -12))


def test_a_circle_touches_three_lines():
    s = Sketcher()
    ids = s.polygon([(0, 0), (40, 0), (0, 30)])
    for p in ids:
        s.put("fixed", p)
    d = drawing(s)
    lines = [e.id for e in d.entities if e.type == "line"]
    near = [
        spot(10, 0, lines[0], "curve"),
        spot(20, 15, lines[1], "curve"),
        spot(0, 10, lines[2], "curve"),
    ]
    made = use("circle3", d, near).drawing
    # Horizontal and vertical of fixed points say nothing new here; the circle is what counts.
    found = solve_drawing(made)
    circle = next(e for e in found.drawing.entities if e.type == "circle")
    assert circle.radius == pytest.approx(10.0)  # (a + b - c) / 2 of the 3-4-5 triangle


def test_splines_go_through_their_points_and_close():
    d = draw("spline", (0, 0), (10, 5), (20, 0), (10, -5), (0, 0))
    (spline,) = (e for e in d.entities if e.type == "spline")
    assert spline.closed
    assert len(arrange(curves_of(d)).regions) == 1
    d = draw("conic", (0, 0), (10, 0), (3, 8), (4, 4))
    (k,) = (e for e in d.entities if e.type == "conic")
    assert k.rho == pytest.approx(0.5, abs=0.05)


# --- corners


def test_a_rounded_corner_of_a_plate_takes_its_known_area():
    d = drawing(plate())
    corner = "p3"  # the upper right
    made = draw("round", spot(60, 40, corner), on=d, radius="8 mm")
    assert area(made) == pytest.approx(2400 - (4 - math.pi) * 16, rel=1e-9)
    assert solve_drawing(made).freedom == 0
    with pytest.raises(ToolTrouble, match="does not fit"):
        use("round", d, [spot(60, 40, corner)], {"radius": "45 mm"})
    bevelled = draw("bevel", spot(60, 40, corner), on=d, one="8 mm", two="3 mm")
    assert area(bevelled) == pytest.approx(2400 - 12, rel=1e-9)
    assert solve_drawing(bevelled).freedom == 0


@given(st.floats(25, 155), st.floats(0.5, 3))
@settings(max_examples=30, deadline=None)
def test_rounding_between_a_line_and_an_arc_touches_both(angle, radius):
    s = Sketcher()
    a, b = s.point(0, 0), s.point(20, 0)
    turn = math.radians(angle)
    # An arc that leaves b at the angle, bending gently.
    centre = s.point(20 + 60 * math.sin(turn), -60 * math.cos(turn))
    end = (
        20 + 60 * math.sin(turn) + 60 * math.sin(-turn + 0.5),
        -60 * math.cos(turn) + 60 * math.cos(-turn + 0.5),
    )
    c = s.point(*end)
    line, arc = s.line(a, b), s.arc(centre, b, c)
    d = use("round", drawing(s), [spot(20, 0, b)], {"radius": f"{radius} mm"}).drawing
    curves = dict(curves_of(d))
    (new,) = (e.id for e in d.entities if e.type == "arc" and e.id != arc)
    assert curves[new].radius == pytest.approx(radius, rel=1e-6)
    for other in (line, arc):
        ends = curves[new].ends
        joint = min(ends, key=lambda p: math.dist(p, curves[other].at(curves[other].parameter(p))))
        u, v = curves[new].tangent_at(joint), curves[other].tangent_at(joint)
        sine = (u[0] * v[1] - u[1] * v[0]) / (math.hypot(*u) * math.hypot(*v))
        assert sine == pytest.approx(0.0, abs=1e-5)


# --- cutting


def cross_shape():
    s = Sketcher()
    ids = [s.point(*p) for p in ((-20, 0), (20, 0), (0, -20), (0, 20))]
    one, two = s.line(ids[0], ids[1]), s.line(ids[2], ids[3])
    c = s.circle(s.point(0, 0), 10.0)
    return drawing(s), one, two, c


def lengths(d):
    return sorted(round(c.length, 6) for _, c in curves_of(d))


def test_trim_takes_a_piece_between_crossings():
    d, one, _, c = cross_shape()
    middle = draw("trim", spot(-5, 0, one, "curve"), on=d)
    assert lengths(middle) == pytest.approx([10, 20, 40, 20 * math.pi])
    outer = draw("trim", spot(-15, 0, one, "curve"), on=d)
    assert lengths(outer) == pytest.approx([30, 40, 20 * math.pi])
    round = draw("trim", spot(7, 7, c, "curve"), on=d)
    assert lengths(round) == pytest.approx([40, 40, 15 * math.pi])


def test_trimming_leaves_the_rest_where_it_was_and_held_together():
    d, one, two, c = cross_shape()
    made = draw("trim", spot(-5, 0, one, "curve"), on=d)
    ids = [e.id for e in made.entities if e.type == "line" and e.id != two]
    for id in ids:
        line = dict(curves_of(made))[id]
        assert line.a[1] == pytest.approx(0, abs=1e-9)
    # Move the circle: the cut ends stay on it.
    centre = next(e for e in made.entities if e.id == c).centre
    moved = solve_drawing(made, pull={centre: (0.0, 2.0)})
    assert moved.holds


def test_splines_are_cut_exactly():
    s = Sketcher()
    ids = [s.point(*p) for p in ((-20, 3), (-8, 9), (4, -6), (20, 5))]
    k = s.add("spline", through=ids)
    s.line(s.point(0, -20), s.point(0, 20))
    d = drawing(s)
    whole = dict(curves_of(d))[k]
    made = draw("trim", spot(-15, 6, k, "curve"), on=d)
    rest = dict(curves_of(made))[k]
    assert rest.ends[0][0] == pytest.approx(0, abs=1e-7)
    for x, y in rest.points(0.2):
        assert whole.at(whole.parameter((x, y))) == pytest.approx((x, y), abs=1e-6)


def test_extend_runs_to_the_next_curve_and_split_makes_two():
    s = Sketcher()
    a = s.line(s.point(0, 0), s.point(10, 0))
    s.line(s.point(30, -9), s.point(30, 9))
    arc = s.arc(s.point(0, 0), s.point(0, 30), s.point(-30, 0))
    d = drawing(s)
    made = draw("extend", spot(9, 0, a, "curve"), on=d)
    assert dict(curves_of(made))[a].b == pytest.approx((30, 0))
    made = draw("extend", spot(-29, 7, arc, "curve"), on=d)
    assert dict(curves_of(made))[arc].length == pytest.approx(30 * math.pi * 1.5, rel=0.2)
    made = draw("split", spot(4, 0, a, "curve"), on=d)
    assert sum(c.length for _, c in curves_of(made)) == pytest.approx(
        sum(c.length for _, c in curves_of(d))
    )
    assert len(curves_of(made)) == 4


@given(
    st.floats(-1, 1), st.floats(-1, 1), st.floats(0.3, 3), st.floats(0.3, 2), st.floats(0, 3)
)  # fmt: skip
@settings(max_examples=60, deadline=None)
def test_crossings_lie_on_both_curves(x, y, r, minor, turn):
    circle = Circle2((x, y), r)
    ellipse = Ellipse2((0.0, 0.0), (1.7 * math.cos(turn), 1.7 * math.sin(turn)), minor)
    line = Line2((-3.0, y), (3.0, x))
    for one, two in ((circle, line), (ellipse, line), (ellipse, circle)):
        for t, u, p in crossings(one, two):
            assert one.at(t) == pytest.approx(p, abs=1e-7)
            assert two.at(u) == pytest.approx(p, abs=1e-6)
    # A line through the middle of an ellipse meets it twice.
    through = Line2(
        (-5 * math.cos(turn), -5 * math.sin(turn)), (5 * math.cos(turn), 5 * math.sin(turn))
    )
    assert len(crossings(ellipse, through)) == 2


# --- copies that follow


def test_an_offset_follows_what_it_was_made_from():
    d = drawing(plate("w", "40 mm"))
    lines = [e.id for e in d.entities if e.type == "line"]
    w = {"w": Quantity(60.0, LENGTH)}
    d = solve_drawing(d, w).drawing
    made = use("offset", d, [spot(30, 20)], {"gap": "5 mm"}, lines).drawing
    found = solve_drawing(made, w)
    assert found.holds
    assert found.freedom == 0
    assert region_areas(found.drawing) == pytest.approx([60 * 40 - 50 * 30, 50 * 30])
    wider = solve_drawing(found.drawing, {"w": Quantity(90.0, LENGTH)})
    assert region_areas(wider.drawing) == pytest.approx([90 * 40 - 80 * 30, 80 * 30])


def region_areas(d):
    return sorted(r.area for r in arrange(curves_of(d)).regions)


def test_offset_of_a_slot_and_of_an_open_chain_with_caps():
    d = draw("slot", (0, 0), (20, 0), (0, 5), length="20 mm", width="10 mm")
    outline = [e.id for e in d.entities if e.form != "point" and not e.construction]
    made = draw("offset", (10, 20), on=d, selected=outline, gap="2 mm")
    sizes = sorted(r.area for r in arrange(curves_of(made)).regions)
    whole = 20 * 14 + 49 * math.pi
    assert sum(sizes) == pytest.approx(whole, rel=1e-9)
    s = Sketcher()
    ids = [s.point(*p) for p in ((0, 0), (30, 0), (30, 20))]
    chain = [s.line(ids[0], ids[1]), s.line(ids[1], ids[2])]
    made = draw(
        "offset", (10, 5), on=drawing(s), selected=chain, gap="3 mm", both="yes", caps="yes"
    )
    d = Drawing(
        entities=[
            e.model_copy(update={"construction": True}) if e.id in chain else e
            for e in made.entities
        ]
    )
    assert area(d) == pytest.approx(33 * 6 + 17 * 6, rel=1e-9)
    with pytest.raises(ToolTrouble, match="too short"):
        use("offset", drawing(s), [spot(10, 5)], {"gap": "40 mm"}, chain)


def test_a_mirror_image_follows():
    s = Sketcher()
    ids = [s.point(*p) for p in ((3, 0), (20, 0), (20, 12))]
    lines = [s.line(ids[0], ids[1]), s.line(ids[1], ids[2])]
    arc = s.arc(s.point(20, 18), ids[2], s.point(26, 18))
    made = draw("mirror", on=drawing(s), selected=[*lines, arc, "y_axis"])
    before = solve_drawing(made)
    x, _ = next((e.x, e.y) for e in made.entities if e.id == ids[1])
    pulled = solve_drawing(before.drawing, pull={ids[1]: (25.0, -3.0)})
    points = {
        (round(abs(e.x), 6), round(e.y, 6)) for e in pulled.drawing.entities if e.type == "point"
    }
    assert x == 20
    assert len(points) == 5
    curves = [c for _, c in curves_of(pulled.drawing) if isinstance(c, Arc2)]
    assert curves[0].length == pytest.approx(curves[1].length)


def test_copies_go_by_formula_and_their_number_may_change():
    s = Sketcher()
    c = s.point(10, 0)
    hole = s.circle(c, 2.0)
    made = use(
        "circular_copies", drawing(s), (), {"count": "n", "angle": "360 deg"}, [hole, "origin"],
        {"n": Quantity(6.0, NUMBER)},
    ).drawing  # fmt: skip
    for n in (6, 9, 4):
        found = solve_drawing(made, {"n": Quantity(float(n), NUMBER)})
        assert found.holds
        assert not found.culprits
        made = found.drawing
        centres = [c.centre for _, c in curves_of(made)]
        assert len(centres) == n
        angles = sorted(math.degrees(math.atan2(y, x)) % 360 for x, y in centres)
        assert np.diff(angles) == pytest.approx([360 / n] * (n - 1))
        assert found.freedom == 3  # the first circle: place and size
    row = draw(
        "linear_copies",
        on=drawing(s),
        selected=[hole, "x_axis"],
        count="4",
        spacing="7 mm",
        skips="2",
    )
    assert sorted(round(c.centre[0], 6) for _, c in curves_of(row)) == [10, 17, 31]
    with pytest.raises(ToolTrouble, match="whole number"):
        use("linear_copies", drawing(s), (), {"count": "2.5", "spacing": "7 mm"}, [hole, "x_axis"])


def test_move_turn_scale_and_a_copy():
    s = Sketcher()
    ids = s.box(0, 0, 10, 6)
    s.put("distance", ids[0], ids[1], formula="10 mm")
    d = drawing(s)
    lines = [e.id for e in d.entities if e.type == "line"]
    moved = draw("move", (0, 0), (5, 5), on=d, selected=lines)
    assert min(e.x for e in moved.entities if e.type == "point") == pytest.approx(5)
    both = draw("move", (0, 0), (20, 0), on=d, selected=lines, copy="yes")
    assert area(both) == pytest.approx(120)
    turned = draw("rotate", (0, 0), on=d, selected=lines, angle="30 deg")
    assert area(turned) == pytest.approx(60)
    scaled = draw("scale", (0, 0), on=d, selected=lines, factor="2")
    assert area(scaled) == pytest.approx(240)


def test_join_and_doubles():
    s = Sketcher()
    s.line(s.point(0, 0), s.point(10, 0))
    s.line(s.point(10.04, 0.01), s.point(10, 10))
    s.line(s.point(0, 0), s.point(10, 0))
    d = drawing(s)
    single = draw("simplify", on=d)
    assert len(curves_of(single)) == 2
    (gap,) = [g for g in gaps(single) if g.size and g.size < 1]  # a pair is one gap
    assert gap.size == pytest.approx(math.hypot(0.04, 0.01))
    joined = draw("join", on=single, tolerance="0.1 mm")
    assert [g.size for g in gaps(joined) if g.size and g.size < 1] == []
    with pytest.raises(ToolTrouble, match="nearer than"):
        use("join", joined, (), {"tolerance": "0.1 mm"})


# --- help


@pytest.mark.parametrize("loose", [lambda s: None, lambda s: s.circle(s.point(15, 12), 4.0)])
def test_proposals_settle_a_sketch_and_each_was_needed(loose):
    s = Sketcher()
    s.polygon([(0.1, 0.05), (40, 0), (40.1, 30), (0, 30.2)])
    loose(s)
    d = drawing(s)
    found = proposals(d)
    after = d.model_copy(update={"constraints": (*d.constraints, *(p.constraint for p in found))})
    solved = solve_drawing(after)
    assert solved.holds
    assert solved.freedom == 0
    assert not solved.culprits
    assert sum(p.takes for p in found) == solve_drawing(d).freedom


def test_motions_are_as_many_as_freedoms_and_keep_the_constraints():
    s = plate()
    corner = s.constraints.pop()  # its height is free now
    s.circle(s.point(20, 20), 3.0)
    d = drawing(s)
    found = motions(d)
    assert len(found) == solve_drawing(d).freedom == 4
    assert corner["type"] == "distance_y"
    lifted = next(m for m in found if len(m.points) == 2)
    assert {round(y, 9) for _, y in lifted.points.values()} in ({1.0}, {-1.0})


def test_how_far_a_size_can_go():
    # Three sides of a triangle: the third cannot be longer than the other two together.
    s = Sketcher()
    ids = [s.point(*p) for p in ((0, 0), (30, 0), (10, 20))]
    lines = [s.line(ids[i], ids[(i + 1) % 3]) for i in range(3)]
    s.put("distance", lines[0], formula="30 mm")
    s.put("distance", lines[1], formula="25 mm")
    k = s.put("distance", lines[2], formula="80 mm")
    assert reachable(drawing(s), k) == pytest.approx(55.0, rel=2e-3)


def test_sizes_may_use_each_other_but_not_in_a_circle():
    s = plate()
    d = drawing(s)
    ids = [c.id for c in d.constraints if c.formula]
    tie = [
        c.model_copy(update={"formula": f"{ids[0]} / 3"}) if c.id == ids[1] else c
        for c in d.constraints
    ]
    found = solve_drawing(d.model_copy(update={"constraints": tuple(tie)}))
    assert found.values[ids[1]] == pytest.approx(20.0)
    named = {ids[0]: Quantity(99.0, LENGTH)}  # a parameter of that name is what is meant
    over = solve_drawing(d.model_copy(update={"constraints": tuple(tie)}), named)
    assert over.values[ids[1]] == pytest.approx(33.0)
    loop = [c.model_copy(update={"formula": f"2 * {ids[1]}"}) if c.id == ids[0] else c for c in tie]
    found = solve_drawing(d.model_copy(update={"constraints": tuple(loop)}))
    assert "circle" in found.troubles[0].text


def test_a_spline_cut_in_pieces_is_the_same_curve():
    c = Spline2(
        3, (0, 0, 0, 0, 0.4, 0.7, 1, 1, 1, 1), ((0, 0), (1, 3), (4, 2), (5, -1), (7, 0), (9, 2))
    )
    for low, high in ((0.0, 0.5), (0.2, 0.7), (0.4, 1.0), (0.55, 0.6)):
        piece = c.cut(low, high)
        for t in np.linspace(0, 1, 7):
            assert piece.at(t) == pytest.approx(c.at(low + t * (high - low)), abs=1e-10)


def inside_a_rectangle():
    """A chain across a rectangle from side to side, and its offset: ends on the sides."""
    s = Sketcher()
    corners = s.box(0, 0, 80, 50)
    s.put("coincident", corners[0], "origin")
    s.put("distance_x", corners[0], corners[1], formula="80 mm")
    s.put("distance_y", corners[0], corners[3], formula="50 mm")
    sides = [e["id"] for e in s.entities if e["type"] == "line"]
    a, b = s.point(20, 0), s.point(20, 50)
    chain = s.line(a, b)
    s.put("on_curve", a, sides[0])
    s.put("on_curve", b, sides[2])
    s.put("vertical", chain)
    s.put("distance_x", corners[0], a, formula="20 mm")
    return s, chain, sides


def test_an_offset_of_an_open_chain_ends_on_its_neighbours():
    s, chain, sides = inside_a_rectangle()
    made = draw("offset", (30, 25), on=drawing(s), selected=[chain], gap="3 mm")
    solved = solve_drawing(made)
    assert solved.freedom == 0
    new = next(e for e in made.entities if e.type == "line" and e.id not in {chain, *sides})
    assert sorted(at(solved.drawing, p)[1] for p in (new.a, new.b)) == pytest.approx([0, 50])
    # The rectangle's height and the gap change: the ends stay on the sides.
    changed = made.model_copy(
        update={
            "constraints": tuple(
                c.model_copy(update={"formula": "70 mm"}) if c.formula == "50 mm"
                else c.model_copy(update={"formula": "4 mm"}) if c.formula == "3 mm" else c
                for c in made.constraints
            )
        }
    )  # fmt: skip
    after = solve_drawing(changed)
    assert after.holds
    assert sorted(at(after.drawing, p)[1] for p in (new.a, new.b)) == pytest.approx([0, 70])
    assert at(after.drawing, new.a)[0] == pytest.approx(24)


@pytest.mark.parametrize("seed", range(10))
def test_what_was_settled_holds_when_every_size_changes_by_a_fifth(seed):
    """Loose drawings whose ends lie on sides, middles and mirrors: settled by relations, so that
    every size may change and nothing breaks."""
    rng = random.Random(seed)
    w, h = rng.uniform(60, 100), rng.uniform(40, 60)
    s = Sketcher()
    corners = s.box(0, 0, w, h)
    s.put("coincident", corners[0], "origin")
    sides = [e["id"] for e in s.entities if e["type"] == "line"]
    x = rng.uniform(0.2, 0.8) * w
    s.line(s.point(x, 0), s.point(x, h))  # from side to side
    if rng.random() < 0.7:
        s.circle(s.point(w / 2, 0), 4.0)  # in the middle of a side
    if rng.random() < 0.7:
        y = rng.uniform(0.3, 0.7) * h
        s.line(s.point(x, y), s.point(w, y))  # from the wall to a side
    d = drawing(s)
    found = proposals(d)
    settled = d.model_copy(update={"constraints": (*d.constraints, *(p.constraint for p in found))})
    assert solve_drawing(settled).freedom == 0
    sizes = [c for c in settled.constraints if c.formula]
    # Two for the rectangle, one or two for where walls stand, one for the circle: no end by number.
    assert len(sizes) <= 2 + 1 + 1 + 1
    for factor in (0.8, 1.2):
        for one in [*sizes, None]:
            changed = settled.model_copy(
                update={
                    "constraints": tuple(
                        c.model_copy(update={"formula": f"({c.formula})*{factor}"})
                        if c.formula and one in (None, c) else c
                        for c in settled.constraints
                    )
                }
            )  # fmt: skip
            after = solve_drawing(changed)
            assert after.holds, (one, [p.words for p in found])
    assert sides

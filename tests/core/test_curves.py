"""Curves, their regions, and constraints on free curves, against closed forms."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.drawings import drawing
from vireo.core.curves import Ellipse2, Line2, Spline2
from vireo.core.kernel.profile import arrange
from vireo.core.sketch import Drawing, curves_of, solve_drawing
from vireo.core.sketch.residuals import same_bend, same_way, spline_point
from vireo.script.sketch import Sketch as Sketcher


def curve(d: Drawing, id: str):
    return dict(curves_of(d, construction=True))[id]


def at(d: Drawing, id: str):
    return next((e.x, e.y) for e in d.entities if e.id == id)


@pytest.mark.parametrize(("major", "minor"), [((6.0, 2.0), 3.0), ((1.0, -2.0), 5.0)])
def test_an_ellipse_encloses_pi_a_b(major, minor):
    # One half axis longer than the other, either way round: the kernel wants the longer first.
    e = Ellipse2((3.0, -1.0), major, minor)
    (region,) = arrange((("e1", e),)).regions
    assert region.area == pytest.approx(math.pi * math.hypot(*major) * minor, rel=1e-9)
    half = Ellipse2((3.0, -1.0), major, minor, 0.4, 0.4 + math.pi)
    found = arrange((("e1", half), ("l1", Line2(*half.ends)))).regions
    assert [r.area for r in found] == pytest.approx([region.area / 2], rel=1e-9)


def test_a_parabola_cuts_two_thirds_of_its_triangle():
    # Archimedes: a segment of a parabola is 2/3 of the triangle of chord and tangents.
    s = Sketcher()
    a, apex, b = s.point(0, 0), s.point(3, 8), s.point(10, 0)
    s.add("conic", start=a, apex=apex, end=b, rho=0.5)
    s.line(a, b)
    (region,) = arrange(curves_of(drawing(s))).regions
    assert region.area == pytest.approx(2 / 3 * 40, rel=1e-9)


def test_a_conic_of_the_right_rho_is_a_circle():
    # Quarter of a circle: middle weight cos 45 deg = rho / (1 - rho).
    w = math.cos(math.pi / 4)
    s = Sketcher()
    ends = s.point(5, 0), s.point(5, 5), s.point(0, 5)
    k = s.add("conic", start=ends[0], apex=ends[1], end=ends[2], rho=w / (1 + w))
    c = curve(drawing(s), k)
    for x, y in c.points(0.05):
        assert math.hypot(x, y) == pytest.approx(5.0, abs=1e-12)
    assert c.curvature(np.linspace(0, 1, 9)) == pytest.approx(0.2, abs=1e-9)
    assert c.length == pytest.approx(5 * math.pi / 2, rel=1e-9)


places = st.lists(
    st.tuples(st.integers(-40, 40), st.integers(-40, 40)), min_size=3, max_size=9, unique=True
)


@given(places, st.booleans())
@settings(max_examples=40, deadline=None)
def test_a_spline_goes_through_its_points_smoothly(places, closed):
    s = Sketcher()
    ids = [s.point(*p) for p in places]
    k = s.add("spline", through=ids, closed=closed)
    c = curve(drawing(s), k)
    for p in places:
        assert c.at(c.parameter(p)) == pytest.approx(p, abs=1e-6)
    knots = np.unique(c.knots)
    inner = knots[1:-1]
    if len(inner):
        before, after = (c.derivatives(inner + h)[2] for h in (-1e-9, 1e-9))
        assert before == pytest.approx(after, rel=1e-4, abs=1e-3 * np.abs(before).max() + 1e-9)
    if closed:
        for order in (1, 2):
            a, b = c.derivatives(np.array([0.0, 1.0]))[order]
            assert a == pytest.approx(b, rel=1e-6, abs=1e-6 * np.abs(a).max() + 1e-9)


def test_handles_give_the_direction_at_the_ends():
    s = Sketcher()
    ids = [s.point(*p) for p in ((0, 0), (10, 6), (20, 0))]
    h = s.point(0, 4)
    k = s.add("spline", through=ids, start_handle=h)
    c = curve(drawing(s), k)
    assert c.derivatives(0.0)[1][0] / 12 == pytest.approx((0, 1 / c.knots[4]), abs=1e-9)


@pytest.mark.parametrize("sizes", [(3, 5, 5), (2, 3, 3), (3, 7, 4), (1, 4, 4)])
def test_spline_residuals_agree_with_scipy_and_differences(sizes):
    degree, poles, points = sizes
    rng = np.random.default_rng(5)
    inner = np.sort(rng.uniform(0.1, 0.9, poles - degree - 1))
    knots = np.concatenate([np.zeros(degree + 1), inner, np.ones(degree + 1)])
    M = rng.uniform(-1, 1, (poles, points))
    w = rng.uniform(0.5, 2, poles)
    V = np.concatenate([knots, w, M.ravel()])[:, None]
    P = rng.uniform(-1, 1, (points, 2))
    t, p = 0.37, np.array([0.2, -0.3])
    X = np.concatenate([[t], p, P.ravel()])[:, None]
    c = Spline2(degree, tuple(knots), tuple(map(tuple, M @ P)), tuple(w))
    R, J = spline_point(*sizes)(X, V)
    assert R[:, 0] == pytest.approx(p - c.derivatives(t)[0][0], abs=1e-12)
    f = spline_point(*sizes)
    _differences(f, X, V, J)
    line = ("line", ())
    both = np.concatenate([np.array([[0.0], [0.0], [1.0], [0.4]]), X[:1], X[3:]])
    values = np.concatenate([np.zeros((1, 1)), V])
    for make in (same_way, same_bend):
        g = make(line, ("spline", sizes))
        _differences(g, both, values, g(both, values)[1])


def _differences(f, X, V, J):
    for k in range(len(X)):
        step = np.zeros_like(X)
        step[k] = 1e-6
        slope = (f(X + step, V)[0] - f(X - step, V)[0]) / 2e-6
        np.testing.assert_allclose(J[:, k], slope, atol=1e-5, rtol=1e-5)


def test_a_point_held_on_a_spline_stays_on_it_while_the_spline_moves():
    s = Sketcher()
    ids = [s.point(*p) for p in ((0, 0), (10, 8), (22, 3), (30, 9))]
    k = s.add("spline", through=ids)
    p = s.point(15, 9)
    s.put("on_curve", p, k)
    s.put("distance_x", ids[0], p, formula="14 mm")
    for i in ids:
        s.put("fixed", i)
    found = solve_drawing(drawing(s))
    assert found.holds
    assert found.freedom == 0
    c = curve(found.drawing, k)
    spot = at(found.drawing, p)
    assert spot[0] == pytest.approx(14.0, abs=1e-7)
    assert c.at(c.parameter(spot)) == pytest.approx(spot, abs=1e-7)


def test_a_spline_leaves_a_line_smoothly_and_an_arc_with_its_curvature():
    s = Sketcher()
    a, b, m, e = (s.point(*p) for p in ((0, 0), (10, 0), (20, 4), (30, 15)))
    h, g = s.point(13, 1), s.point(28, 11)
    line = s.line(a, b)
    k = s.add("spline", through=[b, m, e], start_handle=h, end_handle=g)
    centre, far = s.point(20, 22), s.point(26, 30)
    arc = s.arc(centre, e, far)
    s.put("tangent", line, k)
    s.put("tangent", k, arc)
    s.put("curvature", k, arc)
    found = solve_drawing(drawing(s))
    assert found.holds
    assert found.culprits  # curvature brings tangency with it: the plain one says nothing new
    d = found.drawing
    c, round = curve(d, k), curve(d, arc)
    u = c.derivatives(0.0)[1][0]
    assert u[0] * (at(d, b)[1] - at(d, a)[1]) == pytest.approx(
        u[1] * (at(d, b)[0] - at(d, a)[0]), abs=1e-6
    )
    assert abs(c.curvature(np.array([1.0]))[0]) == pytest.approx(1 / round.radius, rel=1e-6)


def test_lines_and_circles_touch_ellipses():
    # The tangents of slope zero touch at c +- b (Apollonius): a level line stands b away.
    s = Sketcher()
    c, m = s.point(0, 0), s.point(8, 0)
    e = s.add("ellipse", centre=c, major=m, minor=3.0)
    a, b = s.point(-9, 4), s.point(9, 5)
    line = s.line(a, b)
    for id in (c, m):
        s.put("fixed", id)
    s.put("height", e, formula="7 mm")
    s.put("horizontal", line)
    s.put("tangent", line, e)
    found = solve_drawing(drawing(s))
    assert found.holds
    assert at(found.drawing, a)[1] == pytest.approx(3.5, abs=1e-7)
    # A circle about a point on the long axis touches the near end: r = gap.
    q = s.point(12, 0)
    k = s.circle(q, 3.0)
    s.put("fixed", q)
    s.put("tangent", k, e)
    found = solve_drawing(drawing(s))
    assert found.holds
    radius = next(x.radius for x in found.drawing.entities if x.id == k)
    assert radius == pytest.approx(4.0, abs=1e-6)


def test_angles_are_taken_in_the_sector_their_label_stands_in():
    s = Sketcher()
    a, b, p, q = (s.point(*v) for v in ((-10, 0), (10, 0), (-6, -6), (6, 6)))
    one, two = s.line(a, b), s.line(p, q)
    for label, degrees in (((8, 3), 45), ((0, 5), 135), ((-8, -3), 45), ((0, -5), 135)):
        k = {"id": "k9", "type": "angle", "on": [one, two], "at": label, "reference": True}
        d = Drawing.model_validate({**s.drawing, "constraints": [k]})
        value = solve_drawing(d).values["k9"]
        assert math.degrees(value) == pytest.approx(degrees)
    # Driven, the lines keep to that sector.
    k = {"id": "k9", "type": "angle", "on": [one, two], "at": (0, 5), "formula": "120 deg"}
    found = solve_drawing(Drawing.model_validate({**s.drawing, "constraints": [k]}))
    (x0, y0), (x1, y1) = at(found.drawing, p), at(found.drawing, q)
    (u0, v0), (u1, v1) = at(found.drawing, a), at(found.drawing, b)
    between = math.atan2(y1 - y0, x1 - x0) - math.atan2(v1 - v0, u1 - u0)
    assert math.degrees(between) == pytest.approx(60.0, abs=1e-6)


@pytest.mark.parametrize(
    ("type", "formula", "value"),
    [
        ("arc_length", "30 mm", 30.0),
        ("radius", "12 mm", 12.0),
    ],
)
def test_sizes_of_arcs(type, formula, value):
    s = Sketcher()
    c, a, b = s.point(0, 0), s.point(10, 0), s.point(0, 10)
    arc = s.arc(c, a, b)
    s.put("coincident", "origin", c)
    s.put("on_curve", a, "x_axis")
    k = s.put(type, arc, formula=formula)
    found = solve_drawing(drawing(s))
    assert found.holds
    assert found.values[k] == pytest.approx(value)
    made = curve(found.drawing, arc)
    assert (made.length if type == "arc_length" else made.radius) == pytest.approx(value, rel=1e-9)


def test_ratio_spacing_collinear_and_diameter_across():
    s = Sketcher()
    ids = [s.point(*p) for p in ((0, 0), (7, 1), (21, -1), (0, 5), (9, 6))]
    one, two = s.line(ids[0], ids[1]), s.line(ids[3], ids[4])
    s.put("coincident", "origin", ids[0])
    s.put("collinear", "x_axis", one)
    s.put("distance", one, formula="8 mm")
    s.put("ratio", two, one, formula="1.5")
    s.put("equal_spacing", ids[0], ids[1], ids[2])
    s.put("diameter_across", ids[3], "x_axis", formula="11 mm")
    found = solve_drawing(drawing(s))
    assert found.holds
    assert at(found.drawing, ids[2]) == pytest.approx((16.0, 0.0), abs=1e-9)
    p, q = at(found.drawing, ids[3]), at(found.drawing, ids[4])
    assert math.dist(p, q) == pytest.approx(12.0)
    assert p[1] == pytest.approx(5.5)

"""The sketch solver: residuals, branches, freedoms, conflicts, dragging."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.drawings import drawing, plate, slot
from vireo.core.quantity import LENGTH, Quantity
from vireo.core.sketch import Drawing, curves_of, solve_drawing
from vireo.core.sketch.residuals import RESIDUALS
from vireo.core.trouble import BadInput
from vireo.script.sketch import Sketch as Sketcher

WIDTH = {
    "distance": 4, "difference": 2, "value": 1, "point_line": 6, "line_circle": 7,
    "tangent_at_end": 8, "circle_circle": 6, "on_circle": 5, "angle": 8, "parallel": 8,
    "perpendicular": 8, "equal_length": 8, "midpoint": 6, "symmetric": 8, "ratio": 8,
    "radius_ratio": 2, "equal_gaps": 6, "line_gaps": 12, "arc_length": 7, "spaced": 8,
    "rotated": 6, "on_ellipse": 7, "line_ellipse": 9, "as_wide": 5,
    "beside_ellipse": 10, "beside_spline": 9,
}  # fmt: skip


@pytest.mark.parametrize("name", sorted(RESIDUALS))
def test_gradients_agree_with_differences(name):
    rng = np.random.default_rng(3)
    X = rng.uniform(-1, 1, (WIDTH[name], 5))
    V = rng.uniform(0.2, 0.9, (7, 5))
    f = RESIDUALS[name]
    _, J = f(X, V)
    for k in range(len(X)):
        step = np.zeros_like(X)
        step[k] = 1e-6
        difference = (f(X + step, V)[0] - f(X - step, V)[0]) / 2e-6
        np.testing.assert_allclose(
            np.broadcast_to(J, (len(difference), *X.shape))[:, k], difference, atol=2e-8
        )


def at(d: Drawing, id: str) -> tuple[float, float]:
    return next((e.x, e.y) for e in d.entities if e.id == id)


def test_a_dimensioned_plate_is_settled_and_exact():
    found = solve_drawing(drawing(plate("a", "a / 2")), {"a": Quantity(80.0, LENGTH)})
    assert found.holds
    assert found.freedom == 0
    assert found.loose == {}
    assert at(found.drawing, "p3") == pytest.approx((80.0, 40.0), abs=1e-9)


def test_a_slot_of_tangent_arcs_is_settled_and_keeps_its_tangency():
    found = solve_drawing(drawing(slot()))
    assert found.holds
    assert found.freedom == 0
    curves = dict(curves_of(found.drawing))
    arcs = [c for c in curves.values() if hasattr(c, "radius")]
    assert [a.radius for a in arcs] == pytest.approx([5.0, 5.0])
    assert sum(a.end - a.start for a in arcs) == pytest.approx(2 * math.pi)


def test_freedoms_are_counted_overall_and_per_point():
    s = Sketcher()
    a, b = s.point(1, 2), s.point(30, 4)
    s.put("horizontal", s.line(a, b))
    found = solve_drawing(drawing(s))
    assert found.freedom == 3
    s.put("coincident", "origin", a)
    found = solve_drawing(drawing(s))
    assert found.freedom == 1
    assert found.loose == {b: "x"}


@pytest.mark.parametrize(
    ("type", "on", "formula", "holds"),
    [
        ("distance", ("l7",), "61 mm", False),
        ("distance", ("l7",), "60 mm", True),
        ("perpendicular", ("l5", "l6"), None, True),
        ("parallel", ("l5", "l7"), None, True),
    ],
)
def test_what_is_said_twice_is_named_and_a_contradiction_changes_nothing(type, on, formula, holds):
    s = plate()
    extra = s.put(type, *on, formula=formula)
    before = drawing(s)
    found = solve_drawing(before)
    assert found.culprits[0] == extra
    assert found.holds is holds
    if not holds:
        assert list(found.drawing.entities) == list(before.entities)
        assert "contradicts" in found.troubles[0].text


@given(st.floats(0.5, 3.0), st.floats(0.5, 3.0))
@settings(max_examples=40, deadline=None)
def test_dimension_edits_stay_on_their_branch(fx, fy):
    s = plate(f"{60 * fx!r} mm", f"{40 * fy!r} mm")
    found = solve_drawing(drawing(s))
    assert found.holds
    assert at(found.drawing, "p3") == pytest.approx((60 * fx, 40 * fy), rel=1e-9)


@given(st.lists(st.tuples(st.floats(-30, 30), st.floats(-30, 30)), min_size=1, max_size=6))
@settings(max_examples=30, deadline=None)
def test_dragging_follows_where_free_and_never_breaks_a_constraint(path):
    s = Sketcher()
    corners = s.box(0, 0, 40, 30)
    s.put("distance", corners[0], corners[1], formula="40 mm")
    d = drawing(s)
    for dx, dy in path:
        x, y = at(d, corners[2])
        found = solve_drawing(d, pull={corners[2]: (x + dx, max(y + dy, at(d, corners[0])[1] + 5))})
        d = found.drawing
        assert found.holds
        x0, x1 = at(d, corners[0])[0], at(d, corners[1])[0]
        assert x1 - x0 == pytest.approx(40.0, abs=1e-6)


def test_a_drag_follows_the_pointer_exactly_where_it_can():
    s = Sketcher()
    corners = s.box(0, 0, 40, 30)
    found = solve_drawing(drawing(s), pull={corners[2]: (55.0, 47.0)})
    assert at(found.drawing, corners[2]) == pytest.approx((55.0, 47.0), abs=1e-4)


def test_impossible_and_degenerate_sizes_leave_the_drawing_as_it_was():
    s = Sketcher()
    a, b, c = s.point(0, 0), s.point(10, 0), s.point(5, 8)
    for p, q, size in ((a, b, "10 mm"), (b, c, "9 mm"), (c, a, "30 mm")):
        s.put("distance", p, q, formula=size)
    before = drawing(s)
    found = solve_drawing(before)
    assert not found.holds
    assert found.drawing.entities == before.entities
    line = plate("0 mm")
    assert (
        "positive" in solve_drawing(drawing(line)).troubles[0].text
        or not solve_drawing(drawing(line)).holds
    )


@pytest.mark.parametrize(
    "broken",
    [
        {"entities": [{"type": "line", "id": "l1", "a": "p1", "b": "p2"}]},
        {"entities": [{"type": "point", "id": "p1", "x": 0, "y": 0}] * 2},
        {"entities": [{"type": "point", "id": "p1", "x": float("nan"), "y": 0}]},
        {"entities": [], "constraints": [{"id": "k1", "type": "horizontal", "on": ["l9"]}]},
    ],
)
def test_drawings_that_make_no_sense_are_refused(broken):
    with pytest.raises((BadInput, ValueError)):
        Drawing.model_validate(broken)


def test_a_constraint_on_the_wrong_things_says_what_it_takes():
    s = plate()
    s.put("tangent", "l5", "l6")
    with pytest.raises(BadInput, match="circle"):
        solve_drawing(drawing(s))


@given(st.integers(0, 2**32 - 1))
@settings(max_examples=60, deadline=None)
def test_small_scrambles_come_back_to_the_same_branch(seed):
    rng = np.random.default_rng(seed)
    settled = solve_drawing(drawing(slot())).drawing
    shaken = settled.model_copy(
        update={
            "entities": tuple(
                e.model_copy(update={"x": e.x + rng.normal(0, 0.15), "y": e.y + rng.normal(0, 0.15)})
                if e.type == "point" else e
                for e in settled.entities
            )
        }
    )  # fmt: skip
    found = solve_drawing(shaken)
    assert found.holds
    for id in ("p3", "p4", "p5", "p6"):
        assert at(found.drawing, id) == pytest.approx(at(settled, id), abs=1e-6)

"""Ten sketches as they occur: settled, exact, steady when shaken and when resized."""

import math
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.samples import SAMPLES
from vireo.core.kernel.profile import arrange
from vireo.core.sketch import curves_of, solve_drawing
from vireo.core.sketch.solved import places_of

NAMES = sorted(SAMPLES)


def shaken(d, by, rng):
    """Every point somewhere else by about `by` mm."""
    entities = tuple(
        e.model_copy(update={"x": e.x + rng.normal(0, by), "y": e.y + rng.normal(0, by)})
        if e.type == "point" else e
        for e in d.entities
    )  # fmt: skip
    return d.model_copy(update={"entities": entities})


def off(one, two) -> float:
    a, b = places_of(one), places_of(two)
    return max(math.dist(a[k], b[k]) for k in a)


@pytest.mark.parametrize("name", NAMES)
def test_values_worked_out_by_hand(name):
    sample = SAMPLES[name]()
    found = solve_drawing(sample.drawing)
    assert found.holds
    assert found.freedom == 0
    assert not found.culprits
    regions = arrange(curves_of(found.drawing)).regions
    assert sum(r.area for r in regions if r.depth % 2 == 0) == pytest.approx(sample.area, rel=1e-7)
    curves = dict(curves_of(found.drawing))
    for id, place in sample.touches:
        c = curves[id]
        assert math.dist(c.at(c.parameter(place)), place) < 1e-7


@given(st.sampled_from(NAMES), st.integers(0, 2**32 - 1))
@settings(max_examples=30, deadline=None)
def test_shaken_by_three_percent_of_its_feature_it_comes_back(name, seed):
    sample = SAMPLES[name]()
    settled = solve_drawing(sample.drawing).drawing
    rng = np.random.default_rng(seed)
    found = solve_drawing(shaken(settled, 0.03 * sample.feature, rng), full=False)
    assert found.holds
    assert off(found.drawing, settled) < 1e-6


def resized(d, id, factor):
    def times(c):
        number, unit = re.fullmatch(r"([\d.]+) (mm|deg)", c.formula).groups()
        return c.model_copy(update={"formula": f"{float(number) * factor!r} {unit}"})

    return d.model_copy(
        update={"constraints": tuple(times(c) if c.id == id else c for c in d.constraints)}
    )


@given(st.sampled_from(NAMES), st.integers(0, 9), st.floats(0.5, 3.0))
@settings(max_examples=30, deadline=None)
def test_a_size_changed_at_once_ends_where_small_steps_lead(name, which, factor):
    """Staying on the branch: the jump must end where a walk in thirty steps ends."""
    sample = SAMPLES[name]()
    d = solve_drawing(sample.drawing).drawing
    sizes = [c.id for c in d.constraints if c.formula and c.formula.endswith("mm")]
    size = sizes[which % len(sizes)]
    walk = d
    for k in range(1, 31):
        step = solve_drawing(resized(d, size, factor ** (k / 30)).model_copy(
            update={"entities": walk.entities}), full=False)  # fmt: skip
        if not step.holds:
            return  # this size has no solution on this branch: nothing to compare
        walk = step.drawing
    jump = solve_drawing(resized(d, size, factor), full=False)
    assert jump.holds
    assert off(jump.drawing, walk) < 1e-6 * max(1.0, factor) * 100

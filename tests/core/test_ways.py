"""Ways that joints run along: the nearest place and the length so far, against very many places."""

import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vireo.core.assembly import Mechanism, Member, Pair
from vireo.core.assembly.pose import Pose, turned
from vireo.core.assembly.rows import System, arrays, stepped
from vireo.core.ways import Way

STILL = np.array([1.0, 0, 0, 0])


def some_way(seed, degree, count):
    rng = np.random.default_rng(seed)
    inner = np.sort(rng.random(count - degree - 1))
    knots = np.concatenate([np.zeros(degree + 1), inner, np.ones(degree + 1)])
    return Way(degree, knots, 30 * rng.normal(size=(count, 3)), 0.3 + rng.random(count), False)


def ring(radius):
    """A circle as four rational quarters: NURBS Book, example 7.2."""
    w = math.sqrt(0.5)
    corners = [(1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0), (-1, -1), (0, -1), (1, -1), (1, 0)]
    poles = radius * np.array([(x, y, 0.0) for x, y in corners])
    knots = np.repeat([0.0, 0.25, 0.5, 0.75, 1.0], [3, 2, 2, 2, 3])
    return Way(2, knots, poles, np.array([1, w] * 4 + [1]), True)


def chords(way, count=20_000):
    t = np.linspace(way.knots[0], way.knots[-1], count + 1)
    seen = way.places(t)
    return seen, np.diff(seen, axis=0)


@given(st.integers(0, 10**6), st.integers(2, 5), st.integers(0, 6))
@settings(max_examples=40, deadline=None)
def test_no_place_of_a_way_is_nearer_than_its_foot(seed, degree, more):
    way = some_way(seed, degree, degree + 2 + more)
    seen, chord = chords(way)
    for point in 40 * np.random.default_rng(seed + 1).normal(size=(6, 3)):
        foot = way.foot(point)
        least = float(np.linalg.norm(seen - point, axis=1).min())
        k = int(np.linalg.norm(seen - point, axis=1).argmin())
        # Past an end it counts from the tangent there.
        if 0 < k < len(chord) and 0 < foot.travel < way.length:
            assert float(np.linalg.norm(foot.at - point)) <= least + 1e-9
            assert abs(float((foot.at - point) @ foot.way)) < 1e-6 * (1 + least)
            here = int(np.linalg.norm(seen - foot.at, axis=1).argmin())
            lengths = np.linalg.norm(chord, axis=1)
            near = way.length * 1e-4 + 2 * lengths[max(here - 1, 0) : here + 1].max()
            assert foot.travel == pytest.approx(lengths[:here].sum(), abs=near)
    assert way.length == pytest.approx(float(np.linalg.norm(chord, axis=1).sum()), rel=1e-4)


@given(st.floats(-math.pi, math.pi), st.floats(0.2, 30), st.floats(-9, 9))
def test_on_a_ring_the_foot_and_the_travel_are_those_of_the_circle(angle, reach, height):
    way = ring(10.0)
    assert way.length == pytest.approx(20 * math.pi, rel=1e-12)
    foot = way.foot(np.array([reach * math.cos(angle), reach * math.sin(angle), height]))
    assert foot.at == pytest.approx([10 * math.cos(angle), 10 * math.sin(angle), 0], abs=1e-8)
    off = foot.travel - 10 * angle
    assert off - 20 * math.pi * round(off / (20 * math.pi)) == pytest.approx(0, abs=1e-8)


@given(st.floats(1e-4, 0.3), st.booleans())
def test_ends_that_nearly_meet_are_told_apart(gap, at_start):
    """Nearly a whole ring, its ends a hair apart: a point on one end has its foot there."""
    whole = ring(10.0)
    poles = whole.poles.copy()
    poles[-1, 2] += gap
    way = Way(2, whole.knots, poles, whole.weights, False)
    end = poles[0] if at_start else poles[-1]
    foot = way.foot(end)
    assert foot.at == pytest.approx(end, abs=1e-9)
    assert foot.travel == pytest.approx(0.0 if at_start else way.length, abs=1e-6)


def test_past_its_end_a_way_goes_on_straight():
    way = some_way(3, 3, 6)
    last = way.poles[-1] - way.poles[-2]
    last /= np.linalg.norm(last)
    foot = way.foot(way.poles[-1] + 7 * last)
    assert foot.travel == pytest.approx(way.length + 7)
    assert foot.at == pytest.approx(way.poles[-1] + 7 * last)


@given(st.integers(0, 10**6), st.floats(0.05, 0.95))
@settings(max_examples=30, deadline=None)
def test_on_the_way_the_gradients_of_its_rows_are_those_of_small_steps(seed, at):
    way = some_way(seed, 3, 7)
    rng = np.random.default_rng(seed)
    pair = Pair(
        "j", "on_curve", 0, 1, rng.normal(size=3), np.eye(3), rng.normal(size=3), np.eye(3),
        values={"travel": 0.4 * way.length}, way=way,
    )  # fmt: skip
    a = Pose(rng.normal(size=3), turned(STILL, rng.normal(size=3)))
    q = turned(STILL, rng.normal(size=3))
    place = a.out(pair.origin_a + way.places(np.array([at]))[0])
    b = Pose(place - Pose(np.zeros(3), q).out(pair.origin_b), q)
    bodies = tuple(Member(id, pose, size=40.0) for id, pose in (("a", a), ("b", b)))
    made = Mechanism(bodies, (pair,))
    # What a way is told as comes back.
    system = System(Mechanism.from_json(json.loads(json.dumps(made.to_json()))))
    start = arrays([a, b])
    r, J = system.evaluate(*start)
    assert np.abs(r[:2]).max() < 1e-9
    for k in range(12):
        step = np.zeros(12)
        step[k] = h = 1e-7
        ahead, behind = (system.evaluate(*stepped(system, *start, s))[0] for s in (step, -step))
        assert J[:, k] == pytest.approx((ahead - behind) / (2 * h), abs=1e-4)

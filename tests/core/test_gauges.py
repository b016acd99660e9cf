"""Numbers read off bodies for checks, against closed forms, wherever the body stands."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from vireo.core.geometry import Frame
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.holes import round_holes
from vireo.core.kernel.place import located
from vireo.core.kernel.primitive import primitive
from vireo.core.kernel.shape import Body, compound_of
from vireo.core.measure.gauge import GAUGES


def box(x, y, z, at=(0.0, 0.0, 0.0)):
    """Standing with the middle of its foot at a place."""
    corner = Frame(origin=(at[0] - x / 2, at[1] - y / 2, at[2]))
    return primitive("box", {"width": x, "depth": y, "height": z}, corner, "s1")


def rod(d, h, at):
    return primitive("cylinder", {"diameter": d, "height": h}, Frame(origin=at), "s2")


def less(body, *tools):
    return combine("cut", body, list(tools), "a test")


def read(name, body, **asked):
    return GAUGES[name].read(body, asked)


def stood(body, seed):
    """The body somewhere else, turned."""
    rng = np.random.default_rng(seed)
    turn = Rotation.random(random_state=seed).as_matrix()
    return Body(located(body.shape, turn, rng.uniform(-50, 50, 3)), body.names)


@settings(max_examples=12)
@given(st.integers(0, 5), st.integers(0, 4), st.integers(0, 10_000))
def test_holes_count_once_each_and_nothing_else_does(plain, stepped, seed):
    """A plate with plain holes, counterbored ones, a blind one with a wide mouth, a slot, a hole cut open
    by the side, a pocket with round corners, and a hole through two lugs that a gap parts."""
    rng = np.random.default_rng(seed)
    plate = box(200.0, 60.0, 10.0, (100.0, 30.0, 0.0))
    tools, widths = [], []
    for k in range(plain):
        d = float(rng.choice([4.0, 5.5, 6.6]))
        tools.append(rod(d, 12.0, (12.0 + 20.0 * k, 10.0, -1.0)))
        widths.append({d})
    for k in range(stepped):
        at = 12.0 + 20.0 * k
        tools += [rod(6.6, 12.0, (at, 30.0, -1.0)), rod(11.0, 6.0, (at, 30.0, 5.0))]
        widths.append({6.6, 11.0})
    # What is no hole: a slot, a bore that the side cuts, round corners of a pocket.
    slot = [rod(6.0, 12.0, (130.0, 10.0, -1.0)), rod(6.0, 12.0, (150.0, 10.0, -1.0)),
            box(20.0, 6.0, 12.0, (140.0, 10.0, -1.0))]  # fmt: skip
    plate = less(plate, *tools, *slot, rod(8.0, 12.0, (199.0, 30.0, -1.0)))
    found = round_holes(stood(plate, seed))
    assert sorted(tuple(sorted(w)) for w in widths) == sorted(
        tuple(round(2 * r, 5) for r in h) for h in found
    )
    assert read("holes", plate) == len(widths)
    assert read("holes", plate, diameter=6.6) == sum(6.6 in w for w in widths)


def test_a_bore_through_two_lugs_is_two_holes_and_one_that_others_cross_is_one():
    lugs = less(box(60.0, 20.0, 20.0), box(20.0, 22.0, 22.0, (0.0, 0.0, 5.0)))
    along = Frame(origin=(-40.0, 0.0, 15.0), x=(0.0, 0.0, -1.0), z=(1.0, 0.0, 0.0))
    pin = primitive("cylinder", {"diameter": 6.0, "height": 80.0}, along, "s3")
    assert read("holes", less(lugs, pin)) == 2
    crossed = less(box(60.0, 20.0, 20.0), rod(8.0, 22.0, (0.0, 0.0, -1.0)))
    low = Frame(origin=(-40.0, 0.0, 10.0), x=(0.0, 0.0, -1.0), z=(1.0, 0.0, 0.0))
    crossed = less(crossed, primitive("cylinder", {"diameter": 5.0, "height": 80.0}, low, "s4"))
    # The cross bore is parted by the hole it runs into.
    assert sorted(round_holes(crossed)) == [(2.5,), (2.5,), (4.0,)]


@settings(max_examples=8)
@given(st.integers(0, 10_000))
def test_wall_radius_and_draft_are_those_of_the_closed_form(seed):
    rng = np.random.default_rng(seed)
    side, floor = float(rng.uniform(1.0, 4.0)), float(rng.uniform(1.0, 4.0))
    tray = less(
        box(50.0, 40.0, 20.0), box(50.0 - 2 * side, 40.0 - 2 * side, 30.0, (0.0, 0.0, floor))
    )
    assert read("wall", stood(tray, seed)) == pytest.approx(min(side, floor), abs=1e-6)
    r = float(rng.uniform(3.0, 9.0))
    ball = primitive("sphere", {"diameter": 2 * r}, Frame(origin=(0.0, 0.0, 20.0)), "s5")
    dimple = less(box(50.0, 40.0, 20.0), ball)
    assert read("radius", stood(dimple, seed), edges="all") == pytest.approx(r, rel=1e-6)
    pocket = less(box(50.0, 40.0, 20.0), rod(2 * r, 20.0, (0.0, 0.0, 8.0)))
    assert read("radius", pocket, edges="all") == 0.0
    assert read("radius", pocket, edges="round") == pytest.approx(r, rel=1e-6)
    assert read("radius", box(5.0, 5.0, 5.0), edges="all") is None
    h = float(rng.uniform(10.0, 30.0))
    cone = primitive("cone", {"diameter": 4 * r, "top": 3 * r, "height": h}, Frame(), "s6")
    assert read("draft", cone, axis="z") == pytest.approx(math.atan2(0.5 * r, h), rel=1e-6)
    assert read("draft", box(9.0, 9.0, 9.0), axis="z") == 0.0
    groove = less(box(30.0, 30.0, 30.0), box(10.0, 40.0, 6.0, (15.0, 0.0, 12.0)))
    assert read("draft", groove, axis="z") < -1.0


@settings(max_examples=6)
@given(st.integers(0, 10_000))
def test_the_thinnest_of_a_wall_between_round_faces_is_found_to_the_last(seed):
    """Two bores beside each other and a bore beside the middle of a rod: thinnest along one line, which no
    sampled place lies on."""
    rng = np.random.default_rng(seed)
    gap, turn = float(rng.uniform(0.3, 3.0)), float(rng.uniform(0, 2 * math.pi))
    one, two = rng.uniform(5.0, 14.0, 2)
    apart = (one + two) / 2 + gap
    to = (apart * math.cos(turn), apart * math.sin(turn), -1.0)
    plate = less(box(120.0, 90.0, 10.0), rod(one, 12.0, (0.0, 0.0, -1.0)), rod(two, 12.0, to))
    assert read("wall", stood(plate, seed)) == pytest.approx(gap, abs=1e-6)
    off = float(rng.uniform(1.0, 4.0))
    bore = rod(28.0, 40.0, (off * math.cos(turn), off * math.sin(turn), -2.0))
    tube = less(rod(40.0, 30.0, (0.0, 0.0, 0.0)), bore)
    assert read("wall", stood(tube, seed)) == pytest.approx(6.0 - off, abs=1e-6)


@settings(max_examples=8)
@given(st.floats(2.0, 40.0), st.integers(0, 10_000))
def test_round_faces_that_turn_away_have_no_draft_and_no_undercut(lean, seed):
    """A rod and a cone leant over: along the line where they turn away from the pull the draft is nothing,
    or what the cone has more than it leans. A notch across is an undercut however it is turned."""
    t = math.radians(lean)
    turn = np.array([[math.cos(t), 0, math.sin(t)], [0, 1, 0], [-math.sin(t), 0, math.cos(t)]])

    def leant(body):
        return Body(located(body.shape, turn, np.zeros(3)), body.names)

    assert read("draft", leant(rod(20.0, 30.0, (0.0, 0.0, 0.0))), axis="z") == 0.0
    cone = primitive("cone", {"diameter": 40.0, "top": 20.0, "height": 30.0}, Frame(), "s6")
    own = math.atan2(10.0, 30.0)
    assert read("draft", leant(cone), axis="z") == pytest.approx(max(0.0, own - t), abs=2e-3)
    ball = primitive("sphere", {"diameter": 30.0}, Frame(), "s5")
    assert [read("draft", ball, axis=a) for a in "xyz"] == [0.0, 0.0, 0.0]
    notch = less(rod(20.0, 30.0, (0.0, 0.0, 0.0)), box(40.0, 40.0, 4.0, (14.0, 0.0, 12.0)))
    assert read("draft", leant(notch), axis="z") == pytest.approx(t - math.pi / 2, abs=1e-6)


@settings(max_examples=8)
@given(st.floats(0.0, 6.28), st.floats(4.0, 12.0))
def test_a_bore_that_a_side_or_a_slot_opens_is_no_hole(turn, wide):
    disc = rod(100.0, 10.0, (0.0, 0.0, 0.0))
    c, s = math.cos(turn), math.sin(turn)
    assert round_holes(less(disc, rod(wide, 12.0, (49.0 * c, 49.0 * s, -1.0)))) == []
    along = Frame(origin=(0.0, 0.0, -1.0), x=(c, s, 0.0), z=(0.0, 0.0, 1.0))
    slot = primitive("box", {"width": 30.0, "depth": wide / 4, "height": 12.0}, along, "s7")
    assert round_holes(less(disc, rod(wide, 12.0, (0.0, 0.0, -1.0)), slot)) == []


def test_open_edges_are_those_one_face_has():
    assert read("open", box(5.0, 5.0, 5.0)) == 0.0
    tube = rod(6.0, 20.0, (0.0, 0.0, 0.0))
    # Its round side alone: two open circles; the seam is no edge of its own.
    side = next(f for f, n in tube.named_faces() if n.endswith("wall"))
    assert read("open", Body(compound_of([side]), ("s2/wall",))) == 2.0
    lid = next(f for f, n in tube.named_faces() if n.endswith("top"))
    assert read("open", Body(compound_of([side, lid]), ("s2/wall", "s2/top"))) == 1.0

"""Joints, loops, driving and dragging."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vireo.core.assembly import Mechanism, Member, Pair, drag, solve
from vireo.core.assembly.ends import end_frame
from vireo.core.assembly.pose import Pose, multiply, quaternion_of, rotation_of, turned
from vireo.core.declared.joint import JOINTS
from vireo.core.naming import Pick
from vireo.core.naming.topology import EdgeInfo, FaceInfo, Topology
from vireo.core.quantity import ANGLE

I = np.eye(3)


def at(x, y=0.0, z=0.0):
    return np.array([float(x), float(y), float(z)])


def member(id, p, anchored=False):
    return Member(id, Pose(at(*p), np.array([1.0, 0, 0, 0])), anchored, 5.0)


def four_bar(ground=4.0, crank=1.0, coupler=3.5, rocker=3.0):
    members = (member("g", (0, 0), True), member("a", (0, 0)), member("b", (0.2, 0.9)),
               member("c", (ground, 0.1)))  # fmt: skip
    pairs = (
        Pair("j1", "revolute", 0, 1, at(0), I, at(0), I),
        Pair("j2", "revolute", 1, 2, at(crank), I, at(0), I),
        Pair("j3", "revolute", 2, 3, at(coupler), I, at(rocker), I),
        Pair("j4", "revolute", 0, 3, at(ground), I, at(0), I),
    )
    return Mechanism(members, pairs)


def test_a_four_bar_has_one_freedom_although_rows_say_minus_two():
    found = solve(four_bar())
    assert found.holds
    assert found.freedom == 1
    assert found.redundant == 3
    assert found.loose == {"a": 1, "b": 1, "c": 1}
    assert found.repeats == ["j4"]


def rocker_angle(theta, ground=4.0, crank=1.0, coupler=3.5, rocker=3.0):
    """Rocker angle of a four-bar by the law of cosines (open branch)."""
    x, y = crank * math.cos(theta), crank * math.sin(theta)
    dx, dy = x - ground, y
    d = math.hypot(dx, dy)
    inner = math.acos((rocker**2 + d**2 - coupler**2) / (2 * rocker * d))
    return math.atan2(dy, dx) - inner


def test_a_driven_four_bar_follows_the_closed_form_through_a_full_turn():
    now = four_bar()
    for k in range(0, 361, 5):
        theta = math.radians(k)
        found = solve(now.with_value("j1", "turn", theta), diagnose=False)
        assert found.holds
        assert found.worst < 1e-6
        now = now.with_poses(found.poses)
        gap = found.coordinates["j4"]["turn"] - rocker_angle(theta)
        assert math.remainder(gap, 2 * math.pi) == pytest.approx(0.0, abs=1e-7)


def test_dragging_keeps_the_loop_closed_and_reaches_what_it_can():
    start = four_bar()
    start = start.with_poses(solve(start).poses)
    found = drag(start, 1, at(1), at(0.0, 2.0))
    assert found.holds
    assert found.coordinates["j1"]["turn"] == pytest.approx(math.pi / 2, abs=0.1)


def test_joints_that_contradict_are_named_and_nothing_moves():
    members = (member("g", (0, 0), True), member("a", (1, 0)))
    pairs = (
        Pair("j1", "fixed", 0, 1, at(0), I, at(0), I),
        Pair("j2", "fixed", 0, 1, at(5), I, at(0), I),
    )
    found = solve(Mechanism(members, pairs))
    assert not found.holds
    assert set(found.broken) == {"j1", "j2"}
    assert found.poses[1].p == pytest.approx([1, 0, 0])


@given(st.lists(st.floats(-3, 3), min_size=6, max_size=6))
@settings(max_examples=40, deadline=None)
def test_a_fixed_joint_holds_from_any_start(start):
    q = turned(np.array([1.0, 0, 0, 0]), np.array(start[3:]))
    members = (member("g", (0, 0), True), Member("a", Pose(np.array(start[:3]), q), False, 5.0))
    pair = Pair(
        "j", "fixed", 0, 1, at(1, 2, 3), I, at(0, 1), np.diag([1.0, -1.0, -1.0]), offset=0.5
    )
    found = solve(Mechanism(members, (pair,)))
    assert found.holds
    assert found.freedom == 0
    pose = found.poses[1]
    assert pose.out(at(0, 1)) == pytest.approx([1, 2, 3.5], abs=1e-6)
    assert pose.rotation == pytest.approx(np.diag([1.0, -1.0, -1.0]), abs=1e-6)


def test_a_slider_stops_at_its_limit_when_dragged():
    members = (member("g", (0, 0), True), member("a", (0, 0, 2)))
    pair = Pair("j", "prismatic", 0, 1, at(0), I, at(0), I, limits={"slide": (-1.0, 4.0)})
    m = Mechanism(members, (pair,))
    assert solve(m).freedom == 1
    found = drag(m, 1, at(0), at(3, 0, 9))
    assert found.coordinates["j"]["slide"] == pytest.approx(4.0, abs=1e-6)
    assert found.poses[1].p == pytest.approx([0, 0, 4], abs=1e-6)


#: Freedoms the textbook gives the lower pairs.
_FREE = {"fixed": 0, "revolute": 1, "prismatic": 1, "cylindrical": 2, "planar": 3, "spherical": 3}
#: Joints with a number of their own, tried elsewhere.
_OWN = ("helical", "on_line", "on_curve")
links = st.lists(
    st.tuples(st.sampled_from(sorted(_FREE)), st.lists(st.floats(-1, 1), min_size=6, max_size=6)),
    min_size=1, max_size=6,
)  # fmt: skip


def chain(links):
    """A serial chain whose members stand where they please, joint ends turned at will."""
    members, pairs = [member("g", (0, 0), True)], []
    for n, (kind, v) in enumerate(links):
        q = turned(np.array([1.0, 0, 0, 0]), np.array(v[3:]))
        members.append(Member(f"m{n}", Pose(3 * np.array(v[:3]), q), False, 5.0))
        frame = rotation_of(turned(np.array([1.0, 0, 0, 0]), 2 * np.array(v[:3])))
        pairs.append(Pair(f"j{n}", kind, n, n + 1, at(2, 1, n), frame, at(0, 0, -1), I))
    return Mechanism(tuple(members), tuple(pairs))


@given(links)
@settings(max_examples=40, deadline=None)
def test_an_open_chain_closes_from_anywhere_with_the_freedom_of_its_joints(links):
    found = solve(chain(links))
    assert found.holds
    assert found.freedom == sum(_FREE[kind] for kind, _ in links)
    assert found.redundant == 0
    assert found.repeats == []


@given(
    links.filter(lambda ls: any(JOINTS[k].coordinates for k, _ in ls)), st.floats(-1, 1), st.data()
)
@settings(max_examples=30, deadline=None)
def test_driving_one_coordinate_of_a_chain_leaves_the_others_where_they_were(links, value, data):
    m = chain(links)
    start = solve(m)
    m = m.with_poses(start.poses)
    known = {(p.id, c.name): c.dimension for p in m.pairs for c in p.joint.coordinates}
    driven = data.draw(st.sampled_from(sorted(known)))
    found = solve(m.with_value(*driven, value))
    assert found.holds
    for (id, name), dimension in known.items():
        was, now = start.coordinates[id][name], found.coordinates[id][name]
        wanted = value if (id, name) == driven else was
        off = now - wanted
        off = math.remainder(off, 2 * math.pi) if dimension == ANGLE else off
        assert off == pytest.approx(0, abs=1e-5)


def test_every_kind_of_joint_is_tried_and_leaves_what_it_says():
    assert set(_FREE) == {k.kind for k in JOINTS.values() if k.order < 100 and k.kind not in _OWN}
    for word, free in _FREE.items():
        kind = JOINTS[word]
        assert free == len(kind.coordinates) + 3 * kind.free_turn


@given(st.lists(st.floats(-3, 3), min_size=3, max_size=3))
def test_quaternions_and_rotations_agree(v):
    q = turned(np.array([1.0, 0, 0, 0]), np.array(v))
    r = rotation_of(q)
    assert r @ r.T == pytest.approx(np.eye(3), abs=1e-12)
    again = quaternion_of(r)
    assert abs(float(q @ again)) == pytest.approx(1.0, abs=1e-9)
    assert rotation_of(multiply(q, q)) == pytest.approx(r @ r, abs=1e-12)


def test_mechanism_survives_json():
    m = four_bar()
    assert solve(Mechanism.from_json(m.to_json())).coordinates == solve(m).coordinates


def test_ends_give_centre_and_outward_axis():
    plane = FaceInfo("top", "plane", 100.0, (5, 5, 2), (0, 0, 2), (0, 0, 1))
    bore = FaceInfo("bore", "cylinder", 50.0, (5, 5, 1), (5, 5, 0), (0, 0, -1), 3.0, True)
    rim = EdgeInfo("circle", (0, 1), (0,), (8, 5, 2), 18.8, (0, 0, -1), (5, 5, 2), 3.0, True)
    t = Topology((plane, bore), (rim,), ())
    face = end_frame(Pick(body="b", kind="face", name=("top",)), t)
    assert face.outward
    assert face.origin == pytest.approx([5, 5, 2])
    axis = end_frame(Pick(body="b", kind="face", name=("bore",)), t)
    assert not axis.outward
    assert axis.origin == pytest.approx([5, 5, 1])
    assert axis.axes[:, 2] == pytest.approx([0, 0, 1])  # an axis has no side: +Z is taken
    edge = end_frame(Pick(body="b", kind="edge", name=("bore", "top")), t)
    assert edge.outward
    assert edge.axes[:, 2] == pytest.approx([0, 0, 1])

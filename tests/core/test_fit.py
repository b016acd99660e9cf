"""Interference and motion against hand-worked cases."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vireo.core.assembly import Mechanism, Member, Pair
from vireo.core.assembly.pose import Pose, turned
from vireo.core.fit.interference import Item, find_interference, near_pairs
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.grow import box, cylinder
from vireo.core.kernel.measure import box_of, topology_of
from vireo.core.kernel.mesh import tessellate
from vireo.core.motion.sweep import Runner, sweep

I = np.eye(3)
STILL = np.array([1.0, 0, 0, 0])
#: Axes whose z runs along X.
X_UP = np.array([[0.0, 0, 1], [1, 0, 0], [0, 1, 0]])


class Scene:
    def __init__(self):
        self.bodies, self.items = {}, []

    def add(self, id, key, body, p=(0, 0, 0), q=STILL):
        self.bodies[key] = body
        low, high = (np.array(c) for c in box_of(body.shape))
        self.items.append(Item(id, key, Pose(np.array(p, dtype=float), q), low, high))

    def run(self):
        return find_interference(
            self.items, self.bodies.__getitem__, lambda key: topology_of(self.bodies[key])
        )


def pin(radius, length=20.0):
    return cylinder((0, 0, 0), (0, 0, 1), radius, length, ("pin/wall", "pin/top", "pin/foot"))


def bored(radius):
    tool = cylinder((20, 20, -1), (0, 0, 1), radius, 40.0, ("b/wall", "b/t", "b/f"))
    return combine("cut", box((40.0, 40.0, 20.0), "plate"), [tool])


def test_touching_is_not_overlap_and_overlap_is_exact():
    s = Scene()
    cube = box((10.0, 10.0, 10.0), "cube")
    s.add("a", "cube", cube)
    s.add("touch", "cube", cube, (10, 0, 0))
    s.add("edge", "cube", cube, (-10, 10, 0))
    s.add("deep", "cube", cube, (0, 0, 9.9))
    s.add("corner", "cube", cube, (-9.5, -9.5, -9.5))
    found = {frozenset((c.a, c.b)): c for c in s.run().clashes}
    assert found[frozenset(("a", "deep"))].volume == pytest.approx(10.0, rel=1e-9)
    assert found[frozenset(("a", "corner"))].volume == pytest.approx(0.125, rel=1e-6)
    assert frozenset(("a", "touch")) not in found
    assert frozenset(("a", "edge")) not in found
    deep = found[frozenset(("a", "deep"))]
    assert deep.thickness == pytest.approx(2 * 10 / (2 * 100 + 4 * 1.0), rel=1e-9)
    assert deep.at == pytest.approx((5, 5, 9.95))


def test_pins_in_bores_press_fit_flush_and_free():
    s = Scene()
    s.add("plate", "plate", bored(5.0))
    spun = turned(STILL, np.array([0, 0, 0.37]))
    s.add("same", "same", pin(5.0), (20, 20, 0), spun)
    assert s.run().clashes == []
    s = Scene()
    s.add("plate", "plate", bored(5.0))
    s.add("press", "press", pin(5.01), (20, 20, 0), spun)
    (clash,) = s.run().clashes
    assert clash.volume == pytest.approx(math.pi * (5.01**2 - 25) * 20, rel=1e-4)
    assert clash.thickness == pytest.approx(0.01, rel=0.05)  # the radial interference
    assert "b/wall" in {*clash.faces_a, *clash.faces_b}


@pytest.mark.parametrize("shift", [1e-3, 3e-3])
def test_a_slightly_eccentric_pin_is_not_missed(shift):
    s = Scene()
    s.add("plate", "plate", bored(5.0))
    s.add("pin", "pin", pin(5.0), (20 + shift, 20, 0))
    (clash,) = s.run().clashes
    assert clash.thickness == pytest.approx(shift, rel=0.9)


def test_equal_pairs_are_computed_once_and_far_ones_not_at_all():
    s = Scene()
    cube = box((10.0, 10.0, 10.0), "cube")
    for k in range(12):
        s.add(f"c{k}", "cube", cube, (9.0 * k, 0, 0))
    found = s.run()
    assert len(found.clashes) == 11
    assert found.near == 11
    assert found.computed == 1
    assert near_pairs([]) == []


def runner(id, member, body):
    mesh = tessellate(body, 0.01)
    return Runner(id, member, mesh.points, mesh.triangles)


def swinging_arm(thickness=1.0):
    """A bar turning about Z meets a thin wall at a place known in closed form."""
    arm = box((50.0, 4.0, 4.0), "arm")
    wall = box((thickness, 30.0, 4.0), "wall")
    members = (
        Member("g", Pose(np.zeros(3), STILL), True, 50.0),
        Member("a", Pose(np.zeros(3), STILL), False, 50.0),
    )
    pair = Pair("j", "revolute", 0, 1, np.zeros(3), I, np.zeros(3), I)
    placed = runner("wall", 0, wall)
    shifted = Runner("wall", 0, placed.points + np.array([20.0, 20.0, 0.0]), placed.triangles)
    return Mechanism(members, (pair,)), [shifted, runner("arm", 1, arm)]


@pytest.mark.parametrize("steps", [3, 40])
def test_first_contact_is_found_at_the_closed_form_angle_even_with_few_steps(steps):
    # The arm's upper edge y' = 4 passes the wall's corner (21, 20): r sin(phi - t) = 4.
    mechanism, runners = swinging_arm()
    r, phi = math.hypot(21, 20), math.atan2(20, 21)
    theory = phi - math.asin(4 / r)
    found = sweep(mechanism, runners, "j", "turn", 0.0, math.radians(120), steps)
    assert found.pair == ("wall", "arm")
    assert found.clash_at == pytest.approx(theory, abs=1e-4)
    assert found.values[-1] == found.clash_at


def test_a_free_way_reports_the_least_clearance():
    mechanism, runners = swinging_arm()
    found = sweep(mechanism, runners, "j", "turn", 0.0, -math.radians(60), 12)
    assert found.clash_at is None
    assert len(found.values) == 13
    assert found.clearance[0] == pytest.approx(16.0, abs=0.05)
    assert min(found.clearance) == found.clearance[0]


def watched(bodies, poses_of=None):
    """The truth of placed bodies by the exact common solid, as the product asks it."""
    from vireo.core.fit.interference import overlap_of
    from vireo.core.motion.sweep import Shared

    def truth(a, b, poses):
        (body_a, member_a, at_a), (body_b, member_b, at_b) = bodies[a], bodies[b]
        relative = (poses[member_a] @ at_a).inverse() @ (poses[member_b] @ at_b)
        found = overlap_of(body_a, body_b, relative, topology_of(body_a), topology_of(body_b))
        return Shared(found.volume, found.thickness) if found else None

    return truth


def scene(pieces, pair):
    """Runners and truth of `(id, member, body, place)` over one joint between two members."""
    members = (
        Member("g", Pose(np.zeros(3), STILL), True, 100.0),
        Member("m", Pose(np.zeros(3), STILL), False, 100.0),
    )
    runners, bodies = [], {}
    for id, member, body, at in pieces:
        mesh = tessellate(body, 0.02)
        counts = np.diff(mesh.face_starts)
        faces = np.repeat(np.arange(len(counts), dtype=np.int32), counts)
        place = Pose(np.array(at, dtype=float), STILL)
        runners.append(Runner(id, member, mesh.points + np.array(at), mesh.triangles, faces))
        bodies[id] = (body, member, place)
    return Mechanism(members, (pair,)), runners, watched(bodies)


def test_a_lug_that_meets_the_part_it_is_hinged_to_is_a_clash():
    """Components that share a joint were passed over: the pin sits in the bore by design, the
    lug runs into the stop of the very same plate."""
    slab, stop = bored(5.0), box((4.0, 4.0, 10.0), "stop")
    lug = box((25.0, 3.0, 4.0), "lug")
    turn = Pair("j", "revolute", 0, 1, np.array([20.0, 20, 0]), I, np.array([20.0, 20, 0]), I)
    mechanism, runners, truth = scene(
        [("plate", 0, slab, (0, 0, 0)), ("stop", 0, stop, (36, 30, 24)),
         ("pin", 1, pin(5.0), (20, 20, 0)), ("lug", 1, lug, (20, 20, 26))], turn,
    )  # fmt: skip
    found = sweep(mechanism, runners, "j", "turn", 0.0, math.radians(90), 30, truth=truth,
                  joined=lambda a, b: True)  # fmt: skip
    assert found.pair == ("stop", "lug")
    # The lug's upper edge r sin(phi - t) = 3 reaches the stop's near lower corner.
    r, phi = math.hypot(20, 10), math.atan2(10, 20)
    assert found.clash_at == pytest.approx(min(phi - math.asin(3 / r), phi), abs=2e-3)


def test_pairs_that_touch_at_the_start_stay_under_watch():
    """A slider that rests on its bed is driven into it; a second one beside it only slides."""
    bed = box((80.0, 40.0, 10.0), "bed")
    slider = box((20.0, 10.0, 10.0), "slider")
    down = Pair("j", "prismatic", 0, 1, np.zeros(3), I, np.zeros(3), I)
    pieces = [("bed", 0, bed, (0, 0, 0)), ("slider", 1, slider, (10, 10, 10))]
    mechanism, runners, truth = scene(pieces, down)
    joined = {"joined": lambda a, b: True, "truth": truth}
    assert sweep(mechanism, runners, "j", "slide", 0.0, 20.0, 10, **joined).clash_at is None
    found = sweep(mechanism, runners, "j", "slide", 0.0, -5.0, 10, **joined)
    assert found.clash_at == pytest.approx(0.0, abs=0.02)
    along = Pair("j", "prismatic", 0, 1, np.zeros(3), X_UP, np.zeros(3), X_UP)
    wall = box((4.0, 40.0, 20.0), "wall")
    mechanism, runners, truth = scene([*pieces, ("wall", 0, wall, (60, 0, 10))], along)
    found = sweep(
        mechanism, runners, "j", "slide", 0.0, 45.0, 9, truth=truth, joined=lambda a, b: False
    )
    # It slides on the bed all the way, touching, and stops at the wall: 60 - 30.
    assert set(found.pair) == {"slider", "wall"}
    assert found.clash_at == pytest.approx(30.0, abs=0.02)
    # The curve tells of the wall it comes near, not of the bed it lies on.
    assert found.clearance == pytest.approx([30.0 - v for v in found.values], abs=0.02)


def test_a_whole_turn_in_one_step_still_finds_what_is_in_the_way():
    turn = Pair("j", "revolute", 0, 1, np.array([20.0, 20, 0]), I, np.array([20.0, 20, 0]), I)
    pieces = [("post", 0, box((2.0, 2.0, 10.0), "post"), (18, 45, -2)),
              ("arm", 1, box((30.0, 4.0, 3.0), "arm"), (20, 18, 0))]  # fmt: skip
    mechanism, runners, truth = scene(pieces, turn)
    found = sweep(mechanism, runners, "j", "turn", 0.0, math.tau, 1, truth=truth)
    assert set(found.pair) == {"post", "arm"}
    assert math.radians(60) < found.clash_at < math.radians(90)


@given(gap=st.floats(0.0, 0.009), lift=st.floats(0.5, 8.0))
@settings(max_examples=12, deadline=None)
def test_the_clearance_curve_leaves_out_what_touches_or_shares_a_joint(gap, lift):
    """An arm a hair over a plate turns under a bridge."""
    turn = Pair("j", "revolute", 0, 1, np.array([20.0, 20, 0]), I, np.array([20.0, 20, 0]), I)
    arm = box((30.0, 4.0, 3.0), "arm")
    pieces = [
        ("plate", 0, box((60.0, 40.0, 5.0), "plate"), (0, 0, -5 - gap)),
        ("arm", 1, arm, (20, 18, 0)),
        ("bridge", 0, box((60.0, 40.0, 5.0), "bridge"), (0, 0, 3 + lift)),
        # These stand still to each other, a little apart: no matter of the motion.
        ("still", 0, box((5.0, 5.0, 5.0), "still"), (70, 0, 0)),
        ("beside", 0, box((5.0, 5.0, 5.0), "beside"), (75.02, 0, 0)),
    ]
    mechanism, runners, truth = scene(pieces, turn)
    for joined in (lambda a, b: {a, b} == {"plate", "arm"}, lambda a, b: False):
        found = sweep(mechanism, runners, "j", "turn", 0.0, 1.0, 4, truth=truth, joined=joined)
        assert found.clash_at is None
        assert found.clearance == pytest.approx([lift] * 5, abs=1e-3)


def test_what_overlaps_at_a_joint_by_more_than_a_fit_is_told_at_once():
    turn = Pair("j", "revolute", 0, 1, np.array([20.0, 20, 0]), I, np.array([20.0, 20, 0]), I)
    pieces = [("plate", 0, bored(5.0), (0, 0, 0)), ("pin", 1, pin(5.4), (20, 20, 0))]
    mechanism, runners, truth = scene(pieces, turn)
    found = sweep(
        mechanism, runners, "j", "turn", 0.0, 1.0, 5, truth=truth, joined=lambda a, b: True
    )
    assert found.clash_at == 0.0
    assert found.clearance == [0.0]
    pieces[1] = ("pin", 1, pin(5.01), (20, 20, 0))  # a press fit
    mechanism, runners, truth = scene(pieces, turn)
    found = sweep(
        mechanism, runners, "j", "turn", 0.0, 1.0, 5, truth=truth, joined=lambda a, b: True
    )
    assert found.clash_at is None

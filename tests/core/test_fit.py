"""Interference and motion against hand-worked cases."""

import math

import numpy as np
import pytest

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
    found = sweep(mechanism, runners, "j", 0.0, math.radians(120), steps)
    assert found.pair == ("wall", "arm")
    assert found.clash_at == pytest.approx(theory, abs=1e-4)
    assert found.values[-1] == found.clash_at


def test_a_free_way_reports_the_least_clearance():
    mechanism, runners = swinging_arm()
    found = sweep(mechanism, runners, "j", 0.0, -math.radians(60), 12)
    assert found.clash_at is None
    assert len(found.values) == 13
    assert found.clearance[0] == pytest.approx(16.0, abs=0.05)
    assert min(found.clearance) == found.clearance[0]

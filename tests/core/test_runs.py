"""Motion over time against closed forms: speeds, accelerations, forces, free motion, stops."""

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation
from scipy.special import ellipk

from tests.core.mechanisms import STILL, X_UP, I, scissor, slider_crank
from vireo.core.assembly import Mechanism, Member, Pair
from vireo.core.assembly.mechanism import Coupling, Term
from vireo.core.assembly.pose import Pose, turned
from vireo.core.motion.dynamics import Mass
from vireo.core.motion.load import Acting, Push
from vireo.core.motion.run import Asked, RunTrouble, run

O = np.zeros(3)
G = 9806.65
DOWN = np.array([0.0, 0.0, -G])
#: In mN.
NEWTON = 1e3


def asked(mechanism, laws, masses=None, gravity=O, loads=(), duration=1.0, frames=40, weighed=True):
    masses = masses or [Mass()] * len(mechanism.members)
    return Asked(mechanism, laws, masses, gravity, loads, duration, frames, weighed)


def steadily(speed, start=0.0):
    return lambda t: (start + speed * t, speed, 0.0)


def hinged(axis=X_UP, at=O, limits=None):
    """A member that turns about an axis of the ground, through its own origin."""
    members = (Member("g", Pose(O, STILL), True), Member("arm", Pose(at, STILL), title="Arm"))
    return Mechanism(
        members, (Pair("hinge", "revolute", 0, 1, at, axis, O, axis, limits=limits or {}),)
    )


@given(st.floats(5, 40), st.floats(2.2, 6.0), st.floats(1.0, 30.0))
@settings(max_examples=12, deadline=None)
def test_a_slider_crank_goes_as_the_textbook_says(r, ratio, spin):
    """Position, speed and acceleration of the block, and the crank's torque by virtual power."""
    length = ratio * r
    mechanism = slider_crank(r, length)
    kg = 0.7
    masses = [Mass(), Mass(), Mass(), Mass(kg)]
    push = 25.0 * NEWTON

    def against(now):
        at, _ = now.at((3, O))
        return Acting([Push(3, at, np.array([-push, 0, 0]), O)])

    laws = {("crank", "turn"): steadily(spin, math.pi / 2)}
    found = run(asked(mechanism, laws, masses, O, [against], 2 * math.pi / spin, 24))
    assert found.freedom == 0
    assert len(found.frames) == 25
    for f in found.frames:
        t = math.pi / 2 + spin * f.time
        s, c = math.sin(t), math.cos(t)
        root = math.sqrt(length**2 - (r * s) ** 2)
        x = r * c + root
        dx = -r * s - r * r * s * c / root
        # d/dt of -r²sc/root, by the quotient rule.
        ddx = -r * c - r * r * ((c * c - s * s) / root + (r * s * c) ** 2 / root**3)
        q, v, a = f.coordinates["slide", "slide"]
        assert q == pytest.approx(x, abs=1e-6 * length)
        assert v == pytest.approx(dx * spin, abs=1e-6 * r * spin)
        assert a == pytest.approx(ddx * spin**2, abs=2e-5 * r * spin**2)
        torque = (kg * ddx * spin**2 + push) * dx
        worst = (kg * r * spin**2 + push) * r
        assert f.efforts["crank", "turn"] == pytest.approx(torque, abs=2e-5 * worst)
        # The guide bears the rod's push to the side.
        side = np.linalg.norm(f.wrenches["slide"].force)
        lean = r * s / root
        assert side == pytest.approx(abs((kg * ddx * spin**2 + push) * lean), abs=3e-5 * worst / r)


@pytest.mark.parametrize("swing", [5.0, 60.0, 150.0])
def test_a_pendulum_swings_in_the_time_of_its_elliptic_integral(swing):
    """T = 4 sqrt(I / m g l) K(sin²(a/2)); energy stays as it is (Landau and Lifshitz, Mechanics, §11)."""
    arm, kg, own = 120.0, 0.4, 900.0
    mechanism = hinged()
    start = math.radians(swing)
    mechanism = mechanism.with_poses([mechanism.members[0].pose,
                                      Pose(O, turned(STILL, np.array([start, 0, 0])))])  # fmt: skip
    mass = Mass(kg, np.array([0, 0, -arm]), np.diag([own, own, own]))
    inertia = own + kg * arm**2
    period = 4 * math.sqrt(inertia / (kg * G * arm)) * ellipk(math.sin(start / 2) ** 2)
    found = run(asked(mechanism, {}, [Mass(), mass], DOWN, duration=period, frames=48))
    assert found.freedom == 1
    first, half, last = (found.frames[k].coordinates["hinge", "turn"] for k in (0, 24, 48))
    assert abs(first[0]) == pytest.approx(start)
    assert half[0] == pytest.approx(-first[0], abs=1e-6)
    assert half[1] == pytest.approx(0, abs=1e-5)
    assert last[0] == pytest.approx(first[0], abs=1e-6)
    whole = [f.kinetic + f.stored for f in found.frames]
    assert np.ptp(whole) < 1e-7 * max(f.kinetic for f in found.frames)
    low = found.frames[12]
    # At the bottom the pin bears the weight and what keeps the centre on its circle.
    w2 = 2 * kg * G * arm * (1 - math.cos(start)) / inertia
    assert np.linalg.norm(low.wrenches["hinge"].force) == pytest.approx(
        kg * (G + arm * w2), rel=1e-6
    )


@given(st.integers(2, 6), st.floats(1, 500))
@settings(max_examples=8, deadline=None)
def test_a_scissor_lifts_by_virtual_work(cells, load):
    """A load on the highest of n cells of bars L at an angle a: torque = W (n - 1) L cos(a) / 2."""
    mechanism = scissor(cells)
    tilt = math.radians(35)
    top = 2 * cells - 1

    def down(now):
        at, _ = now.at((top, O))
        return Acting([Push(top, at, np.array([0, -load, 0.0]), O)])

    law = {("m0", "turn"): lambda t: (-2 * tilt, 0.0, 0.0)}
    found = run(asked(mechanism, law, loads=[down], frames=2))
    torque = found.frames[0].efforts["m0", "turn"]
    assert abs(torque) == pytest.approx(load * (cells - 1) * 2.0 * math.cos(tilt) / 2, rel=1e-6)
    # Flat scissors are held more than once: who bears what across them is not told by statics.
    assert found.shared


@given(st.floats(-3, 3), st.floats(-2, 2), st.floats(10, 80))
@settings(max_examples=10, deadline=None)
def test_what_turns_and_slides_feels_coriolis(spin, out, start):
    """A block driven along an arm that turns: torque = 2 m r r' w, along the arm it is held by -m r w²."""
    members = (
        Member("g", Pose(O, STILL), True),
        Member("arm", Pose(O, STILL)),
        Member("block", Pose(np.array([start, 0, 0.0]), STILL)),
    )
    pairs = (
        Pair("hub", "revolute", 0, 1, O, I, O, I),
        Pair("rail", "prismatic", 1, 2, O, X_UP, O, X_UP),
    )
    kg = 2.5
    laws = {("hub", "turn"): steadily(spin), ("rail", "slide"): steadily(10 * out, start)}
    found = run(asked(Mechanism(members, pairs), laws, [Mass(), Mass(), Mass(kg)], frames=6))
    for f in found.frames:
        r = start + 10 * out * f.time
        assert f.efforts["hub", "turn"] == pytest.approx(2 * kg * r * 10 * out * spin, abs=1e-3)
        assert f.efforts["rail", "slide"] == pytest.approx(-kg * r * spin**2, abs=1e-3)


def test_geared_wheels_turn_by_their_ratio_and_share_the_torque():
    """A wheel of inertia J geared n : 1 is felt as n² J by the driven one."""
    members = (
        Member("g", Pose(O, STILL), True),
        Member("one", Pose(O, STILL)),
        Member("two", Pose(np.array([60.0, 0, 0]), STILL)),
    )
    pairs = (
        Pair("a", "revolute", 0, 1, O, I, O, I),
        Pair("b", "revolute", 0, 2, np.array([60.0, 0, 0]), I, O, I),
    )
    n, J = 5.0, np.diag([300.0, 300, 500])
    gear = Coupling("gear", (Term("a", "turn", n), Term("b", "turn", 1.0)))
    mechanism = Mechanism(members, pairs, (gear,))
    masses = [Mass(), Mass(1.0, O, 2 * J), Mass(1.0, O, J)]

    def faster(t):
        return 3.0 * t**2, 6.0 * t, 6.0

    found = run(asked(mechanism, {("a", "turn"): faster}, masses, duration=2.0, frames=30))
    last = found.frames[-1]
    assert last.coordinates["b", "turn"][1] == pytest.approx(-n * 12.0, rel=1e-7)
    assert math.remainder(last.coordinates["b", "turn"][0] + n * 12.0, 2 * math.pi) == (
        pytest.approx(0, abs=1e-6)
    )
    for f in found.frames:
        assert f.efforts["a", "turn"] == pytest.approx((1000 + n**2 * 500) * 6.0, rel=1e-6)


@given(st.floats(0.05, 2.0), st.floats(0.0, 0.3))
@settings(max_examples=3, deadline=None)
def test_a_mass_on_a_damped_spring_rings_as_the_closed_form(stiffness, zeta):
    """x = A exp(-z w t) (cos wd t + z w / wd sin wd t); what the damper takes is told as work."""
    kg, stretch = 0.3, 12.0
    k = stiffness * NEWTON
    w = math.sqrt(k / kg)
    c = 2 * zeta * math.sqrt(k * kg)
    members = (Member("g", Pose(O, STILL), True),
               Member("b", Pose(np.array([stretch, 0, 0.0]), STILL), title="Bob"))  # fmt: skip
    mechanism = Mechanism(members, (Pair("way", "prismatic", 0, 1, O, X_UP, O, X_UP),))
    key = ("way", "slide")

    def spring(now):
        x, v, _ = now.coordinates[key]
        return Acting(efforts={key: -k * x - c * v}, stored=0.5 * k * x * x)

    found = run(asked(mechanism, {}, [Mass(), Mass(kg)], loads=[spring],
                      duration=3 * math.pi / w, frames=20))  # fmt: skip
    wd = w * math.sqrt(1 - zeta**2)
    for f in found.frames:
        t = f.time
        x = (
            stretch
            * math.exp(-zeta * w * t)
            * (math.cos(wd * t) + zeta * w / wd * math.sin(wd * t))
        )
        assert f.coordinates[key][0] == pytest.approx(x, abs=1e-6 * stretch)
        assert f.power == pytest.approx(-c * f.coordinates[key][1] ** 2, abs=1e-3 * k * stretch * w)


def test_what_falls_onto_its_stop_stays_there_until_it_is_pulled_off():
    """A slide falls 50 mm onto a stop in sqrt(2 h / g); pulled up at 1 s with twice its weight it leaves."""
    z = np.eye(3)
    members = (Member("g", Pose(O, STILL), True),
               Member("b", Pose(np.array([0, 0, 50.0]), STILL), title="Slide"))  # fmt: skip
    pair = Pair("way", "prismatic", 0, 1, O, z, O, z, limits={"slide": (0.0, None)})
    kg, key = 0.8, ("way", "slide")

    def pull(now):
        return Acting(efforts={key: 2 * kg * G * max(0.0, 10 * (now.time - 0.9))})

    found = run(asked(Mechanism(members, (pair,)), {}, [Mass(), Mass(kg)], DOWN, [pull],
                      duration=1.2, frames=60))  # fmt: skip
    (stop, left) = found.events
    assert (stop.what, left.what) == ("stop", "left")
    assert stop.time == pytest.approx(math.sqrt(2 * 50 / G), abs=1e-6)
    assert left.time == pytest.approx(0.95, abs=1e-6)
    resting = [f for f in found.frames if stop.time + 0.02 < f.time < left.time]
    assert all(abs(f.coordinates[key][0]) < 1e-6 for f in resting)
    # s after it is let go: m a = 20 m g s - ... so a = 20 g s, and x = 10/3 g s³.
    s = 1.2 - left.time
    assert found.frames[-1].coordinates[key][0] == pytest.approx(10 / 3 * G * s**3, rel=1e-4)


def some_chain(rng, count):
    """Bodies one after the other on skew joints, ends either way round, swinging each by its own law."""

    def spun():
        return Rotation.random(random_state=int(rng.integers(2**31)))

    poses = [Pose(O, STILL)]
    poses += [Pose(rng.normal(size=3) * 60, spun().as_quat()[[3, 0, 1, 2]]) for _ in range(count)]
    members = tuple(Member(f"m{k}", p, k == 0, 100.0) for k, p in enumerate(poses))
    pairs, laws, masses = [], {}, [Mass()]
    for k in range(count):
        ends = (k, k + 1) if rng.random() < 0.5 else (k + 1, k)
        at, axes = rng.normal(size=3) * 50, spun().as_matrix()
        (oa, xa), (ob, xb) = (
            (poses[i].rotation.T @ (at - poses[i].p), poses[i].rotation.T @ axes) for i in ends
        )
        kind = str(rng.choice(["revolute", "prismatic", "cylindrical"]))
        pairs.append(Pair(f"j{k}", kind, *ends, oa, xa, ob, xb))
        for c in pairs[-1].joint.coordinates:
            far = rng.uniform(-1, 1) * (0.8 if c.unit == "deg" else 30)
            w, p = rng.uniform(1, 6, size=2)
            laws[f"j{k}", c.name] = lambda t, far=far, w=w, p=p: (
                far * (math.sin(w * t + p) - math.sin(p)), far * w * math.cos(w * t + p),
                -far * w * w * math.sin(w * t + p),
            )  # fmt: skip
        d, turn = rng.uniform(1, 3, 3), spun().as_matrix()
        inertia = turn @ np.diag([d[0] + d[1], d[1] + d[2], d[0] + d[2]]) @ turn.T * 500
        masses.append(Mass(float(rng.uniform(0.1, 3)), rng.normal(size=3) * 20, inertia))
    return Mechanism(members, tuple(pairs)), laws, masses


@given(st.integers(0, 2**31), st.integers(1, 4))
@settings(max_examples=12, deadline=None)
def test_the_ground_bears_what_all_bodies_take_to_go_as_they_do(seed, count):
    """Newton and Euler from nothing but positions a moment before and after, summed over random chains: what
    the first joint exerts, its drive included, about the origin."""
    rng = np.random.default_rng(seed)
    mechanism, laws, masses = some_chain(rng, count)
    gravity = rng.normal(size=3) * 5000
    found = run(asked(mechanism, laws, masses, gravity, frames=8))
    frame, h = found.frames[5], 1e-4
    stands = [found.course.poses(frame.time + s * h, frame.poses) for s in (-1, 0, 1)]
    force, moment = np.zeros(3), np.zeros(3)
    for i in range(1, count + 1):
        centres = [s[i].out(masses[i].centre) for s in stands]
        push = masses[i].kg * ((centres[2] - 2 * centres[1] + centres[0]) / h**2 - gravity)
        turns = [s[i].rotation for s in stands]
        swing = []
        for one, two in pairwise(turns):
            w = Rotation.from_matrix(two @ one.T).as_rotvec() / h
            half = Rotation.from_rotvec(w * h / 2).as_matrix() @ one
            swing.append(half @ masses[i].inertia @ half.T @ w)
        force += push
        moment += np.cross(centres[1], push) + (swing[1] - swing[0]) / h
    pair = mechanism.pairs[0]
    sign = 1.0 if pair.a == 0 else -1.0
    at, axis = frame.poses[pair.b].out(pair.origin_b), pair.axes_a[:, 2]
    axis = frame.poses[pair.a].rotation @ axis
    borne = frame.wrenches["j0"]
    push, twist = borne.force.copy(), borne.moment.copy()
    for (joint, name), effort in frame.efforts.items():
        if joint == "j0":
            push, twist = (
                (push, twist + effort * axis) if name == "turn" else (push + effort * axis, twist)
            )
    assert sign * push == pytest.approx(force, abs=1e-5 * np.linalg.norm(force))
    assert sign * twist + np.cross(at, sign * push) == pytest.approx(
        moment, abs=1e-5 * np.linalg.norm(moment)
    )


def test_what_hangs_without_a_mass_is_refused_by_its_name():
    with pytest.raises(RunTrouble, match="Arm moves freely and weighs nothing"):
        run(asked(hinged(), {}, gravity=DOWN))


def test_a_run_that_a_linkage_cannot_follow_ends_where_it_still_stands():
    """The block of a slider-crank asked beyond the crank's reach."""
    mechanism = slider_crank(20.0, 60.0)
    x = math.sqrt(60.0**2 - 20.0**2)
    found = run(asked(mechanism, {("slide", "slide"): steadily(40.0, x)}, frames=40, weighed=False))
    assert found.stuck_at == pytest.approx((80.0 - x) / 40.0, abs=1e-3)
    assert found.frames[-1].coordinates["slide", "slide"][0] == pytest.approx(80.0, abs=2e-2)


def test_a_limit_of_what_follows_ends_the_run():
    mechanism = slider_crank(20.0, 60.0)
    pairs = tuple(
        replace(p, limits={"slide": (None, 70.0)}) if p.id == "slide" else p
        for p in mechanism.pairs
    )
    law = {("crank", "turn"): steadily(-2.0, math.pi / 2)}
    found = run(asked(replace(mechanism, pairs=pairs), law, weighed=False))
    assert (found.limit.joint, found.limit.value) == ("slide", 70.0)
    t = math.acos((70**2 + 20.0**2 - 60.0**2) / (2 * 70 * 20.0))
    assert found.frames[-1].time == pytest.approx((math.pi / 2 - t) / 2.0, abs=1e-5)


def test_a_free_motion_without_end_is_given_up_with_its_reason(monkeypatch):
    monkeypatch.setattr("vireo.core.motion.run._ASKED", 2000)
    masses = [Mass(), Mass(1.0, np.array([0.0, 0.0, -50.0]), 900.0 * np.eye(3))]
    with pytest.raises(RunTrouble, match="too long or too lively"):
        run(asked(hinged(), {}, masses, np.array([0.0, -G, 0.0]), duration=1e7))
    assert run(asked(hinged(), {}, masses, np.array([0.0, -G, 0.0]), duration=0.05)).frames

"""Kinds of joints, conditions and drives: gradients, what they leave, and mechanisms with closed
forms. Where everything stands is asked of the poses by hand, never of the solver's own readings."""

import math
from dataclasses import replace
from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.core.mechanisms import scissor
from vireo.core.assembly import Mechanism, Member, Pair, drag, solve
from vireo.core.assembly.mechanism import Coupling, Mirror, Term
from vireo.core.assembly.pose import Pose, turned
from vireo.core.assembly.rows import System, arrays, stepped
from vireo.core.assembly.solver import (
    _flipped,
    _solve_part,
    driven_home,
    driven_to,
    driven_within,
    droppable,
    within_limits,
)
from vireo.core.declared.joint import JOINTS, EndFrame, EndTrouble
from vireo.core.ways import Way

I = np.eye(3)
STILL = np.array([1.0, 0, 0, 0])
vectors = st.lists(st.floats(-1, 1), min_size=3, max_size=3).map(np.array)


def at(x, y=0.0, z=0.0):
    return np.array([float(x), float(y), float(z)])


def spun(v):
    return turned(STILL, 2 * np.asarray(v, float))


def axes_along(z, x=(0.31, 0.77, 0.55)):
    """Axes with a given z."""
    z = np.asarray(z, float) / np.linalg.norm(z)
    x = np.asarray(x, float) - (z @ np.asarray(x, float)) * z
    x /= np.linalg.norm(x)
    return np.column_stack([x, np.cross(z, x), z])


def member(id, p=(0, 0, 0), q=STILL, anchored=False, size=5.0):
    return Member(id, Pose(at(*p), np.asarray(q, float)), anchored, size, id)


def two(pair, p=(3, 1, 2), q=STILL):
    return Mechanism((member("g", anchored=True), member("a", p, q)), (pair,))


def bent(seed=5, closed=False):
    """A way through space, weights and all."""
    rng = np.random.default_rng(seed)
    poles = np.column_stack([np.linspace(-4, 4, 7), rng.normal(size=7), rng.normal(size=7)])
    knots = np.array([0.0] * 4 + [0.3, 0.5, 0.9] + [1.0] * 4)
    return Way(3, knots, poles, 1 + rng.random(7), closed)


def besides(kind):
    """What some kinds hold besides their two ends: a mirror on the third member, a way."""
    return {
        "mirror": Mirror(2, at(0.2, 0.4, -0.3), axes_along((0.3, -0.5, 0.9))[:, 2])
        if JOINTS[kind].mirrors
        else None,
        "way": bent() if JOINTS[kind].runs else None,
    }


#: Every kind of joint in each of its forms.
FORMS = [(k, f) for k, kind in sorted(JOINTS.items()) if not kind.couples for f in kind.forms]


@given(st.sampled_from(FORMS), vectors, vectors, vectors, vectors, st.floats(0.4, 2))
@settings(max_examples=60, deadline=None)
def test_gradients_are_those_of_small_steps(form, p, v, u, w, size):
    kind, name = form
    coordinates = JOINTS[kind].forms[name].coordinates
    pair = Pair(
        "j", kind, 0, 1, at(0.3, -0.2, 0.5), axes_along(u + 0.01), at(-0.4, 0.1, 0.2),
        axes_along(w - 0.02), offset=0.3, form=name, pitch=1.3,
        values={c.name: 0.37 for c in coordinates}, **besides(kind),
    )  # fmt: skip
    bodies = (
        member("a", 2 * p, spun(u), size=size), member("b", 3 * v, spun(w), size=size),
        member("c", v - u, spun(p), size=size),
    )  # fmt: skip
    system = System(Mechanism(bodies, (pair,)))
    start = arrays([m.pose for m in bodies])
    _, J = system.evaluate(*start)
    z = [
        m.pose.rotation @ f[:, 2] for m, f in zip(bodies, (pair.axes_a, pair.axes_b), strict=False)
    ]
    assume(abs(float(z[0] @ z[1])) < 0.99)  # axes in line have an angle without a slope
    h = 1e-6
    for k in range(18):
        step = np.zeros(18)
        step[k] = h
        ahead = system.evaluate(*stepped(system, *start, step))[0]
        behind = system.evaluate(*stepped(system, *start, -step))[0]
        change = (ahead - behind) / (2 * h)
        steady = np.abs(ahead - behind) < 0.1  # a whole turn or pitch is no slope
        # "square" and "turn" rows are exact where they hold; elsewhere a turn leans.
        for i, owner in enumerate(system.owners):
            exact = _exact(pair, i)
            if steady[i] and exact:
                assert J[i, k] == pytest.approx(change[i], abs=2e-5), (form, owner, i, k)


def _exact(pair, i):
    rows = [*pair.joint.rows, *(c.row for c in pair.joint.coordinates)]
    # Those hold for parallel z only, or on the way only.
    return rows[i][0] not in ("turn", "screw", "beside", "travel")


def world(pose, origin, axes):
    return pose.out(origin), pose.rotation @ axes


#: What must be true of two ends by each kind, told in plain geometry: mm, or the sine of an angle.
def _off_axis(a, b):
    (pa, fa), (pb, _) = a, b
    d = pb - pa
    return float(np.linalg.norm(d - (d @ fa[:, 2]) * fa[:, 2]))


def _square(a, b):
    return abs(float(a[1][:, 2] @ b[1][:, 2]))


def _parallel(a, b):
    return float(np.linalg.norm(np.cross(a[1][:, 2], b[1][:, 2])))


def _height(a, b):
    return float((b[0] - a[0]) @ a[1][:, 2])


def _image(a):
    """An end as it is seen in the mirror of the third member."""
    m = besides("symmetric")["mirror"]
    n, o = m.normal, THIRD.p + m.origin
    flip = np.eye(3) - 2 * np.outer(n, n)
    return o + flip @ (a[0] - o), flip @ a[1]


def _beside(a, b):
    """How far a point is from the way of a: of very many chords of it, and of the tangents at its
    ends, on which it goes on."""
    t = np.linspace(0, 1, 20_001)
    way = bent()
    seen = way.places(t)
    first, last = (way.poles[i] + 99 * (way.poles[i] - way.poles[j]) for i, j in ((0, 1), (-1, -2)))
    seen = np.vstack([first, seen, last]) @ a[1].T + a[0]
    chord = np.diff(seen, axis=0)
    d = b[0] - seen[:-1]
    s = np.clip((d * chord).sum(1) / (chord * chord).sum(1), 0, 1)
    return float(np.linalg.norm(d - s[:, None] * chord, axis=1).min())


#: Where the third member stands.
THIRD = Pose(at(0.5, -1.0, 2.0), STILL)


HOLDS = {
    ("coaxial", ""): lambda a, b: (_parallel(a, b), _off_axis(a, b)),
    ("coplanar", ""): lambda a, b: (_parallel(a, b), _height(a, b) - 0.7),
    ("parallel", ""): lambda a, b: (_parallel(a, b),),
    ("parallel", "leaning"): lambda a, b: (_square(a, b),),
    ("perpendicular", ""): lambda a, b: (_square(a, b),),
    ("perpendicular", "leaning"): lambda a, b: (_parallel(a, b),),
    ("angle", ""): lambda a, b: (math.acos(float(a[1][:, 2] @ b[1][:, 2])) - 1.1,),
    ("distance", "planes"): lambda a, b: (_parallel(a, b), _height(a, b) - 2.7),
    ("distance", "plane axis"): lambda a, b: (_square(a, b), _height(a, b) - 2.7),
    ("distance", "plane point"): lambda a, b: (_height(a, b) - 2.7,),
    ("distance", "axes"): lambda a, b: (_parallel(a, b), _off_axis(a, b) - 2.7),
    ("distance", "axis point"): lambda a, b: (_off_axis(a, b) - 2.7,),
    ("distance", "points"): lambda a, b: (float(np.linalg.norm(a[0] - b[0])) - 2.7,),
    ("tangent", "plane axis"): lambda a, b: (_square(a, b), _height(a, b) - 0.7),
    ("tangent", "plane point"): lambda a, b: (_height(a, b) - 0.7,),
    ("tangent", "axes"): lambda a, b: (_parallel(a, b), _off_axis(a, b) - 0.7),
    ("tangent", "axis point"): lambda a, b: (_off_axis(a, b) - 0.7,),
    ("tangent", "points"): lambda a, b: (float(np.linalg.norm(a[0] - b[0])) - 0.7,),
    ("centred", "plane"): lambda a, b: (_parallel(a, b), _height(a, b) - 0.7),
    ("centred", "axis"): lambda a, b: (_square(a, b), _height(a, b) - 0.7),
    ("centred", "point"): lambda a, b: (_height(a, b) - 0.7,),
    ("within", "plane"): lambda a, b: (_parallel(a, b),),
    ("within", "axis"): lambda a, b: (_square(a, b),),
    ("within", "point"): lambda a, b: (0.0,),
    ("on_line", ""): lambda a, b: (_off_axis(a, b),),
    ("on_curve", ""): lambda a, b: (_beside(a, b),),
    ("symmetric", "plane"): lambda a, b: (_parallel(_image(a), b), _height(_image(a), b)),
    ("symmetric", "axis"): lambda a, b: (_parallel(_image(a), b), _off_axis(_image(a), b)),
    ("symmetric", "point"): lambda a, b: (float(np.linalg.norm(_image(a)[0] - b[0])),),
}  # fmt: skip
#: Motions a condition leaves when the sizes it can have are held too.
LEFT = {
    ("coaxial", ""): 2, ("coplanar", ""): 3, ("parallel", ""): 4, ("parallel", "leaning"): 5,
    ("perpendicular", ""): 5, ("perpendicular", "leaning"): 4, ("angle", ""): 5,
    ("distance", "planes"): 3, ("distance", "plane axis"): 4, ("distance", "plane point"): 5,
    ("distance", "axes"): 3, ("distance", "axis point"): 5, ("distance", "points"): 5,
    ("tangent", "plane axis"): 4, ("tangent", "plane point"): 5, ("tangent", "axes"): 3,
    ("tangent", "axis point"): 5, ("tangent", "points"): 5, ("centred", "plane"): 3,
    ("centred", "axis"): 4, ("centred", "point"): 5, ("within", "plane"): 4, ("within", "axis"): 5,
    ("within", "point"): 6, ("on_line", ""): 4, ("on_curve", ""): 4,
    ("symmetric", "plane"): 3, ("symmetric", "axis"): 2, ("symmetric", "point"): 3,
}  # fmt: skip


def test_every_condition_is_asked_for_in_plain_geometry():
    said = {
        (k, f) for k, f in FORMS if JOINTS[k].family == "Condition" or k in ("on_line", "on_curve")
    }
    assert said == set(HOLDS) == set(LEFT)


@given(st.sampled_from(sorted(HOLDS)), vectors, vectors, vectors, vectors)
@settings(max_examples=200, deadline=None)
def test_conditions_hold_from_anywhere_and_leave_what_they_should(form, p, v, u, w):
    kind, name = form
    sizes = {"distance": 2.7, "angle": 1.1}
    pair = Pair(
        "j", kind, 0, 1, at(0.3, -0.2, 0.5), axes_along(u + at(0.02, 0.01, 0.03)), at(-0.4, 0.1, 0.2),
        axes_along(w - at(0.02, 0.01, 0.03)), offset=0.0 if kind in ("distance",) else 0.7, form=name,
        values={kind: sizes[kind]} if kind in sizes else {}, **besides(kind),
    )  # fmt: skip
    m = two(pair, 3 * p + 0.1, spun(v))
    m = replace(m, members=(*m.members, Member("c", THIRD, anchored=True)))
    found = solve(m)
    assert found.holds
    ends = [
        world(found.poses[i], o, f)
        for i, o, f in ((0, pair.origin_a, pair.axes_a), (1, pair.origin_b, pair.axes_b))
    ]
    offs = HOLDS[form](*ends)
    if kind in ("coaxial", "within") or name in ("axes",):
        offs = offs[:2]
    assert max(abs(x) for x in offs) < 1e-5
    held = sum(c.name in pair.values for c in pair.joint.coordinates)
    assert found.freedom == LEFT[form] + held


# --- what kinds make of their ends


def end(nature, radius=0.0, outward=False, width=None):
    return EndFrame(at(0), I, outward, nature, radius, width)


def fit_or_words(kind, a, b):
    try:
        return kind.fit(a, b)
    except EndTrouble as trouble:
        return str(trouble)


def test_kinds_take_ends_in_any_order_and_refuse_what_they_cannot_hold():
    for kind in (k for k in JOINTS.values() if not k.couples):
        for one, other in product(("plane", "axis", "point"), repeat=2):
            a, b = end(one, 2.0), end(other, 3.0)
            there, back = fit_or_words(kind, a, b), fit_or_words(kind, b, a)
            if isinstance(there, str):
                assert len(there) > 20
                assert there == back
                continue
            assert there.form == back.form
            assert there.form in kind.forms
            assert there.offset == back.offset
            if one != other and kind.kind in ("distance", "tangent", "on_line"):
                assert there.swapped != back.swapped


@pytest.mark.parametrize(
    ("a", "b", "offset"),
    [
        (end("plane", outward=True), end("axis", 4.0), 4.0),
        (end("point", 2.5), end("plane", outward=True), 2.5),
        (end("axis", 4.0), end("axis", 3.0), 7.0),
        (end("axis", -10.0), end("axis", 3.0), 7.0),  # a roller in a bore
        (end("axis", 3.0), end("point", -10.0), 7.0),
    ],
)
def test_what_is_round_touches_by_its_radius(a, b, offset):
    assert JOINTS["tangent"].fit(a, b).offset == offset


def test_tangent_and_between_say_what_does_not_go():
    with pytest.raises(EndTrouble, match="two flat faces"):
        JOINTS["tangent"].fit(end("plane"), end("plane"))
    with pytest.raises(EndTrouble, match="no skin"):
        JOINTS["tangent"].fit(end("plane"), end("axis"))
    with pytest.raises(EndTrouble, match="two faces of the slot"):
        JOINTS["centred"].fit(end("plane"), end("axis"))
    with pytest.raises(EndTrouble, match=r"20.2 mm wide, the faces are only 20 mm apart"):
        JOINTS["within"].fit(end("plane", width=-20.0), end("plane", width=20.2))


def test_a_tab_goes_between_walls_whichever_is_picked_first():
    walls, tab = end("plane", width=-20.0), end("plane", width=18.0)
    for a, b, swapped in ((walls, tab, False), (tab, walls, True)):
        fit = JOINTS["within"].fit(a, b)
        assert (fit.swapped, fit.limits) == (swapped, {"play": (-1.0, 1.0)})
        assert JOINTS["centred"].fit(a, b).swapped == swapped
    shaft = JOINTS["within"].fit(end("axis", 5.0), walls)
    assert (shaft.form, shaft.swapped, shaft.limits["play"]) == ("axis", True, (-5.0, 5.0))


@given(st.floats(-6, 6), st.floats(-3, 3))
def test_what_stands_outside_is_brought_within_and_what_is_within_stays(z, x):
    pair = Pair("w", "within", 0, 1, at(0), I, at(0), I, form="plane", limits={"play": (-1.0, 1.0)})
    m = two(pair, (x, 0, z))
    found = within_limits(m, solve(m), {"w"})
    assert found.holds
    assert found.poses[1].p[2] == pytest.approx(min(1.0, max(-1.0, z)), abs=1e-6)
    assert found.poses[1].p[0] == pytest.approx(x, abs=1e-6)


# --- drives


def driven_by_steps(m, joint, coordinate, values):
    """Drive through values, each from where the one before ended."""
    for value in values:
        found = solve(m.with_value(joint, coordinate, value), diagnose=False)
        assert found.holds
        m = m.with_poses(found.poses)
        yield found


def about_z(pose):
    """The turn of a pose about Z, and nothing else of it."""
    r = pose.rotation
    assert r[2, 2] == pytest.approx(1.0, abs=1e-9)
    return math.atan2(r[1, 0], r[0, 0])


@pytest.mark.parametrize("pitch", [2.0, -1.5, 8.0])
@given(travel=st.floats(-40, 40))
@settings(max_examples=20, deadline=None)
def test_a_nut_turns_once_for_each_pitch_however_far_it_goes(pitch, travel):
    pair = Pair("s", "helical", 0, 1, at(0), I, at(0), I, pitch=pitch)
    m = two(pair, (0, 0, 0))
    assert solve(m).freedom == 1
    found = solve(m.with_value("s", "travel", travel))
    pose = found.poses[1]
    assert pose.p == pytest.approx([0, 0, travel], abs=1e-6)
    off = about_z(pose) - 2 * math.pi * travel / pitch
    assert math.remainder(off, 2 * math.pi) == pytest.approx(0, abs=1e-6)


def test_a_nut_that_is_pulled_turns_by_itself():
    pair = Pair("s", "helical", 0, 1, at(0), I, at(0), I, pitch=2.0)
    m = two(pair, (0, 0, 0))
    for z in np.arange(0.2, 6.1, 0.2):
        found = drag(m, 1, at(0), at(0, 0, z), weight=0.5)
        assert found.holds
        m = m.with_poses(found.poses)
    pose = m.members[1].pose
    assert pose.p[2] > 4.0
    off = about_z(pose) - math.pi * pose.p[2]
    assert math.remainder(off, 2 * math.pi) == pytest.approx(0, abs=1e-5)


def wheels(ratios, arm=3.0):
    """Wheels in a row on one frame, each geared to the next."""
    members = [member("g", anchored=True)]
    pairs, couplings = [], []
    for k in range(len(ratios) + 1):
        members.append(member(f"w{k}", (arm * k, 0, 0)))
        pairs.append(Pair(f"j{k}", "revolute", 0, k + 1, at(arm * k), I, at(0), I))
    for k, ratio in enumerate(ratios):
        terms = (Term(f"j{k}", "turn", ratio), Term(f"j{k + 1}", "turn", 1.0))
        couplings.append(Coupling(f"c{k}", terms))
    return Mechanism(tuple(members), tuple(pairs), tuple(couplings))


@given(
    st.lists(st.sampled_from([0.5, 20 / 33, 2.0, 3.7, math.sqrt(2)]), min_size=1, max_size=3),
    st.sampled_from([1, -1]),
)
@settings(max_examples=15, deadline=None)
def test_geared_wheels_keep_their_ratio_over_many_turns(ratios, way):
    m = wheels(ratios)
    assert solve(m).freedom == 1
    turns = [math.radians(25) * k * way for k in range(1, 60)]
    for value, found in zip(turns, driven_by_steps(m, "j0", "turn", turns), strict=True):
        meant = value
        for k, ratio in enumerate(ratios):
            meant *= -ratio
            off = about_z(found.poses[k + 2]) - meant
            assert math.remainder(off, 2 * math.pi) == pytest.approx(0, abs=1e-6)


def test_a_planet_gear_goes_as_willis_says():
    """(w_sun - w_arm) / (w_ring - w_arm) = -z_ring / z_sun; the ring stands still here."""
    sun, planet = 24, 18
    ring = sun + 2 * planet
    r = 1.0
    members = (
        member("ring", anchored=True), member("arm"), member("sun"), member("planet", (r, 0, 0)),
    )  # fmt: skip
    pairs = (
        Pair("arm", "revolute", 0, 1, at(0), I, at(0), I),
        Pair("sun", "revolute", 1, 2, at(0), I, at(0), I),
        Pair("planet", "revolute", 1, 3, at(r), I, at(0), I),
    )
    couplings = (
        Coupling("mesh", (Term("sun", "turn", sun / planet), Term("planet", "turn", 1.0))),
        # The ring against the arm turns by minus the arm; inside, both turn the same way.
        Coupling("inner", (Term("arm", "turn", ring / planet), Term("planet", "turn", 1.0))),
    )
    m = Mechanism(members, pairs, couplings)
    assert solve(m).freedom == 1
    angles = [math.radians(20) * k for k in range(1, 40)]
    for value, found in zip(angles, driven_by_steps(m, "arm", "turn", angles), strict=True):
        meant = value * (1 + ring / sun)
        off = about_z(found.poses[2]) - meant
        assert math.remainder(off, 2 * math.pi) == pytest.approx(0, abs=1e-6)


def test_a_rack_goes_as_far_as_the_pinion_rolls():
    members = (member("g", anchored=True), member("pinion"), member("rack", (0, -2, 0)))
    along_x = axes_along((1, 0, 0), (0, 1, 0))
    pairs = (
        Pair("turn", "revolute", 0, 1, at(0), I, at(0), I),
        Pair("slide", "prismatic", 0, 2, at(0, -2), along_x, at(0), along_x),
    )
    coupling = Coupling("c", (Term("turn", "turn", 2.0), Term("slide", "slide", -1.0)))
    m = Mechanism(members, pairs, (coupling,))
    assert solve(m).freedom == 1
    angles = [math.radians(40) * k for k in range(1, 30)]
    for value, found in zip(angles, driven_by_steps(m, "turn", "turn", angles), strict=True):
        assert found.poses[2].p == pytest.approx([2.0 * value, -2, 0], abs=1e-6)
    # And the other way round: the rack drives the pinion.
    (found,) = driven_by_steps(m, "slide", "slide", [1.5])
    assert about_z(found.poses[1]) == pytest.approx(0.75, abs=1e-9)


@given(
    st.sampled_from([0.5, 1.0, 3.7, -12.0]), st.lists(st.floats(-170, 170), min_size=1, max_size=4)
)
@settings(max_examples=15, deadline=None)
def test_coupled_turns_are_right_however_far_one_is_driven_at_once(ratio, jumps):
    """The first wheel by jumps up to nearly half a turn; the other by many turns each time. And once
    more as a document has it: only the value changes, and it is put together anew."""
    m = wheels([ratio])
    at_all = 0.0
    for jump in jumps:
        at_all += math.radians(jump)
        held, found = driven_to(m, "j0", "turn", at_all)
        assert found.holds
        meant = -ratio * at_all
        off = about_z(found.poses[2]) - meant
        assert math.remainder(off, 2 * math.pi) == pytest.approx(0, abs=1e-6)
        again = driven_home(replace(held.with_poses([x.pose for x in m.members]), reference=None))
        put = solve(again)
        assert put.holds
        off = about_z(put.poses[2]) - meant
        assert math.remainder(off, 2 * math.pi) == pytest.approx(0, abs=1e-6)
        m = replace(m.with_poses(found.poses), reference=None)


def test_what_is_held_elsewhere_can_be_let_go_for_a_drive_but_sizes_of_conditions_stay():
    m = wheels([2.0])
    held = Mechanism(
        m.members, (m.pairs[0], replace(m.pairs[1], values={"turn": 0.0})), m.couplings
    )
    assert not driven_to(held, "j0", "turn", 0.4)[1].holds
    found = driven_to(held.loosened("j0"), "j0", "turn", 0.4)[1]
    assert found.holds
    assert about_z(found.poses[2]) == pytest.approx(-0.8, abs=1e-6)
    size = Pair("d", "distance", 0, 1, at(0), I, at(0), I, form="points",
                values={"distance": 3.0}, firm=True)  # fmt: skip
    assert two(size).loosened("").pairs[0].values == {"distance": 3.0}


@pytest.mark.parametrize(("value", "stands"), [(0.3, 0.3), (1.2, 0.4), (-2.0, -0.1)])
def test_a_drive_stops_where_a_joint_tied_to_it_reaches_its_limit(value, stands):
    """The second wheel turns twice as far the other way, between -0.8 and 0.2."""
    m = wheels([2.0])
    m = Mechanism(
        m.members, (m.pairs[0], replace(m.pairs[1], limits={"turn": (-0.8, 0.2)})), m.couplings
    )
    found, stopped = driven_within(m, "j0", "turn", value)
    assert found.holds
    assert about_z(found.poses[1]) == pytest.approx(stands, abs=2e-4)
    assert about_z(found.poses[2]) == pytest.approx(-2 * stands, abs=4e-4)
    assert stopped == (None if value == stands else "j1")


def test_what_stands_beyond_its_limit_can_be_driven_back():
    m = wheels([2.0])
    m = Mechanism(
        m.members, (m.pairs[0], replace(m.pairs[1], limits={"turn": (0.5, 2.0)})), m.couplings
    )
    found, stopped = driven_within(m, "j0", "turn", -0.4)
    assert stopped is None
    assert about_z(found.poses[2]) == pytest.approx(0.8, abs=1e-6)


def test_a_geared_crank_drives_its_linkage_as_the_closed_form_says():
    """A motor wheel geared 1 : 1.6 to the crank of a four-bar, a loop nothing can be carried in."""
    from tests.core.test_assembly import four_bar, rocker_angle

    bar = four_bar()
    motor = member("motor", (0, -3, 0))
    turn = Pair("motor", "revolute", 0, 4, at(0, -3), I, at(0), I)
    gear = Coupling("gear", (Term("motor", "turn", 1.6), Term("j1", "turn", 1.0)))
    m = Mechanism((*bar.members, motor), (*bar.pairs, turn), (gear,))
    m = m.with_poses(solve(m).poses)
    stood = [x.pose for x in m.members]
    crank, value = (m.coordinates(m.pairs[k], stood)["turn"] for k in (0, 4))
    crank += 1.6 * value
    for jump in (100, 170, -60, 150, 170, 170):
        value += math.radians(jump)
        _, found = driven_to(m, "motor", "turn", value)
        assert found.holds
        m = replace(m.with_poses(found.poses), reference=None)
        theta = crank - 1.6 * value
        off = found.coordinates["j4"]["turn"] - rocker_angle(theta)
        assert math.remainder(off, 2 * math.pi) == pytest.approx(0.0, abs=1e-6)


def test_wheels_that_cannot_all_turn_are_locked_and_nobody_is_blamed():
    """Three wheels in a ring, each meshing with both others: no freedom, no conflict."""
    m = wheels([1.0, 1.0])
    ring = Coupling("ring", (Term("j0", "turn", 1.0), Term("j2", "turn", 1.0)))
    locked = Mechanism(m.members, m.pairs, (*m.couplings, ring))
    found = solve(locked)
    assert found.holds
    assert found.freedom == 0


# --- mechanisms with closed forms


@pytest.mark.parametrize("beta", [10, 35, 60])
def test_a_universal_joint_turns_as_hooke_says(beta):
    """tan(out) = tan(in) cos(beta), counted from the fork in the plane of both shafts.
    Shigley, Uicker: Theory of Machines and Mechanisms, ch. on universal joints."""
    b = math.radians(beta)
    shaft = np.array([math.cos(b), 0.0, math.sin(b)])
    x, y = at(1), at(0, 1)
    in_axes, out_axes = axes_along(x, y), axes_along(shaft, y)
    members = (member("g", anchored=True), member("in"), member("cross"), member("out"))
    # The pin of the driving fork stands along Y, that of the other square to its shaft.
    pin = np.cross(shaft, y)
    pairs = (
        Pair("in", "revolute", 0, 1, at(0), in_axes, at(0), in_axes),
        Pair("p", "revolute", 1, 2, at(0), axes_along(y), at(0), axes_along(y)),
        Pair("q", "revolute", 2, 3, at(0), axes_along(pin), at(0), axes_along(pin)),
        Pair("out", "revolute", 0, 3, at(0), out_axes, at(0), out_axes),
    )
    m = Mechanism(members, pairs)
    assert solve(m).freedom == 1
    angles = [math.radians(10) * k for k in range(1, 37)]
    for angle, found in zip(angles, driven_by_steps(m, "in", "turn", angles), strict=True):
        # A line of the driven fork, seen along its shaft.
        line = found.poses[3].rotation @ pin
        u = np.cross(shaft, y)
        got = math.atan2(float(line @ np.cross(shaft, u)), float(line @ u))
        meant = math.atan2(math.sin(angle), math.cos(angle) * math.cos(b))
        also = math.atan2(math.sin(angle) * math.cos(b), math.cos(angle))
        assert min(
            abs(math.remainder(got - meant, 2 * math.pi)), abs(math.remainder(got - also, 2 * math.pi))
        ) < 1e-6  # fmt: skip


@pytest.mark.parametrize("cells", [1, 4, 12])
def test_a_scissor_opens_as_high_as_its_cells_add_up(cells):
    m = scissor(cells)
    start = solve(m)
    assert start.holds
    assert start.freedom == 1
    for angle in (-1.3, -1.0, -0.7, -0.5):
        found = solve(m.with_value("m0", "turn", angle), diagnose=False)
        assert found.holds
        # Each further cell stands one bar's rise above the last, along the line of symmetry.
        middles = [found.poses[2 * k].p for k in range(cells)]
        for one, other in pairwise(middles):
            assert np.linalg.norm(other - one) == pytest.approx(
                2.0 * math.sin(-angle / 2), abs=1e-5
            )
        m = m.with_poses(found.poses)


def test_bennetts_linkage_moves_though_counting_says_it_cannot():
    """Four bars, four skew axes: a / sin(alpha) = b / sin(beta) alone lets it move (Bennett 1903).
    tan(t1/2) tan(t2/2) = sin((beta + alpha)/2) / sin((beta - alpha)/2)."""
    a, alpha = 2.0, math.radians(40)
    beta = math.radians(75)
    b = a * math.sin(beta) / math.sin(alpha)
    K = math.sin((beta + alpha) / 2) / math.sin((beta - alpha) / 2)

    def link(length, twist):
        """From one axis (z) to the next: along x by the length, turned about it by the twist."""
        return at(length), axes_along((0, -math.sin(twist), math.cos(twist)), (1, 0, 0))

    t1 = 1.2
    t2 = 2 * math.atan(K / math.tan(t1 / 2))
    lengths = [(a, alpha), (b, beta), (a, alpha), (b, beta)]
    # The loop put together by hand: turn about z, then go along the link.
    poses, here = [], Pose.still()
    for turn, (length, twist) in zip((t1, t2, -t1, -t2), lengths, strict=True):
        here = here @ Pose(at(0), turned(STILL, at(0, 0, turn)))
        poses.append(here)
        far, axes = link(length, twist)
        c, s = math.cos(twist / 2), math.sin(twist / 2)
        here = here @ Pose(far, np.array([c, s, 0, 0]))
        assert here.rotation.shape == axes.shape
    assert here.p == pytest.approx([0, 0, 0], abs=1e-9)
    members = tuple(Member(f"l{k}", p, k == 0, 5.0) for k, p in enumerate(poses))
    pairs = tuple(
        Pair(f"j{k}", "revolute", k, (k + 1) % 4, *link(*lengths[k]), at(0), I) for k in range(4)
    )
    m = Mechanism(members, pairs)
    found = solve(m)
    assert found.holds
    assert found.freedom == 1
    assert found.redundant == 3
    now = found.coordinates["j0"]["turn"]
    assert abs(now) == pytest.approx(abs(math.remainder(t2, 2 * math.pi)), abs=1e-6)
    for k in range(1, 12):
        moved = solve(m.with_value("j0", "turn", now + 0.05 * k), diagnose=False)
        assert moved.holds
        m = m.with_poses(moved.poses)
        here, there = moved.coordinates["j0"]["turn"], moved.coordinates["j1"]["turn"]
        assert abs(math.tan(here / 2) * math.tan(there / 2)) == pytest.approx(K, rel=1e-6)


# --- limits, conflicts


@given(st.floats(0, 270))
def test_an_angle_within_limits_beyond_half_a_turn_reads_within_them(angle):
    """Limits 0 to 270: at 181 it stands at 181, not at -179."""
    pair = Pair(
        "j", "revolute", 0, 1, at(0), I, at(0), I, limits={"turn": (0.0, math.radians(270))}
    )
    m = two(pair, (0, 0, 0), turned(STILL, at(0, 0, math.radians(angle))))
    assert math.degrees(solve(m).coordinates["j"]["turn"]) == pytest.approx(angle, abs=1e-6)
    driven = solve(m.with_value("j", "turn", math.radians(270 - angle)))
    assert math.degrees(driven.coordinates["j"]["turn"]) == pytest.approx(270 - angle, abs=1e-6)


@given(st.floats(-720, 720), st.floats(-720, 720), st.floats(1, 900))
def test_a_turn_reads_within_its_limits_wherever_a_whole_turn_brings_it_there(angle, least, width):
    """Against trying every number of turns; limits to one side leave it as it is."""
    most = least + width
    m = two(
        Pair("j", "revolute", 0, 1, at(0), I, at(0), I,
             limits={"turn": (math.radians(least), math.radians(most))}),
        (0, 0, 0), turned(STILL, at(0, 0, math.radians(angle))),
    )  # fmt: skip
    poses = [x.pose for x in m.members]
    found = math.degrees(m.coordinates(m.pairs[0], poses)["turn"])
    raw = math.remainder(angle, 360)
    assume(abs(raw) < 179.999)  # half a turn reads either way
    ways = [raw + 360 * k for k in range(-6, 7)]
    off = lambda v: max(least - v, v - most, 0.0)  # noqa: E731
    assert math.remainder(found - raw, 360) == pytest.approx(0, abs=1e-6)
    assert off(found) == pytest.approx(min(map(off, ways)), abs=1e-6)
    if least < raw < most:
        assert found == pytest.approx(raw, abs=1e-6)
    for limits in ((None, math.radians(most)), (math.radians(least), None)):
        one = two(Pair("j", "revolute", 0, 1, at(0), I, at(0), I, limits={"turn": limits}))
        one = one.with_poses(poses)
        assert math.degrees(one.coordinates(one.pairs[0], poses)["turn"]) == pytest.approx(
            raw, abs=1e-6
        )


def test_what_cannot_hold_is_told_by_how_much_and_which_can_be_spared():
    """Two distances that cannot both be, a hinge beside them that can."""
    members = (member("g", anchored=True), member("a", (3, 0, 0)), member("b", (0, 4, 0)))
    one = Pair("one", "distance", 0, 1, at(0), I, at(0), I, form="points", values={"distance": 3.0})
    two_ = Pair(
        "two", "distance", 0, 1, at(0), I, at(0), I, form="points", values={"distance": 5.0}
    )
    hinge = Pair("hinge", "revolute", 0, 2, at(0, 4), I, at(0), I)
    m = Mechanism(members, (one, two_, hinge))
    found = solve(m)
    assert not found.holds
    assert set(found.broken) == {"one", "two"}
    assert found.poses[1].p == pytest.approx([3, 0, 0])
    # The compromise stands in the middle: each is off by half of what lies between them.
    for id in ("one", "two"):
        assert found.gaps[id] == (pytest.approx(1.0, abs=1e-3), True)
    assert set(droppable(m, found.broken)) == {"one", "two"}


# --- made small before it is solved

kinds = st.sampled_from(["fixed", "fixed", "revolute", "prismatic", "spherical", "planar"])
trees = st.lists(st.tuples(kinds, st.integers(0, 5), vectors, vectors), min_size=2, max_size=7)


def tree(links, ring):
    """Members joined to earlier ones anyhow, and with `ring` one joint more, where it holds."""
    members = [member("g", anchored=True)]
    pairs = []
    for n, (kind, to, v, w) in enumerate(links):
        members.append(Member(f"m{n}", Pose(3 * v, spun(w)), n == 3, 5.0))
        frames = axes_along(v + at(0.1, 0.2, 1.3)), axes_along(w - at(0.2, 0.1, 1.2))
        pairs.append(Pair(f"j{n}", kind, min(to, n), n + 1, at(1, n), frames[0], at(-1), frames[1]))
    m = Mechanism(tuple(members), tuple(pairs))
    if not ring:
        return m
    poses = solve(m).poses
    last = len(members) - 1
    between = poses[0].inverse() @ poses[last]
    extra = Pair("ring", "fixed", 0, last, between.p, between.rotation, at(0), I)
    return Mechanism(m.with_poses(poses).members, (*pairs, extra))


def off_by(m, poses):
    """How far off the joints are at some poses, and whether one stands against its sense: by their
    own rows, not by how they were solved."""
    p, q = np.array([x.p for x in poses]), np.array([x.q for x in poses])
    worst = float(np.abs(System(m).evaluate(p, q)[0]).max(initial=0.0))
    return math.inf if _flipped(m, q) else worst


@pytest.mark.parametrize("seed", range(6))
def test_a_joint_found_against_its_sense_is_turned_over(seed):
    """Two links between two that stand, all ends in one place or anyhow: there is a way the right round."""
    random = np.random.default_rng(seed)
    kinds_ = ("spherical", "revolute", "spherical", "fixed")
    links = [(k, n, 0.04 * seed * random.normal(size=3), at(0)) for n, k in enumerate(kinds_)]
    m = tree(links, ring=False)
    found = _solve_part(m, diagnose=True)
    assert found.holds
    assert off_by(m, found.poses) < 1e-7


@given(trees, st.booleans())
@settings(max_examples=30, deadline=None)
def test_made_small_a_mechanism_has_the_freedoms_of_the_whole(links, ring):
    m = tree(links, ring)
    small, whole = solve(m), _solve_part(m, diagnose=True)
    # Made small it may be found where it is not as a whole, from the same start; never the other way.
    assert small.holds or not whole.holds
    if small.holds:
        assert off_by(m, small.poses) < 1e-7
    if small.holds and not whole.holds:
        return
    if not small.holds:
        assert set(small.broken) <= {p.id for p in m.pairs}
        assert small.broken
        return
    assert small.freedom == whole.freedom
    assert small.redundant == whole.redundant
    assert {k: v for k, v in small.loose.items() if v} == {
        k: v for k, v in whole.loose.items() if v
    }
    # What is fixed stands as its frames say, whoever was the root of its group.
    for pair in m.pairs:
        if pair.kind != "fixed":
            continue
        a, b = (
            world(small.poses[i], o, f)
            for i, o, f in (
                (pair.a, pair.origin_a, pair.axes_a),
                (pair.b, pair.origin_b, pair.axes_b),
            )
        )
        assert a[0] == pytest.approx(b[0], abs=1e-5)
        assert a[1] == pytest.approx(b[1], abs=1e-6)


def test_fixed_joints_that_contradict_are_named_among_what_is_fixed():
    members = (member("g", anchored=True), member("a", (1, 0)), member("b", (2, 0)))
    pairs = (
        Pair("one", "fixed", 0, 1, at(1), I, at(0), I),
        Pair("two", "fixed", 1, 2, at(1), I, at(0), I),
        Pair("three", "fixed", 0, 2, at(5), I, at(0), I),
    )
    found = solve(Mechanism(members, pairs))
    assert not found.holds
    assert set(found.broken) == {"one", "two", "three"}
    assert found.poses[2].p == pytest.approx([2, 0, 0])
    # Rest, all the same, is found.
    other = (*members, member("c", (0, 3)))
    more = (*pairs, Pair("hinge", "revolute", 0, 3, at(0, 3), I, at(0), I))
    assert set(solve(Mechanism(other, more)).broken) == {"one", "two", "three"}


@pytest.mark.parametrize("anchored", [(True, True), (True, False)])
def test_two_anchored_members_that_are_fixed_to_each_other_either_hold_or_are_told(anchored):
    for at_x, holds in ((2.0, True), (3.0, False)):
        members = (
            member("g", anchored=anchored[0]), member("h", (2, 0), anchored=anchored[1]),
        )  # fmt: skip
        pair = Pair("j", "fixed", 0, 1, at(at_x), I, at(0), I)
        found = solve(Mechanism(members, (pair,)))
        assert found.holds == (holds or not anchored[1])
        assert found.freedom == 0


def parallelogram(angle):
    a = math.radians(angle)
    tip = at(2 * math.cos(a), 2 * math.sin(a))
    q = turned(STILL, at(0, 0, a))
    members = (
        member("g", anchored=True), member("one", q=q), member("coupler", tip), member("two", (5, 0, 0), q),
    )  # fmt: skip
    pairs = (
        Pair("j1", "revolute", 0, 1, at(0), I, at(0), I),
        Pair("j2", "revolute", 1, 2, at(2), I, at(0), I),
        Pair("j3", "revolute", 2, 3, at(5), I, at(2), I),
        Pair("j4", "revolute", 0, 3, at(5), I, at(0), I),
    )
    return Mechanism(members, pairs)


@pytest.mark.parametrize(("angle", "turning"), [(0, True), (180, True), (1, False), (70, False)])
def test_a_change_point_is_told_and_has_no_more_freedom_than_its_neighbours(angle, turning):
    found = solve(parallelogram(angle))
    assert found.holds
    assert found.freedom == 1
    assert bool(found.turning) == turning


def test_what_hangs_together_is_all_that_moves_when_it_is_pulled():
    """Two arms on one base: the other stays, to the last digit; a bar fixed to the arm comes along."""
    members = (
        member("g", anchored=True), member("arm"), member("bar", (2, 0, 0)), member("other", (0, 9, 0)),
    )  # fmt: skip
    pairs = (
        Pair("hinge", "revolute", 0, 1, at(0), I, at(0), I),
        Pair("weld", "fixed", 1, 2, at(2), I, at(0), I),
        Pair("away", "revolute", 0, 3, at(0, 9), I, at(0), I),
    )
    found = drag(Mechanism(members, pairs), 2, at(1), at(0, 4))
    assert found.holds
    assert about_z(found.poses[1]) == pytest.approx(math.pi / 2, abs=0.15)
    assert found.poses[2].p == pytest.approx(found.poses[1].out(at(2)), abs=1e-9)
    assert (found.poses[3].p == members[3].pose.p).all()

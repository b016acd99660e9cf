"""Interference and motion against hand-worked cases."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

from tests.core.machine import machine, shape_of
from tests.core.mechanisms import slider_crank
from vireo.core.assembly import Mechanism, Member, Pair, solve
from vireo.core.assembly.mechanism import Coupling, Term
from vireo.core.assembly.pose import Pose, turned
from vireo.core.assembly.seats import DrawnThread
from vireo.core.exchange import meshfile
from vireo.core.fit.interference import look, one_by_one
from vireo.core.fit.pairs import Item, near_pairs
from vireo.core.fit.verdict import overlap_of, overlaps, verdict_of
from vireo.core.geometry import Frame
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.facets import facet_body
from vireo.core.kernel.grow import box, cylinder
from vireo.core.kernel.measure import box_of, topology_of
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.nearest import nearest
from vireo.core.kernel.place import located
from vireo.core.motion.course import one
from vireo.core.motion.dragging import Dragging
from vireo.core.motion.scene import Scene as Triangles
from vireo.core.motion.sweep import FIT, Runner, sweep
from vireo.core.trouble import BadInput

I = np.eye(3)
STILL = np.array([1.0, 0, 0, 0])
#: Axes whose z runs along X.
X_UP = np.array([[0.0, 0, 1], [1, 0, 0], [0, 1, 0]])


class Scene:
    def __init__(self):
        self.shapes, self.items = {}, []

    def add(self, id, key, body, p=(0, 0, 0), q=STILL):
        self.shapes.setdefault(key, shape_of(body))
        low, high = (np.array(c) for c in box_of(body.shape))
        self.items.append(Item(id, key, Pose(np.array(p, dtype=float), q), low, high))

    def run(self, within=0.0):
        return look(self.items, one_by_one(self.shapes.__getitem__, within), within=within)

    def overlaps(self):
        return [p for p in self.run().pairs if p.verdict.state == "overlap"]


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
    found = {frozenset((p.a, p.b)): p for p in s.run().pairs}
    states = {k: p.verdict.state for k, p in found.items()}
    assert states[frozenset(("a", "touch"))] == "touching"
    assert states[frozenset(("a", "edge"))] == "touching"
    deep = found[frozenset(("a", "deep"))]
    assert deep.verdict.volume == pytest.approx(10.0, rel=1e-9)
    assert deep.verdict.depth == pytest.approx(0.1, rel=1e-6)
    assert abs(deep.way[2]) == pytest.approx(1.0)
    corner = found[frozenset(("a", "corner"))]
    assert corner.verdict.volume == pytest.approx(0.125, rel=1e-6)
    assert corner.verdict.depth == pytest.approx(0.5, rel=1e-6)


def test_the_way_out_leads_the_second_clear_of_the_first():
    """Moved by the depth along the way out, a sunk block only touches: whichever comes first."""
    block, sunk = shape_of(box((40.0, 40.0, 20.0), "k")), shape_of(box((10.0, 8.0, 6.0), "c"))
    for a, b, at in ((block, sunk, (38.7, 5, 5)), (sunk, block, (-38.7, -5, -5))):
        pose = Pose(np.array(at, dtype=float), STILL)
        found = verdict_of(a, b, pose)
        assert (found.state, found.depth) == ("overlap", pytest.approx(1.3, abs=1e-3))
        out = Pose(pose.p + (found.depth + 1e-3) * np.array(found.way), pose.q)
        assert verdict_of(a, b, out).state != "overlap"


#: What a pin of 5 mm radius in a bore of as much and 20 mm long overlaps by: volume and depth by hand,
#: for how far it is off (to first order in that, which is below 1e-3 of the radius).
OFF = {
    "thicker": (lambda x: math.pi * ((5 + x) ** 2 - 25) * 20, lambda x: x),
    # A half moon 2 r e high all along; wedges r phi h^2 / 2 on either side.
    "aside": (lambda x: 2 * 5 * x * 20, lambda x: x),
    "tilted": (lambda x: 2 * 5 * (x / 10) * 20**2 / 4, lambda x: x),
}


@pytest.mark.parametrize("how", OFF)
@given(
    size=st.floats(-5, -2).map(lambda e: 10**e),
    turn=st.floats(-math.pi, math.pi),
    through=st.booleans(),
    swapped=st.booleans(),
)
@settings(max_examples=8)
def test_a_pin_nearly_in_its_bore_overlaps_by_what_it_is_off(how, size, turn, through, swapped):
    """Where the common solid alone is silently wrong: by up to its whole."""
    long, low = (40.0, -10.0) if through else (20.0, 0.0)
    radius = 5 + (size if how == "thicker" else 0.0)
    wall = ("pin/wall", "pin/top", "pin/foot")
    peg = shape_of(cylinder((0, 0, low - 10), (0, 0, 1), radius, long, wall))
    plate = shape_of(bored(5.0))
    spun = turned(STILL, np.array([0, 0, turn]))
    q = turned(spun, np.array([size / 10, 0, 0])) if how == "tilted" else spun
    aside = size * np.array([math.cos(turn), math.sin(turn), 0]) if how == "aside" else 0.0
    pose = Pose(np.array([20.0, 20, 10]) + aside, q)
    a, b, at = (peg, plate, pose.inverse()) if swapped else (plate, peg, pose)
    found = overlap_of(a, b, at)
    volume, depth = (f(size) for f in OFF[how])
    assert found is not None
    assert found.volume == pytest.approx(volume, rel=0.03)
    assert found.depth == pytest.approx(depth, rel=0.02)
    assert verdict_of(a, b, at).state == "overlap"


@given(turn=st.floats(-math.pi, math.pi), slack=st.sampled_from([0.0, 1e-5, 1e-3, 0.01]))
@settings(max_examples=8)
def test_pins_of_the_same_size_and_free_ones_do_not_overlap(turn, slack):
    plate, peg = shape_of(bored(5.0)), shape_of(pin(5.0 - slack))
    pose = Pose(np.array([20.0, 20, 0]), turned(STILL, np.array([0, 0, turn])))
    found = verdict_of(plate, peg, pose, within=0.1)
    if slack:
        assert (found.state, found.gap) == ("clear", pytest.approx(slack, rel=1e-3))
    else:
        assert found.state == "touching"


@pytest.mark.parametrize("apart", [0.0, 1e-6, 1e-4, 0.01, 0.3])
def test_doubled_parts_are_in_each_other_by_all_they_are(apart):
    """Their skins lie together, so that no place of one is deep in the other by them."""
    cube = shape_of(box((10.0, 10.0, 10.0), "c"))
    wall = ("w/wall", "w/top", "w/foot")
    disc = cylinder((0, 0, 0), (0, 0, 1), 8.0, 1.6, wall)
    ring = shape_of(
        combine("cut", disc, [cylinder((0, 0, -1), (0, 0, 1), 4.2, 4.0, ("b/w", "b/t", "b/f"))])
    )
    at = Pose(np.array([apart, 0, 0]), STILL)
    found = verdict_of(cube, cube, at)
    assert found.volume == pytest.approx((10 - apart) * 100, rel=1e-6)
    assert found.depth == pytest.approx(10 - apart, rel=0.01)
    found = verdict_of(ring, ring, at)
    assert found.volume == pytest.approx(math.pi * (64 - 4.2**2) * 1.6, rel=0.06)
    assert found.depth == pytest.approx(1.6, rel=0.01)
    assert found.inside == ("" if apart > 1e-6 else "b" if found.inside == "b" else "a")


def test_a_part_wholly_inside_is_found_and_one_in_a_cavity_is_clear():
    solid, small = shape_of(box((40.0, 40.0, 20.0), "k")), shape_of(box((4.0, 4.0, 4.0), "s"))
    at = Pose(np.array([18.0, 18, 8]), STILL)
    found = verdict_of(solid, small, at)
    assert (found.state, found.inside) == ("overlap", "b")
    assert found.volume == pytest.approx(64.0)
    assert verdict_of(small, solid, at.inverse()).inside == "a"
    wall = ("r/wall", "r/top", "r/foot")
    room = cylinder((20, 20, 2), (0, 0, 1), 9.0, 16.0, wall)
    hollow = shape_of(combine("cut", box((40.0, 40.0, 20.0), "k"), [room]))
    assert verdict_of(hollow, small, at, within=2.0).state == "clear"


def test_flanks_of_a_drawn_thread_are_told_from_a_head_that_is_sunk():
    """M6 x 1 in its tapped bore of 5 mm; the same with its head 0.2 mm in the plate."""
    shank = cylinder((0, 0, 0), (0, 0, 1), 3.0, 20.0, ("s/wall", "s/top", "s/foot"))
    head = cylinder((0, 0, 20), (0, 0, 1), 5.0, 4.0, ("h/wall", "h/top", "h/foot"))
    screw = combine("add", shank, [head])
    threaded = shape_of(screw, (DrawnThread(Frame(), 3.0, 1.0),))
    plate = shape_of(bored(2.5))
    for sunk, thread in ((0.0, True), (0.2, False)):
        found = verdict_of(plate, threaded, Pose(np.array([20.0, 20, -sunk]), STILL))
        assert (found.state, found.thread) == ("overlap", thread)
        assert not verdict_of(
            plate, shape_of(screw), Pose(np.array([20.0, 20, -sunk]), STILL)
        ).thread


def test_a_machine_of_known_overlaps_is_told_without_miss_or_false_alarm():
    m = machine(3, seed=5)
    found = look(m.items, one_by_one(m.shapes.__getitem__, 0.0))
    told = {frozenset((p.a, p.b)): p.verdict for p in found.pairs if p.verdict.state == "overlap"}
    assert told.keys() == m.truth.keys()
    for pair, (volume, depth) in m.truth.items():
        assert told[pair].volume == pytest.approx(volume, rel=0.05), pair
        assert told[pair].depth == pytest.approx(depth, rel=0.03), pair


def test_equal_pairs_are_computed_once_and_far_ones_not_at_all():
    s = Scene()
    cube = box((10.0, 10.0, 10.0), "cube")
    for k in range(12):
        s.add(f"c{k}", "cube", cube, (9.0 * k, 0, 0))
    found = s.run()
    assert len(found.pairs) == 11
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
    found = sweep(one(mechanism, "j", "turn"), runners, 0.0, math.radians(120), steps)
    assert found.pair == ("wall", "arm")
    assert found.clash_at == pytest.approx(theory, abs=1e-4)
    assert found.values[-1] == found.clash_at


def test_a_free_way_reports_the_least_clearance():
    mechanism, runners = swinging_arm()
    found = sweep(one(mechanism, "j", "turn"), runners, 0.0, -math.radians(60), 12)
    assert found.clash_at is None
    assert len(found.values) == 13
    assert found.clearance[0] == pytest.approx(16.0, abs=0.05)
    assert min(found.clearance) == found.clearance[0]


def watched(bodies, poses_of=None):
    """The truth of placed bodies by the exact common solid, as the product asks it."""
    from vireo.core.motion.sweep import Shared

    shapes = {id: shape_of(body) for id, (body, _, _) in bodies.items()}

    def truth(a, b, poses, closely):
        (_, member_a, at_a), (_, member_b, at_b) = bodies[a], bodies[b]
        relative = (poses[member_a] @ at_a).inverse() @ (poses[member_b] @ at_b)
        if not closely:
            both = overlaps(shapes[a], shapes[b], relative)
            return Shared(*both) if both else None
        found = overlap_of(shapes[a], shapes[b], relative)
        return Shared(found.volume, found.depth) if found else None

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
        runners.append(
            Runner(id, member, mesh.points + np.array(at), mesh.triangles, faces, mesh.deflection,
                   topology_of(body), place)
        )  # fmt: skip
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
    found = sweep(one(mechanism, "j", "turn"), runners, 0.0, math.radians(90), 30, truth=truth,
                  fits=lambda a, b: FIT)  # fmt: skip
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
    joined = {"fits": lambda a, b: FIT, "truth": truth}
    assert sweep(one(mechanism, "j", "slide"), runners, 0.0, 20.0, 10, **joined).clash_at is None
    found = sweep(one(mechanism, "j", "slide"), runners, 0.0, -5.0, 10, **joined)
    assert found.clash_at == pytest.approx(0.0, abs=0.02)
    along = Pair("j", "prismatic", 0, 1, np.zeros(3), X_UP, np.zeros(3), X_UP)
    wall = box((4.0, 40.0, 20.0), "wall")
    mechanism, runners, truth = scene([*pieces, ("wall", 0, wall, (60, 0, 10))], along)
    found = sweep(one(mechanism, "j", "slide"), runners, 0.0, 45.0, 9, truth=truth)
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
    found = sweep(one(mechanism, "j", "turn"), runners, 0.0, math.tau, 1, truth=truth)
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
    for fits in (lambda a, b: FIT if {a, b} == {"plate", "arm"} else None, lambda a, b: None):
        found = sweep(one(mechanism, "j", "turn"), runners, 0.0, 1.0, 4, truth=truth, fits=fits)
        assert found.clash_at is None
        assert found.clearance == pytest.approx([lift] * 5, abs=1e-3)


def test_what_overlaps_at_a_joint_by_more_than_a_fit_is_told_at_once():
    turn = Pair("j", "revolute", 0, 1, np.array([20.0, 20, 0]), I, np.array([20.0, 20, 0]), I)
    pieces = [("plate", 0, bored(5.0), (0, 0, 0)), ("pin", 1, pin(5.4), (20, 20, 0))]
    mechanism, runners, truth = scene(pieces, turn)
    found = sweep(
        one(mechanism, "j", "turn"), runners, 0.0, 1.0, 5, truth=truth, fits=lambda a, b: FIT
    )
    assert found.clash_at == 0.0
    assert found.clearance == [0.0]
    pieces[1] = ("pin", 1, pin(5.01), (20, 20, 0))  # a press fit
    mechanism, runners, truth = scene(pieces, turn)
    found = sweep(
        one(mechanism, "j", "turn"), runners, 0.0, 1.0, 5, truth=truth, fits=lambda a, b: FIT
    )
    assert found.clash_at is None


def round_scene(pair, fixed, moving, deflection):
    """One leaf on either side of a joint, as coarse triangles."""
    members = (
        Member("g", Pose(np.zeros(3), STILL), True, 100.0),
        Member("m", Pose(np.zeros(3), STILL), False, 100.0),
    )
    runners, bodies = [], {}
    for id, member, body in (("fixed", 0, fixed), ("moving", 1, moving)):
        mesh = tessellate(body, deflection, 1.0)
        faces = np.repeat(
            np.arange(len(mesh.face_starts) - 1, dtype=np.int32), np.diff(mesh.face_starts)
        )
        still = Pose(np.zeros(3), STILL)
        runners.append(Runner(id, member, mesh.points, mesh.triangles, faces, deflection,
                              topology_of(body), still))  # fmt: skip
        bodies[id] = (body, member, still)
    return Mechanism(members, (pair,)), runners, watched(bodies)


@given(
    r=st.floats(2, 9), s=st.floats(2, 9), share=st.floats(0, 0.95),
    deflection=st.sampled_from([0.02, 0.3]),
)  # fmt: skip
@settings(max_examples=8)
def test_round_faces_meet_where_they_do_and_not_where_their_triangles_would(
    r, s, share, deflection
):
    """Two rollers on parallel axes come together along X: their middles are then r + s apart."""
    off = share * (r + s)
    names = ("w", "t", "f")
    fixed = cylinder((0, 0, 0), (0, 0, 1), r, 10.0, names)
    moving = cylinder((60, off, 1), (0, 0, 1), s, 10.0, names)
    along = Pair("j", "prismatic", 0, 1, np.zeros(3), X_UP, np.zeros(3), X_UP)
    mechanism, runners, truth = round_scene(along, fixed, moving, deflection)
    found = sweep(one(mechanism, "j", "slide"), runners, 0.0, -60.0, 7, truth=truth)
    assert found.clash_at == pytest.approx(math.sqrt((r + s) ** 2 - off**2) - 60, abs=1e-3)


def test_all_clashes_are_told_with_where_they_begin_and_end():
    """A slide runs through a thin wall, grazes another block all the while and goes on through a post:
    what is met first hides nothing."""
    along = Pair("j", "prismatic", 0, 1, np.zeros(3), X_UP, np.zeros(3), X_UP)
    pieces = [
        ("slide", 1, box((10.0, 10.0, 10.0), "s"), (0, 0, 0)),
        ("rest", 0, box((80.0, 10.0, 5.0), "r"), (0, 0, -5)),  # it lies on this and goes on to
        ("foil", 0, box((0.3, 10.0, 10.0), "f"), (20, 2, 0)),
        ("post", 0, box((4.0, 10.0, 10.0), "p"), (40, 8, 0)),
    ]
    mechanism, runners, truth = scene(pieces, along)
    found = sweep(one(mechanism, "j", "slide"), runners, 0.0, 60.0, 6, truth=truth, on=True)
    assert found.values == pytest.approx([10.0 * k for k in range(7)])
    foil, post = found.clashes
    assert set(foil.pair) == {"slide", "foil"}
    assert (foil.start, foil.end) == (pytest.approx(10, abs=3e-3), pytest.approx(20.3, abs=3e-3))
    assert set(post.pair) == {"slide", "post"}
    assert (post.start, post.end) == (pytest.approx(30, abs=3e-3), pytest.approx(44, abs=3e-3))
    assert post.depth == pytest.approx(2.0, abs=0.01)  # it passes the post by 2 mm of its width
    stopped = sweep(one(mechanism, "j", "slide"), runners, 0.0, 60.0, 6, truth=truth)
    assert (stopped.clash_at, len(stopped.clashes)) == (pytest.approx(10, abs=3e-3), 1)


@pytest.mark.parametrize("steps", [1, 9])
@pytest.mark.parametrize("start", [0.0, 60.0])
def test_what_goes_wholly_into_another_is_in_it_until_it_is_out(steps, start):
    """Skins are clear of each other while a bead is inside a block, and before and after that."""
    along = Pair("j", "prismatic", 0, 1, np.zeros(3), X_UP, np.zeros(3), X_UP)
    pieces = [("block", 0, box((40.0, 40.0, 40.0), "k"), (40, -20, -20)),
              ("bead", 1, box((4.0, 4.0, 4.0), "b"), (0, 0, 0))]  # fmt: skip
    mechanism, runners, truth = scene(pieces, along)
    (met,) = sweep(
        one(mechanism, "j", "slide"), runners, start, 120.0, steps, truth=truth, on=True
    ).clashes
    assert met.start == pytest.approx(max(start, 36.0), abs=3e-3)
    assert met.end == pytest.approx(80.0, abs=3e-3)
    (met,) = sweep(
        one(mechanism, "j", "slide"), runners, start, 62.0, steps, truth=truth, on=True
    ).clashes
    assert met.end is None


def test_a_thin_blade_turned_by_gears_through_a_thin_wall_is_not_stepped_over():
    """The driven wheel turns once, the other twelve times: each stand finds the finger where it began."""
    still = Pose(np.zeros(3), STILL)
    at = np.array([100.0, 0, 0])
    members = (
        Member("g", still, True, 100.0), Member("slow", still, False, 100.0),
        Member("fast", Pose(at, STILL), False, 100.0),
    )  # fmt: skip
    pairs = (
        Pair("s", "revolute", 0, 1, np.zeros(3), I, np.zeros(3), I),
        Pair("f", "revolute", 0, 2, at, I, np.zeros(3), I),
    )
    gears = Coupling("c", (Term("s", "turn", 12.0), Term("f", "turn", -1.0)))
    blade = box((30.0, 0.5, 4.0), "b")
    wall = box((10.0, 0.4, 4.0), "w")
    mechanism = Mechanism(members, pairs, (gears,))
    runners = [runner("blade", 2, blade)]
    mesh = tessellate(wall, 0.01)
    runners.append(Runner("wall", 0, mesh.points + at + np.array([-35.0, 3.0, 0]), mesh.triangles))
    found = sweep(one(mechanism, "s", "turn"), runners, 0.0, 2 * math.pi, 1)
    assert found.pair is not None
    # The blade's far edge reaches y = 3 just before half a turn of its own.
    assert math.radians(150) < 12 * found.clash_at < math.radians(180)


def test_a_limit_of_another_joint_ends_the_motion_and_is_named():
    """A crank drives a slide whose way is limited to less than twice the crank."""
    crank, rod = 20.0, 60.0
    mechanism = slider_crank(crank, rod)
    pairs = tuple(
        replace(p, limits={"slide": (None, 70.0)}) if p.id == "slide" else p
        for p in mechanism.pairs
    )
    found = sweep(one(replace(mechanism, pairs=pairs), "crank", "turn"), [], math.pi / 2, -0.5, 40)
    assert (found.limit.joint, found.limit.value) == ("slide", 70.0)
    # r cos t + sqrt(l^2 - r^2 sin^2 t) = 70
    t = math.acos((70**2 + crank**2 - rod**2) / (2 * 70 * crank))
    assert found.values[-1] == pytest.approx(t, abs=1e-4)
    assert found.clashes == []


@given(st.lists(st.floats(-15, 75), min_size=2, max_size=12), st.floats(0.3, 3.0))
@settings(max_examples=8, deadline=None)
def test_what_is_dragged_stops_where_it_meets_and_lets_itself_be_drawn_back(wishes, thickness):
    """An arm pulled to angles in any order, in steps of any size, never goes beyond the wall."""
    hinge = Pair("j", "revolute", 0, 1, np.zeros(3), I, np.zeros(3), I)
    mechanism, runners, truth = scene(
        [("wall", 0, box((thickness, 30.0, 4.0), "wall"), (20, 20, 0)),
         ("arm", 1, box((50.0, 4.0, 4.0), "arm"), (0, 0, 0))], hinge,
    )  # fmt: skip
    r, phi = math.hypot(20 + thickness, 20), math.atan2(20, 20 + thickness)
    theory = phi - math.asin(4 / r)
    poses = [m.pose for m in mechanism.members]
    dragging = Dragging(mechanism, runners, poses, truth=truth, fits=lambda a, b: None,
                        spread=lambda p: p)  # fmt: skip
    for wish in map(math.radians, wishes):
        there = solve(mechanism.with_poses(poses).with_value("j", "turn", wish), diagnose=False)
        found = dragging.to(poses, there.poses)
        poses = found.poses
        now = mechanism.coordinates(mechanism.pairs[0], poses)["turn"]
        if wish < theory - 1e-4:
            assert (found.met, now) == (None, pytest.approx(wish, abs=1e-7))
            assert found.gap > 0
        elif wish > theory + 1e-4:
            assert found.met == ("wall", "arm")
            # Within a few thousandths of a millimetre at the arm's length.
            assert theory - 6e-4 < now <= theory + 1e-7


@given(st.tuples(*[st.floats(-1, 1)] * 6), st.booleans(), st.floats(0.02, 1.5))
@settings(max_examples=20, deadline=None)
def test_what_triangles_say_is_surely_apart_is_so_on_the_true_faces(pose, round_one, gap):
    """A pin or a block at any pose, moved until it is about as far from a bored plate as wanted, coarsely
    meshed: what is told as sure is never more than the true distance."""
    other = pin(4.0) if round_one else box((7.0, 5.0, 9.0), "block")
    plate = bored(5.0)
    q = turned(STILL, np.array(pose[3:]) * 3)
    runners = []
    for k, body in enumerate((plate, other)):
        mesh = tessellate(body, 0.3)
        faces = np.repeat(np.arange(len(mesh.face_starts) - 1), np.diff(mesh.face_starts))
        runners.append(Runner(str(k), k, mesh.points, mesh.triangles, faces.astype(np.int32),
                              mesh.deflection, topology_of(body), Pose.still()))  # fmt: skip
    scene = Triangles(runners, lambda p: p)
    away = np.array(
        [20.0 + 12 * pose[0], 20.0 + 12 * pose[1], 5.0 + 30 * (1 if pose[2] > 0 else -1)]
    )
    way = np.array([20.0, 20, 5]) - away
    for _ in range(12):
        at = Pose(away, q)
        true = nearest(plate.shape, located(other.shape, at.rotation, at.p)).distance
        sure = scene.surely((0, 1), [Pose.still(), at], closely=True)
        quick = scene.surely((0, 1), [Pose.still(), at])
        assert quick <= sure + 1e-9
        assert sure <= true + 1e-6
        if true <= gap:
            break
        away = away + way / np.linalg.norm(way) * 0.8 * (true - 0.5 * gap)


@settings(max_examples=3, deadline=None)
@given(st.integers(0, 10_000))
def test_bodies_of_many_flat_faces_are_told_like_the_balls_they_are_made_after(seed):
    """Faceted balls as a scan brings them, each turned at random: overlap and depth by the closed forms
    of two balls (those inside and around the facets bound them), by both ways; twice at one place; a
    hair apart."""
    rng = np.random.default_rng(seed)
    mesh = Manifold.sphere(20.0, 40).rotate(rng.uniform(0, 360, 3)).to_mesh64()
    corners = mesh.vert_properties[:, :3][mesh.tri_verts]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    inside = np.einsum("nk,nk->n", normals, corners[:, 0]).min()
    ball = shape_of(
        facet_body(
            meshfile.Triangles(mesh.vert_properties[:, :3], mesh.tri_verts.astype(np.int64)), "m"
        )
    )
    assert len(ball.body.faces) > 700
    way = rng.normal(size=3)
    way /= np.linalg.norm(way)
    # Nearer than this the deepest place lies at the middle of the other, as deep in every direction.
    d = rng.uniform(28.0, 38.0)
    found = verdict_of(ball, ball, Pose(d * way, STILL))
    lens = np.pi * (40.0 - d) ** 2 * (d * d + 80.0 * d) / (12 * d)
    assert (found.state, found.how) == ("overlap", ("solid", "flats"))
    assert found.volume == pytest.approx(lens, rel=0.05 + 0.5 / (40.0 - d))
    assert 2 * inside - d - 0.02 < found.depth < 40.0 - d + 0.02
    assert np.dot(found.way, way) > 0.95
    out = verdict_of(ball, ball, Pose(d * way + (found.depth + 0.01) * np.array(found.way), STILL))
    assert out.state != "overlap" or out.depth < 0.15
    twice = verdict_of(ball, ball, Pose(1e-4 * way, STILL))
    assert twice.volume == pytest.approx(ball.volume, rel=1e-4)
    assert verdict_of(ball, ball, Pose(40.01 * way, STILL)).state == "clear"


@pytest.mark.parametrize("end", [1e6, -1e9, 1e15])
def test_a_motion_too_long_to_follow_is_refused_at_once(end):
    mechanism, runners = swinging_arm()
    with pytest.raises(BadInput, match="no more than 500 turns"):
        sweep(one(mechanism, "j", "turn"), runners, 0.0, end, 3)

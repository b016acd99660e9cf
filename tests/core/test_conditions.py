"""Conditions between real bodies, put together from documents: how far faces then stand apart is
asked of the kernel, wherever the components stood before."""

import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.core.parts import Maker
from vireo.core.assembly import solve
from vireo.core.assembly.build import BuiltPart, Solid, build_assembly
from vireo.core.assembly.pose import Pose, turned
from vireo.core.assembly.solver import driven_within
from vireo.core.documents import new_document
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.kernel.grow import box, cylinder
from vireo.core.kernel.measure import box_of, distance_between, mass_properties, topology_of
from vireo.core.kernel.place import located
from vireo.core.kernel.ways import way_of
from vireo.core.naming import make_pick
from vireo.core.telling import commands_of
from vireo.core.trouble import NotAllowed
from vireo.script.sketch import Sketch

STILL = np.array([1.0, 0, 0, 0])
starts = st.tuples(*[st.floats(-1, 1)] * 6)


def slotted():
    """A channel with a slot of 20 mm, its walls at x = 20 and 40."""
    s = Sketch()
    s.polygon([(0, 0), (60, 0), (60, 40), (40, 40), (40, 10), (20, 10), (20, 40), (0, 40)])
    m = Maker()
    m.step("extrude", sketch=m.sketch(s), depth="50 mm")
    return m.body()[1]


#: The angle at which the flanks of the cam leave its circles.
LEAN = math.acos(16 / 40)


def cam():
    """A plate 6 mm thick between circles of 24 and 8 mm radius 40 mm apart and their tangents."""
    s = Sketch()

    def at(x, r, side):
        return s.point(x + r * math.cos(LEAN), side * r * math.sin(LEAN))

    a, b, d, e = at(0, 24, 1), at(40, 8, 1), at(40, 8, -1), at(0, 24, -1)
    s.line(a, b)
    s.line(e, d)
    s.arc(s.point(0, 0), a, e)
    s.arc(s.point(40, 0), d, b)
    m = Maker()
    m.step("extrude", sketch=m.sketch(s), depth="6 mm")
    return m.body()[1]


def oblique():
    """A round bar of 20 mm cut off at 30 degrees: its end is bounded by an ellipse."""
    m = Maker()
    m.step("primitive", form="cylinder", diameter="20 mm", height="60 mm")
    rise = 30 * math.tan(math.radians(30))
    s = Sketch()
    s.polygon([(-30, 40 - rise), (30, 40 + rise), (30, 90), (-30, 90)])
    m.step(
        "extrude", sketch=m.sketch(s, plane="XZ"), depth="60 mm", reach="symmetric", result="cut"
    )
    return m.body()[1]


BODIES = {
    "slotted": slotted(),
    "tab": box((18.0, 12.0, 25.0), "tab"),
    "pin": cylinder((0, 0, 0), (0, 0, 1), 4.0, 30.0, ("wall", "top", "foot")),
    "block": box((30.0, 20.0, 10.0), "cube"),
    "cam": cam(),
    "oblique": oblique(),
}


def library():
    found = {}
    for name, body in BODIES.items():
        low, high = box_of(body.shape)
        mass = mass_properties(body)
        solid = Solid("b", name, mass.volume, mass.volume, tuple(mass.centre), "#999999", low, high)
        found[name] = BuiltPart(
            name, (solid,), lambda _, body=body: topology_of(body),
            way=lambda _, edge, body=body: way_of(body, topology_of(body), edge),
        )  # fmt: skip
    return found


LIBRARY = library()


def face(component, document, test):
    t = topology_of(BODIES[document])
    (index,) = [i for i, f in enumerate(t.faces) if test(f)]
    return {
        "component": component,
        "pick": make_pick(t, "b", "face", index).model_dump(mode="json"),
    }


def flat(axis, place):
    return lambda f: (
        f.kind == "plane" and abs(f.direction[axis]) > 0.99 and abs(f.at[axis] - place) < 1e-6
    )


def wall(f):
    return f.kind == "cylinder"


class Scene:
    """Two components, the first anchored, the other anywhere."""

    def __init__(self, one, other, start):
        self.documents = (one, other)
        q = turned(STILL, 2 * np.array(start[3:]))
        self.assembly = new_document("assembly", "Scene")
        self.do("add_component", document=one, name="One")
        placement = {"p": [60 * v for v in start[:3]], "q": q.tolist()}
        self.do("add_component", document=other, name="Other", placement=placement)

    def do(self, command, **fields):
        self.assembly = run(parse({"do": command, **fields}), self.assembly)

    def join(self, kind, a, b, **more):
        ends = {
            k: face(*v) if isinstance(v, tuple) else v for k, v in more.items() if k in ("a2", "b2")
        }
        rest = {k: v for k, v in more.items() if k not in ends}
        self.do("add_joint", kind=kind, a=face(*a), b=face(*b), **ends, **rest)

    def build(self):
        built = build_assembly(self.assembly, LIBRARY)
        assert not built.joint_troubles, built.joint_troubles
        assert built.solution.holds
        return built

    def shape(self, k, pose):
        return located(BODIES[self.documents[k]].shape, pose.rotation, pose.p)

    def normal(self, built, k, test):
        t = topology_of(BODIES[self.documents[k]])
        (f,) = [f for f in t.faces if test(f)]
        pose = built.solution.poses[k]
        return pose.out(np.array(f.at)), pose.rotation @ np.array(f.direction)


TOP = flat(2, 10.0)
UNDER = flat(2, 0.0)


@given(starts, st.floats(0.5, 40))
@settings(max_examples=25, deadline=None)
def test_a_distance_between_faces_is_what_the_kernel_measures(start, distance):
    s = Scene("block", "block", start)
    s.join("distance", ("c1", "block", TOP), ("c2", "block", UNDER), value=f"{distance} mm")
    built = s.build()
    p, n = s.normal(built, 0, TOP)
    q, m = s.normal(built, 1, UNDER)
    assert np.linalg.norm(np.cross(n, m)) < 1e-6
    assert abs((q - p) @ n) == pytest.approx(distance, abs=1e-6)
    # Nothing went through to the other side, nothing turned round.
    before = build_assembly(s.assembly.model_copy(update={"joints": ()}), LIBRARY)
    p0, n0 = s.normal(before, 0, TOP)
    q0, m0 = s.normal(before, 1, UNDER)
    assume(abs((q0 - p0) @ n0) > 1e-3)
    assume(abs(n0 @ m0) > 1e-3)
    assert ((q - p) @ n) * ((q0 - p0) @ n0) > 0
    assert (n @ m) * (n0 @ m0) > 0


@given(starts)
@settings(max_examples=20, deadline=None)
def test_a_pin_laid_on_a_face_touches_it_and_no_more(start):
    s = Scene("block", "pin", start)
    s.join("tangent", ("c2", "pin", wall), ("c1", "block", TOP))
    built = s.build()
    p, n = s.normal(built, 0, TOP)
    pose = built.solution.poses[1]
    axis = pose.rotation @ np.array([0.0, 0, 1])
    assert abs(axis @ n) < 1e-7
    assert (pose.out(np.zeros(3)) - p) @ n == pytest.approx(4.0, abs=1e-6)
    # Slid over the face it rests there: nothing between them.
    middle = p - pose.out(np.array([0.0, 0, 15.0]))
    over = Pose(pose.p + middle - (middle @ n) * n, pose.q)
    gap = distance_between(s.shape(0, built.solution.poses[0]), s.shape(1, over))[0]
    assert gap == pytest.approx(0.0, abs=1e-6)


WALLS = (flat(0, 20.0), flat(0, 40.0))
SIDES = (flat(0, 0.0), flat(0, 18.0))


@given(starts, st.booleans(), st.booleans(), st.booleans())
@settings(max_examples=25, deadline=None)
def test_a_tab_is_centred_between_the_walls_in_whatever_order_they_are_picked(
    start, turn, walls, tab
):
    """One millimetre to either wall."""
    s = Scene("slotted", "tab", start)
    one = [("c1", "slotted", WALLS[i ^ walls]) for i in range(2)]
    other = [("c2", "tab", SIDES[i ^ tab]) for i in range(2)]
    (a, a2), (b, b2) = (other, one) if turn else (one, other)
    s.join("centred", a, b, a2=a2, b2=b2)
    built = s.build()
    faces = [s.normal(built, 0, w)[0] for w in WALLS], [s.normal(built, 1, f)[0] for f in SIDES]
    n = s.normal(built, 0, WALLS[0])[1]
    across = [sorted(float(p @ n) for p in side) for side in faces]
    (low, high), (near, far) = across
    assert near - low == pytest.approx(1.0, abs=1e-6)
    assert high - far == pytest.approx(1.0, abs=1e-6)
    assert built.solution.freedom == 3


@given(starts)
@settings(max_examples=20, deadline=None)
def test_a_shaft_between_walls_stays_within_them(start):
    s = Scene("slotted", "pin", start)
    s.join(
        "within", ("c1", "slotted", WALLS[0]), ("c2", "pin", wall), a2=("c1", "slotted", WALLS[1])
    )
    built = s.build()
    p, n = s.normal(built, 0, WALLS[0])
    pose = built.solution.poses[1]
    gap = abs(float((pose.out(np.zeros(3)) - p) @ n))
    assert abs((pose.rotation @ np.array([0.0, 0, 1])) @ n) < 1e-7
    assert 4.0 - 1e-6 <= gap <= 16.0 + 1e-6
    assert built.solution.freedom == 5


def told(s):
    return [r.text for r in build_assembly(s.assembly, LIBRARY).joint_troubles.values()]


def test_what_does_not_go_is_said():
    start = (0.5, 0.5, 0.5, 0.1, 0.2, 0.3)
    s = Scene("slotted", "block", start)
    s.join(
        "within", ("c1", "slotted", WALLS[0]), ("c2", "block", flat(0, 0.0)),
        a2=("c1", "slotted", WALLS[1]), b2=("c2", "block", flat(0, 30.0)),
    )  # fmt: skip
    assert told(s) == ["what goes between is 30 mm wide, the faces are only 20 mm apart"]
    s = Scene("slotted", "block", start)
    s.join(
        "centred", ("c1", "slotted", WALLS[0]), ("c2", "block", TOP),
        a2=("c1", "slotted", flat(1, 0.0)),
    )  # fmt: skip
    assert told(s) == ["the two faces are not parallel: there is no middle between them"]
    s = Scene("block", "block", start)
    s.join("helical", ("c1", "block", TOP), ("c2", "block", UNDER), factor="0 mm")
    assert told(s) == ["pitch must not be nothing"]
    s = Scene("block", "pin", start)
    s.join("gear", ("c1", "block", TOP), ("c2", "pin", wall))
    assert "does not turn about the picked axis" in told(s)[0]
    with pytest.raises(NotAllowed, match="belong to one component"):
        s.join("centred", ("c1", "block", TOP), ("c2", "pin", wall), a2=("c2", "pin", wall))


def test_two_distances_that_cannot_both_be_are_told_with_what_to_drop():
    s = Scene("block", "block", (0.2, 0.1, 0.9, 0, 0, 0))
    ends = ("c1", "block", TOP), ("c2", "block", UNDER)
    s.join("distance", *ends, value="5 mm", name="Near")
    s.join("distance", *ends, value="9 mm", name="Far")
    built = build_assembly(s.assembly, LIBRARY)
    assert not built.solution.holds
    assert built.solution.poses[1].p == pytest.approx([12, 6, 54])  # nothing moved
    near, far = built.joint_troubles["j3"], built.joint_troubles["j4"]
    assert near.text == "Near cannot hold together with Far: 2 mm off at the best"
    assert far.text == "Far cannot hold together with Near: 2 mm off at the best"
    assert {o.label for o in near.offers} == {"Put Near to sleep", "Put Far to sleep"}
    for offer in near.offers:
        for command in offer.commands:
            s.assembly = run(parse(command), s.assembly)
            assert build_assembly(s.assembly, LIBRARY).solution.holds
            break
        break


def test_geared_pins_turn_with_the_pitch_of_their_names():
    """Values by formula, through the document: a ratio of tooth numbers, a lead by parameter."""
    s = Scene("block", "pin", (0.5, 0, 0.5, 0, 0, 0))
    s.do("add_component", document="pin", name="Third", placement={"p": [0, 60, 30]})
    s.do("add_parameter", name="teeth", formula="33")
    s.join("cylindrical", ("c1", "block", TOP), ("c2", "pin", wall), name="One")
    motions = {"turn": {"value": "0 deg"}, "slide": {"value": "5 mm"}}
    s.do("edit_joint", id=s.assembly.joints[-1].id, fields={"motions": motions})
    s.join("revolute", ("c1", "block", flat(0, 30.0)), ("c3", "pin", flat(2, 0.0)), name="Other")
    s.join("gear", ("c2", "pin", wall), ("c3", "pin", wall), factor="teeth/20")
    built = build_assembly(s.assembly, LIBRARY)
    assert not built.joint_troubles, built.joint_troubles
    assert built.solution.freedom == 2  # the slide, and the turn both share
    one = s.assembly.joints[0]
    m = built.mechanism.with_poses(built.solution.poses)
    other = m.pair(s.assembly.joints[1].id)
    was = m.coordinates(other, built.solution.poses)["turn"]
    moved = solve(m.with_value(one.id, "turn", math.radians(40)))
    assert moved.holds
    turn = moved.coordinates[other.id]["turn"] - was
    assert abs(math.degrees(math.remainder(turn, 2 * math.pi))) == pytest.approx(
        40 * 33 / 20, abs=1e-6
    )


@given(starts, st.integers(1, 4))
@settings(max_examples=20, deadline=None)
def test_copies_hold_together_among_themselves_as_the_first_ones_do(start, count):
    s = Scene("slotted", "tab", start)
    s.join("centred", ("c1", "slotted", WALLS[0]), ("c2", "tab", SIDES[0]),
           a2=("c1", "slotted", WALLS[1]), b2=("c2", "tab", SIDES[1]))  # fmt: skip
    s.do("add_component", document="pin", name="Pin 7", placement={"p": [0, 200, 0]})
    s.join("tangent", ("c4", "pin", wall), ("c1", "slotted", flat(1, 0.0)), name="Touches")
    s.do("copy_components", ids=["c1", "c2", "c1"], by=(100.0, 0.0, 0.0), count=count)
    made = s.assembly.components[3:]
    assert len(made) == 2 * count
    names = [c.name for c in s.assembly.components]
    assert len(set(names)) == len(names)
    assert not any(c.anchored for c in made)
    # Joints among the copied came along, those to others did not.
    assert len(s.assembly.joints) == 2 + count
    built = s.build()
    poses = dict(zip((c.id for c in s.assembly.components), built.solution.poses, strict=True))
    was = poses["c1"].inverse() @ poses["c2"]
    for block, tab in zip(made[::2], made[1::2], strict=True):
        between = poses[block.id].inverse() @ poses[tab.id]
        assert between.p[0] == pytest.approx(was.p[0], abs=1e-6)
        assert {j.a.component for j in s.assembly.joints} >= {block.id}
    assert s.assembly.last_id == int(max(
        (x.id[1:] for x in (*s.assembly.components, *s.assembly.joints)), key=int
    ))  # fmt: skip


def test_copies_of_a_numbered_name_count_on():
    s = Scene("block", "block", (0.5,) * 6)
    s.do("add_component", document="pin", name="Pin 7")
    s.do("copy_components", ids=["c3"], count=2)
    assert [c.name for c in s.assembly.components[2:]] == ["Pin 7", "Pin 8", "Pin 9"]
    with pytest.raises(NotAllowed, match="no component c99"):
        s.do("copy_components", ids=["c99"])


@given(st.floats(-170, 170), st.floats(-170, 170), st.floats(0, 30))
@settings(max_examples=15, deadline=None)
def test_a_position_kept_by_name_is_taken_again(one, other, travel):
    """Held turns and free slides stand as they did; what came since stays."""
    s = Scene("block", "pin", (0.3, 0.2, 0.5, 0, 0, 0))
    s.join("cylindrical", ("c1", "block", TOP), ("c2", "pin", wall), name="Slide")
    (joint,) = s.assembly.joints

    def stand(turn, slide):
        motions = {
            "turn": {"value": f"{turn} deg"},
            "slide": {"value": f"{slide} mm", "least": "-1 m"},
        }
        s.do("edit_joint", id=joint.id, fields={"motions": motions})

    stand(one, travel)
    first = s.build().solution.poses[1]
    s.do("keep_position", name=" Open ")
    s.do("edit_joint", id=joint.id, fields={"motions": {"slide": {"least": "-1 m"}}})
    stand(other, 0.0)
    s.do("add_component", document="pin", name="Later", placement={"p": [0, 99, 0]})
    s.do("take_position", id=s.assembly.positions[0].id)
    again = s.build()
    assert again.solution.poses[1].p == pytest.approx(first.p, abs=1e-6)
    assert abs(float(again.solution.poses[1].q @ first.q)) == pytest.approx(1.0, abs=1e-9)
    assert again.solution.poses[2].p == pytest.approx([0, 99, 0])
    assert s.assembly.joints[0].motions["slide"].least == "-1 m"
    # The same name keeps it anew; it is told as a script and taken away.
    number = s.assembly.last_id
    s.do("keep_position", name="Open")
    assert [p.name for p in s.assembly.positions] == ["Open"]
    assert s.assembly.last_id == number
    told = new_document("assembly", "Scene")
    for command in commands_of(s.assembly):
        told = run(parse(command), told)
    assert told == s.assembly
    s.do("remove_position", id=s.assembly.positions[0].id)
    assert s.assembly.positions == ()


@given(
    starts,
    st.sampled_from(["distance", "coplanar", "coaxial", "parallel", "tangent"]),
    st.sampled_from([None, True, False]),
)
@settings(max_examples=60, deadline=None)
def test_what_is_put_together_stays_when_its_places_are_kept(start, kind, flip):
    """Put together, places kept, put together again: nothing jumps, whatever the flip."""
    other = "pin" if kind in ("coaxial", "tangent") else "slotted"
    s = Scene("block", other, start)
    end = wall if other == "pin" else flat(1, 0.0)
    more = {"value": "7 mm"} if kind == "distance" else {}
    s.join(kind, ("c1", "block", TOP), ("c2", other, end), flip=flip, **more)
    first = s.build().solution.poses[1]
    for _ in range(2):
        s.do("place_components", placements={"c2": {"p": first.p.tolist(), "q": first.q.tolist()}})
        again = s.build().solution.poses[1]
        assert again.p == pytest.approx(first.p, abs=1e-5)
        assert abs(float(again.q @ first.q)) == pytest.approx(1.0, abs=1e-9)
    if flip is not None and kind == "distance":
        p, n = s.normal(s.build(), 0, TOP)
        height = (s.normal(s.build(), 1, flat(1, 0.0))[0] - p) @ n
        assert height == pytest.approx(-7.0 if flip else 7.0, abs=1e-5)


@pytest.mark.parametrize(("kind", "value", "words"), [
    ("distance", "-5 mm", "distance cannot be -5 mm: Other way round"),
    ("angle", "0 deg", "angle cannot be 0 deg: faces or axes in one direction are Parallel"),
    ("angle", "200 deg", "angle cannot be 200 deg"),
])  # fmt: skip
def test_sizes_that_mean_something_else_are_refused(kind, value, words):
    s = Scene("block", "pin", (0.4, 0.1, 0.6, 0.1, 0.2, 0.3))
    s.join(kind, ("c1", "block", TOP), ("c2", "pin", wall), value=value)
    assert words in told(s)[0]


# --- along curves, and mirrored


def edge(component, document, test):
    t = topology_of(BODIES[document])
    index = min(i for i, e in enumerate(t.edges) if test(e))
    pick = make_pick(t, "b", "edge", index)
    return {"component": component, "pick": pick.model_dump(mode="json")}


def corner(component, document, at):
    t = topology_of(BODIES[document])
    (index,) = [i for i, v in enumerate(t.vertices) if math.dist(v.at, at) < 1e-6]
    pick = make_pick(t, "b", "vertex", index)
    return {"component": component, "pick": pick.model_dump(mode="json")}


@given(starts, st.booleans())
@settings(max_examples=20, deadline=None)
def test_a_corner_runs_along_an_ellipse(start, swapped):
    """In plain geometry: on the bar and on the plane it is cut off by."""
    s = Scene("oblique", "block", start)
    ends = [edge("c1", "oblique", lambda e: e.kind == "curve"), corner("c2", "block", (30, 20, 10))]
    a, b = reversed(ends) if swapped else ends
    s.do("add_joint", kind="on_curve", a=a, b=b)
    built = s.build()
    x, y, z = built.solution.poses[1].out(np.array([30.0, 20, 10]))
    assert math.hypot(x, y) == pytest.approx(10, abs=1e-6)
    assert z - 40 == pytest.approx(x * math.tan(math.radians(30)), abs=1e-6)
    assert built.solution.freedom == 4


def test_a_follower_goes_round_its_cam_and_reads_how_far_it_is():
    """From the flank over both circles and back: the distance from their axes says where it is."""
    s = Scene("cam", "block", (0.7, 0.3, 0.2, 0, 0, 0))
    flank = edge(
        "c1", "cam", lambda e: e.kind == "line" and abs(e.at[2] - 6) < 1e-9 and e.at[1] > 0
    )
    s.do("add_joint", kind="on_curve", a=flank, b=corner("c2", "block", (0, 0, 0)), name="Follows")
    s.join("coplanar", ("c1", "cam", flat(2, 6.0)), ("c2", "block", UNDER))
    s.join("parallel", ("c1", "cam", flat(2, 6.0)), ("c2", "block", UNDER))
    built = s.build()
    (pair,) = [p for p in built.mechanism.pairs if p.way is not None]
    whole = 2 * math.sqrt(40**2 - 16**2) + 24 * (2 * math.pi - 2 * LEAN) + 8 * 2 * LEAN
    assert pair.way.closed
    assert pair.way.length == pytest.approx(whole, abs=1e-9)
    m = built.mechanism.with_poses(built.solution.poses)
    seen = []
    for k in range(24):
        held = m.with_value(pair.id, "travel", whole * k / 24)
        found = solve(held, diagnose=False)
        assert found.holds
        m = m.with_poses(found.poses)
        x, y, z = found.poses[1].p
        assert z == pytest.approx(6, abs=1e-7)
        along = x * math.cos(LEAN) + abs(y) * math.sin(LEAN)
        off = (
            math.hypot(x, y) - 24 if x < 24 * math.cos(LEAN)
            else math.hypot(x - 40, y) - 8 if x > 40 + 8 * math.cos(LEAN)
            else along - 24
        )  # fmt: skip
        assert off == pytest.approx(0, abs=1e-6)
        seen.append((x, y))
    # Half of it at once leads to the same place, by the short way round.
    far, _ = driven_within(m, pair.id, "travel", whole * 11 / 24)
    assert far.holds
    assert far.poses[1].p[:2] == pytest.approx(seen[11], abs=1e-6)
    chords = [math.dist(a, b) for a, b in zip(seen, seen[1:] + seen[:1], strict=True)]
    assert max(chords) < whole / 24 + 1e-6
    assert min(chords) > 0.9 * whole / 24


@given(starts)
@settings(max_examples=15, deadline=None)
def test_what_runs_along_an_edge_stays_between_its_ends(start):
    s = Scene("block", "pin", start)
    top = edge("c1", "block", lambda e: e.kind == "line" and e.at[1] == 0 and e.at[2] == 10)
    s.do("add_component", document="block", name="Third", placement={"p": [0, 90, 0]})
    s.do("add_joint", kind="on_curve", a=top, b=corner("c3", "block", (0, 0, 0)))
    s.do("edit_component", id="c3", placement={"p": [200 * start[0], 30.0, 9.0]})
    built = s.build()
    x, y, z = built.solution.poses[2].p
    assert -1e-6 <= x <= 30 + 1e-6
    assert (y, z) == pytest.approx((0, 10), abs=1e-6)


def test_nothing_is_held_or_let_go_beyond_what_its_ends_allow():
    """An edge of 30 mm, a slot with 1 mm of play to either side: what is typed never widens that."""
    s = Scene("block", "block", (0.2, 0.4, 0.1, 0, 0, 0))
    top = edge("c1", "block", lambda e: e.kind == "line" and e.at[1] == 0 and e.at[2] == 10)
    s.do("add_joint", kind="on_curve", a=top, b=corner("c2", "block", (0, 0, 0)))
    (joint,) = s.assembly.joints
    s.do("edit_joint", id=joint.id, fields={"motions": {"travel": {"value": "500 mm"}}})
    assert told(s) == ["500 mm is more than its ends allow: 0 mm to 30 mm"]
    s.do(
        "edit_joint",
        id=joint.id,
        fields={"motions": {"travel": {"least": "-9 mm", "most": "12 mm"}}},
    )
    assert s.build().mechanism.pairs[0].limits == {"travel": (0.0, pytest.approx(12.0))}
    t = Scene("slotted", "tab", (0.5, 0.5, 0.5, 0, 0, 0))
    t.join("within", ("c1", "slotted", WALLS[0]), ("c2", "tab", SIDES[0]),
           a2=("c1", "slotted", WALLS[1]), b2=("c2", "tab", SIDES[1]),
           motions={"play": {"least": "-5 mm", "most": "5 mm"}})  # fmt: skip
    assert t.build().mechanism.pairs[0].limits["play"] == pytest.approx((-1.0, 1.0))


@pytest.mark.parametrize(("kind", "has"), [("parallel", False), ("angle", False), ("coplanar", True),
                                           ("distance", True), ("fixed", True)])  # fmt: skip
def test_an_offset_moves_something_or_is_refused(kind, has):
    def apart(offset):
        s = Scene("block", "block", (0.2, 0.1, 0.9, 0, 0, 0))
        more = {"value": "5 mm"} if kind == "distance" else {}
        s.join(kind, ("c1", "block", TOP), ("c2", "block", UNDER), offset=offset, **more)
        return told(s) or [float(build_assembly(s.assembly, LIBRARY).solution.poses[1].p[2])]

    plain, shifted = apart("0 mm"), apart("3 mm")
    if has:
        assert abs(shifted[0] - plain[0]) == pytest.approx(3.0)
    else:
        assert "has no offset" in shifted[0]


@given(starts, starts, st.booleans())
@settings(max_examples=20, deadline=None)
def test_symmetric_faces_are_each_others_image_in_the_middle_of_the_slot(one, other, turned_round):
    s = Scene("slotted", "block", one)
    q = turned(STILL, 2 * np.array(other[3:]))
    s.do("add_component", document="block", name="Third",
         placement={"p": [60 * v for v in other[:3]], "q": q.tolist()})  # fmt: skip
    ends = {"a": face("c2", "block", TOP), "b": face("c3", "block", TOP)}
    if turned_round:
        ends = {"a": ends["b"], "b": ends["a"]}
    mirrors = [face("c1", "slotted", w) for w in WALLS]
    before = build_assembly(s.assembly, LIBRARY).solution.poses
    s.do("add_joint", kind="symmetric", **ends, mirror=mirrors[0], mirror2=mirrors[1])
    built = s.build()
    flip = np.diag([-1.0, 1, 1])
    p, n = s.normal(built, 1, TOP)
    pose = built.solution.poses[2]
    at, way = pose.out(np.array([15.0, 10, 10])), pose.rotation @ np.array([0.0, 0, 1])
    # Seen in the plane x = 30 one face lies in the other.
    image = np.array([30.0, 0, 0]) + flip @ (p - np.array([30.0, 0, 0]))
    assert np.linalg.norm(np.cross(flip @ n, way)) < 1e-6
    # Joints hold to 1e-7 of the size of what they hold.
    assert (image - at) @ way == pytest.approx(0, abs=2e-5)
    # Nothing turned round to get there.
    was = (
        flip
        @ before[1].rotation
        @ np.array([0.0, 0, 1])
        @ before[2].rotation
        @ np.array([0, 0, 1.0])
    )
    assume(abs(was) > 1e-2)
    assert float((flip @ n) @ way) * float(was) > 0
    assert built.solution.freedom == 9


def test_a_symmetry_without_a_plane_or_of_unlike_things_is_refused():
    s = Scene("slotted", "block", (0.5,) * 6)
    s.do("add_component", document="pin", name="Third")
    ends = {"a": face("c2", "block", TOP), "b": face("c3", "pin", flat(2, 0.0))}
    with pytest.raises(NotAllowed, match="the plane in the middle"):
        s.do("add_joint", kind="symmetric", **ends)
    s.do("add_joint", kind="symmetric", a=ends["a"], b=face("c3", "pin", wall),
         mirror=face("c1", "slotted", WALLS[0]))  # fmt: skip
    assert "only like things are symmetric" in told(s)[0]
    (joint,) = s.assembly.joints
    s.do("edit_joint", id=joint.id, fields={**ends, "offset": "2 mm"})
    assert told(s) == ["symmetric has no offset: nothing of it can be shifted"]
    # What it mirrors in cannot be taken away unasked.
    with pytest.raises(NotAllowed, match="is held by Symmetric"):
        s.do("remove_component", id="c1")


@given(starts, starts, st.sampled_from(["distance", "symmetric", "coplanar"]))
@settings(max_examples=25, deadline=None)
def test_nothing_turns_that_need_not_and_the_older_of_two_free_ones_stays(one, other, kind):
    """Parallel blocks anywhere: all three kinds are met by shifting alone."""
    s = Scene("slotted", "block", (*one[:3], 0, 0, 0))
    if kind != "symmetric":
        s.do("edit_component", id="c1", anchored=False)
    s.do(
        "add_component",
        document="block",
        name="Third",
        placement={"p": [90 * v for v in other[:3]]},
    )
    a, b = face("c2", "block", flat(0, 30.0)), face("c3", "block", flat(0, 0.0))
    more = {
        "distance": {"value": "7 mm"},
        "coplanar": {},
        "symmetric": {"mirror": face("c1", "slotted", WALLS[0])},
    }[kind]
    before = build_assembly(s.assembly, LIBRARY).solution.poses
    s.do("add_joint", kind=kind, a=a, b=b, **more)
    poses = s.build().solution.poses
    for was, now in zip(before, poses, strict=True):
        assert np.abs(now.q - was.q).max() < 1e-9
        assert now.p[1:] == pytest.approx(was.p[1:], abs=1e-7)
    if kind != "symmetric":
        assert poses[1].p == pytest.approx(before[1].p, abs=1e-9)

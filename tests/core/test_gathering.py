"""Groups, assemblies that go by their own joints, and copies, against places worked out by hand."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vireo.core.assembly import drag, solve
from vireo.core.assembly.build import BuiltPart, Solid, build_assembly
from vireo.core.assembly.exploding import taken_apart
from vireo.core.assembly.pose import Pose, rotation_of, turned
from vireo.core.documents import load_document, new_document
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.documents.content import content_of
from vireo.core.naming import make_pick
from vireo.core.naming.topology import EdgeInfo, FaceInfo, Topology
from vireo.core.telling import commands_of
from vireo.core.trouble import BadInput, NotAllowed

BODY = "b_s1"
HOLES = ((10.0, 10.0), (30.0, 10.0), (10.0, 40.0), (30.0, 40.0))


def plate_topology():
    """A plate of 40 x 50 x 5 mm with four bores of 3 mm radius and one of 5."""

    def ring(x, y, r, k, z, up):
        return EdgeInfo("circle", (0 if up else 1, 2 + k), (), (x + r, y, z), 2 * math.pi * r,
                        (0.0, 0.0, 1.0), (x, y, z), r, True)  # fmt: skip

    bores = [*((x, y, 3.0) for x, y in HOLES), (20.0, 25.0, 5.0)]
    faces = [
        FaceInfo("s1/top", "plane", 2000.0, (20.0, 25.0, 5.0), (20.0, 25.0, 5.0), (0.0, 0.0, 1.0)),
        FaceInfo("s1/base", "plane", 2000.0, (20.0, 25.0, 0.0), (20.0, 25.0, 0.0), (0.0, 0.0, -1.0)),
        *(
            FaceInfo(f"s2/{k}/side", "cylinder", 10 * math.pi * r, (x + r, y, 2.5), (x, y, 0.0),
                     (0.0, 0.0, 1.0), r, True)
            for k, (x, y, r) in enumerate(bores)
        ),
        FaceInfo("s1/right", "plane", 250.0, (40.0, 25.0, 2.5), (40.0, 25.0, 2.5), (1.0, 0.0, 0.0)),
    ]  # fmt: skip
    edges = [ring(x, y, r, k, z, z > 0) for z in (5.0, 0.0) for k, (x, y, r) in enumerate(bores)]
    return Topology(tuple(faces), tuple(edges), (), 64.0)


PLATE = plate_topology()
SCREW = Topology(
    (FaceInfo("s1/seat", "plane", 50.0, (0.0, 0.0, 0.0), (0.0, 0.0, 0.0), (0.0, 0.0, -1.0)),), (), (), 10.0
)  # fmt: skip


def part(name, topology, low, high, centre=None):
    centre = centre or tuple((a + b) / 2 for a, b in zip(low, high, strict=True))
    solid = Solid(BODY, f"key {name}", 100.0, 1.0, centre, "#888888", low, high, name)
    return BuiltPart(name, (solid,), lambda body: topology)


LIBRARY = {
    "plate": part("Plate", PLATE, (0.0, 0.0, 0.0), (40.0, 50.0, 5.0)),
    "screw": part("Screw", SCREW, (-4.0, -4.0, -12.0), (4.0, 4.0, 5.0)),
    "odd": part("Odd", SCREW, (-4.0, -4.0, -12.0), (8.0, 4.0, 5.0), (1.0, 0.5, -3.0)),
}


def do(document, command, /, **fields):
    return run(parse({"do": command, **fields}), document)


def pick(topology, kind, index):
    return make_pick(topology, BODY, kind, index).model_dump(mode="json")


def machine(*parts):
    made = new_document("assembly", "Machine")
    for name, document, p, q in parts:
        made = do(made, "add_component", document=document, name=name, anchored=False,
                  placement={"p": list(p), "q": list(q)})  # fmt: skip
    return made


STILL = (1.0, 0.0, 0.0, 0.0)
numbers = st.floats(-1, 1)
poses = st.tuples(st.tuples(*[st.floats(-50, 50)] * 3), st.tuples(numbers, numbers, numbers)).map(
    lambda x: (x[0], tuple(turned(np.array(STILL), 3 * np.array(x[1])).tolist()))
)


def matrix(placed):
    p, q = placed
    m = np.eye(4)
    m[:3, :3], m[:3, 3] = rotation_of(np.array(q)), p
    return m


@given(st.lists(poses, min_size=4, max_size=4), st.sampled_from([(0, 1), (0, 1, 2), (1, 3)]))
@settings(max_examples=25, deadline=None)
def test_a_group_moves_as_one_wherever_it_is_pulled(placed, members):
    made = machine(*((f"P{i}", "plate", *x) for i, x in enumerate(placed)))
    ids = [c.id for c in made.components]
    made = do(made, "group_components", components=[ids[i] for i in members])
    built = build_assembly(made, LIBRARY)
    assert built.solution.holds
    target = np.array([100.0, 30.0, -20.0])
    mechanism = built.mechanism
    # Pulled on and on, as a pointer pulls: far off, one pull comes near it only.
    for _ in range(4):
        found = drag(mechanism, members[0], np.array([7.0, 8.0, 2.0]), target)
        mechanism = mechanism.with_poses(found.poses)
    now = [p.matrix() for p in found.poses]
    first = np.linalg.inv(matrix(placed[members[0]]))
    for i in members:
        kept = np.linalg.inv(now[members[0]]) @ now[i]
        assert kept == pytest.approx(first @ matrix(placed[i]), abs=1e-6)
    for i in set(range(4)) - set(members):
        assert now[i] == pytest.approx(matrix(placed[i]), abs=1e-9)
    assert now[members[0]] @ [7.0, 8.0, 2.0, 1.0] == pytest.approx([*target, 1.0], abs=0.05)
    # A group of six freedoms is one thing to move, not several.
    assert built.solution.freedom == 6 * (4 - len(members) + 1)


def test_what_is_grouped_with_something_anchored_stands_and_fights_are_told():
    made = machine(("A", "plate", (0, 0, 0), STILL), ("B", "plate", (0, 0, 30), STILL))
    made = do(made, "edit_component", id="c1", anchored=True)
    made = do(made, "group_components", components=["c1", "c2"])
    assert build_assembly(made, LIBRARY).solution.loose == {"c2": 0}
    up = {"component": "c1", "pick": pick(PLATE, "face", 0)}
    down = {"component": "c2", "pick": pick(PLATE, "face", 1)}
    made = do(made, "add_joint", kind="coplanar", a=up, b=down)
    built = build_assembly(made, LIBRARY)
    assert not built.solution.holds
    (trouble,) = built.joint_troubles.values()
    assert "25 mm off" in trouble.text
    assert built.solution.poses[1].p == pytest.approx([0, 0, 30])


def hinged(angle=0.0):
    """Two plates joined by a revolute at their first bores, driven to an angle in its own
    document; the upper is free to turn."""
    made = machine(("Base", "plate", (0, 0, 0), STILL), ("Flap", "plate", (0, 0, 5), STILL))
    made = do(made, "edit_component", id="c1", anchored=True)
    a = {"component": "c1", "pick": pick(PLATE, "edge", 0)}
    b = {"component": "c2", "pick": pick(PLATE, "edge", 5)}
    return do(made, "add_joint", kind="revolute", a=a, b=b, value=f"{angle} deg")


@given(poses, st.floats(-170, 170), st.floats(-170, 170))
@settings(max_examples=20, deadline=None)
def test_an_assembly_that_goes_by_its_own_joints(placed, inner, outer):
    library = {**LIBRARY, "hinge": hinged(inner)}
    made = machine(("Left", "hinge", *placed), ("Right", "hinge", (200, 0, 0), STILL))
    made = do(made, "edit_component", id="c1", anchored=True)
    stiff = build_assembly(made, library)
    moving = do(made, "edit_component", id="c1", moving=True)
    built = build_assembly(moving, library)
    # At first it stands as in its own document, and the hinge is free to turn.
    for a, b in zip(stiff.leaves, built.leaves, strict=True):
        assert a.id == b.id
        assert b.pose.matrix() == pytest.approx(a.pose.matrix(), abs=1e-6)
    assert built.solution.loose["c1/c2"] == 1
    assert built.solution.freedom == 1 + 6
    # Driven from outside, the flap turns about its bore; the other one stays shut.
    held = built.mechanism.with_value("c1/j3", "turn", math.radians(outer))
    found = solve(held, diagnose=False)
    kept = {id: {"p": p.p.tolist(), "q": p.q.tolist()}
            for id, p in built.mechanism.placements(found.poses).items()}  # fmt: skip
    again = build_assembly(do(moving, "place_components", placements=kept), library)
    flap = next(leaf for leaf in again.leaves if leaf.path == ("c1", "c2"))
    about = np.array([*HOLES[0], 5.0])
    turn = rotation_of(turned(np.array(STILL), np.array([0, 0, math.radians(outer)])))
    local = np.eye(4)
    local[:3, :3] = turn
    local[:3, 3] = about - turn @ [*HOLES[0], 0.0]
    assert flap.pose.matrix() == pytest.approx(matrix(placed) @ local, abs=1e-6)
    # Carried off as a whole it stays open as it was.
    away = do(again_of(moving, kept), "edit_component", id="c1",
              placement={"p": [1.0, 2.0, 3.0], "q": list(STILL)})  # fmt: skip
    off = build_assembly(away, library)
    flap = next(leaf for leaf in off.leaves if leaf.path == ("c1", "c2"))
    there = np.eye(4)
    there[:3, 3] = [1.0, 2.0, 3.0]
    assert flap.pose.matrix() == pytest.approx(there @ local, abs=1e-6)


def again_of(document, kept):
    return do(document, "place_components", placements=kept)


def test_an_outer_joint_holds_what_is_inside_a_moving_assembly():
    library = {**LIBRARY, "hinge": hinged()}
    made = machine(("Hinge", "hinge", (0, 0, 0), STILL), ("Screw", "screw", (90, 0, 0), STILL))
    made = do(made, "edit_component", id="c1", anchored=True, moving=True)
    at_flap = {"component": "c1", "path": ["c2"], "pick": pick(PLATE, "edge", 3)}
    at_screw = {"component": "c2", "pick": pick(SCREW, "face", 0)}
    made = do(made, "add_joint", kind="fixed", a=at_flap, b=at_screw)
    built = build_assembly(made, library)
    assert not built.joint_troubles
    screw = next(leaf for leaf in built.leaves if leaf.path == ("c2",))
    assert screw.pose.p == pytest.approx([30, 40, 10], abs=1e-6)
    turned_ = solve(built.mechanism.with_value("c1/j3", "turn", math.pi / 2), diagnose=False)
    at = [m.id for m in built.mechanism.members].index("c2")
    # The far bore goes round the first one by a right angle.
    assert turned_.poses[at].p == pytest.approx([10 - 30, 10 + 20, 10], abs=1e-6)


def placed_copies(built):
    return {leaf.path[0]: leaf.pose.matrix() for leaf in built.leaves if leaf.carried}


@given(poses, st.integers(1, 7), st.floats(-30, 30).filter(lambda x: abs(x) > 0.1),
       st.sampled_from("XYZ"), st.booleans())  # fmt: skip
@settings(max_examples=30, deadline=None)
def test_a_row_along_an_axis(placed, count, spacing, axis, reverse):
    made = machine(("Screw", "screw", *placed))
    made = do(made, "add_copies", kind="row", components=["c1"], axis=axis, count=str(count),
              spacing=f"{spacing} mm", reverse=reverse)  # fmt: skip
    found = placed_copies(build_assembly(made, LIBRARY))
    assert len(found) == count - 1
    way = np.eye(3)["XYZ".index(axis)] * (-1 if reverse else 1)
    for k in range(2, count + 1):
        want = matrix(placed)
        want[:3, 3] += (k - 1) * spacing * way
        assert found[f"c1_r2_{k}"] == pytest.approx(want, abs=1e-9)


@given(poses, poses, st.integers(2, 9), st.sampled_from([360.0, 360.0, 90.0, -200.0]),
       st.sets(st.integers(2, 9), max_size=3))  # fmt: skip
@settings(max_examples=30, deadline=None)
def test_round_a_bore_and_on_with_what_carries_it(plate, screw, count, angle, left):
    made = machine(("Plate", "plate", *plate), ("Screw", "screw", *screw))
    made = do(made, "add_copies", kind="round", components=["c2"], count=str(count),
              of={"component": "c1", "pick": pick(PLATE, "face", 6)}, spacing=f"{angle} deg",
              left_out=sorted(left))  # fmt: skip
    built = build_assembly(made, LIBRARY)
    found = placed_copies(built)
    there = [k for k in range(2, count + 1) if k not in left]
    assert built.spread.numbers == {"r3": there}
    step = math.radians(angle) / (count if abs(angle) == 360 else count - 1)
    base = matrix(plate)
    for k in there:
        turn = np.eye(4)
        c, s = math.cos((k - 1) * step), math.sin((k - 1) * step)
        turn[:2, :2] = [[c, -s], [s, c]]
        local = np.linalg.inv(base) @ matrix(screw)
        local[:3, 3] -= [20.0, 25.0, 0.0]
        local = turn @ local
        local[:3, 3] += [20.0, 25.0, 0.0]
        assert found[f"c2_r3_{k}"] == pytest.approx(base @ local, abs=1e-6)
    # What is worked out while things move is what is built when they have moved.
    poses = [
        Pose.of(matrix(((5.0, -3.0, 2.0), screw[1]))),
        Pose.of(matrix(((1.0, 2.0, 3.0), plate[1]))),
    ]
    moved = do(made, "place_components",
               placements={m.id: p.to_json() for m, p in zip(built.mechanism.members, poses, strict=True)})  # fmt: skip
    after = build_assembly(moved, LIBRARY)
    for leaf, want in zip(built.leaves, after.leaves, strict=True):
        assert built.stand(leaf, poses).matrix() == pytest.approx(want.pose.matrix(), abs=1e-6)


@given(poses, poses)
@settings(max_examples=30, deadline=None)
def test_on_the_other_side_the_box_is_mirrored_and_the_part_stays_itself(plate, placed):
    made = machine(("Plate", "plate", *plate), ("Odd", "odd", *placed))
    made = do(made, "add_copies", kind="mirrored", components=["c2"],
              of={"component": "c1", "pick": pick(PLATE, "face", 7)})  # fmt: skip
    built = build_assembly(made, LIBRARY)
    (copy,) = (leaf for leaf in built.leaves if leaf.carried)
    own = next(leaf for leaf in built.leaves if leaf.path == ("c2",))
    assert np.linalg.det(copy.pose.rotation) == pytest.approx(1.0)
    n = matrix(plate)[:3, 0]
    at = (matrix(plate) @ [40.0, 0.0, 0.0, 1.0])[:3]
    corners = np.array([[x, y, z] for x in (-4, 8) for y in (-4, 4) for z in (-12, 5)], float)
    seen = corners @ own.pose.rotation.T + own.pose.p
    image = seen - 2 * np.outer((seen - at) @ n, n)
    mine = corners @ copy.pose.rotation.T + copy.pose.p
    for x in image:
        assert min(np.linalg.norm(mine - x, axis=1)) < 1e-6
    assert "not symmetric" in built.spread.notes["r3"]
    moved = [Pose.of(matrix(placed)), Pose.of(matrix(plate))]
    after = build_assembly(
        do(made, "place_components", placements={"c1": moved[0].to_json(), "c2": moved[1].to_json()}), LIBRARY
    )  # fmt: skip
    want = next(leaf for leaf in after.leaves if leaf.carried)
    # Which of its own planes is taken hangs on how it stands: the same one is asked for here.
    if np.allclose(built.stand(copy, moved).matrix()[:3, :3], want.pose.rotation, atol=1e-6):
        assert built.stand(copy, moved).p == pytest.approx(want.pose.p, abs=1e-5)


def test_copies_at_all_alike_follow_the_holes_of_their_size():
    made = machine(("Plate", "plate", (0, 0, 0), STILL), ("Screw", "screw", (10, 10, 5), STILL))
    made = do(made, "add_copies", kind="following", components=["c2"],
              of={"component": "c1", "pick": pick(PLATE, "edge", 0)})  # fmt: skip
    built = build_assembly(made, LIBRARY)
    assert [m[:3, 3].tolist() for m in placed_copies(built).values()] == [
        [x, y, 5.0] for x, y in HOLES[1:]
    ]
    wider = do(
        made,
        "add_copies",
        kind="row",
        components=["c2", "r3"],
        axis="Z",
        count="2",
        spacing="30 mm",
    )
    again = build_assembly(wider, LIBRARY)
    assert len(again.leaves) == 1 + 4 * 2
    assert {leaf.path[0] for leaf in again.leaves} >= {"c2_r4_2", "c2_r3_4_r4_2"}
    alone = do(made, "edit_copies", id="r3", of={"component": "c1", "pick": pick(PLATE, "edge", 4)})
    trouble = build_assembly(alone, LIBRARY).spread.troubles["r3"]
    assert "no other hole" in trouble.text
    assert trouble.where == ["copies:r3"]


def test_copies_that_lost_what_they_go_by_offer_the_likeliest():
    made = machine(("Plate", "plate", (0, 0, 0), STILL), ("Screw", "screw", (10, 10, 5), STILL))
    lost = pick(PLATE, "edge", 0)
    lost = {**lost, "name": ["s7/gone", "s7/side"], "body": "b_s7"}
    made = do(made, "add_copies", kind="following", components=["c2"],
              of={"component": "c1", "pick": lost})  # fmt: skip
    built = build_assembly(made, LIBRARY)
    trouble = built.spread.troubles["r3"]
    assert "it holds a body that is no longer there" in trouble.text
    mended = do(made, "edit_copies", id="r3", **trouble.offers[0].fields)
    again = build_assembly(mended, LIBRARY)
    assert again.spread.troubles == {}
    assert again.spread.numbers == {"r3": [2, 3, 4]}


def test_copies_inside_assemblies_go_along():
    inner = machine(("Screw", "screw", (0, 0, 0), STILL))
    inner = do(inner, "add_copies", kind="row", components=["c1"], count="3", spacing="10 mm")
    made = machine(("Row", "inner", (0, 100, 0), STILL), ("Row 2", "inner", (0, 0, 50), STILL))
    made = do(
        made, "add_copies", kind="row", components=["c1"], axis="Y", count="2", spacing="-7 mm"
    )
    for moving in (False, True):
        now = do(made, "edit_component", id="c1", moving=moving)
        built = build_assembly(now, {**LIBRARY, "inner": inner})
        found = {leaf.id: leaf.pose.p.tolist() for leaf in built.leaves}
        assert len(found) == len(built.leaves) == 9
        assert found["c1/c1_r2_3/b_s1"] == [20.0, 100.0, 0.0]
        assert found["c1_r3_2/c1_r2_3/b_s1"] == [20.0, 93.0, 0.0]
        assert found["c2/c1/b_s1"] == [0.0, 0.0, 50.0]


def test_bad_copies_and_groups_are_refused_and_removals_take_along_what_hangs_on_them(monkeypatch):
    made = machine(("A", "plate", (0, 0, 0), STILL), ("B", "screw", (0, 0, 0), STILL),
                   ("C", "screw", (9, 0, 0), STILL))  # fmt: skip
    with pytest.raises(NotAllowed, match="two components or more"):
        do(made, "group_components", components=["c1", "c1"])
    with pytest.raises(BadInput, match="did you mean round"):
        do(made, "add_copies", kind="roud", components=["c2"])
    own = {"component": "c2", "pick": pick(SCREW, "face", 0)}
    with pytest.raises(NotAllowed, match="not copied along"):
        do(made, "add_copies", kind="row", components=["c2"], of=own)
    with pytest.raises(NotAllowed, match="pick the hole"):
        do(made, "add_copies", kind="following", components=["c2"])
    for fields, text in (
        ({"count": "2.5"}, "whole"), ({"count": "0"}, "whole"), ({"count": "3 mm"}, "length"),
        ({"spacing": "0 mm"}, "lie on one another"), ({"spacing": "3 kg"}, "spacing is length"),
        ({"count": "missing + 1"}, "missing"),
    ):  # fmt: skip
        bad = do(made, "add_copies", kind="row", components=["c2"], **fields)
        built = build_assembly(bad, LIBRARY)
        assert text in built.spread.troubles["r4"].text
        assert len(built.leaves) == 3
    many = do(made, "add_copies", kind="row", components=["c2"], count="4900")
    monkeypatch.setattr("vireo.core.assembly.copies.MOST_BODIES", 5000)
    for count, text in ((4900, "more than 5000 copies"), (99, "of 5000 at most")):
        bad = do(many, "add_copies", kind="row", components=["c1", "c3"], count=str(count))
        built = build_assembly(bad, LIBRARY)
        assert text in built.spread.troubles["r5"].text
        assert len(built.leaves) == 3 + 4899
    on = {"component": "c1", "pick": pick(PLATE, "edge", 0)}
    made = do(made, "add_copies", kind="following", components=["c2"], of=on)
    made = do(made, "add_copies", kind="row", components=["r4", "c3"], count="2")
    made = do(made, "group_components", components=["c1", "c2"])
    with pytest.raises(NotAllowed, match="held by B at all alike"):
        do(made, "remove_component", id="c1")
    gone = do(made, "remove_component", id="c1", with_joints=True)
    assert [c.id for c in gone.copies] == ["r5"]
    assert gone.copies[0].components == ("c3",)
    assert gone.bunches == ()
    assert do(made, "remove_copies", id="r4").copies[0].components == ("c3",)


def test_groups_and_copies_are_told_kept_and_counted():
    made = machine(("A", "plate", (0, 0, 0), STILL), ("B", "screw", (0, 0, 0), STILL))
    plain = content_of(made)
    made = do(made, "add_copies", kind="row", components=["c2"], count="4", name="Screws")
    made = do(made, "edit_copies", id="r3", asleep=True)
    assert content_of(made) == plain
    made = do(made, "edit_copies", id="r3", asleep=False)
    made = do(made, "group_components", components=["c1", "c2"], name="Both")
    made = do(made, "edit_component", id="c1", moving=True)
    assert content_of(made) != plain
    again = new_document("assembly", "Machine")
    for command in commands_of(made):
        again = run(parse(command), again)
    assert again.copies == made.copies
    assert again.bunches == made.bunches
    assert again.components == made.components
    assert load_document(made.model_dump(mode="json")) == made


def test_taken_apart_nothing_overlaps_what_it_came_off():
    """A pile: two washers and a screw over one bore, a plate under that; all come off along the bore."""
    made = machine(("Base", "plate", (0, 0, 0), STILL), *(
        (f"S{k}", "screw", (0, 0, 0), STILL) for k in range(3)
    ), ("Under", "plate", (0, 0, -5), STILL))  # fmt: skip
    made = do(made, "edit_component", id="c1", anchored=True)
    top = {"component": "c1", "pick": pick(PLATE, "edge", 0)}
    for k, height in enumerate((9, 0, 3)):
        seat = {"component": f"c{k + 2}", "pick": pick(SCREW, "face", 0)}
        made = do(made, "add_joint", kind="fixed", a=top, b=seat, offset=f"{height} mm")
    low = {"component": "c1", "pick": pick(PLATE, "face", 1)}
    made = do(
        made,
        "add_joint",
        kind="coplanar",
        a=low,
        b={"component": "c5", "pick": pick(PLATE, "face", 0)},
    )
    built = build_assembly(made, LIBRARY)
    assert built.solution.holds
    off = {c: np.array(s.by) for s in taken_apart(built) for c in s.components}
    assert set(off) == {"c2", "c3", "c4", "c5"}
    spans = {}
    for leaf in built.leaves:
        id = leaf.path[0]
        low_, high = leaf.solid.low[2], leaf.solid.high[2]
        shift = leaf.pose.p[2] + (off[id][2] if id in off else 0.0)
        spans[id] = (low_ + shift, high + shift)
    for id, by in off.items():
        assert by[:2] == pytest.approx([0, 0], abs=1e-9), id
    # From below: the lower plate, the base, then what sat nearest to it first.
    order = sorted(spans, key=lambda id: spans[id][0])
    assert order == ["c5", "c1", "c3", "c4", "c2"]
    for below, above in pairwise(order):
        assert spans[below][1] < spans[above][0]
    kept = do(made, "keep_apart", name="All", steps=[{"components": ["c2"], "by": [0, 0, 5]}])
    kept = do(kept, "keep_apart", name="All", steps=[{"components": ["c3"], "by": [0, 0, 6]}])
    assert [x.steps[0].components for x in kept.explosions] == [("c3",)]
    assert content_of(kept) == content_of(made)
    assert do(kept, "remove_apart", id=kept.explosions[0].id).explosions == ()

"""Share copies: what outsiders see, and that nothing else is in the file. Volumes by hand."""

import math
import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vireo.core.assembly.pose import Pose
from vireo.core.assembly.seats import Leaf, Solid
from vireo.core.documents import new_document
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.documents.kinds.assembly import Share, ShareRule
from vireo.core.geometry import Frame
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.exchange import Placed, write_step
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import box_of, topology_of, volume_of
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.outer import outside, shells_in
from vireo.core.kernel.primitive import primitive
from vireo.core.kernel.shape import Body, solids_of
from vireo.core.sharing.copy import shared
from vireo.core.sharing.leaks import leaks
from vireo.core.sharing.rules import Shown, levels
from vireo.core.sharing.seen import Standing, faces_seen

XYZ = ((1.0, 0.0, 0.0), (0.0, 0.0, 1.0))


def block(low, high, mark="s1"):
    size = np.subtract(high, low).tolist()
    return primitive("box", {"width": size[0], "depth": size[1], "height": size[2]},
                     Frame(tuple(map(float, low)), *XYZ), mark)  # fmt: skip


def rod(x, y, low, high, diameter, mark="s2"):
    sizes = {"diameter": diameter, "height": high - low}
    return primitive("cylinder", sizes, Frame((x, y, low), *XYZ), mark)


#: A closed case of 100 x 80 x 60 mm, hollow (80 x 60 x 40), a hole of 2 mm into the hollow.
CASE = combine(
    "cut", block((0, 0, 0), (100, 80, 60)),
    [block((10, 10, 10), (90, 70, 50), "s2"), rod(20, 20, -5, 30, 2.0, "s3")],
)  # fmt: skip
SECRET = block((40, 30, 10), (60, 50, 30), "s9")
KNOB = rod(50, 40, 60, 75, 30.0, "s8")
BODIES = {"case": CASE, "secret": SECRET, "knob": KNOB}


def leaf(id, key, name, pose):
    low, high = box_of(BODIES[key].shape)
    solid = Solid(
        "b_s1", key, volume_of(BODIES[key].shape), 1.0, (0, 0, 0), "#336699", low, high, name
    )
    return Leaf((id,), (name,), solid, pose, id, document=key)


def machine(pose=None):
    pose = pose or Pose.still()
    return [leaf("c1", "case", "Case", pose), leaf("c2", "secret", "Secret rotor", pose),
            leaf("c3", "knob", "Knob", pose)]  # fmt: skip


def made(leaves, small=3.0, **what):
    share = Share(id="k1", name="x", small=small)
    shown = {x.path[0]: Shown(what.get(x.path[0], "skin"), None) for x in leaves}
    return shared(share, shown, leaves, BODIES.__getitem__, lambda key: tessellate(BODIES[key]))


def written(found):
    with tempfile.TemporaryDirectory() as folder:
        write_step("copy", found.placed, str(Path(folder) / "a.step"))
        return (Path(folder) / "a.step").read_bytes()


turns = st.tuples(*[st.floats(-1, 1)] * 4).filter(lambda q: np.linalg.norm(q) > 0.2)
places = st.tuples(*[st.floats(-500, 500)] * 3)


@settings(max_examples=6, deadline=None)
@given(q=turns, p=places)
def test_what_nobody_sees_is_gone_and_the_outside_stays(q, p):
    pose = Pose(np.array(p), np.array(q) / np.linalg.norm(q))
    leaves = machine(pose)
    found = made(leaves)
    assert [r.hidden for r in found.rows.values()] == [False, True, False]
    data = written(found)
    assert leaks(data, found, ["Supplier 42"], BODIES.__getitem__) == []
    solids = sorted(volume_of(s) for s in solids_of(read_shape(data).shape))
    # The void and the hole into it are closed: the case is a block.
    assert solids == pytest.approx([math.pi * 225 * 15, 100 * 80 * 60], rel=1e-6)
    assert shells_in(read_shape(data).shape) == 2


def test_a_file_that_tells_too_much_is_found_out():
    leaves = machine()
    found = made(leaves)
    still = (np.eye(3), np.zeros(3))

    def file(*parts):
        with tempfile.TemporaryDirectory() as folder:
            write_step("copy", list(parts), str(Path(folder) / "a.step"))
            return (Path(folder) / "a.step").read_bytes()

    def whole(key, name):
        return Placed(name, BODIES[key], "", *still, path=(key,), titles=(name,))

    skin = next(p for p in found.placed if p.name == "Case")
    told = leaks(file(whole("case", "Case"), whole("knob", "Knob")), found, [], BODIES.__getitem__)
    # Six walls of the hollow; the hole into it is seen from outside. The rotor's foot lies on one.
    assert told == ["6 inner faces of Case", "1 inner face of Secret rotor"]
    tin = combine("cut", block((0, 0, 0), (9, 9, 9)), [block((2, 2, 2), (5, 5, 5), "s2")])
    told = leaks(file(skin, Placed("Tin", tin, "", *still)), found, [], BODIES.__getitem__)
    assert told == ["1 void inside a solid"]
    told = leaks(file(skin, whole("secret", "Part 7")), found, [], BODIES.__getitem__)
    # It stands on the floor of the hollow: that too is told by it.
    secret = ["1 inner face of Case", "6 inner faces of Secret rotor"]
    assert told == secret
    told = leaks(file(skin, whole("knob", "secret ROTOR")), found, ["rotor"], BODIES.__getitem__)
    assert told == ["the name “Secret rotor”", "the property “rotor”"]
    # Half filled, cut shorter, turned over: what is left of a hidden face is still one.
    half = combine("add", CASE, [block((10, 10, 10), (60, 70, 50), "s7")])
    told = leaks(file(Placed("Case", half, "", *still), whole("knob", "Knob")), found, [],
                 BODIES.__getitem__)  # fmt: skip
    # Five walls, the shorter ones among them; what is left of the hollow is a void now.
    assert {"5 inner faces of Case", "1 void inside a solid"} <= set(told)
    turned = Placed("Part 7", SECRET, "", np.diag([-1.0, -1.0, 1.0]), np.array([100.0, 80.0, 0.0]))
    assert leaks(file(skin, turned), found, [], BODIES.__getitem__) == secret


def test_levels_exact_box_and_out():
    found = made(machine(), c1="out", c2="exact", c3="box")
    volumes = {p.name: volume_of(p.body.shape) for p in found.placed}
    assert volumes == pytest.approx({"Secret rotor": 20.0**3, "Knob": 30 * 30 * 15})
    assert leaks(written(found), found, [], BODIES.__getitem__) == []
    assert "Case" in found.names


def test_a_surface_is_left_out_and_said_to_be():
    skin = leaf("c4", "knob", "Secret skin", Pose.still())
    skin = replace(skin, solid=replace(skin.solid, form="surface"))
    found = made([*machine(), skin])
    assert found.rows["c4"].shown.level == "out"
    assert "Secret skin" in found.names
    assert len(found.placed) == 2


@settings(max_examples=12, deadline=None)
@given(
    x=st.floats(8, 32),
    diameter=st.floats(1.0, 12.0),
    deep=st.floats(2.0, 30.0),
    small=st.floats(0.5, 14),
)
def test_holes_are_closed_by_their_size_and_nothing_is_lost(x, diameter, deep, small):
    """A blind hole: closed when it is no larger than is said, left as it is else."""
    body = combine("cut", block((0, 0, 0), (40, 40, 20)), [rod(x, 20, 20 - deep, 25, diameter)])
    if deep >= 20 or any(
        abs(f.radius or 0) < diameter / 2 - 1e-9
        for f in topology_of(body).faces
        if f.kind == "cylinder"
    ):
        return
    found = outside(body, set(), small)
    whole, hole = 40 * 40 * 20.0, math.pi * diameter**2 / 4 * deep
    closed = diameter <= small
    assert volume_of(found.body.shape) == pytest.approx(whole if closed else whole - hole, rel=1e-9)
    assert found.left == ()


def test_faces_are_seen_through_openings_and_not_through_walls():
    """The walls inside a cup are seen, those of a closed tin are not."""
    cup = combine("cut", block((0, 0, 0), (40, 40, 40)), [block((5, 5, 5), (35, 35, 45), "s2")])
    tin = combine("cut", block((0, 0, 0), (40, 40, 40)), [block((5, 5, 5), (35, 35, 35), "s2")])
    for body, hidden in ((cup, 0), (tin, 6)):
        still = Standing(tessellate(body), np.eye(3), np.zeros(3))
        for seed in range(3):
            (seen,) = faces_seen([still], seed)
            assert len(body.faces) - len(seen) == hidden


def test_the_last_rule_that_speaks_of_a_component_decides():
    doc = new_document("assembly", "M")
    for name, document in (("Front screw", "screw"), ("Case", "case"), ("Rotor", "rotor")):
        doc = run(parse({"do": "add_component", "document": document, "name": name}), doc)
    said = [{"name": "Supplier", "kind": "text", "value": "Own make"}]
    documents = {
        "screw": new_document("part", "ISO 4762 M6 x 20"), "case": new_document("part", "Case"),
        "rotor": new_document("part", "Rotor", properties=said),
    }  # fmt: skip
    rules = (
        ShareRule(by="name", what="iso 4762*", level="box"),
        ShareRule(by="property", what="supplier = own*", level="out"),
        ShareRule(by="pick", components=("c3",), level="exact"),
    )
    found = levels(doc, Share(id="k1", name="x", rules=rules), documents)
    assert {k: (v.level, v.rule) for k, v in found.items()} == {
        "c1": ("box", 0), "c2": ("skin", None), "c3": ("exact", 2),
    }  # fmt: skip


def test_bodies_of_a_component_become_one_where_they_touch():
    BODIES["upper"] = block((0, 0, 60), (100, 80, 70), "s5")
    try:
        pose = Pose.still()
        both = [leaf("c1", "case", "Case", pose), leaf("c1", "upper", "Case", pose)]
        both[1] = replace(both[1], solid=replace(both[1].solid, id="b_s2"))
        found = made(both)
        (one,) = found.placed
        assert len(solids_of(one.body.shape)) == 1
        assert volume_of(one.body.shape) == pytest.approx(100 * 80 * 70)
        assert isinstance(one.body, Body)
    finally:
        del BODIES["upper"]

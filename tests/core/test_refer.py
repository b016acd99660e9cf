"""Axes, points, frames, ports, sets: where they lie, what uses them, what they gather."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.parts import Maker, block, near, upright
from tests.core.test_grow import trouble, volume


def datum(m: Maker, id: str):
    found = m.build()
    assert not [s.error for s in found.steps if s.error], [s.error for s in found.steps if s.error]
    return found.state.products["datum"][id]


def face(m, x=0.0, y=0.0, z=0.0):
    return m.pick("face", lambda f: f.kind == "plane" and near(f.direction, (x, y, z)))


def edge(m, *at):
    return m.pick("edge", lambda e: near(e.at, at))


def corner(m, *at):
    from vireo.core.naming import make_pick

    t = m.topology()
    i = next(i for i, v in enumerate(t.vertices) if near(v.at, at))
    return make_pick(t, "b_s2", "vertex", i).model_dump(mode="json")


def test_axes_in_their_ways():
    m = block()
    a = m.step("axis", form="planes", planes=[*face(m, x=1), *face(m, y=1)])
    d = datum(m, a)
    assert math.hypot(d.frame.origin[0] - 60, d.frame.origin[1] - 40) < 1e-9
    assert abs(d.frame.z[2]) == pytest.approx(1)
    b = m.step("axis", form="points", through=[corner(m, 0, 0, 0), corner(m, 60, 40, 0)])
    assert datum(m, b).frame.z == pytest.approx((0.832050, 0.554700, 0), abs=1e-5)
    c = m.step("axis", form="normal", face=face(m, z=1), at=[corner(m, 60, 0, 10)], flip=True)
    assert datum(m, c).frame.z == pytest.approx((0, 0, -1))
    turned = m.step("copies_circular", what="bodies", axis=f"step:{c}", count="2")
    bodies = m.build().bodies
    assert bodies[f"b_{turned}_2"]["centre"] == pytest.approx([90, -20, 5])
    # An axis that does not build takes what turns about it along, with the reason.
    m.do("edit_step", id=c, fields={"at": []})
    assert "pick a flat face and a place" in trouble(m).text
    texts = [s.error.text for s in m.build().steps if s.error]
    assert "did not build" in texts[1]


def test_points_in_their_ways():
    m = block()
    p = m.step("point", of=[corner(m, 60, 40, 10)], z="w/6")
    assert datum(m, p).frame.origin == pytest.approx((60, 40, 20))
    p = m.step("point", form="between", between=[corner(m, 0, 0, 0), corner(m, 60, 40, 10)],
               share="0.25")  # fmt: skip
    assert datum(m, p).frame.origin == pytest.approx((15, 10, 2.5))
    p = m.step("point", form="along", edge=edge(m, 30, 0, 10), length="20 mm")
    assert datum(m, p).frame.origin[0] in (pytest.approx(20), pytest.approx(40))
    m.do("edit_step", id=p, fields={"length": "61 mm"})
    assert "only 60 mm long" in trouble(m).text
    m.do("remove_step", id=p)
    p = m.step("point", form="pierce", line=edge(m, 0, 0, 5), face=face(m, z=1))
    assert datum(m, p).frame.origin == pytest.approx((0, 0, 10))
    p = m.step("point", form="mass")
    assert datum(m, p).frame.origin == pytest.approx((30, 20, 5))


def test_planes_touching_round_faces_and_across_edges():
    m = Maker()
    m.step("primitive", form="cylinder", diameter="30 mm", height="20 mm")
    m.step("primitive", form="box", width="5 mm", depth="5 mm", height="20 mm", x="12 mm",
           y="-2.5 mm", result="add")  # fmt: skip
    round_ = m.pick("face", lambda f: f.kind == "cylinder")
    rim = m.pick("edge", lambda e: near(e.at, (17, 0, 20)))
    p = m.step("plane", form="tangent", touch=round_, side=rim)
    d = datum(m, p)
    assert d.frame.origin == pytest.approx((15, 0, 20))
    assert d.frame.z == pytest.approx((1, 0, 0))
    circle = m.pick("edge", lambda e: e.kind == "circle" and e.at[2] > 19)
    p = m.step("plane", form="curve", across=circle, length="10 mm")
    z = datum(m, p).frame.z
    o = datum(m, p).frame.origin
    assert abs(z[0] * o[0] + z[1] * o[1]) < 1e-6  # along the rim: square to the radius
    m.do("edit_step", id=p, fields={"length": "500 mm"})
    assert "lies beyond its end" in trouble(m).text


def test_frames_and_ports_are_places_to_sketch_on_and_mirror_about():
    m = block()
    f = m.step("frame", at=edge(m, 60, 20, 10), facing=face(m, x=1), clock=edge(m, 60, 20, 10),
               x="3 mm", turn="90 deg")  # fmt: skip
    d = datum(m, f)
    assert d.frame.z == pytest.approx((1, 0, 0))
    assert abs(d.frame.x[2]) == pytest.approx(1)
    assert math.dist(d.frame.origin, (60, 20, 10)) == pytest.approx(3)
    mirrored = m.step("mirror", what="bodies", plane=f"step:{f}")
    assert m.build().bodies[next(b for b in m.build().bodies if b.startswith(f"b_{mirrored}"))][
        "centre"
    ][0] == pytest.approx(90)
    port = m.step("port", at=face(m, z=1), sort="seat")
    assert datum(m, port).word == "seat"
    assert datum(m, port).frame.z == pytest.approx((0, 0, 1))
    m.do("edit_step", id=port, fields={"clock": face(m, z=1)})
    assert "X cannot point along Z" in trouble(m).text


# --- sets


def chosen(id: str) -> list[dict]:
    return [{"body": "", "kind": "set", "name": [id]}]


def test_a_set_by_rule_follows_the_model():
    m = block()
    s = m.step("set", of="edge", by="parallel", picks=edge(m, 0, 0, 5))
    fillet = m.step("fillet", edges=chosen(s), radius="4 mm")
    corner = (1 - math.pi / 4) * 16
    assert volume(m) == pytest.approx(24000 - 40 * corner)
    # A wall put in before the set brings four more upright edges: the fillet takes them in.
    new = m.step("primitive", form="box", width="20 mm", depth="20 mm", height="30 mm",
                 x="20 mm", y="10 mm", result="add")  # fmt: skip
    m.do("move_step", id=new, to=2)
    assert volume(m) == pytest.approx(24000 + 400 * 20 - (40 + 80) * corner)
    # The other way about is refused: the fillet stands on the set.
    with pytest.raises(Exception, match="needed by"):
        m.do("remove_step", id=s)
    assert next(x for x in m.build().steps if x.id == fillet).status == "ok"


@pytest.mark.parametrize(
    ("fields", "count"),
    [
        ({"by": "of_steps", "steps": ["s2"]}, 10),
        ({"by": "round", "radius": "3 mm"}, 4),
        ({"by": "round"}, 4),
        ({"by": "untouched"}, 10),
        ({"of": "edge", "by": "of_steps", "steps": ["s2"]}, 24),
        ({"of": "edge", "by": "round", "radius": "3 mm"}, 8),
    ],
)
def test_rules_gather_what_they_say(fields, count):
    m = block()
    m.step("fillet", edges=m.pick("edge", upright), radius="3 mm")
    s = m.step("set", **fields)
    note = next(x for x in m.build().steps if x.id == s)
    assert note.error is None, note.error
    wanted = count if fields["by"] != "of_steps" or fields.get("of") == "edge" else 6
    assert note.notes[0].text.startswith(f"{wanted} "), note.notes


@given(n=st.integers(2, 5), gap=st.floats(11.0, 30.0), hit=st.booleans())
@settings(max_examples=10, deadline=None)
def test_a_set_holds_the_bodies_a_step_and_its_copies_made(n, gap, hit):
    """A peg, its copies, a bore into all of them: the set moves the pegs and not the plate."""
    m = Maker()
    m.step("primitive", width="200 mm", depth="60 mm", height="4 mm")
    peg = m.step("primitive", width="10 mm", depth="10 mm", height="10 mm", z="20 mm", result="new")
    bore = m.step("primitive", form="cylinder", diameter="4 mm", height="40 mm", z="0 mm",
                  result="cut") if hit else None  # fmt: skip
    m.step("copies_linear", steps=[peg, *([bore] if bore else [])], count=str(n),
           spacing=f"{gap} mm", way="X")  # fmt: skip
    s = m.step("set", of="body", by="of_steps", steps=[peg])
    before = m.build()
    assert before.steps[-1].notes[0].text == f"{n} bodies now"
    m.step("move_body", bodies=[s], z="7 mm")
    after = m.build()
    assert after.steps[-1].error is None
    for id, body in after.bodies.items():
        rise = body["centre"][2] - before.bodies[id]["centre"][2]
        assert rise == pytest.approx(0.0 if id == "b_s1" else 7.0)
    with pytest.raises(Exception, match="needed by"):
        m.do("remove_step", id=s)
    # The cut alone made no body.
    if bore:
        m.do("edit_step", id=s, fields={"steps": [bore]})
        assert "no body belongs" in next(x for x in m.build().steps if x.id == s).error.text
    m.do("edit_step", id=s, fields={"of": "face", "steps": [peg]})
    assert "gathers faces, but bodies are wanted" in m.build().steps[-1].error.text


def test_chains_and_untouched_faces():
    m = block()
    m.step("fillet", edges=m.pick("edge", upright), radius="3 mm")
    side = face(m, y=-1)
    s = m.step("set", by="chain", picks=side)
    assert m.build().steps[-1].notes[0].text == "8 faces now"
    m.step("offset_faces", faces=chosen(s), by="1 mm")
    assert volume(m) == pytest.approx((62 * 42 - (4 - math.pi) * 16) * 10)
    rim = m.pick("edge", lambda e: e.kind == "line" and near(e.at, (30, -1, 10)))
    s = m.step("set", of="edge", by="chain", picks=rim)
    assert m.build().steps[-1].notes[0].text == "8 edges now"
    u = m.step("set", by="untouched")
    assert m.build().steps[-1].notes[0].text == "10 faces now"
    m.step("fillet", edges=chosen(s), radius="1 mm")
    f = m.step("offset_faces", faces=chosen(u), by="1 mm")
    # Only the underside is as it was when the set was made.
    assert m.build().steps[-1].error is None
    assert min(v.at[2] for v in m.topology().vertices) == pytest.approx(-1)
    m.do("edit_step", id=u, fields={"of": "edge"})
    assert "gathers edges, but faces are wanted" in trouble(m).text
    assert f in {x.id for x in m.build().steps if x.error}
    m.do("edit_step", id=u, fields={"of": "face", "by": "round", "radius": "99 mm"})
    assert "no face belongs" in trouble(m).text


def test_a_centre_of_mass_weighs_bodies_by_what_they_are_made_of():
    m = Maker()
    box = {"width": "10 mm", "depth": "10 mm", "height": "10 mm", "result": "new"}
    m.step("primitive", **box)
    m.step("primitive", **{**box, "x": "100 mm"})
    p = m.step("point", form="mass")
    assert datum(m, p).frame.origin == pytest.approx((55, 5, 5))
    # 3 g and 1 g, 100 mm apart: a quarter of the way from the heavier one.
    for body, mass in (("b_s1", 3.0), ("b_s2", 1.0)):
        m.do("set_body", body=body, mass=mass)
    assert datum(m, p).frame.origin == pytest.approx((30, 5, 5))
    assert m.build().centre == pytest.approx((30, 5, 5))
    m.do("set_body", body="b_s1", mass=None)
    m.do("set_body", body="b_s2", mass=None, material="6061-T6")
    found = m.build()
    assert datum(m, p).frame.origin == pytest.approx(found.centre)
    assert found.centre[0] < 40
    m.do("edit_step", id=p, fields={"bodies": ["b_s2"]})
    assert datum(m, p).frame.origin == pytest.approx((105, 5, 5))

"""Building parts: masses by hand, names through edits, only what depends on a change."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.drawings import plate
from tests.core.parts import Maker, block, near, upright
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.kernel.profile import arrange
from vireo.core.part import fitting
from vireo.core.part.cache import Cache
from vireo.core.part.products.sketch import SKETCHES
from vireo.core.sketch import Drawing, solve_drawing
from vireo.core.sketch.linking import relink
from vireo.core.sketch.tools import Spot, use
from vireo.core.trouble import NotAllowed
from vireo.script.sketch import Sketch as Sketcher

RHO = 7850e-6  # g/mm3


def test_mass_of_plate_holes_fillets_and_chamfers_by_hand():
    m = block(holes=((10.0, 10.0), (50.0, 30.0)))
    m.step(
        "hole", sketch="s1", form="counterbored", bore="5 mm", recess="9 mm", recess_depth="3 mm"
    )
    found = m.build()
    holes = 2 * math.pi * (2.5**2 * 7 + 4.5**2 * 3)
    assert found.volume == pytest.approx(24000 - holes, rel=1e-9)
    m.step("fillet", edges=m.pick("edge", upright), radius="4 mm")
    found = m.build()
    rounds = 4 * (16 - math.pi * 16 / 4) * 10
    assert found.volume == pytest.approx(24000 - holes - rounds, rel=1e-9)
    assert found.steps[-1].change == pytest.approx(-rounds * RHO, rel=1e-6)
    assert found.mass == pytest.approx(found.volume * RHO)


def test_chamfer_and_symmetric_extrude_and_centre_of_gravity():
    m = Maker()
    s = m.sketch(plate("30 mm", "20 mm"))
    m.step("extrude", sketch=s, depth="10 mm", reach="symmetric")
    found = m.build()
    assert found.centre == pytest.approx((15, 10, 0), abs=1e-9)
    one = m.pick("edge", lambda e: upright(e) and near(e.at, (0, 0, 0)))
    m.step("chamfer", edges=one, size="2 mm")
    assert m.build().volume == pytest.approx(6000 - 0.5 * 4 * 10, rel=1e-9)


def test_cut_add_and_through_all():
    m = block()
    s = Sketcher()
    s.circle("origin", 5)
    s.put("diameter", "c1", formula="10 mm")
    top = m.pick("face", lambda f: f.direction == (0, 0, 1) or near(f.at, (30, 20, 10)))[0]
    on = m.sketch(s, {"base": None, "face": top})
    m.step("extrude", sketch=on, reach="through", result="cut")
    quarter = math.pi * 25 / 4
    assert m.build().volume == pytest.approx(24000 - quarter * 10, rel=1e-9)
    stud = Sketcher()
    c = stud.point(30, 20)
    stud.circle(c, 6)
    on = m.sketch(stud, {"base": None, "face": top})
    m.step("extrude", sketch=on, depth="8 mm", result="add")
    assert m.build().volume == pytest.approx(24000 - quarter * 10 + math.pi * 36 * 8, rel=1e-9)


def test_one_sketch_feeds_two_steps_by_its_regions():
    m = Maker()
    s = plate()
    c = s.point(30, 20)
    s.circle(c, 8)
    on = m.sketch(s)
    m.step("extrude", sketch=on, depth="10 mm")
    disc = next(r for r in _regions(m, on) if r.depth == 1)
    m.step("extrude", sketch=on, depth="4 mm", result="new",
           regions=[{"id": disc.id, "at": disc.at, "area": disc.area}])  # fmt: skip
    found = m.build()
    assert [b["volume"] for b in found.bodies.values()] == pytest.approx(
        [24000 - math.pi * 640, math.pi * 256], rel=1e-9
    )


def _regions(m, sketch):
    from vireo.core.kernel.profile import arrange

    return arrange(m.build().state.products["sketch"][sketch].curves).regions


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"radius": "25 mm"}, "largest that works there is"),
        ({"radius": "0 mm"}, "must be more than 0"),
        ({"radius": "3 deg"}, "is length, but"),
        ({"radius": "nothing"}, "no parameter"),
    ],
)
def test_fillets_that_do_not_fit_say_what_would(fields, says):
    m = block()
    edges = m.pick("edge", upright)
    m.step("fillet", edges=edges, **fields)
    report = m.build().steps[-1]
    assert report.status == "failed"
    assert says in report.error.text
    if report.error.offers:
        largest = report.error.offers[0].fields["radius"]
        m.do("edit_step", id=m.part.steps[-1].id, fields={"radius": largest})
        assert m.build().steps[-1].status == "ok"
        assert 19.0 < float(largest.split()[0]) <= 20.0


def test_a_search_that_nobody_would_wait_for_offers_what_it_tried(monkeypatch):
    monkeypatch.setattr(fitting, "PATIENCE", -1.0)
    m = block()
    m.step("fillet", edges=m.pick("edge", upright), radius="25 mm")
    error = m.build().steps[-1].error
    assert "12.5 mm works there" in error.text
    assert "largest" not in error.text
    m.do("edit_step", id=m.part.steps[-1].id, fields=error.offers[0].fields)
    assert m.build().steps[-1].status == "ok"
    m.do("edit_step", id=m.part.steps[-1].id, fields={"radius": "90 mm"})
    error = m.build().steps[-1].error
    assert "looking for what would was stopped" in error.text


def test_overlap_keeps_what_both_share():
    m = block()
    s = Sketcher()
    s.circle(s.point(10, 10), 6.0)
    m.step("extrude", sketch=m.sketch(s), reach="through", result="overlap")
    assert m.build().volume == pytest.approx(math.pi * 36 * 10)
    assert sorted({f.kind for f in m.topology().faces}) == ["cylinder", "plane"]
    around = Sketcher()
    around.box(-5, -5, 60, 60)
    m.step("extrude", sketch=m.sketch(around), depth="4 mm", result="overlap")
    assert m.build().volume == pytest.approx(math.pi * 36 * 4)


def test_bad_profiles_and_misses_are_told():
    m = Maker()
    open_chain = Sketcher()
    a, b, c = (open_chain.point(*p) for p in ((0, 0), (10, 0), (10, 5)))
    open_chain.line(a, b)
    open_chain.line(b, c)
    m.step("extrude", sketch=m.sketch(open_chain), depth="5 mm")
    assert "closes no region" in m.build().steps[-1].error.text

    m = block()
    far = Sketcher()
    far.point(500, 500)
    m.step("hole", sketch=m.sketch(far), bore="5 mm")
    assert "outside" in m.build().steps[-1].error.text

    m = block()
    big = Sketcher()
    big.box(-100, -100, 200, 200)
    m.step("extrude", sketch=m.sketch(big), reach="through", result="cut")
    assert "removes the whole body" in m.build().steps[-1].error.text

    m = block()
    apart = Sketcher()
    apart.box(100, 100, 120, 120)
    m.step("extrude", sketch=m.sketch(apart), depth="5 mm", result="overlap")
    assert "nothing would be left" in m.build().steps[-1].error.text
    assert m.build().volume == pytest.approx(24000)

    m = block()
    m.step("extrude", sketch=m.sketch(apart), depth="5 mm", result="add")
    error = m.build().steps[-1].error
    assert "does not touch" in error.text
    assert error.offers[0].fields == {"result": "new"}
    assert m.build().volume == pytest.approx(24000)


def test_a_failed_step_leaves_the_last_good_state_and_others_go_on():
    m = block(holes=((10.0, 10.0),))
    m.step("fillet", edges=m.pick("edge", upright), radius="50 mm")
    m.step("hole", sketch="s1", bore="6 mm")
    found = m.build()
    assert [s.status for s in found.steps] == ["ok", "ok", "failed", "ok"]
    assert found.volume == pytest.approx(24000 - math.pi * 9 * 10, rel=1e-9)


def test_only_what_depends_on_a_change_runs_again():
    m = block(holes=((10.0, 10.0),))
    other = Sketcher()
    other.box(200, 0, 220, 20)
    m.step("extrude", sketch=m.sketch(other), depth="7 mm", result="new")
    m.step("hole", sketch="s1", bore="6 mm", into=["b_s2"])
    m.build()
    assert m.ran == ["s1", "s2", "s3", "s4", "s5"]
    m.build()
    assert m.ran == []
    m.do("edit_step", id="s4", fields={"depth": "9 mm"})
    m.build()
    assert m.ran == ["s4"]  # the hole reads only the other body
    m.do("edit_parameter", name="w", formula="30 mm * 2")
    m.build()
    assert m.ran == []  # the same value by another formula
    m.do("rename_step", id="s1", name="Outline")
    m.build()
    assert m.ran == []


def test_kept_results_survive_in_another_process_by_content(tmp_path):
    from vireo.work.diskcache import DiskCache

    m = block(holes=((10.0, 10.0),))
    m.step("hole", sketch="s1", bore="6 mm")
    disk = DiskCache(tmp_path)
    first = Maker(Cache(disk))
    first.part = m.part
    one = first.build()
    again = Maker(Cache(disk))
    again.part = m.part
    two = again.build()
    assert again.ran == []
    assert two.bodies == one.bodies
    again.step("fillet", edges=again.pick("edge", upright), radius="3 mm")
    assert again.build().steps[-1].status == "ok"
    assert again.ran == ["s4"]  # on a body that came from disk
    for path in tmp_path.glob("*/*"):
        path.write_bytes(b"damaged")
    broken = Maker(Cache(disk))
    broken.part = m.part
    assert broken.build().volume == pytest.approx(one.volume)


def test_marker_sleep_order_and_delete_are_guarded():
    m = block(holes=((10.0, 10.0),))
    hole = m.step("hole", sketch="s1", bore="6 mm")
    m.do("set_marker", at=2)
    assert [s.status for s in m.build().steps] == ["ok", "ok", "waiting"]
    m.do("set_marker", at=None).do("sleep_step", id="s2", asleep=True)
    found = m.build()
    assert [s.status for s in found.steps] == ["ok", "asleep", "failed"]
    m.do("sleep_step", id="s2", asleep=False)
    with pytest.raises(NotAllowed, match="needs"):
        m.do("move_step", id=hole, to=0)
    with pytest.raises(NotAllowed, match="needed by"):
        m.do("remove_step", id="s1")
    m.do("remove_step", id="s1", with_dependents=True)
    assert m.part.steps == ()


def test_target_mass_flags_the_first_miss():
    m = block(holes=((10.0, 10.0),))
    m.step("hole", sketch="s1", bore="6 mm")
    m.do("set_target", id="s2", target=24000 * RHO).do("set_target", id="s3", target=100.0)
    assert [s.misses_target for s in m.build().steps] == [False, False, True]


# --- names


def _gallery() -> Maker:
    """A plate with a counterbored hole, a stud, filleted uprights."""
    m = block(holes=((12.0, 12.0),))
    m.step(
        "hole", sketch="s1", form="counterbored", bore="5 mm", recess="9 mm", recess_depth="3 mm"
    )
    stud = Sketcher()
    centre = stud.point(40, 25)
    stud.circle(centre, 6)
    stud.at(centre, "40 mm", "25 mm")
    stud.put("diameter", "c2", formula="12 mm")
    top = m.pick("face", lambda f: f.kind == "plane" and abs(f.at[2] - 10) < 1e-6 and f.area > 500)[
        0
    ]
    m.step(
        "extrude", sketch=m.sketch(stud, {"base": None, "face": top}), depth="8 mm", result="add"
    )
    return m


WHERE = {
    "x0": lambda f, w, h: f.kind == "plane" and near((f.at[0], 0, 0), (0, 0, 0), 1e-6) and abs(f.direction[0]) > 0.9,
    "x1": lambda f, w, h: f.kind == "plane" and near((f.at[0], 0, 0), (w, 0, 0), 1e-6) and abs(f.direction[0]) > 0.9,
    "bore": lambda f, w, h: f.kind == "cylinder" and f.hollow and abs(f.radius - 2.5) < 1e-9,
    "recess": lambda f, w, h: f.kind == "cylinder" and f.hollow and abs(f.radius - 4.5) < 1e-9,
    "stud": lambda f, w, h: f.kind == "cylinder" and not f.hollow and abs(f.radius - 6) < 1e-9,
    "crown": lambda f, w, h: f.kind == "plane" and abs(f.at[2] - (h + 8)) < 1e-6,
}  # fmt: skip


@given(
    st.lists(
        st.one_of(
            st.tuples(st.just("w"), st.floats(56, 160)),
            st.tuples(st.just("h"), st.floats(6, 25)),
            st.tuples(st.just("sleep"), st.sampled_from(["s3", "s5"])),
            st.tuples(st.just("insert"), st.floats(52, 54)),
            st.tuples(st.just("reload"), st.none()),
        ),
        min_size=1,
        max_size=6,
    )
)
@settings(max_examples=25, deadline=None)
def test_picks_stay_on_the_face_a_person_would_call_the_same(edits):
    from vireo.core.naming import Pick, resolve

    m = _gallery()
    picks = {}
    for name, test in WHERE.items():
        found = m.pick("face", lambda f, test=test: test(f, 60.0, 10.0))
        assert len(found) == 1, name
        picks[name] = Pick.model_validate(found[0])
    w, h, gone = 60.0, 10.0, set()
    for kind, value in edits:
        if kind == "w":
            w = value
            m.do("edit_parameter", name="w", formula=f"{value!r} mm")
        elif kind == "h":
            h = value
            m.do("edit_step", id="s2", fields={"depth": f"{value!r} mm"})
        elif kind == "sleep":
            m.do("sleep_step", id=value, asleep=True)
            gone |= {"s3": {"bore", "recess"}, "s5": {"stud", "crown"}}[value]
        elif kind == "insert":
            extra = Sketcher()
            extra.point(value, 8)
            on = m.sketch(extra)
            m.step("hole", sketch=on, bore="3 mm")
        else:
            m.reload()
    t = m.topology("b_s2")
    for name, pick in picks.items():
        here = resolve(pick, t)
        if name in gone:
            assert here.index is None, f"{name} landed on {t.faces[here.index]}"
            continue
        assert here.index is not None, f"{name} lost"
        assert WHERE[name](t.faces[here.index], w, h), f"{name} landed on {t.faces[here.index]}"


def test_a_lost_pick_is_reported_with_a_proposal_and_never_replaced():
    m = block()
    edges = m.pick("edge", lambda e: upright(e) and near(e.at, (60, 40, 5)))
    m.step("fillet", edges=edges, radius="3 mm")
    # Redraw the outline: the corner's two lines become new ones.
    s = Sketcher()
    s.polygon([(0, 0), (62, 0), (62, 41), (0, 41)])
    m.do("edit_step", id="s1", fields={"drawing": _renamed(s.drawing)})
    report = m.build().steps[-1]
    assert report.error.code == "lost_pick"
    offer = next(o for o in report.error.offers if "nearest" in o.label)
    m.do("edit_step", id="s3", fields=offer.fields)
    assert m.build().steps[-1].status == "ok"
    assert m.pick("edge", lambda e: e.kind == "circle" and near(e.centre[:2], (59, 38), 1e-6))


def _renamed(data):
    import json
    import re

    return json.loads(re.sub(r'"([pl])(\d+)"', r'"\g<1>9\2"', json.dumps(data)))


def test_the_same_document_gives_the_same_names_every_time():
    one, two = _gallery(), _gallery()
    assert one.body()[1].names == two.body()[1].names
    assert one.body()[0] == two.body()[0]


@given(st.lists(st.sampled_from(["w", "sleep", "add", "rename", "param"]), min_size=1, max_size=8))
@settings(max_examples=20, deadline=None)
def test_commands_never_change_what_they_were_given(edits):
    m = block()
    before = m.part.model_dump(mode="json")
    kept = m.part
    for n, kind in enumerate(edits):
        command = {
            "w": {"do": "edit_parameter", "name": "w", "formula": f"{50 + n} mm"},
            "sleep": {"do": "sleep_step", "id": "s2", "asleep": n % 2 == 0},
            "add": {"do": "add_parameter", "name": f"n{n}", "formula": "w*2"},
            "rename": {"do": "rename_step", "id": "s1", "name": f"Outline {n}"},
            "param": {"do": "set_marker", "at": n % 3},
        }[kind]
        m.part = run(parse(command), m.part)
    assert kept.model_dump(mode="json") == before


def test_renaming_a_parameter_rewrites_formulas_in_drawings_fields_and_limits():
    m = block()
    m.do(
        "add_parameter",
        name="depth",
        formula="w/6",
        limits={"kind": "range", "least": None, "most": "w"},
    )
    m.do("edit_step", id="s2", fields={"depth": "depth + w*0"})
    before = m.build().volume
    m.do("rename_parameter", name="w", new="breadth")
    found = m.build()
    assert found.volume == pytest.approx(before)
    assert all(s.status == "ok" for s in found.steps)
    assert m.part.parameters[1].formula == "breadth/6"
    assert m.part.parameters[1].limits.most == "breadth"
    with pytest.raises(NotAllowed, match="used by"):
        m.do("remove_parameter", name="breadth")
    for bad in ("mm", "sin", "if", "9x", "depth", "a b"):
        with pytest.raises(NotAllowed):
            m.do("add_parameter", name=bad, formula="1 mm")


# --- geometry linked into sketches


def linked(m, *picks, plane, extra=None):
    """A sketch that takes picks from bodies, built as the page does it."""
    brought = [{"id": f"x{k + 1}", "pick": p} for k, p in enumerate(picks)]
    fields = {"plane": plane, "brought": brought, "drawing": (extra or Sketcher()).drawing}
    m.step("sketch", **fields)
    return m.part.steps[-1].id


def test_linked_edges_follow_the_body_and_can_be_built_on():
    m = block()
    (top,) = m.pick("face", lambda f: f.kind == "plane" and f.direction[2] > 0.99)
    sketch = linked(m, top, plane={"base": None, "face": top})
    m.step("extrude", sketch=sketch, depth="3 mm", result="add")
    assert m.build().volume == pytest.approx(60 * 40 * 13)
    m.do("edit_parameter", name="w", formula="90 mm")
    assert m.build().volume == pytest.approx(90 * 40 * 13)
    # An offset of the linked outline follows it as well.
    drawing = next(s.made(SKETCHES) for s in m.build().steps if s.id == sketch)
    assert drawing.freedom == 0
    fields = m.part.steps[-2].fields
    d = relink(
        Drawing.model_validate(fields["drawing"]), "x1",
        [(id[3:], c) for id, c in drawing.curves],
    )  # fmt: skip
    outline = [id for id, _ in drawing.curves]
    spot = Spot(at=(30.0, 20.0))
    inside = solve_drawing(use("offset", d, [spot], {"gap": "4 mm"}, outline).drawing).drawing
    m.do("edit_step", id=sketch, fields={"drawing": inside.model_dump(mode="json")})
    m.do("edit_parameter", name="w", formula="70 mm")
    found = next(s.made(SKETCHES) for s in m.build().steps if s.id == sketch)
    assert min(r.area for r in arrange(found.curves).regions if not r.holes) == pytest.approx(
        62 * 32
    )


def test_edges_are_dropped_on_the_plane_exactly():
    m = block(holes=((20.0, 20.0),))
    m.step("hole", sketch="s1", bore="16 mm")
    rim = m.pick("edge", lambda e: e.kind == "circle" and e.at[2] > 5)
    upright = m.pick("edge", lambda e: e.kind == "line" and abs(e.direction[2]) > 0.9)[:1]
    found = m.build()
    straight = linked(m, *rim, *upright, plane={"base": "XY", "face": None})
    edge_on = linked(m, *rim, plane={"base": "XZ", "face": None})
    found = m.build()
    sketches = {s.id: s.made(SKETCHES) for s in found.steps if s.made(SKETCHES)}
    (circle,) = (c for _, c in sketches[straight].curves)
    assert (circle.centre, circle.radius) == (pytest.approx((20, 20)), pytest.approx(8))
    assert len(sketches[straight].points) == 1  # the upright edge comes as a point
    (line,) = (c for _, c in sketches[edge_on].curves)
    assert sorted(p[0] for p in line.ends) == pytest.approx([12, 28], abs=0.02)


def test_a_tilted_circle_comes_as_its_ellipse():
    from vireo.core.geometry import plane_frame
    from vireo.core.kernel.grow import cylinder
    from vireo.core.kernel.measure import topology_of
    from vireo.core.kernel.project import projected_edge

    body = cylinder((0, 0, 0), (0, 0.6, 0.8), 5.0, 9.0, ("wall", "top", "under"))
    rim = next(i for i, e in enumerate(topology_of(body).edges) if e.kind == "circle")
    curve = projected_edge(body.edges[rim], plane_frame((0, 0, 0), (0, 0, 1)))
    fine = curve.points(0.005)
    c = [(min(p[k] for p in fine) + max(p[k] for p in fine)) / 2 for k in (0, 1)]
    for x, y in curve.points(0.1):
        u, v = (x - c[0]) / 5.0, (y - c[1]) / 4.0  # seen at arccos 0.8
        assert u * u + v * v == pytest.approx(1.0, abs=1e-3)


def test_a_lost_link_fails_with_an_offer_and_the_rest_goes_on():
    m = block()
    m.step("fillet", edges=m.pick("edge", lambda e: abs(e.direction[2]) > 0.9)[:1], radius="4 mm")
    fillet = m.part.steps[-1].id
    arc = m.pick("edge", lambda e: e.kind == "circle" and e.at[2] > 5)
    linked(m, *arc, plane={"base": "XY", "face": None})
    assert m.build().steps[-1].status == "ok"
    m.do("sleep_step", id=fillet, asleep=True)
    error = m.build().steps[-1].error
    assert error.code == "lost_pick"
    out = error.offers[-1]
    assert out.fields == {"brought": []}
    m.do("edit_step", id=m.part.steps[-1].id, fields=out.fields)
    assert m.build().steps[-1].status == "ok"


def test_a_layer_grown_on_the_linked_outline_of_a_bored_plate_adds_its_own_volume():
    m = Maker()
    plate_of = Sketcher()
    plate_of.box(-120, -100, 120, 100)
    m.step("extrude", sketch=m.sketch(plate_of), depth="10 mm")
    bores = {5.0: ((-36, -60), (36, -60), (-36, 60), (36, 60)), 5.5: ((-30, -86), (30, -86))}
    for bore, places in bores.items():
        points = Sketcher()
        for place in places:
            points.point(*place)
        m.step("hole", sketch=m.sketch(points), bore=f"{bore} mm")
    m.step("fillet", edges=m.pick("edge", lambda e: e.kind == "line" and abs(e.direction[2]) > 0.9),
           radius="12 mm")  # fmt: skip
    m.step(
        "chamfer",
        edges=m.pick("edge", lambda e: math.dist(e.at, (0, -100, 10)) < 1e-6),
        size="1 mm",
    )
    (top,) = m.pick("face", lambda f: f.kind == "plane" and f.direction[2] > 0.99)
    before = m.build().volume
    area = max(f.area for f in m.topology().faces if f.kind == "plane" and f.direction[2] > 0.99)
    sketch = linked(m, top, plane={"base": None, "face": top})
    m.step("extrude", sketch=sketch, depth="2 mm", result="add")
    assert m.build().steps[-1].error is None
    assert m.build().volume == pytest.approx(before + 2 * area)


def test_a_sketch_lies_off_its_plane_by_a_formula():
    m = block()
    m.do("add_parameter", name="lift", formula="25 mm")
    s = Sketcher()
    s.box(0, 0, 10, 10)
    m.step("sketch", drawing=s.drawing, plane={"base": "XY", "offset": {"formula": "2 * lift"}})
    m.step("extrude", sketch=m.part.steps[-1].id, depth="5 mm")
    top = max(f.at[2] for f in m.topology("b_" + m.part.steps[-1].id).faces)
    assert top == pytest.approx(55.0)
    m.do("rename_parameter", name="lift", new="rise")
    assert m.part.steps[-2].fields["plane"]["offset"]["formula"] == "2 * rise"
    m.do("edit_step", id=m.part.steps[-2].id, fields={"plane": {"offset": {"formula": "3 deg"}}})
    assert "is length, not angle" in m.build().steps[-2].error.text


def test_renaming_a_parameter_leaves_ids_in_drawings_alone():
    m = block()
    m.do("add_parameter", name="p2", formula="3 mm")
    before = m.part.steps[0].fields["drawing"]
    m.do("rename_parameter", name="p2", new="q")
    assert m.part.steps[0].fields["drawing"] == before
    assert m.build().volume == pytest.approx(24000)

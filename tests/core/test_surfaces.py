"""Surface bodies: what they measure, what their borders are called, what is made of them; and what
is refused because it has no volume. Wires: names and measures of bodies without faces."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeWire
from OCP.gp import gp_Pnt

from vireo.core.kernel.exchange import Placed, brep_file, write_step
from vireo.core.kernel.forms.kind import FORMS, form_of
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import area_of, topology_of
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.shape import Body, faces_of, solids_of
from vireo.core.naming import make_pick, pick_table, resolve
from vireo.core.samples.maker import Maker
from vireo.script.sketch import Sketch

XZ = {"base": "XZ", "face": None}
sizes = st.floats(2.0, 60.0).map(lambda v: round(v, 2))


def angle_iron(m, w=30.0, h=20.0, plane=None):
    """An open chain of two lines: an L."""
    s = Sketch()
    a, b, c = s.point(0, 0), s.point(w, 0), s.point(w, h)
    s.line(a, b)
    s.line(b, c)
    return m.sketch(s, plane)


def ring(m, r=10.0, x=0.0, plane=None):
    s = Sketch()
    s.circle(s.point(x, 0), r)
    return m.sketch(s, plane)


def only(m):
    found = m.build()
    broken = [s.error.text for s in found.steps if s.error]
    assert not broken, broken
    (body,) = found.bodies.values()
    return body, m.cache.body(body["key"])


@given(sizes, sizes, sizes)
@settings(max_examples=15, deadline=None)
def test_an_extruded_chain_has_the_area_of_its_length_times_the_depth(w, h, depth):
    m = Maker()
    m.step("extrude", sketch=angle_iron(m, w, h), profile="surface", depth=f"{depth} mm")
    body, shape = only(m)
    assert body["form"] == "surface"
    assert body["volume"] == 0.0
    assert body["mass"] == 0.0
    assert body["area"] == pytest.approx((w + h) * depth, rel=1e-9)
    t = topology_of(shape)
    assert len(t.faces) == 2
    borders = [e for e in t.edges if len(e.faces) == 1]
    assert len(borders) == 6
    # Every border has a name of its own face, is found again, and can be measured.
    for i, edge in enumerate(t.edges):
        pick = make_pick(t, "b_s2", "edge", i)
        assert len(pick.name) == len(edge.faces)
        assert resolve(pick, t).index == i


@given(sizes, st.floats(1.0, 30.0), st.floats(10.0, 350.0))
@settings(max_examples=15, deadline=None)
def test_a_turned_chain_has_the_area_pappus_gives(h, r, degrees):
    m = Maker()
    s = Sketch()
    s.line(s.point(r, 0), s.point(r, h))
    m.step("revolve", sketch=m.sketch(s, XZ), profile="surface", axis="y_axis", reach="one",
           angle=f"{degrees!r} deg")  # fmt: skip
    body, _ = only(m)
    assert body["form"] == "surface"
    assert body["area"] == pytest.approx(r * math.radians(degrees) * h, rel=1e-9)


def test_a_closed_chain_makes_a_tube_without_ends():
    m = Maker()
    m.step("extrude", sketch=ring(m), profile="surface", depth="25 mm", reach="symmetric")
    body, shape = only(m)
    assert body["area"] == pytest.approx(2 * math.pi * 10 * 25)
    assert not solids_of(shape.shape)
    assert [f.name for f in topology_of(shape).faces] == [
        "s2/side/" + topology_of(shape).faces[0].name[8:]
    ]
    assert body["centre"] == pytest.approx([0, 0, 0], abs=1e-9)


def test_several_chains_lie_apart_and_chosen_ones_are_taken():
    m = Maker()
    s = Sketch()
    one = s.line(s.point(0, 0), s.point(10, 0))
    s.line(s.point(0, 20), s.point(30, 20))
    on = m.sketch(s)
    m.step("extrude", sketch=on, profile="surface", depth="5 mm")
    assert only(m)[0]["area"] == pytest.approx(200)
    m.do("edit_step", id="s2", fields={"chains": [one]})
    assert only(m)[0]["area"] == pytest.approx(50)


def test_sweep_and_loft_make_surfaces():
    m = Maker()
    path = Sketch()
    path.line(path.point(0, 0), path.point(0, 50))
    m.step("sweep", sketch=angle_iron(m), path=m.sketch(path, XZ), profile="surface")
    assert only(m)[0]["area"] == pytest.approx(50 * 50)
    m = Maker()
    up = {"base": "XY", "face": None, "offset": {"formula": "40 mm"}}
    m.step("loft", sections=[ring(m, 10), ring(m, 5, plane=up)], profile="surface")
    slant = math.hypot(40, 5)
    body, shape = only(m)
    assert body["area"] == pytest.approx(math.pi * 15 * slant, rel=1e-6)
    assert not solids_of(shape.shape)
    m = Maker()
    m.step("loft", sections=[angle_iron(m), ring(m, 5, plane=up)], profile="surface")
    error = m.build().steps[-1].error
    assert "all open or all closed" in error.text


@given(sizes, st.floats(0.5, 4.0))
@settings(max_examples=10, deadline=None)
def test_thickening_a_flat_surface_makes_a_plate(w, t):
    m = Maker()
    s = Sketch()
    s.line(s.point(0, 0), s.point(w, 0))
    m.step("extrude", sketch=m.sketch(s), profile="surface", depth="20 mm")
    m.step("thicken", surfaces=["b_s2"], thickness=f"{t!r} mm")
    found = m.build()
    assert [b["form"] for b in found.bodies.values()] == ["surface", "solid"]
    assert found.bodies["b_s3"]["volume"] == pytest.approx(w * 20 * t, rel=1e-9)
    assert found.volume == pytest.approx(w * 20 * t, rel=1e-9)


def test_a_surface_splits_solids_and_is_split_itself():
    m = Maker()
    m.step("primitive", width="60 mm", depth="40 mm", height="20 mm")
    s = Sketch()
    s.line(s.point(20, -10), s.point(20, 60))
    m.step("extrude", sketch=m.sketch(s), profile="surface", depth="50 mm", reach="symmetric")
    m.step("split_body", bodies=["b_s1"], by="surface", surface=["b_s3"])
    found = m.build()
    assert not [x.error for x in found.steps if x.error]
    volumes = sorted(b["volume"] for b in found.bodies.values())
    assert volumes == pytest.approx([0.0, 20 * 40 * 20, 40 * 40 * 20])
    m.step("split_body", bodies=["b_s3"], by="XZ", shift="-10 mm", keep="both")
    found = m.build()
    assert not [x.error for x in found.steps if x.error]
    areas = sorted(b["area"] for b in found.bodies.values() if b["form"] == "surface")
    # The line runs from y = -10 to 60; the plane's normal is -Y, so it lies at y = 10.
    assert areas == pytest.approx([20 * 50, 50 * 50])


@pytest.mark.parametrize(
    ("kind", "fields"),
    [
        ("fillet", {"picks": "edge"}),
        ("shell", {"bodies": ["b_s2"]}),
        ("combine", {"operation": "add", "target": ["b_s2"], "tools": ["b_s3"]}),
        ("extrude", {"sketch": "s1", "result": "cut", "into": ["b_s2"], "depth": "3 mm",
                     "profile": "wall"}),
    ],
)  # fmt: skip
def test_what_needs_a_volume_is_refused_in_words(kind, fields):
    m = Maker()
    m.step("extrude", sketch=angle_iron(m), profile="surface", depth="20 mm")
    m.step("primitive", x="100 mm")
    m.step("primitive", x="200 mm", result="new")
    if fields.get("picks"):
        t = m.topology("b_s2")
        i = next(i for i, e in enumerate(t.edges) if len(e.faces) == 2)
        pick = make_pick(t, "b_s2", "edge", i).model_dump(mode="json")
        fields = {"edges": [pick], "radius": "1 mm"}
    m.step(kind, **fields)
    error = m.build().steps[-1].error
    assert "is a surface" in error.text
    assert "thicken" in error.text


def test_a_cut_with_no_body_chosen_leaves_surfaces_alone():
    m = Maker()
    m.step("primitive", width="60 mm", depth="40 mm", height="20 mm")
    m.step("extrude", sketch=angle_iron(m), profile="surface", depth="20 mm")
    s = Sketch()
    s.circle(s.point(30, 10), 4)
    m.step("extrude", sketch=m.sketch(s), reach="through", result="cut")
    found = m.build()
    assert not [x.error for x in found.steps if x.error]
    assert found.bodies["b_s3"]["area"] == pytest.approx(1000)
    assert found.bodies["b_s1"]["volume"] == pytest.approx(48000 - math.pi * 16 * 20)


def test_surfaces_are_moved_copied_and_mirrored_with_their_area():
    m = Maker()
    m.step("extrude", sketch=angle_iron(m), profile="surface", depth="20 mm")
    m.step("move_body", bodies=["b_s2"], x="5 mm", angle="30 deg")
    m.step("mirror", what="bodies", bodies=["b_s2"])
    m.step("scale_body", bodies=["b_s2"], factor="2")
    found = m.build()
    assert not [x.error for x in found.steps if x.error], [x.error for x in found.steps if x.error]
    areas = sorted(b["area"] for b in found.bodies.values())
    assert areas == pytest.approx([1000, 4000])


def test_surfaces_are_written_and_read_back(tmp_path):
    m = Maker()
    m.step("extrude", sketch=angle_iron(m), profile="surface", depth="20 mm")
    _, body = only(m)
    path = tmp_path / "skin.step"
    write_step("Skin", [Placed("Skin", body, "#808890", np.eye(3), np.zeros(3))], str(path))
    for data in (path.read_bytes(), brep_file([body])):
        again = read_shape(data).shape
        assert not solids_of(again)
        assert sum(area_of(f) for f in faces_of(again)) == pytest.approx(1000)
    mesh = tessellate(body)
    corners = mesh.points[mesh.triangles]
    sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    assert 0.5 * np.linalg.norm(sides, axis=1).sum() == pytest.approx(1000)


def test_branching_curves_are_refused_where_they_branch():
    m = Maker()
    s = Sketch()
    o = s.point(0, 0)
    for x, y in ((10, 0), (0, 10), (-10, 0)):
        s.line(o, s.point(x, y))
    m.step("extrude", sketch=m.sketch(s), profile="surface", depth="5 mm")
    assert "branch" in m.build().steps[-1].error.text


def test_a_wire_has_names_places_and_a_length():
    points = [gp_Pnt(0, 0, 0), gp_Pnt(30, 0, 0), gp_Pnt(30, 40, 0)]
    maker = BRepBuilderAPI_MakeWire()
    for a, b in itertools.pairwise(points):
        maker.Add(BRepBuilderAPI_MakeEdge(a, b).Edge())
    wire = Body(maker.Wire(), ("s1/run/a", "s1/run/b"))
    assert form_of(wire) is FORMS["wire"]
    mass = form_of(wire).mass(wire)
    assert (mass.volume, mass.area) == (0.0, 0.0)
    assert mass.centre == pytest.approx(((15 * 30 + 30 * 40) / 70, 20 * 40 / 70, 0))
    t = topology_of(wire)
    assert [t.edge_name(i) for i in range(2)] == [("s1/run/a",), ("s1/run/b",)]
    for kind, count in (("edge", 2), ("vertex", 3)):
        for i in range(count):
            assert resolve(make_pick(t, "b_s1", kind, i), t).index == i
    again = Body.from_bytes(wire.to_bytes(), wire.names)
    assert topology_of(again) == t
    mesh = tessellate(wire)
    assert len(mesh.triangles) == 0
    assert len(mesh.edge_starts) == 3


@given(sizes, sizes)
@settings(max_examples=8, deadline=None)
def test_the_table_of_picks_says_what_make_pick_says(w, h):
    """The screen makes no names of its own: it puts together what the table tells."""
    m = Maker()
    m.step("primitive", width=f"{w} mm", depth=f"{h} mm", height="20 mm")
    m.step("primitive", form="cylinder", diameter="1 mm", height="20 mm", result="cut",
           x=f"{w / 2} mm", y=f"{h / 2} mm")  # fmt: skip
    t = topology_of(only(m)[1])
    table = pick_table(t)
    for kind in ("face", "edge", "vertex"):
        for i, (name, around, alone) in enumerate(table[kind]):
            pick = make_pick(t, "b_s1", kind, i)
            assert tuple(table["names"][n] for n in name) == pick.name
            told = tuple(tuple(table["names"][n] for n in group) for group in around)
            assert told == pick.witness.around
            assert alone == pick.witness.alone


def drawn(m, *runs, plane=None):
    """A sketch of straight runs."""
    s = Sketch()
    for run in runs:
        spots = [s.point(x, y) for x, y in run]
        for a, b in itertools.pairwise(spots):
            s.line(a, b)
    return m.sketch(s, plane)


def trouble(m):
    return next((s.error.text for s in m.build().steps if s.error), None)


@given(
    st.lists(
        st.tuples(st.integers(-6, 6), st.integers(-6, 6)), min_size=2, max_size=6, unique=True
    ),
    st.integers(0, 359),
)
@settings(max_examples=40, deadline=None)
def test_a_run_is_grown_if_and_only_if_it_meets_itself_nowhere(spots, turned):
    """Held against exact arithmetic on whole numbers; turned in the plane, it stays what it is."""
    segments = list(itertools.pairwise(spots))
    meets = any(
        meet(*one, *two, joined=j - i == 1)
        for (i, one), (j, two) in itertools.combinations(enumerate(segments), 2)
    )
    c, s = math.cos(math.radians(turned)), math.sin(math.radians(turned))
    m = Maker()
    sketch = drawn(m, [(c * x - s * y, s * x + c * y) for x, y in spots])
    m.step("extrude", sketch=sketch, profile="surface", depth="7 mm")
    said = trouble(m)
    assert (said is not None) == meets, (said, segments)
    if not meets:
        length = sum(math.dist(a, b) for a, b in segments)
        assert only(m)[0]["area"] == pytest.approx(7 * length, rel=1e-9)


def meet(a, b, c, d, joined):
    """Whether two segments on whole numbers meet other than where one goes on as the other."""

    def side(p, q, r):
        found = (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])
        return (found > 0) - (found < 0)

    def within(p, q, r):
        return side(p, q, r) == 0 and min(p[0], q[0]) <= r[0] <= max(p[0], q[0]) and (
            min(p[1], q[1]) <= r[1] <= max(p[1], q[1])
        )  # fmt: skip

    if joined:
        # b is c: they lie on each other where the way turns straight back.
        return within(a, b, d) or within(c, d, a)
    crossed = side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0
    return crossed or within(a, b, c) or within(a, b, d) or within(c, d, a) or within(c, d, b)


@pytest.mark.parametrize(
    ("angle", "fits"), [("90 deg", True), ("180 deg", True), ("181 deg", False)]
)
def test_curves_on_both_sides_of_an_axis_are_turned_by_half_a_turn_at_most(angle, fits):
    m = Maker()
    sketch = drawn(m, [(10, 0), (10, 20)], [(-10, 0), (-10, 20)])
    m.step("revolve", sketch=sketch, profile="surface", axis="y_axis", reach="one", angle=angle)
    said = trouble(m)
    assert (said is None) == fits, said
    if not fits:
        assert "both sides of the axis" in said


def test_a_curve_on_its_axis_is_told_so():
    m = Maker()
    sketch = drawn(m, [(0, 0), (0, 20)])
    m.step("revolve", sketch=sketch, profile="surface", axis="y_axis")
    assert "lies on the axis" in trouble(m)

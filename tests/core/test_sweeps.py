"""Sweeps, pipes and lofts against Pappus, mitres and prismoids."""

import math

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.core.parts import Maker, block, near
from tests.core.test_grow import boxed, names, trouble, volume
from vireo.script.sketch import Sketch as Sketcher

XZ = {"base": "XZ", "face": None}


def elbow(a=40.0, b=30.0) -> Sketcher:
    """Along X, then up Y, with a sharp corner."""
    s = Sketcher()
    p = [s.point(*q) for q in ((0, 0), (a, 0), (a, b))]
    s.line(p[0], p[1])
    s.line(p[1], p[2])
    return s


def bend(r: float, turn=90.0) -> Sketcher:
    s = Sketcher()
    t = math.radians(turn)
    s.arc(s.point(0, 0), s.point(r, 0), s.point(r * math.cos(t), r * math.sin(t)))
    return s


def test_a_profile_round_a_sharp_corner_is_mitred_exactly():
    """A square on the path: each leg ends in the mitre, the volume is area by length."""
    m = Maker()
    path = m.sketch(elbow())
    profile = m.sketch(boxed(6, 6, (-3, -3)), {"base": "YZ", "face": None})
    k = m.step("sweep", sketch=profile, path=path)
    assert volume(m) == pytest.approx(36 * 70)
    found = names(m)
    assert {"s3/cap/start", "s3/cap/end"} <= found
    assert {f"s3/side/l{n}/l{e}" for n in (5, 6, 7, 8) for e in (4, 5)} <= found
    m.do("edit_step", id=k, fields={"corners": "round"})
    # Outside the corner a quarter turn instead of the mitre's square.
    assert volume(m) == pytest.approx(36 * 70 - 6 * 9 * (1 - math.pi / 4), rel=1e-6)


@given(st.floats(12, 60), st.floats(20, 300), st.floats(1, 10))
@settings(max_examples=15, deadline=None)
def test_a_bent_pipe_has_the_volume_of_pappus(r, turn, d):
    m = Maker()
    path = m.sketch(bend(r, turn))
    k = m.step("pipe", path=path, diameter=f"{d!r} mm")
    length = r * math.radians(turn)
    assert volume(m) == pytest.approx(math.pi / 4 * d * d * length, rel=1e-6)
    m.do("edit_step", id=k, fields={"hollow": "hollow", "wall": f"{d / 4!r} mm"})
    assert volume(m) == pytest.approx(math.pi / 4 * d * d * 0.75 * length, rel=1e-6)


def test_a_closed_ring_has_no_caps_and_a_tight_bend_says_what_fits():
    m = Maker()
    s = Sketcher()
    s.circle(s.point(0, 0), 20.0)
    k = m.step("pipe", path=m.sketch(s), diameter="6 mm")
    assert volume(m) == pytest.approx(2 * math.pi**2 * 20 * 9, rel=1e-6)
    assert not any("cap" in n for n in names(m))
    m.do("edit_step", id=k, fields={"hollow": "hollow", "wall": "4 mm"})
    assert "no room" in trouble(m).text


def test_along_the_edges_of_a_body_and_cut_from_it():
    m = block()
    rim = m.pick("edge", lambda e: abs(e.at[2] - 10) < 1e-6)
    m.step("pipe", along="edges", edges=rim, diameter="4 mm", result="cut")
    # A quarter of the rod along each edge; in each corner two of them share an eighth of the
    # solid common to two crossing cylinders, 16 r3 / 3.
    assert 24000 - volume(m) == pytest.approx(math.pi * 200 - 4 * (16 * 8 / 3) / 8)
    m.do("edit_step", id=m.part.steps[-1].id, fields={"edges": [rim[0], *m.pick(
        "edge", lambda e: near(e.at, (30, 40, 0)))]})  # fmt: skip
    assert "hang together" in trouble(m).text or "branches" in trouble(m).text


def test_paths_that_are_none_say_why():
    m = Maker()
    s = elbow()
    s.line(s.point(80, 80), s.point(90, 90))
    path = m.sketch(s)
    k = m.step("pipe", path=path, diameter="4 mm")
    assert "2 runs" in trouble(m).text
    m.do("edit_step", id=k, fields={"chains": ["l4", "l5"]})
    assert volume(m) == pytest.approx(math.pi * 4 * 70)
    m.do("edit_step", id=k, fields={"chains": ["q1"]})
    assert trouble(m).code == "lost_pick"
    m.do("edit_step", id=k, fields={"along": "edges"})
    assert "pick the edges" in trouble(m).text


# --- lofts


def at(height: float):
    return {"base": "XY", "face": None, "offset": {"formula": f"{height} mm"}}


@given(st.floats(5, 30), st.floats(5, 30), st.floats(5, 50))
@settings(max_examples=12, deadline=None)
def test_a_straight_loft_between_rectangles_is_a_prismoid(w, h, z):
    m = Maker()
    one = m.sketch(boxed(20, 10, (-10, -5)), at(0))
    two = m.sketch(boxed(w, h, (-w / 2, -h / 2)), at(z))
    m.step("loft", sections=[one, two], ruled="ruled")
    middle = (20 + w) / 2 * (10 + h) / 2
    assert volume(m) == pytest.approx(z / 6 * (200 + 4 * middle + w * h), rel=1e-7)
    assert {"s3/cap/start", "s3/cap/end"} | {f"s3/side/l{k}" for k in (5, 6, 7, 8)} <= names(m)


def test_lofts_end_in_a_tip_and_take_sections_of_other_corner_counts():
    m = Maker()
    base = m.sketch(boxed(12, 12, (-6, -6)), at(0))
    s = Sketcher()
    s.point(0, 0)
    tip = m.sketch(s, at(18))
    k = m.step("loft", sections=[base, tip], ruled="ruled")
    assert volume(m) == pytest.approx(144 * 18 / 3)
    c = Sketcher()
    c.circle(c.point(0, 0), 5.0)
    ring = m.sketch(c, at(20))
    m.do("remove_step", id=k)
    m.step("loft", sections=[base, ring])
    # Between the square and the circle inside it.
    assert 78.5 * 20 < volume(m) < 144 * 20
    m.do("edit_step", id=m.part.steps[-1].id, fields={"sections": [base]})
    assert "two sketches" in trouble(m).text
    m.do("edit_step", id=m.part.steps[-1].id, fields={"sections": [base, tip, ring]})
    error = trouble(m)
    assert "section 2" in error.text
    assert f"step:{tip}" in error.where


def test_three_circles_in_a_row_make_a_cylinder():
    m = Maker()
    rings = []
    for z in (0, 10, 25):
        c = Sketcher()
        c.circle(c.point(3, 4), 7.0)
        rings.append(m.sketch(c, at(z)))
    m.step("loft", sections=rings)
    assert volume(m) == pytest.approx(math.pi * 49 * 25, rel=1e-5)


def test_a_bead_along_every_edge_of_a_box_in_one_go():
    """A square bead centred on the edges of a cube: what the overlaps at the corners cost follows
    from counting the little cubes of a 3 x 3 x 3 corner once."""
    m = block("30 mm", "30 mm", "30 mm")
    m.do("add_parameter", name="bead", formula="4 mm")
    before = volume(m)
    edges = m.pick("edge", lambda e: True)
    assert len(edges) == 12
    k = m.step("sweep", sketch=m.sketch(boxed(4, 4, (-2, -2))), along="each", edges=edges,
               result="add")  # fmt: skip
    # Each bead lies with three of its four quarters outside, over the 30 mm of its edge; at a
    # corner three beads end flush, and three pairs of outer quarters share a 2 x 2 x 2 cube.
    assert before == pytest.approx(27000)
    added = volume(m) - before
    assert added == pytest.approx(12 * 12 * 30 - 8 * shared_at_a_corner(), rel=1e-6)
    assert {n.split("/")[1] for n in names(m) if n.startswith(f"{k}/")} == {
        str(i) for i in range(12)
    }


def shared_at_a_corner() -> float:
    """Volume counted more than once where three beads meet at a corner, by unit cells of 2 mm:
    the body fills the octant of positive cells, each bead the two cells about its edge, along it
    from the corner on."""
    cells = [(x, y, z) for x in (-1, 0) for y in (-1, 0) for z in (-1, 0)]
    inward = [(1, 0, 0), (0, 1, 0), (0, 0, 1)]
    over = 0.0
    for cell in [*cells, *((1, y, z) for y in (-1, 0) for z in (-1, 0)),
                 *((x, 1, z) for x in (-1, 0) for z in (-1, 0)),
                 *((x, y, 1) for x in (-1, 0) for y in (-1, 0))]:  # fmt: skip
        if min(cell) >= 0:
            continue  # the body itself
        beads = sum(
            cell[i] >= 0 and all(cell[j] in (-1, 0) for j in range(3) if j != i)
            for i in range(len(inward))
        )
        over += max(beads - 1, 0) * 8.0
    return over


@given(
    coil=st.floats(20.0, 60.0), pitch=st.floats(5.0, 14.0), turns=st.floats(0.6, 3.5),
    share=st.floats(0.15, 0.8), left=st.booleans(),
)  # fmt: skip
@example(coil=40.0, pitch=8.0, turns=3.0, share=0.375, left=False)
@settings(max_examples=12, deadline=None)
def test_springs_of_all_sizes_have_the_volume_of_pappus(coil, pitch, turns, share, left):
    """The kernel turned some inside out, which was told as too thick a wire."""
    wire = round(min(share * pitch, coil / 4), 3)
    m = Maker()
    m.step("pipe", along="helix", coil=f"{coil} mm", coil_end=f"{coil} mm", pitch=f"{pitch} mm", turns=f"{turns}",
           diameter=f"{wire} mm", hand="left" if left else "right")  # fmt: skip
    built = m.build()
    assert built.steps[-1].error is None, built.steps[-1].error
    length = turns * math.hypot(math.pi * coil, pitch)
    assert built.volume == pytest.approx(math.pi / 4 * wire**2 * length, rel=2e-3)

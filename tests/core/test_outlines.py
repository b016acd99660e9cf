"""Regions as areas: everything inside an outline, and what is drawn inside one later."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.drawings import Sketcher
from tests.core.parts import Maker
from vireo.core.curves import Circle2, Line2
from vireo.core.kernel.outlines import bounded_by, wholes
from vireo.core.kernel.profile import arrange
from vireo.core.part.products.sketch import SKETCHES


def ring(prefix, *corners):
    return [
        (f"{prefix}{k}", Line2(a, b))
        for k, (a, b) in enumerate(zip(corners, [*corners[1:], corners[0]], strict=True))
    ]


def rect(x0, y0, x1, y1, prefix="l"):
    return ring(prefix, (x0, y0), (x1, y0), (x1, y1), (x0, y1))


numbers = st.floats(1.0, 99.0).map(lambda v: round(v, 2))
across = st.lists(
    st.one_of(
        st.tuples(numbers, numbers, numbers, numbers).filter(
            lambda t: math.dist(t[:2], t[2:]) > 2
        ).map(lambda t: Line2((t[0], t[1] * 0.6), (t[2], t[3] * 0.6))),
        st.tuples(numbers, numbers, st.floats(1.5, 25.0)).map(
            lambda t: Circle2((t[0], t[1] * 0.6), round(t[2], 2))
        ),
    ),
    max_size=4,
)  # fmt: skip


@given(drawn=across)
@settings(max_examples=60, deadline=None)
def test_an_area_stays_whole_whatever_is_drawn_across_it(drawn):
    """A plate 100 x 60 with a bore of 8: with and without the bore, both stay what they were."""
    plate = (*rect(0, 0, 100, 60), ("bore", Circle2((30, 30), 8)))
    before = arrange(plate)
    later = (*plate, *((f"x{k}", c) for k, c in enumerate(drawn)))
    for region in before.regions:
        parts = bounded_by(later, region.curves, region.id)
        assert parts is not None
        assert sum(r.area for r in parts) == pytest.approx(region.area, rel=1e-6)
    outline = next(w for w in wholes(later) if set(w.area.curves) == {"l0", "l1", "l2", "l3"})
    areas = {r.id: r.area for r in arrange(later).regions}
    assert sum(areas[i] for i in outline.covers) == pytest.approx(6000.0, rel=1e-6)


def test_the_outlines_of_a_sketch():
    """Two plates that overlap, a ring of two circles, a plate parted by a line."""
    curves = (
        *rect(0, 0, 40, 30, "a"), *rect(30, 10, 70, 40, "b"),
        ("c1", Circle2((100, 0), 10)), ("c2", Circle2((100, 0), 6)),
        *rect(0, 50, 40, 80, "p"), ("cut", Line2((20, 45), (20, 85))),
    )  # fmt: skip
    found = {frozenset(w.area.curves): w for w in wholes(curves)}
    sides = [frozenset(f"{p}{k}" for k in range(4)) for p in "abp"]
    assert set(found) == {*sides, frozenset({"c1"}), frozenset({"c2"})}
    assert [len(found[s].covers) for s in sides] == [2, 2, 2]
    assert found[frozenset({"c1"})].area.area == pytest.approx(100 * math.pi)
    assert len(found[frozenset({"c1"})].covers) == 2


def test_a_step_keeps_its_area_and_says_which_regions_count():
    m = Maker()
    s = Sketcher()
    s.box(0, 0, 60, 40)
    on = m.sketch(s)
    outline = m.part.steps[0]
    drawn = arrange(m.build().steps[0].made(SKETCHES).curves)
    (region,) = drawn.regions
    pick = {"id": region.id, "at": list(region.at), "area": region.area,
            "curves": list(region.curves)}  # fmt: skip
    m.step("extrude", sketch=on, regions=[pick], depth="5 mm")
    assert m.build().volume == pytest.approx(12000)
    s.circle(s.point(30, 20), 6)
    m.do("edit_step", id=outline.id, fields={"drawing": s.drawing})
    built = m.build()
    assert built.steps[1].status == "ok"
    assert built.volume == pytest.approx(12000)
    assert len(built.steps[1].counted) == 2
    # Chosen anew, without what the circle parts off.
    rest = next(r for r in arrange(built.steps[0].made(SKETCHES).curves).regions if r.depth == 0)
    pick = {"id": rest.id, "at": list(rest.at), "area": rest.area, "curves": list(rest.curves)}
    m.do("edit_step", id=m.part.steps[1].id, fields={"regions": [pick]})
    built = m.build()
    assert built.volume == pytest.approx(5 * (2400 - 36 * math.pi))
    assert built.steps[1].counted == (rest.id,)


def test_a_region_whose_border_goes_is_lost_by_name():
    curves = (*rect(0, 0, 40, 30), ("c", Circle2((20, 15), 4)))
    region = next(r for r in arrange(curves).regions if "c" in r.curves and "l0" in r.curves)
    without = tuple(c for c in curves if c[0] != "c")
    assert bounded_by(without, region.curves, region.id) is None


def test_a_plane_is_told_as_a_word_and_one_that_is_none_in_words():
    m = Maker()
    m.step("plane", base="XY", by="12 mm")
    for word, z in (("XY", 0.0), ("s1", 12.0)):
        m.step("sketch", plane=word)
        assert m.build().steps[-1].made(SKETCHES).frame.origin[2] == pytest.approx(z)
    m.step("sketch", plane="QQ")
    assert "lies on XY, XZ, YZ, a flat face or a plane" in m.build().steps[-1].error.text

"""Regions of crossing and nested curves."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vireo.core.curves import Circle2, Line2
from vireo.core.geometry import Frame
from vireo.core.kernel.grow import prism
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.profile import arrange, outline_of


def box(x0, y0, x1, y1, prefix="l"):
    c = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
    return tuple((f"{prefix}{i + 1}", Line2(c[i], c[(i + 1) % 4])) for i in range(4))


def test_overlapping_circle_and_box_make_three_regions_with_closed_form_areas():
    found = arrange((*box(0, 0, 60, 40), ("c1", Circle2((60, 20), 8)))).regions
    half = math.pi * 64 / 2
    assert sorted(r.area for r in found) == pytest.approx([half, half, 2400 - half])


def test_nested_holes_are_known_by_depth():
    found = arrange(
        (*box(0, 0, 60, 40), ("c1", Circle2((30, 20), 10)), ("c2", Circle2((30, 20), 4)))
    ).regions
    assert {r.depth: round(r.area) for r in found} == {0: 2086, 1: 264, 2: 50}


def test_dangling_and_doubled_curves_do_no_harm():
    found = arrange(
        (*box(0, 0, 60, 40), ("x", Line2((10, -20), (10, -5))), ("y", Line2((0, 0), (60, 0))))
    ).regions
    assert [r.area for r in found] == pytest.approx([2400])
    assert arrange((("a", Line2((0, 0), (5, 0))), ("b", Line2((5, 0), (5, 5))))).regions == ()
    assert arrange((("z", Line2((1, 1), (1, 1))),)).regions == ()


def test_a_self_crossing_outline_gives_the_two_loops_it_encloses():
    bow = (("a", Line2((0, 0), (20, 20))), ("b", Line2((20, 20), (20, 0))),
           ("c", Line2((20, 0), (0, 20))), ("d", Line2((0, 20), (0, 0))))  # fmt: skip
    assert [r.area for r in arrange(bow).regions] == pytest.approx([100, 100])


@given(st.floats(30, 200), st.floats(20, 150), st.floats(1, 9))
@settings(max_examples=25, deadline=None)
def test_region_ids_depend_on_curves_not_sizes(w, h, r):
    found = arrange((*box(0, 0, w, h), ("c1", Circle2((w / 2, h / 2), r))))
    reference = arrange((*box(0, 0, 60, 40), ("c1", Circle2((30, 20), 8))))
    assert {x.id for x in found.regions} == {x.id for x in reference.regions}
    plate = next(x for x in found.regions if x.depth == 0)
    body = prism(outline_of(found, [plate]), Frame(), 0.0, 10.0, "s1")
    assert volume_of(body.shape) == pytest.approx((w * h - math.pi * r * r) * 10, rel=1e-6)
    assert len(set(body.names)) == 7


def test_chosen_neighbours_merge_into_one_body_without_a_seam():
    found = arrange((*box(0, 0, 60, 40), ("m", Line2((30, 0), (30, 40)))))
    body = prism(outline_of(found, list(found.regions)), Frame(), 0.0, 5.0, "s1")
    assert volume_of(body.shape) == pytest.approx(12000)
    assert len(body.faces) == 6


def test_loose_ends_inside_a_region_leave_no_slit_in_its_face():
    curves = (
        ("c1", Circle2((0.0, 0.0), 12.0)),
        ("c2", Circle2((50.0, 0.0), 6.0)),
        ("l1", Line2((-4.0, 3.0), (55.0, 3.0))),
        ("l2", Line2((-4.0, -3.0), (52.0, -3.0))),
        ("l3", Line2((52.0, -3.0), (53.0, -1.0))),
    )
    found = arrange(curves)
    assert len(found.regions) == 3
    body = prism(outline_of(found, list(found.regions)), Frame(), 0.0, 5.0, "s")
    # Both discs whole, and between them a strip less what the discs cover of it.
    covered = [3 * math.sqrt(r * r - 9) + r * r * math.asin(3 / r) for r in (12, 6)]
    area = math.pi * (144 + 36) + 6 * 50 - sum(covered)
    assert volume_of(body.shape) == pytest.approx(5 * area)

"""Fillets and chamfers in all forms, holes by size and by screw, against closed forms."""

import math

import pytest

from tests.core.parts import Maker, block, near
from tests.core.test_grow import names, trouble, volume
from vireo.core.screws import SCREWS
from vireo.script.sketch import Sketch as Sketcher


def own(picks, size):
    return {"picks": picks, "size": {"formula": size}}


def test_fillets_of_several_radii_and_varying_along_the_edge():
    m = block()
    m.do("add_parameter", name="fine", formula="1.5 mm")
    a, b, c, d = (m.pick("edge", lambda e, p=p: near(e.at, p)) for p in
                  ((0, 0, 5), (60, 0, 5), (60, 40, 5), (0, 40, 5)))  # fmt: skip
    k = m.step("fillet", edges=[*a], radius="6 mm",
               more=[own(b, "2*fine"), own(c, "4.5 mm"), own(d, "fine")])  # fmt: skip
    corner = (1 - math.pi / 4) * 10
    assert volume(m) == pytest.approx(24000 - corner * (36 + 9 + 20.25 + 2.25))
    m.do("edit_parameter", name="fine", formula="1 mm")
    assert volume(m) == pytest.approx(24000 - corner * (36 + 4 + 20.25 + 1))
    m.do(
        "edit_step", id=k, fields={"edges": [*a, *b], "more": [], "form": "varying", "end": "3 mm"}
    )
    # (1 - pi/4) r2 integrated with r going evenly from 6 to 3: 63/3 on average. The kernel's own
    # varying surface follows that closely, not exactly.
    assert volume(m) == pytest.approx(24000 - 2 * corner * 21, rel=2e-4)


def test_a_corner_where_three_radii_meet_is_one_solid():
    m = block()
    x, y, z = (m.pick("edge", lambda e, p=p: near(e.at, p)) for p in
               ((30, 0, 10), (60, 20, 10), (60, 0, 5)))  # fmt: skip
    m.step("fillet", edges=x, radius="4 mm", more=[own(y, "3 mm"), own(z, "2 mm")])
    quarter = 1 - math.pi / 4
    # The three rounds, up to what they share near the corner.
    whole = quarter * (16 * 60 + 9 * 40 + 4 * 10)
    assert 24000 - whole < volume(m) < 24000 - whole + 4**3


def test_radii_that_do_not_fit_are_dropped_from_their_own_row():
    m = block()
    a, b, c, d = (m.pick("edge", lambda e, p=p: near(e.at, p)) for p in
                  ((0, 0, 5), (60, 0, 5), (60, 40, 5), (0, 40, 5)))  # fmt: skip
    rows = [own([*c, *b], "45 mm"), own(d, "2 mm")]
    k = m.step("fillet", edges=a, radius="6 mm", more=rows)
    error = trouble(m)
    assert "2 of 4 edges" in error.text
    assert error.offers[-1].fields == {"more": rows[1:]}
    m.do("edit_step", id=k, fields=error.offers[-1].fields)
    assert volume(m) == pytest.approx(24000 - (1 - math.pi / 4) * 10 * (36 + 4))
    m.do("edit_step", id=k, fields={"more": [own(b, "0 mm")]})
    assert "radius 2 must be at least" in trouble(m).text


def test_parts_with_one_other_radius_as_they_were_stored_before():
    m = block()
    a, b = (m.pick("edge", lambda e, p=p: near(e.at, p)) for p in ((0, 0, 5), (60, 0, 5)))
    m.step("fillet", edges=a, radius="6 mm", others=b, other="3 mm")
    assert m.part.steps[-1].fields["more"] == [own(b, "3 mm")]
    assert "others" not in m.part.steps[-1].fields
    assert volume(m) == pytest.approx(24000 - (1 - math.pi / 4) * 10 * 45)


@pytest.mark.parametrize(
    ("fields", "area"),
    [
        ({"size": "3 mm"}, 4.5),
        ({"form": "two", "size": "3 mm", "second": "5 mm"}, 7.5),
        ({"form": "angle", "size": "4 mm", "angle": "30 deg"}, 8 * math.tan(math.pi / 6)),
    ],
)
def test_chamfers_take_their_triangle(fields, area):
    m = block()
    edge = m.pick("edge", lambda e: near(e.at, (30, 0, 10)))
    k = m.step("chamfer", edges=edge, **fields)
    assert volume(m) == pytest.approx(24000 - 60 * area)
    # The other way round the same is taken, from the other side.
    before = {f.name: f.area for f in m.topology().faces}["s2/cap/end"]
    if "form" in fields:
        m.do("edit_step", id=k, fields={"flip": True})
        assert volume(m) == pytest.approx(24000 - 60 * area)
        assert {f.name: f.area for f in m.topology().faces}["s2/cap/end"] != pytest.approx(before)


# --- holes


def drilled(**fields) -> Maker:
    """A block 60 x 40 x 20, its hole from the top at (30, 20)."""
    m = block(depth="20 mm")
    s = Sketcher()
    s.point(30, 20)
    sketch = m.sketch(s, {"base": "XY", "offset": {"formula": "20 mm"}})
    m.step("hole", sketch=sketch, **fields)
    return m


def taken(m: Maker) -> float:
    return 60 * 40 * 20 - volume(m)


def rod(d: float, h: float) -> float:
    return math.pi / 4 * d * d * h


@pytest.mark.parametrize(
    ("fields", "exact"),
    [
        ({"bore": "8 mm"}, rod(8, 20)),
        ({"bore": "8 mm", "more": "0.4 mm"}, rod(8.4, 20)),
        ({"bore": "8 mm", "reach": "blind", "depth": "12 mm"}, rod(8, 12)),
        (
            {"bore": "8 mm", "reach": "blind", "depth": "12 mm", "bottom": "point"},
            rod(8, 12) + rod(8, 4 / math.tan(math.radians(59))) / 3,
        ),
        (
            {"form": "counterbored", "bore": "6 mm", "recess": "11 mm", "recess_depth": "7 mm"},
            rod(6, 13) + rod(11, 7),
        ),
        (
            {"form": "countersunk", "bore": "6 mm", "sink": "12 mm"},
            rod(6, 17) + math.pi * 3 / 3 * (36 + 18 + 9),
        ),
        (
            {"form": "tapered", "bore": "10 mm", "taper": "3 deg"},
            math.pi * 20 / 3 * (25 + 5 * (5 - 20 * math.tan(math.radians(3)))
                                + (5 - 20 * math.tan(math.radians(3))) ** 2),
        ),
        ({"size": "screw", "screw": "M8"}, rod(9.0, 20)),
        ({"size": "screw", "screw": "M8", "fit": "fine"}, rod(8.4, 20)),
        ({"size": "screw", "screw": "M8", "form": "tapped"}, rod(6.8, 20)),
        ({"size": "screw", "screw": "M6", "form": "counterbored"}, rod(6.6, 13.6) + rod(11, 6.4)),
        ({"size": "screw", "screw": "1/4-20 UNC", "form": "tapped"}, rod(5.1054, 20)),
    ],
)  # fmt: skip
def test_holes_take_what_they_should(fields, exact):
    assert taken(drilled(**fields)) == pytest.approx(exact, rel=1e-7)


def test_hole_faces_have_their_names_and_bad_sizes_their_reasons():
    m = drilled(form="counterbored", bore="6 mm", recess="11 mm", recess_depth="7 mm")
    assert {f"s4/p1/{r}" for r in ("wall", "recess", "shoulder")} <= names(m)
    m = drilled(form="countersunk", bore="6 mm", sink="12 mm", reach="blind", depth="9 mm",
                bottom="point")  # fmt: skip
    assert {f"s4/p1/{r}" for r in ("wall", "sink", "point")} <= names(m)
    for fields, said in (
        ({"form": "counterbored", "bore": "12 mm"}, "wider"),
        ({"form": "countersunk", "bore": "14 mm"}, "wider"),
        ({"form": "tapered", "bore": "4 mm", "taper": "20 deg"}, "closes"),
        (
            {
                "form": "tapped",
                "size": "screw",
                "reach": "blind",
                "depth": "6 mm",
                "thread": "9 mm",
            },
            "deeper",
        ),
        ({"size": "screw", "screw": "1/4-20 UNC", "form": "countersunk"}, "own sizes"),
        ({"size": "screw", "screw": "M7"}, "no screw M7"),
        ({"bore": "2 mm", "more": "-2 mm"}, "nothing is left"),
    ):
        assert said in trouble(drilled(**fields)).text


def test_a_recess_opens_both_ways_from_a_sketch_inside_the_body():
    m = block(depth="20 mm")
    s = Sketcher()
    s.point(30, 20)
    m.step("hole", sketch=m.sketch(s, {"base": "XY", "offset": {"formula": "12 mm"}}),
           form="counterbored", bore="6 mm", recess="11 mm", recess_depth="5 mm")  # fmt: skip
    found = taken(m)
    assert found == pytest.approx(rod(6, 20) + (rod(11, 6) - rod(6, 6)), rel=1e-6)


def test_tables_agree_with_each_other():
    """What must hold whatever the size: sorted, drill inside the thread, clearance outside."""
    for s in SCREWS.values():
        assert s.clear[0] < s.clear[1] < s.clear[2]
        assert s.diameter < s.clear[0]
        # The basic minor diameter is d - 1.0825 P; a drill lies a little above it.
        assert s.diameter - 1.0825 * s.pitch < s.drill < s.diameter - 0.6 * s.pitch
        if s.recess:
            assert s.recess > s.clear[2]
            assert s.recess_depth > s.diameter
        if s.sink:
            assert s.sink > 1.9 * s.diameter
    assert SCREWS["M10"].pitch == 1.5
    assert SCREWS["M12x1.5"].drill == 10.5

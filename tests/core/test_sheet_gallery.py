"""Ten parts of sheet metal, their sizes taken over wide ranges: sound throughout, their blanks whole, their picks on
what they meant."""

import pytest

from tests.core.test_sheet_parts import circle, edge, plated, sheet_of, trouble
from vireo.core.naming import make_pick, resolve
from vireo.core.naming.pick import Pick
from vireo.core.panels.flat import blank
from vireo.core.part.state import topology_by_key
from vireo.core.samples.maker import Maker
from vireo.core.samples.ways import line as drawn
from vireo.core.samples.ways import spots
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.clash import clashes


def tray():
    m = plated(120, 80)
    around = [p for at in ((60, 0), (120, 40), (60, 80), (0, 40)) for p in edge(m, *at, 1.5)]
    m.step("sheet_flange", edges=around, length="25 mm")
    return m


def lidded():
    m = tray()
    m.step(
        "sheet_flange",
        edges=edge(m, 60, 0, 25),
        length="12 mm",
        width="ends",
        start="10 mm",
        end="10 mm",
    )
    return m


def bracket():
    m = plated(80, 40)
    m.step(
        "sheet_flange", edges=edge(m, 80, 20, 1.5), length="50 mm", width="centred", wide="24 mm"
    )
    m.step("sheet_cut", sketch=m.sketch(circle(4.0, 30, 20)))
    return m


def hooked():
    m = plated(90, 50)
    m.step("sheet_hem", edges=edge(m, 90, 25, 1.5), length="9 mm", form="open", gap="2 mm")
    m.step("sheet_flange", edges=edge(m, 0, 25, 1.5), length="30 mm", angle="120 deg")
    return m


def stepped():
    m = plated(120, 40)
    m.step("sheet_joggle", sketch=m.sketch(drawn((70, -5), (70, 45))), height="8 mm")
    return m


def vented():
    m = tray()
    m.step("sheet_louvre", sketch=m.sketch(drawn((35, 40), (85, 40))), width="10 mm", height="4 mm")
    return m


def stiff():
    m = plated(140, 80)
    m.step("sheet_bead", sketch=m.sketch(drawn((40, 40), (100, 40))), width="14 mm", height="3 mm")
    m.step("sheet_flange", edges=edge(m, 70, 0, 1.5), length="20 mm")
    return m


def studded():
    m = plated(100, 60)
    m.step("sheet_dimple", sketch=m.sketch(spots((30, 30), (70, 30))), width="18 mm", height="3 mm")
    m.step("sheet_fold", sketch=m.sketch(drawn((50, 65), (50, -5))), angle="45 deg")
    return m


def strip():
    m = Maker()
    profile = m.sketch(drawn((0, 0), (40, 0), (40, 30), (70, 30)), {"base": "XZ", "face": None})
    m.step("sheet_strip", sketch=profile, radius="2 mm", width="40 mm")
    return m


def wrapped():
    m = Maker()
    m.step("primitive", width="80 mm", depth="50 mm", height="30 mm", result="new")
    faces = [
        p
        for n in ("under", "left", "right", "front")
        for p in m.pick("face", lambda f, n=n: f.name == f"s1/{n}")
    ]
    m.step("sheet_wrap", faces=faces)
    return m


#: By part: the step that is changed, its field, and values over a wide range.
PARTS = {
    tray: ("s3", "length", ["8 mm", "60 mm", "110 mm"]),
    lidded: ("s2", "radius", ["0.5 mm", "3 mm", "6 mm"]),
    bracket: ("s3", "wide", ["8 mm", "33 mm", "36 mm"]),
    hooked: ("s4", "angle", ["15 deg", "90 deg", "150 deg"]),
    stepped: ("s4", "height", ["5 mm", "20 mm", "40 mm"]),
    vented: ("s5", "height", ["2 mm", "6 mm", "9 mm"]),
    stiff: ("s4", "width", ["9 mm", "22 mm", "50 mm"]),
    studded: ("s6", "angle", ["5 deg", "90 deg", "120 deg"]),
    strip: ("s2", "thickness", ["0.5 mm", "2 mm", "4 mm"]),
    wrapped: ("s1", "height", ["12 mm", "90 mm", "300 mm"]),
}  # fmt: skip


@pytest.mark.parametrize("make", PARTS, ids=lambda f: f.__name__)
def test_a_part_of_the_gallery_goes_over_its_range(make):
    m = make()
    step, field, values = PARTS[make]
    assert trouble(m) == ""
    key, body = m.body()
    (id,) = m.build().bodies
    t = topology_by_key(key, body)
    picks = [
        make_pick(t, id, kind, i)
        for kind, group in (("face", t.faces), ("edge", t.edges), ("vertex", t.vertices))
        for i in range(len(group))
    ]
    for value in values:
        m.do("edit_step", id=step, fields={field: value})
        assert trouble(m) == "", value
        made = sheet_of(m)
        assert SheetBody.of(made.to_json()) == made
        assert not list(clashes(made))
        assert blank(made.sheet).area > 0.0
        now = m.topology()
        lost = 0
        for pick in picks:
            found = resolve(Pick.model_validate(pick), now)
            there = pick.name in now.names[pick.kind]
            lost += not there
            # What is not there any more is said to be lost, and never another.
            assert (found.index is not None) == there, (value, pick.name)
            assert not there or now.names[pick.kind][found.index] == pick.name
        assert lost <= 0.15 * len(picks), (value, lost)

"""Nothing said is taken for something else: names, limits, tools, lost regions, profiles."""

import re

import pytest

from tests.core.parts import Maker, block
from tests.core.test_clearance import box, cylinder
from tests.core.test_grow import boxed, trouble, volume
from vireo.core.documents import new_document
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.quantity import evaluate_parameters
from vireo.core.quantity.tables import limits_of
from vireo.script.sketch import Sketch as Sketcher


def test_renaming_leaves_words_that_only_look_like_formulas():
    """Parameters called like words of choices, bodies, materials and texts of a sketch."""
    m = Maker()
    for name in ("box", "new", "X", "steel", "b_s1", "top"):
        m.do("add_parameter", name=name, formula="20 mm")
    m.step("primitive", form="box", width="box", depth="new*2", height="top")
    m.do("set_body", body="b_s1", name="steel", material="steel")
    before = m.part.model_dump(mode="json")
    for name in ("box", "new", "X", "steel", "b_s1", "top"):
        m.do("rename_parameter", name=name, new=f"n_{name}")
    after = m.part.model_dump(mode="json")
    fields = after["steps"][0]["fields"]
    assert fields["form"] == "box"
    assert fields["result"] == "new"
    assert (fields["width"], fields["depth"], fields["height"]) == ("n_box", "n_new*2", "n_top")
    assert after["looks"] == before["looks"]
    assert volume(m) == pytest.approx(20 * 40 * 20)


def test_renaming_reaches_every_kind_of_formula():
    d = new_document("assembly", "A")
    for command in (
        {"do": "add_parameter", "name": "w", "formula": "20 deg", "limits": "≤ 40 deg"},
        {"do": "add_parameter", "name": "v", "formula": "w*2", "limits": "w … w*3"},
        {"do": "add_check", "kind": "mass", "name": "w", "fields": {}, "limit": "w*1 kg/1 deg"},
    ):
        d = run(parse(command), d)
    d = run(parse({"do": "rename_parameter", "name": "w", "new": "swing"}), d)
    assert d.parameters[1].formula == "swing*2"
    assert (d.parameters[1].limits.least, d.parameters[1].limits.most) == ("swing", "swing*3")
    assert d.checks[0].limit == "swing*1 kg/1 deg"
    assert d.checks[0].name == "w"


@pytest.mark.parametrize(
    ("typed", "ends"),
    [
        ("12.7 mm - 50.8 mm", ("12.7 mm", "50.8 mm")),
        ("12.7 – 50.8 mm", ("12.7 mm", "50.8 mm")),
        ("2 mm to 5 mm", ("2 mm", "5 mm")),
        ("-5 mm … 5 mm", ("-5 mm", "5 mm")),
    ],
)
def test_two_values_with_a_dash_are_a_range(typed, ends):
    found = limits_of(typed)
    assert (found.least, found.most) == ends


def test_a_list_shares_the_unit_of_its_last():
    assert limits_of("15, 20, 25, 30 deg").values == ("15 deg", "20 deg", "25 deg", "30 deg")
    assert limits_of("1, 2 mm, 3").values == ("1", "2 mm", "3")
    assert limits_of("w, w*2").values == ("w", "w*2")


def test_a_broken_limit_offers_the_nearest_allowed():
    m = Maker()
    m.do("add_parameter", name="d", formula="27 mm", limits="20, 26, 32, 40 mm")
    state = evaluate_parameters(m.part.parameters)["d"]
    assert [o.label for o in state.trouble.offers] == ["Use 26 mm", "Use 32 mm"]
    for command in state.trouble.offers[0].commands:
        m.part = run(parse(command), m.part)
    assert evaluate_parameters(m.part.parameters)["d"].trouble is None
    m.do("edit_parameter", name="d", formula="50 mm", limits="10 mm … 45 mm")
    (offer,) = evaluate_parameters(m.part.parameters)["d"].trouble.offers
    assert offer.commands == [{"do": "edit_parameter", "name": "d", "formula": "45 mm"}]


def test_a_kept_tool_has_no_mass_and_is_not_handed_over():
    m = Maker()
    box(m, 20, 20, 20)
    pin = cylinder(m, 8, 40, 10, 10, -10)
    m.step("combine", operation="cut", target=["b_s1"], tools=[f"b_{pin}"], keep=True)
    found = m.build()
    assert found.bodies[f"b_{pin}"]["tool"]
    assert found.volume == pytest.approx(8000 - 3.141592653589793 * 16 * 20)
    assert list(found.handed_over) == ["b_s1"]
    assert found.bodies[f"b_{pin}"]["mass"] == 0
    m.do("set_body", body=f"b_{pin}", tool=False)
    assert set(m.build().handed_over) == {"b_s1", f"b_{pin}"}
    m.do("set_body", body="b_s1", tool=True)
    assert list(m.build().handed_over) == [f"b_{pin}"]


def test_a_lost_region_names_the_curves_that_went():
    m = Maker()
    s = boxed(20, 20)
    sketch = m.sketch(s)
    from vireo.core.kernel.profile import arrange

    curves = m.build().state.products["sketch"][sketch].curves
    (region,) = arrange(curves).regions
    pick = {"id": region.id, "at": region.at, "area": region.area, "curves": region.curves}
    m.step("extrude", sketch=sketch, regions=[pick], depth="5 mm")
    drawing = {**s.drawing, "entities": [dict(e) for e in s.drawing["entities"]]}
    line = next(e for e in drawing["entities"] if e["type"] == "line")
    drawing["constraints"] = [k for k in drawing["constraints"] if line["id"] not in k["on"]]
    was, line["id"] = line["id"], "l99"
    m.do("edit_step", id=sketch, fields={"drawing": drawing})
    assert f"{was} that bounded it went" in trouble(m).text


def test_no_inner_id_reaches_a_person():
    m = Maker()
    box(m, 100, 20, 10)
    peg = cylinder(m, 6, 8, 10, 10, 20)
    row = m.step("copies_linear", what="bodies", bodies=[f"b_{peg}"], count="4", spacing="20 mm")
    face = m.pick("face", lambda f: f.kind == "cylinder", f"b_{row}_3")
    m.step("offset_faces", faces=face, by="1 mm")
    m.do("edit_step", id=row, fields={"count": "2"})
    text = trouble(m).text
    assert not re.search(r"\bb?_?s\d+", text), text
    assert "Copies along a line, number 3" in text


def test_a_profile_drawn_off_its_edges_is_put_to_their_start():
    m = block()
    s = Sketcher()
    s.circle(s.point(0, 0), 1.0)
    profile = m.sketch(s, {"base": "XY", "face": None, "offset": {"formula": "50 mm"}})
    edge = m.pick("edge", lambda e: e.kind == "line" and abs(e.direction[0]) > 0.9 and e.at[2] > 9
                  and e.at[1] < 1)  # fmt: skip
    m.step("sweep", sketch=profile, along="edges", edges=edge, result="new")
    found = m.build()
    assert found.steps[-1].error is None, found.steps[-1].error
    assert found.bodies[f"b_{m.part.steps[-1].id}"]["volume"] == pytest.approx(
        3.141592653589793 * 60, rel=1e-6
    )

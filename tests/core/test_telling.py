"""Documents told as commands and scripts, and made from them again."""

import ast

import pytest

from tests.core.gallery import GALLERY
from tests.core.parts import Maker
from tests.core.test_bodies import brick, up
from vireo.core.documents import new_document
from vireo.core.documents.commands import apply_all
from vireo.core.telling import Teller, commands_of, script_of, variable_for


def again(document):
    made, _ = apply_all(new_document(document.kind, document.name), commands_of(document))
    return made


@pytest.mark.parametrize("name", GALLERY)
def test_gallery_parts_are_made_again_exactly(name):
    part = GALLERY[name]().maker.part
    assert again(part) == part
    ast.parse(script_of([("d1", part)]))


def test_gaps_order_marks_looks_and_views_come_along():
    m = brick(40, 30, 20)
    gone = m.step("primitive", form="sphere", x="99 mm")
    rounded = m.step("fillet", edges=m.pick("edge", lambda e: e.kind == "line"), radius="1 mm")
    m.do("remove_step", id=gone)
    early = m.step("primitive", form="box", x="50 mm")
    m.do("move_step", id=early, to=0)
    m.do("sleep_step", id=rounded, asleep=True)
    m.do("set_target", id="s1", target="24 cm**3")
    m.do("add_check", kind="mass", name="Light", limit="1 kg")
    m.do("set_body", body="b_s1", colour="#112233", name="Block")
    m.do("paint_faces", picks=m.pick("face", up, "b_s1"), colour="#445566")
    m.do("keep_view", view={"name": "Cut", "eye": [0, -1, 0], "up": [0, 0, 1], "target": [0, 0, 0],
                            "height": 90, "cut": {"kind": "box", "low": [0, 0, 0], "high": [9, 9, 9]}})  # fmt: skip
    m.do("add_step", kind="shell", fields={"open": m.pick("face", up, "b_s1"), "wall": "2 mm"})
    m.do("remove_step", id=m.part.steps[-1].id)
    m.do("set_marker", at=2)
    assert again(m.part) == m.part
    assert [s.id for s in again(m.part).steps] == [early, "s1", rounded]


def test_ids_of_what_a_script_made_are_variables_wherever_they_stand():
    teller = Teller("part", "part")
    teller.starts_at(4)
    lines = teller.lines(
        [
            {"do": "add_step", "kind": "primitive", "name": "s5 of a kind", "fields": {}},
            {"do": "edit_step", "id": "s5", "fields": {"width": "s5 mm"}},
            {"do": "add_step", "kind": "measured", "fields": {"name": "gap", "of": "x"}},
            {"do": "set_body", "body": "b_s5_s12", "name": "x{1}"},
            {"do": "edit_parameter", "name": "wall", "formula": "3 mm"},
        ]
    )
    assert lines == [
        "s5 = part.primitive('s5 of a kind')",
        "part.edit(s5, width=f'{s5} mm')",
        "s6 = part.measured(name='gap', of='x')",
        "part.do('set_body', body=f'b_{s5}_s12', name='x{1}')",
        "part.set(wall='3 mm')",
    ]


@pytest.mark.parametrize(
    ("name", "taken", "variable"),
    [("Base plate", (), "base_plate"), ("Base plate", ("base_plate",), "base_plate_2"),
     ("1st ½ größe", (), "d_1st_gr_e"), ("class", (), "d_class"), ("S5", (), "s5_"), ("…", (), "document")],
)  # fmt: skip
def test_documents_get_names_that_are_variables(name, taken, variable):
    assert variable_for(name, taken) == variable
    assert variable.isidentifier()


def test_a_fresh_part_needs_nothing_said():
    assert commands_of(Maker().part) == []

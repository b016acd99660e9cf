"""Kinds of step of the user's own: a file in the folder adds one; it runs in workers only."""

import math
import os
import shutil
from pathlib import Path

import pytest

EXAMPLE = Path(__file__).parents[2] / "docs/examples/steps/teardrop.py"


@pytest.fixture
def folder(api):
    found = api.server.data / "steps"
    found.mkdir(exist_ok=True)
    yield found
    for path in found.glob("*.py"):
        path.unlink()
    api.get("/api/kinds")


def kinds(api):
    status, found = api.get("/api/kinds")
    assert status == 200
    return {k["kind"]: k for k in found["steps"]}, found["troubles"]


def box(api) -> str:
    id = api.document()
    sizes = {"width": "40 mm", "depth": "20 mm", "height": "20 mm"}
    api.do(id, {"do": "add_step", "kind": "primitive", "fields": sizes})
    return id


def test_a_file_adds_a_step_with_editor_checks_and_names(api, folder):
    assert "teardrop" not in kinds(api)[0]
    shutil.copy(EXAMPLE, folder)
    found, troubles = kinds(api)
    assert not troubles
    assert [f["label"] for f in found["teardrop"]["fields"]][:3] == ["Along", "Bore", "Length"]
    id = box(api)
    fields = {"bore": "8 mm", "length": "40 mm", "y": "10 mm"}
    status, said = api.do(id, {"do": "add_step", "kind": "teardrop", "fields": fields})
    assert status == 200, said
    # Three quarters of the circle and the square in its corner.
    area = 0.75 * math.pi * 16 + 16
    assert api.build(id)["volume"] == pytest.approx(16000 - area * 40)
    # Checked like any other: choices, units, limits, unknown fields.
    for wrong, says in (({"along": "Z"}, "along"), ({"hue": 1}, "hue")):
        status, said = api.do(id, {"do": "edit_step", "id": "s2", "fields": wrong})
        assert status == 422
        assert says in said["error"]["text"]
    api.do(id, {"do": "edit_step", "id": "s2", "fields": {"bore": "2 kg"}})
    assert "Bore is length" in api.build(id)["steps"][1]["error"]["text"]
    # Copies do it again; a change of the file is noticed and builds anew.
    api.do(id, {"do": "edit_step", "id": "s2", "fields": {"bore": "4 mm"}})
    copies = {"steps": ["s2"], "count": "2", "spacing": "-6 mm", "way": "Z"}
    api.do(id, {"do": "add_step", "kind": "copies_linear", "fields": copies})
    area = 0.75 * math.pi * 4 + 4
    assert api.build(id)["volume"] == pytest.approx(16000 - 2 * area * 40)
    text = (
        (folder / "teardrop.py").read_text().replace('ctx.value("bore") / 2', 'ctx.value("bore")')
    )
    (folder / "teardrop.py").write_text(text)
    kinds(api)
    area = 0.75 * math.pi * 16 + 16
    assert api.build(id, revision=api.get(f"/api/documents/{id}")[1]["revision"])["steps"][1][
        "volume"
    ] == pytest.approx(16000 - area * 40)
    # Without its file the step says so, and the others go on.
    (folder / "teardrop.py").unlink()
    kinds(api)
    steps = api.build(id)["steps"]
    assert "no step called teardrop" in steps[1]["error"]["text"]
    assert steps[0]["status"] == "ok"


BROKEN = {
    "syntax.py": ("def (:\n", "syntax.py line 1: SyntaxError"),
    "none.py": ("x = 1\n", "registers 0"),
    "raises.py": ("import os\n\nraise RuntimeError('no luck')\n", "raises.py line 3: RuntimeError: no luck"),
    "taken.py": (EXAMPLE.read_text().replace('"teardrop"', '"hole"'), "there already is a step called hole"),
}  # fmt: skip


def test_files_that_cannot_be_loaded_are_told_with_their_line(api, folder):
    for name, (text, _) in BROKEN.items():
        (folder / name).write_text(text)
    found, troubles = kinds(api)
    assert "hole" in found
    assert len(found["hole"]["fields"]) > 10
    said = [t["text"] for t in troubles]
    for _, (_, says) in BROKEN.items():
        assert any(says in t for t in said), (says, said)


HARM = """
import os
from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register

class Fields(f.StepFields):
    pass

@register
class Harm(StepKind[Fields]):
    kind, label, group, icon, line = "harm", "Harm", "Grow", "box", "Takes its process down"
    Fields = Fields

    def build(self, fields, ctx):
        os.kill(os.getpid(), 11)
"""


def test_a_step_that_takes_its_process_down_takes_no_more(api, folder):
    (folder / "harm.py").write_text(HARM)
    kinds(api)
    id = box(api)
    api.do(id, {"do": "add_step", "kind": "harm", "fields": {}})
    steps = api.build(id)["steps"]
    assert steps[0]["status"] == "ok"
    assert "crashed" in steps[1]["error"]["text"]
    assert os.kill(api.server.process.pid, 0) is None

"""Share copies over the wire: looked at, kept by name, written, refused when they would tell too much."""

import numpy as np
import pytest

from vireo.core.exchange.steptree import step_tree
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.shape import solids_of


def block(api, project, name, low, high, hollow=None):
    """A box between two corners, with another taken out of its inside."""
    id = api.document(project=project, name=name)
    size = np.subtract(high, low)
    fields = {"width": f"{size[0]} mm", "depth": f"{size[1]} mm", "height": f"{size[2]} mm",
              "x": f"{low[0]} mm", "y": f"{low[1]} mm", "z": f"{low[2]} mm"}  # fmt: skip
    commands = [{"do": "add_step", "kind": "primitive", "fields": fields}]
    if hollow:
        size = np.subtract(hollow[1], hollow[0])
        inner = {"width": f"{size[0]} mm", "depth": f"{size[1]} mm", "height": f"{size[2]} mm",
                 "x": f"{hollow[0][0]} mm", "y": f"{hollow[0][1]} mm", "z": f"{hollow[0][2]} mm",
                 "result": "cut"}  # fmt: skip
        commands.append({"do": "add_step", "kind": "primitive", "fields": inner})
    answer = api.do(id, *commands)
    assert answer[0] == 200, answer
    return id


@pytest.fixture
def machine(api):
    project = api.project()
    case = block(api, project, "Case", (0, 0, 0), (100, 80, 60), ((10, 10, 10), (90, 70, 50)))
    rotor = block(api, project, "Rotor 7", (40, 30, 10), (60, 50, 30))
    knob = block(api, project, "Knob", (40, 30, 60), (60, 50, 75))
    api.do(rotor, {"do": "set_property", "name": "Supplier", "value": "Windings & Sons"})
    knob = block(api, project, "Knob", (40, 30, 60), (60, 50, 75))
    api.do(rotor, {"do": "set_properties",
                   "properties": [{"name": "Supplier", "value": "Windings & Sons"}]})  # fmt: skip
    id = api.document("assembly", project)
    answer = api.do(id, *({"do": "add_component", "document": d, "name": n}
                          for d, n in ((case, "Case"), (rotor, "Rotor"), (knob, "Knob"))))  # fmt: skip
    assert answer[0] == 200, answer
    return id, rotor


def file(api, id, share):
    return api.get(f"/api/documents/{id}/share.step?share={share}")


def test_a_share_copy_is_looked_at_kept_and_written(api, machine):
    id, _ = machine
    status, look = api.post(f"/api/documents/{id}/share/look", {})
    assert status == 200, look
    rows = {r["name"]: r for r in look["rows"]}
    assert [n for n, r in rows.items() if r["hidden"]] == ["Rotor"]
    assert (rows["Case"]["before"], rows["Case"]["after"], rows["Case"]["left"]) == (12, 6, 0)
    assert len(look["leaves"]) == 2
    assert api.get(f"/api/meshes/{look['leaves'][0]['key']}")[0] == 200
    rules = [{"by": "name", "what": "kn*", "level": "box"}]
    api.do(id, {"do": "keep_share", "name": "Foundry", "rules": rules, "looks": False})
    status, data = file(api, id, "Foundry")
    assert status == 200, data
    assert sorted(r.name for r in step_tree(data).rows()[1:]) == ["Case", "Knob"]
    solids = sorted(volume_of(s) for s in solids_of(read_shape(data).shape))
    assert solids == pytest.approx([20 * 20 * 15, 100 * 80 * 60])
    assert b"Windings" not in data
    assert b"Rotor" not in data
    # It comes back with the document, and under the same name it is kept anew.
    api.do(id, {"do": "keep_share", "name": "Foundry", "rules": [], "level": "exact"})
    (kept,) = api.get(f"/api/documents/{id}")[1]["document"]["shares"]
    assert (kept["level"], kept["rules"]) == ("exact", [])


def test_rules_by_property_and_what_a_name_gives_away(api, machine):
    """The rotor is shown because the last rule says so; a case named after it gives it away."""
    id, _ = machine
    rules = [{"by": "property", "what": "supplier=wind*", "level": "exact"}]
    look = api.post(f"/api/documents/{id}/share/look", {"rules": rules})[1]
    rows = {r["name"]: r for r in look["rows"]}
    assert (rows["Rotor"]["level"], rows["Rotor"]["rule"], rows["Rotor"]["hidden"]) == (
        "exact",
        0,
        False,
    )
    api.do(id, {"do": "edit_component", "id": "c1", "name": "Case by windings & sons"})
    api.do(id, {"do": "keep_share", "name": "Out", "rules": []})
    status, answer = file(api, id, "Out")
    assert status == 422
    assert "the property “Windings & Sons”" in answer["error"]["text"]
    assert "not handed over" in answer["error"]["text"]


def test_what_cannot_be_shared_is_refused_in_words(api, machine):
    id, rotor = machine
    assert "there is no share copy" in file(api, id, "Nobody")[1]["error"]["text"]
    everything = {"rules": [{"by": "name", "what": "*", "level": "out"}]}
    status, answer = api.post(f"/api/documents/{id}/share/look", everything)
    assert status == 422
    assert "nothing would be left" in answer["error"]["text"]
    status, answer = api.post(f"/api/documents/{rotor}/share/look", {})
    assert (status, answer["error"]["text"]) == (422, "only an assembly has a share copy")
    assert api.post(f"/api/documents/{id}/share/look", {"level": "half"})[0] == 422

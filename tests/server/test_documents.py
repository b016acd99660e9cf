"""Editing by commands, undo and redo, building, answers that fit their schema."""

import threading

import pytest

from vireo.server.views.assembly import AssemblyView
from vireo.server.views.jobs import ChecksView
from vireo.server.views.library import Registries
from vireo.server.views.part import BuildView


def test_a_part_is_built_edited_undone_and_redone_exactly(api):
    id = api.plate()
    first = api.build(id)
    BuildView.model_validate(first)
    assert first["volume"] == pytest.approx(24000)
    before = api.get(f"/api/documents/{id}")[1]
    api.do(id, {"do": "edit_parameter", "name": "w", "formula": "90 mm"})
    assert api.build(id)["volume"] == pytest.approx(36000)
    head = api.get(f"/api/documents/{id}")[1]
    _, back = api.post(f"/api/documents/{id}/undo", {"base": head["revision"]})
    assert back["document"] == before["document"]
    again = api.build(id)
    assert again["bodies"] == first["bodies"]  # the same content keys: the same mesh
    _, forward = api.post(f"/api/documents/{id}/redo", {"base": back["revision"]})
    assert forward["document"] == head["document"]


def test_undo_of_everything_gives_the_empty_document(api):
    id = api.plate()
    steps = 0
    while True:
        now = api.get(f"/api/documents/{id}")[1]
        if now["undo"] is None:
            break
        assert api.post(f"/api/documents/{id}/undo", {"base": now["revision"]})[0] == 200
        steps += 1
    assert steps == 3
    assert now["document"]["steps"] == []
    assert now["document"]["parameters"] == []
    status, said = api.post(f"/api/documents/{id}/undo", {"base": now["revision"]})
    assert status == 422
    assert "nothing to undo" in said["error"]["text"]


def test_a_stale_edit_gets_409_with_what_changed_and_overwrites_nothing(api):
    id = api.plate()
    base = api.get(f"/api/documents/{id}")[1]["revision"]
    assert (
        api.do(id, {"do": "edit_parameter", "name": "w", "formula": "70 mm"}, base=base)[0] == 200
    )
    status, said = api.do(id, {"do": "edit_parameter", "name": "w", "formula": "10 mm"}, base=base)
    assert status == 409
    assert said["head"] == base + 1
    assert said["changes"] == ["w = 70 mm"]
    assert api.get(f"/api/documents/{id}")[1]["document"]["parameters"][0]["formula"] == "70 mm"


def test_two_tabs_editing_at_once_lose_nothing_silently(api):
    id = api.plate()
    base = api.get(f"/api/documents/{id}")[1]["revision"]
    results = []

    def edit(n):
        results.append(
            (
                n,
                api.do(id, {"do": "add_parameter", "name": f"p{n}", "formula": "1 mm"}, base=base)[
                    0
                ],
            )
        )

    threads = [threading.Thread(target=edit, args=(n,)) for n in range(6)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    won = [n for n, status in results if status == 200]
    assert len(won) == 1
    assert sorted(status for _, status in results) == [200, 409, 409, 409, 409, 409]
    names = [p["name"] for p in api.get(f"/api/documents/{id}")[1]["document"]["parameters"]]
    assert names == ["w", f"p{won[0]}"]


def test_commands_go_together_or_not_at_all(api):
    id = api.plate()
    status, said = api.do(
        id,
        {"do": "add_parameter", "name": "ok", "formula": "1 mm"},
        {"do": "remove_step", "id": "s1"},
    )
    assert status == 422
    assert "needed by" in said["error"]["text"]
    assert len(api.get(f"/api/documents/{id}")[1]["document"]["parameters"]) == 1


@pytest.mark.parametrize(
    ("command", "says"),
    [
        ({"do": "explode"}, "no command"),
        ({"do": "add_step", "kind": "fold"}, "no step called"),
        ({"do": "add_step", "kind": "extrude", "fields": {"sketch": "s1", "depth": [5]}}, "depth"),
        (
            {"do": "add_step", "kind": "extrude", "fields": {"sketch": "s1", "colour": "red"}},
            "colour",
        ),
        ({"do": "edit_step", "id": "s99", "fields": {}}, "no step s99"),
        ({"do": "add_joint", "kind": "rigid"}, "add_joint"),
        ({"do": "add_parameter", "name": "x", "formula": "1" * 600}, "500"),
    ],
)
def test_bad_commands_are_refused_with_reasons(api, command, says):
    id = api.plate()
    status, said = api.do(id, command)
    assert status == 422
    assert says in said["error"]["text"]


def test_trying_out_keeps_nothing(api):
    id = api.plate()
    before = api.get(f"/api/documents/{id}")[1]
    trial = {"commands": [{"do": "edit_step", "id": "s2", "fields": {"depth": "5 mm"}}], "upto": 2}
    status, found = api.post(f"/api/documents/{id}/try", trial)
    assert status == 200
    assert found["volume"] == pytest.approx(12000)
    assert api.get(f"/api/documents/{id}")[1] == before


def test_meshes_have_etags_and_unknown_ones_are_404(api):
    key = api.build(api.plate())["bodies"][0]["key"]
    status, data = api.get(f"/api/meshes/{key}")
    assert status == 200
    assert data[:3] == b"FRM"
    assert api.get(f"/api/meshes/{key}", headers={"If-None-Match": f'"{key}"'})[0] == 304
    assert api.get(f"/api/meshes/{'0' * 32}")[0] == 404
    assert api.get("/api/meshes/..%2f..%2fetc%2fpasswd")[0] == 404


def test_sketch_solving_and_regions(api):
    id = api.plate()
    drawing = api.get(f"/api/documents/{id}")[1]["document"]["steps"][0]["fields"]["drawing"]
    status, found = api.post(
        "/api/sketch/solve", {"document": id, "drawing": drawing, "pull": {"p3": [90, 70]}}
    )
    assert status == 200
    assert found["freedom"] == 0
    status, found = api.post("/api/sketch/regions", {"document": id, "drawing": drawing})
    assert [r["area"] for r in found["regions"]] == pytest.approx([2400])


def test_own_materials_enter_mass(api):
    project = api.project()
    id = api.plate(project)
    lead = {
        "id": "Pb",
        "name": "Lead",
        "density": 11340,
        "young": 16000,
        "poisson": 0.44,
        "strength": 12,
    }
    assert api.post(f"/api/projects/{project}/materials", lead)[0] == 200
    api.do(id, {"do": "set_material", "material": "Pb"})
    assert api.build(id)["mass"] == pytest.approx(24000 * 11340e-6)
    assert api.post(f"/api/projects/{project}/materials", {**lead, "density": -1})[0] == 422


def test_checks_of_a_part_run_again_after_a_change(api):
    id = api.plate()
    api.do(id, {"do": "add_check", "kind": "mass", "name": "Light", "limit": "200 g"})
    (check,) = api.get(f"/api/documents/{id}/checks")[1]["checks"]
    ChecksView.model_validate({"checks": [check]})
    assert check["state"] == "holds"
    assert check["shown"] == "188.4 g"
    api.do(id, {"do": "edit_parameter", "name": "w", "formula": "80 mm"})
    (check,) = api.get(f"/api/documents/{id}/checks")[1]["checks"]
    assert check["state"] == "fails"
    api.do(id, {"do": "edit_check", "id": check["id"], "limit": "3 mm"})
    (check,) = api.get(f"/api/documents/{id}/checks")[1]["checks"]
    assert "length" in check["trouble"]["text"]


def test_what_is_used_cannot_be_deleted_and_assemblies_hold_no_loops(api):
    project = api.project()
    part = api.plate(project)
    one, two = api.document("assembly", project), api.document("assembly", project)
    api.do(one, {"do": "add_component", "document": part, "name": "P"})
    status, said = api.server.call("DELETE", f"/api/documents/{part}")
    assert status == 422
    assert "is used by" in said["error"]["text"]
    api.do(two, {"do": "add_component", "document": one, "name": "One"})
    status, found = api.get(f"/api/documents/{two}/assembly")
    assert status == 200
    AssemblyView.model_validate(found)
    assert len(found["leaves"]) == 1
    status, said = api.do(one, {"do": "add_component", "document": two, "name": "Two"})
    assert status == 422
    assert "would contain itself" in said["error"]["text"]


def test_the_registry_tells_all_an_editor_needs(api):
    found = api.get("/api/kinds")[1]
    Registries.model_validate(found)
    extrude = next(k for k in found["steps"] if k["kind"] == "extrude")
    result = next(f for f in extrude["fields"] if f["name"] == "result")
    assert list(result["words"]) == ["new", "add", "cut", "overlap"]


def test_events_tell_other_tabs(api):
    id = api.plate()
    with api.listening() as news:
        api.do(id, {"do": "edit_parameter", "name": "w", "formula": "61 mm"})
        assert next(n for n in news if n.get("id") == id)["kind"] == "document"
        api.build(id)
        built = [next(n for n in news if n["kind"] == "building") for _ in range(2)]
        assert [(n["id"], n["step"]) for n in built] == [(id, "s1"), (id, "s2")]

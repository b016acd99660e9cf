"""A kind of document, product, joint, check and job, each one file (`tests/kinds`): that they are
stored, described, built, checked, told as a script and helped with follows from those files."""

from __future__ import annotations

import importlib.util
import json
import sys
from pathlib import Path

import numpy as np
import pytest

from tests import kinds
from vireo.core.assembly import Mechanism, Member, Pair, solve
from vireo.core.assembly.pose import Pose
from vireo.core.checks.kind import CHECK_KINDS
from vireo.core.declared.joint import JOINTS
from vireo.core.declared.step import KINDS
from vireo.core.documents import DOCUMENT_KINDS, dump, load_document, new_document
from vireo.core.documents.commands import REGISTRY
from vireo.core.help.pages import pages
from vireo.core.part.products.kind import PRODUCTS
from vireo.core.telling import script_of
from vireo.core.trouble import BadInput
from vireo.server.app import create_app
from vireo.work.archive import export_project, import_project
from vireo.work.jobs.kind import JOBS
from vireo.work.services import Services
from vireo.work.worker import TASKS

REGISTRIES = (CHECK_KINDS, JOINTS, KINDS, DOCUMENT_KINDS, PRODUCTS, JOBS)


@pytest.fixture(scope="module", autouse=True)
def read():
    """The files of `tests/kinds` read for these tests and forgotten after them."""
    before = [set(r) for r in REGISTRIES]
    tables = [dict(REGISTRY), dict(TASKS)]
    for file in sorted(Path(kinds.__path__[0]).glob("[a-z]*.py")):
        spec = importlib.util.spec_from_file_location(f"tests.kinds.{file.stem}", file)
        sys.modules[spec.name] = module = importlib.util.module_from_spec(spec)
        spec.loader.exec_module(module)
    added = [set(r) - b for r, b in zip(REGISTRIES, before, strict=True)]
    yield added
    for registry, words in zip(REGISTRIES, added, strict=True):
        for word in words:
            registry.discard(word)
    for table, was in zip((REGISTRY, TASKS), tables, strict=True):
        for word in set(table) - set(was):
            del table[word]


@pytest.fixture(scope="module")
def services(read, tmp_path_factory):
    found = Services.open(tmp_path_factory.mktemp("kinds"), workers=1, forked=True)
    # The lane of jobs too: what is registered by a test only is known by forks of it only.
    found.queue._own.start(forked=True)
    yield found
    found.close()


@pytest.fixture(scope="module")
def api(services):
    """The application, asked without a server in between."""
    client = create_app(services).test_client()

    def ask(method, path, body=None):
        answer = client.open(path, method=method, json=body)
        return answer.status_code, json.loads(answer.data)

    return ask


@pytest.fixture(scope="module")
def project(services):
    return services.store.create_project("Kinds")


def make(api, project, kind, *commands):
    _, made = api("POST", f"/api/projects/{project}/documents", {"kind": kind, "name": f"A {kind}"})
    do(api, made["id"], *commands)
    return made["id"]


def do(api, id, *commands):
    base = api("GET", f"/api/documents/{id}")[1]["revision"]
    ask = {"base": base, "commands": list(commands)}
    status, found = api("POST", f"/api/documents/{id}/commands", ask)
    assert status == 200, found


WEIGHTS = (
    {"do": "add_parameter", "name": "lump", "formula": "200 g"},
    {"do": "add_weight", "name": "Left", "mass": "2 * lump"},
    {"do": "add_weight", "name": "Right", "mass": "lump / 4"},
)


def test_each_file_adds_one_kind(read):
    assert [sorted(words) for words in read] == [
        ["heaviness"], ["slotted"], ["count"], ["ballast"], ["tally"], ["weigh"],
    ]  # fmt: skip


def test_a_document_is_stored_changed_renamed_and_read_again(api, services, project):
    id = make(api, project, "ballast", *WEIGHTS)
    do(api, id, {"do": "rename_parameter", "name": "lump", "new": "clump"})
    _, view = api("GET", f"/api/documents/{id}")
    assert [w["mass"] for w in view["document"]["weights"]] == ["2 * clump", "clump / 4"]
    stored = services.store.document(id).document
    assert load_document(json.loads(json.dumps(dump(stored)))) == stored
    with pytest.raises(BadInput, match="newer program"):
        load_document({**dump(stored), "schema_version": 2})
    task, request = services.builds.request(project, stored)
    assert services.builds.run(task, request, sticky=None)["masses"] == pytest.approx(
        {"w1": 400, "w2": 50}
    )


def test_a_project_that_holds_one_goes_out_and_comes_back_with_what_it_refers_to(api, services):
    other = services.store.create_project("Going out")
    part = make(api, other, "part", {"do": "add_parameter", "name": "a", "formula": "1 mm"})
    made = new_document("ballast", "Hung", part=part)
    services.store.create_document(other, made)
    _, data = export_project(services.store, other)
    back = import_project(services.store, data)
    found = {d.kind: d for d in services.store.documents_of(back)}
    assert found["ballast"].document.part == found["part"].id != part


def test_its_model_its_word_and_its_groups_are_declared(api):
    _, schema = api("GET", "/api/openapi.json")
    assert schema["components"]["schemas"]["Ballast"]["properties"]["weights"]
    assert "ballast" in json.dumps(schema["components"]["schemas"])
    _, found = api("GET", "/api/kinds")
    document = next(d for d in found["documents"] if d["kind"] == "ballast")
    assert document["groups"][0] == {"name": "weights", "word": "weight"}
    assert next(j for j in found["joints"] if j["kind"] == "slotted")["coordinates"] == [
        {"name": "along", "label": "Along the slot", "unit": "mm"},
        {"name": "turn", "label": "Turn", "unit": "deg"},
    ]
    assert next(c for c in found["checks"] if c["kind"] == "heaviness")["documents"] == ["ballast"]
    assert next(s for s in found["steps"] if s["kind"] == "count")["fields"][0]["name"] == "each"


def test_help_has_a_page_or_a_line_for_each(api):
    found = {p.id: p for p in pages()}
    assert found["document:ballast"].line == "Weights hung on a part"
    assert "project.ballast" in repr(found["document:ballast"])
    assert "part.count" in repr(found["step:count"])
    assert found["check:heaviness"].title == "Check: Weight of ballast"
    assert "Pin in slot" in repr(found["assembly:joints"])


def test_a_job_answers_by_content_and_a_check_by_the_job(api, services, project):
    limit = {"do": "add_check", "kind": "heaviness", "name": "Light", "limit": "0.4 kg"}
    id = make(api, project, "ballast", *WEIGHTS, limit)
    first = services.jobs.wait(services.jobs.start("weigh", id, {"times": 2}).id)
    assert first.state == "done", first.error
    assert first.result["total"] == pytest.approx(900)
    do(api, id, {"do": "rename_parameter", "name": "lump", "new": "brick"})
    again = services.jobs.start("weigh", id, {"times": 2})
    assert again.id == first.id
    assert services.jobs.start("weigh", id, {"times": 3}).id != first.id
    with pytest.raises(BadInput, match="many"):
        services.jobs.start("weigh", id, {"many": 3})
    (check,) = services.checks.run(id, wait=True)
    assert (check["state"], check["shown"]) == ("fails", "450 g")


def test_a_product_of_a_step_reaches_the_screen_and_is_kept(api, project):
    count = {"do": "add_step", "kind": "count", "fields": {"each": "3 mm"}}
    id = make(api, project, "part", count)
    for kept in (False, True):
        (step,) = api("GET", f"/api/documents/{id}/build")[1]["steps"]
        assert (step["status"], step["tally"]) == ("ok", {"each": 3.0})
        assert step["kept"] or not kept


@pytest.mark.parametrize("start", [(3.0, 4.0, 5.0), (-20.0, 1.0, 0.0)])
def test_a_joint_holds_and_is_driven(start):
    """A pin in a slot along x: driven, it stays on the line and upright, wherever it began."""
    upright = np.array([1.0, 0, 0, 0])
    members = (
        Member("slot", Pose(np.zeros(3), upright), True, 5.0),
        Member("pin", Pose(np.array(start), upright), False, 5.0),
    )
    eye, origin = np.eye(3), np.zeros(3)
    guide = Mechanism(members, (Pair("j1", "slotted", 0, 1, origin, eye, origin, eye),))
    free = solve(guide)
    assert (free.holds, free.freedom) == (True, 2)
    found = solve(guide.with_value("j1", "along", 12.0))
    assert found.holds
    assert found.poses[1].p == pytest.approx([12.0, 0.0, 0.0], abs=1e-9)
    assert found.coordinates["j1"]["along"] == pytest.approx(12.0)


def test_a_script_makes_the_document_again(api, services, project):
    id = make(api, project, "ballast", *WEIGHTS)
    document = services.store.document(id).document
    text = script_of([(id, document)]).replace("A ballast", "Told")
    assert 'project.ballast("Told")' in text.replace("'", '"')
    ran = services.scripts.run(project, text, name="", document=None, picks=[], seconds=30)
    assert ran.trouble is None, ran
    (told,) = [d for d in services.store.documents_of(project) if d.document.name == "Told"]
    assert [w.mass for w in told.document.weights] == ["2 * lump", "lump / 4"]

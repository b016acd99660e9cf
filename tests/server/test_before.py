"""Projects written by the version before kinds of documents became files: a database and a zip of
it, with what was built from them then, open and build to the same."""

from __future__ import annotations

import gzip
import json
from pathlib import Path

import pytest

from vireo.core.documents import dump, load_document
from vireo.core.documents.kinds.assembly import Assembly
from vireo.work.archive import import_project
from vireo.work.services import Services

FIXTURES = Path(__file__).parent.parent / "fixtures"
KNOWN = json.loads((FIXTURES / "before_rooms.json").read_text())


@pytest.fixture(scope="module")
def old(tmp_path_factory):
    """Services on the old database, and the project in it."""
    folder = tmp_path_factory.mktemp("before")
    (folder / "vireo.db").write_bytes(
        gzip.decompress((FIXTURES / "before_rooms.db.gz").read_bytes())
    )
    services = Services.open(folder)
    yield services, services.store.projects()[0]["id"]
    services.close()


def built_as_before(services, project):
    """Every document builds to the mass it had, joints stand where they stood."""
    records = {r.document.name: r for r in services.store.documents_of(project)}
    assert set(records) == set(KNOWN)
    for name, record in records.items():
        known, found = KNOWN[name], services.builds.build(record.id)
        mass = known["mass"]
        assert found.get("mass") == (mass and pytest.approx(mass, rel=1e-9)), name
        for joint in found.get("joints", ()):
            assert joint["trouble"] is None
            was, now = known["joints"][joint["id"]], joint["coordinates"]
            assert [c["value"] for c in now] == pytest.approx([] if was is None else [was])
    return records


def test_an_old_database_opens_and_builds_as_before(old):
    services, project = old
    records = built_as_before(services, project)
    assert all(r.revision == KNOWN[name]["revision"] for name, r in records.items())
    corner = records["Roaster corner"]
    assert isinstance(corner.document, Assembly)
    assert {j.kind for j in corner.document.joints} == {"fixed", "revolute"}
    (rail,) = records["Slide rail"].document.joints
    assert rail.kind == "prismatic"
    assert rail.motions["slide"].model_dump() == {
        "value": "12 mm", "least": "-20 mm", "most": "30 mm",
    }  # fmt: skip
    # What was answered before is still there, edits go on and come back.
    (job,) = services.store.jobs(corner.id)
    assert job.state == "done"
    assert job.result["volume"] == 0
    undone = services.store.undo(corner.id, corner.revision)
    assert undone.revision < corner.revision
    assert services.store.redo(corner.id, undone.revision).document == corner.document


def test_every_old_revision_can_be_read_and_is_written_as_today(old):
    services, project = old
    for record in services.store.documents_of(project):
        for revision in services.store.revisions(record.id):
            document = services.store.document(record.id, revision["number"]).document
            assert load_document(dump(document)) == document


def test_an_old_zip_opens_and_builds_as_before(old):
    services, _ = old
    made = import_project(services.store, (FIXTURES / "before_rooms.zip").read_bytes())
    built_as_before(services, made)

"""Projects without a screen: info, checks and files from the command line, with exit codes."""

import io
import json
from contextlib import redirect_stderr, redirect_stdout
from types import SimpleNamespace

import pytest

from vireo.cli import main
from vireo.core.exchange.meshfile import read_mesh


@pytest.fixture(scope="module")
def project(api, tmp_path_factory):
    """A zip with a plate, a plate that is not built, and an assembly of the first."""
    folder = tmp_path_factory.mktemp("headless")
    id = api.project()
    plate = api.plate(id)
    api.do(plate, {"do": "add_check", "kind": "mass", "name": "Light", "limit": "100 g"})
    broken = api.plate(id)
    api.do(broken, {"do": "edit_step", "id": "s2", "fields": {"depth": "1 kg"}})
    whole = api.document("assembly", project=id)
    api.do(whole, {"do": "add_component", "document": plate, "name": "One"})
    path = folder / "project.zip"
    path.write_bytes(api.get(f"/api/projects/{id}/archive")[1])
    names = [api.get(f"/api/documents/{d}")[1]["document"]["name"] for d in (plate, broken, whole)]
    return path, names


def vireo(*words):
    """The command line in this process: the kernel is loaded once (test_faults starts a real one)."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        code = main([str(w) for w in words])
    return SimpleNamespace(returncode=code, stdout=out.getvalue(), stderr=err.getvalue())


def test_info_tells_what_there_is_and_what_is_not_built(project):
    path, (plate, broken, whole) = project
    found = vireo("info", path, "--json")
    assert found.returncode == 1, found.stderr  # a step is not built
    documents = {d["name"]: d for d in json.loads(found.stdout)["documents"]}
    assert documents[plate]["mass"] == pytest.approx(188.4)
    assert documents[plate]["parameters"] == {"w": "60 mm"}
    assert documents[plate]["not_built"] == []
    assert "Depth is length" in documents[broken]["not_built"][0]["why"]
    assert documents[whole]["mass"] == pytest.approx(188.4)


def test_checks_come_as_json_too(project):
    found = vireo("check", project[0], "--json")
    assert found.returncode == 1
    (row,) = json.loads(found.stdout)["checks"]
    assert (row["check"], row["holds"], row["found"]) == ("Light", False, "188.4 g")


def test_files_are_written_by_their_ending(project, tmp_path):
    path, (plate, _, whole) = project
    for name, out in ((plate, "a.3mf"), (plate, "a.stl"), (whole, "w.step")):
        done = vireo("export", path, name, tmp_path / out)
        assert done.returncode == 0, done.stderr
    for out in ("a.3mf", "a.stl"):
        (mesh,) = read_mesh((tmp_path / out).read_bytes())
        assert mesh.points.max(axis=0) == pytest.approx([60, 40, 10])
    assert (tmp_path / "w.step").read_text().startswith("ISO-10303-21")
    for words, says in (
        ((path, "Nobody", tmp_path / "x.stl"), "there is no document Nobody"),
        ((path, plate, tmp_path / "x.obj"), "obj is not written"),
        ((path, whole, tmp_path / "x.stl"), "assembly is not written as stl"),
        ((tmp_path / "none.zip", plate, tmp_path / "x.stl"), "none.zip"),
    ):
        done = vireo("export", *words)
        assert done.returncode == 2
        assert says in done.stderr

"""Checks over the wire: what each measures, how they are run by themselves, what they found over time."""

import math
import time
from xml.etree import ElementTree

import pytest

from tests.server.test_assemblies import settled_checks
from tests.server.test_headless import vireo


def must(api, id, *commands):
    status, found = api.do(id, *commands)
    assert status == 200, found
    return found["document"]


def add(kind, name, limit, relation="at_most", severity="must", **fields):
    return {
        "do": "add_check", "kind": kind, "name": name, "limit": limit, "relation": relation,
        "severity": severity, "fields": fields,
    }  # fmt: skip


def stand(api, project):
    """What the project page says, by document and check."""
    found = api.get(f"/api/projects/{project}/checks")[1]["documents"]
    return {(d["document"], c["name"]): c for d in found for c in d["checks"]}


def until(api, project, done):
    for _ in range(300):
        found = stand(api, project)
        if done(found):
            return found
        time.sleep(0.1)
    raise AssertionError(found)


def test_each_quantity_is_what_a_hand_would_find(api):
    """A plate of 60 x 40 x 10 with one hole of 6 mm at (10, 10)."""
    id = api.plate()
    picks = api.picks(id, "b_s2", "face")
    top = next(p for p in picks if p["name"] == ["s2/cap/end"])
    side = next(p for p in picks if p["name"] == ["s2/side/l5"])
    must(
        api, id,
        {"do": "add_step", "kind": "primitive", "fields": {
            "form": "cylinder", "diameter": "6 mm", "height": "10 mm", "x": "10 mm", "y": "10 mm",
            "result": "cut"}},
        {"do": "add_parameter", "name": "n", "formula": "4"},
        add("volume", "volume", "1 cm^3"), add("size", "wide", "60 mm", axis="x"),
        add("size", "bare", "60", axis="y"), add("centre", "middle", "4 mm", axis="z"),
        add("angle", "square", "90 deg", picks=[top, side]), add("wall", "wall", "3 mm", "at_least"),
        add("least_radius", "round", "2 mm", "at_least", edges="round"),
        add("draft", "draft", "1 deg", "at_least", axis="z"), add("parameter", "count", "4", parameter="n"),
        add("hole_count", "holes", "1", "at_least"), add("hole_count", "M8", "1", "at_least", diameter="9"),
        add("open_edges", "shut", "0"), add("parameter", "gone", "1", parameter="no"),
        add("size", "askew", "1 mm"),
    )  # fmt: skip
    found = {c["id"]: c for c in settled_checks(api, id)}
    document = api.get(f"/api/documents/{id}")[1]["document"]
    said = {
        c["name"]: (found[c["id"]]["state"], found[c["id"]].get("value"))
        for c in document["checks"]
    }
    volume = 60 * 40 * 10 - math.pi * 9 * 10
    middle = {"wide": 60.0, "bare": 40.0, "middle": 5.0, "square": math.pi / 2, "count": 4.0,
              "round": 3.0, "draft": 0.0, "holes": 1.0, "M8": 0.0, "shut": 0.0,
              "volume": volume}  # fmt: skip
    for name, value in middle.items():
        assert said[name][1] == pytest.approx(value, abs=1e-6), name
    # Nearest to the rim the hole leaves 10 - 3 mm; the plate is 10 mm thick.
    assert said["wall"][1] == pytest.approx(7.0, abs=1e-3)
    fails = {n for n, (state, _) in said.items() if state == "fails"}
    assert fails == {"volume", "middle", "draft", "M8"}
    trouble = {n: found[c["id"]]["trouble"]["text"] for c in document["checks"]
               if (n := c["name"]) in ("gone", "askew")}  # fmt: skip
    assert trouble == {
        "gone": "there is no parameter no with a value",
        "askew": "this check looks along an axis: add it again and choose x, y or z",
    }


def test_checks_of_documents_nobody_looks_at_follow_by_themselves(api):
    project = api.project()
    plate = api.plate(project)
    whole = api.document("assembly", project=project)
    must(api, plate, add("mass", "Light", "200 g", severity="should"))
    must(
        api, whole, {"do": "add_component", "document": plate, "name": "One"},
        add("mass", "Both", "500 g"), add("interference", "Clear", "0 mm^3"),
    )  # fmt: skip
    # Cheap ones and runs of their own, with nobody asking for this document.
    found = until(api, project, lambda f: all(c["state"] == "holds" for c in f.values()))
    assert found[whole, "Both"]["shown"] == "188.4 g"
    must(api, plate, {"do": "edit_parameter", "name": "w", "formula": "200 mm"})
    at_once = stand(api, project)
    # Out of date is never told as passed.
    assert {c["state"] for c in at_once.values()} <= {"old", "running", "fails"}
    assert at_once[whole, "Both"]["state"] != "holds"
    found = until(api, project, lambda f: all(c["state"] in ("holds", "fails") for c in f.values()))
    mass = 200 * 40 * 10 * 7.85e-3
    assert found[whole, "Both"]["value"] == pytest.approx(mass * 1e-3, rel=1e-4)
    assert [found[whole, n]["state"] for n in ("Both", "Clear")] == ["fails", "holds"]
    assert (found[plate, "Light"]["state"], found[plate, "Light"]["severity"]) == (
        "fails",
        "should",
    )


def test_the_change_that_broke_a_check_is_named_wherever_it_was_made(api):
    """A part's mass bounds that of an assembly; the change is one of many made while nobody looked."""
    project = api.project()
    plate = api.plate(project)
    whole = api.document("assembly", project=project)
    document = must(api, whole, {"do": "add_component", "document": plate, "name": "One"},
                    add("mass", "Light", "250 g"))  # fmt: skip
    check = document["checks"][0]["id"]
    assert settled_checks(api, whole)[0]["state"] == "holds"
    history = api.get(f"/api/documents/{whole}/checks/{check}")[1]
    assert history["blame"]["why"] == "it holds"
    # Held up by a run so that nothing is looked at in between: edits follow each other at once.
    for width in ("61 mm", "62 mm", "90 mm", "88 mm", "100 mm"):
        must(api, plate, {"do": "edit_parameter", "name": "w", "formula": width})
    must(api, whole, {"do": "rename_document", "name": "Renamed"})
    settled_checks(api, whole)
    history = api.get(f"/api/documents/{whole}/checks/{check}")[1]
    assert next(r["state"] for r in history["rows"]) == "holds"
    assert history["rows"][-1]["state"] == "fails"
    status, blame = api.post(f"/api/documents/{whole}/checks/{check}/blame")
    assert status == 200
    # 62 mm still weighed 194.7 g, 90 mm weighed 282.6 g.
    assert blame["broke"]["document"] == plate
    assert blame["broke"]["label"].startswith("w = 90 mm"), blame["broke"]
    assert api.get(f"/api/documents/{whole}/checks/k99")[0] == 422


def test_checks_of_variants_go_into_a_build_server(api, tmp_path):
    project = api.project()
    plate = api.plate(project)
    column = must(api, plate, {"do": "add_column", "drives": "parameter", "of": {"name": "w"}})
    wide = column["columns"][0]["id"]
    document = must(
        api, plate, {"do": "add_variant", "name": "Long", "cells": {wide: {"formula": "120 mm"}}},
        add("mass", "Light", "250 g"), add("size", "Fits", "100 mm", severity="should", axis="x"),
    )  # fmt: skip
    path, out = tmp_path / "p.zip", tmp_path / "found.xml"
    path.write_bytes(api.get(f"/api/projects/{project}/archive")[1])
    assert vireo("check", path).returncode == 0
    found = vireo("check", path, "--variant", "all", "--junit", out)
    assert found.returncode == 1
    assert "FAILS" in found.stdout
    assert "1 of the checks fail, 1 that should hold do not" in found.stdout
    suites = {s.get("name"): s for s in ElementTree.parse(out).getroot()}
    name = document["name"]
    assert [s.get("failures") for s in suites.values()] == ["0", "1"]
    long = suites[f"{name} Long"]
    assert (long.get("tests"), long.get("skipped")) == ("2", "1")
    failure = long.find("testcase/failure").get("message")
    assert failure.startswith("37")
    assert failure.endswith("at most 250 g")
    assert vireo("check", path, "--variant", "Long").returncode == 1
    wrong = vireo("check", path, "--variant", "Nobody")
    assert wrong.returncode == 2
    assert "there is no variant Nobody; there are: Long" in wrong.stderr


def test_what_proving_found_of_members_stands_in_the_history_of_a_check(api):
    project = api.project()
    plate = api.plate(project)
    document = must(api, plate, {"do": "add_column", "drives": "parameter", "of": {"name": "w"}})
    wide = document["columns"][0]["id"]
    document = must(
        api, plate, {"do": "add_variant", "name": "Long", "cells": {wide: {"formula": "120 mm"}}},
        add("mass", "Light", "250 g"),
    )  # fmt: skip
    check = document["checks"][0]["id"]
    job = api.post(f"/api/documents/{plate}/jobs", {"kind": "prove", "options": {}})[1]
    for _ in range(200):
        rows = api.get(f"/api/documents/{plate}/checks/{check}")[1]["rows"]
        if any(r["member"] == "Long" for r in rows):
            break
        time.sleep(0.1)
    assert api.get(f"/api/jobs/{job['id']}")[1]["state"] == "done"
    assert {(r["member"], r["mine"], r["state"]) for r in rows} >= {("Long", False, "fails")}


def test_gaps_of_components_and_places_of_ports(api):
    """Two plates one over the other, moved: apart, touching, and into each other."""
    project = api.project()
    plate = api.plate(project)
    document = must(
        api, plate, {"do": "add_step", "kind": "port", "name": "Foot", "fields": {"x": "7 mm", "z": "3 mm"}},
    )  # fmt: skip
    port = document["steps"][-1]["id"]
    must(api, plate, add("port_place", "x", "7 mm", port=port, axis="x"),
         add("port_place", "z", "2 mm", port=port, axis="z"))  # fmt: skip
    assert [c["value"] for c in settled_checks(api, plate)] == pytest.approx([7.0, 3.0])
    assert [c["state"] for c in settled_checks(api, plate)] == ["holds", "fails"]
    whole = api.document("assembly", project=project)
    document = must(api, whole, *(
        {"do": "add_component", "document": plate, "name": n, "anchored": True} for n in "AB"))  # fmt: skip
    a, b = (c["id"] for c in document["components"])
    pick = api.picks(plate, "b_s2", "face")[0]
    ends = [{"component": c, "pick": pick} for c in (a, b)]
    must(api, whole, add("gap", "Air", "1 mm", "at_least", picks=ends),
         add("gap", "Self", "1 mm", "at_least", picks=[ends[0], ends[0]]))  # fmt: skip
    for place, gap in (
        ([0, 0, 12], 2.0),
        ([63, 44, 22], 13.0),
        ([0, 0, 10], 0.0),
        ([0, 0, 9.5], -0.5),
    ):
        must(api, whole, {"do": "place_components", "placements": {b: {"p": place}}})
        found, own = settled_checks(api, whole)
        assert found["value"] == pytest.approx(gap, abs=1e-6), place
        assert found["state"] == ("holds" if gap >= 1 else "fails")
        assert "both picks are on one component" in own["trouble"]["text"]

"""Revisions over the wire: in words, gone back to, branched and taken in, compared, pinned."""

import math

import pytest

from tests.server.test_checks import add, must, settled_checks


def timeline(api, id):
    return api.get(f"/api/documents/{id}/revisions")[1]


def compared(api, id, before, after):
    status, found = api.post(f"/api/documents/{id}/compare", {"before": before, "after": after})
    assert status == 200, found
    return found


def base_of(api, id):
    return api.get(f"/api/documents/{id}")[1]["revision"]


def width(text):
    return {"do": "edit_parameter", "name": "w", "formula": text}


def drilled(x):
    return {"do": "add_step", "kind": "primitive", "name": "Bore", "fields": {
        "form": "cylinder", "diameter": "6 mm", "height": "10 mm", "x": x, "y": "20 mm",
        "result": "cut"}}  # fmt: skip


def test_a_timeline_tells_in_words_and_one_goes_back_without_losing_anything(api):
    id = api.plate()
    must(api, id, width("80 mm"))
    must(api, id, {"do": "edit_step", "id": "s2", "fields": {"depth": "12 mm"}})
    must(api, id, width("90 mm"), {"do": "rename_step", "id": "s2", "name": "Plate"})
    found = timeline(api, id)
    words = [r["words"] for r in found["revisions"]][:3]
    assert words[2] == "w: 60 mm → 80 mm"
    assert "10 mm → 12 mm" in words[1]
    assert words[0].startswith("w: 80 mm → 90 mm; Plate: Name ")
    before = found["head"]
    status, _ = api.post(f"/api/documents/{id}/back", {"base": before, "revision": before - 2})
    assert status == 200
    now = api.get(f"/api/documents/{id}")[1]
    assert now["revision"] == before + 1
    assert now["document"]["parameters"][0]["formula"] == "80 mm"
    assert api.build(id)["volume"] == pytest.approx(80 * 40 * 10)
    newest = timeline(api, id)["revisions"][0]
    assert newest["words"].startswith(f"back to revision {before - 2}: w: 90 mm → 80 mm")
    # Undone, it is a revision left aside, and nothing is lost.
    assert api.post(f"/api/documents/{id}/undo", {"base": before + 1})[0] == 200
    rows = {r["number"]: r["mine"] for r in timeline(api, id)["revisions"]}
    assert not rows[before + 1]
    assert all(mine for n, mine in rows.items() if n <= before)
    status, said = api.post(f"/api/documents/{id}/back", {"base": before, "revision": before})
    assert status == 422
    assert said["error"]["text"] == f"the document is as it was at revision {before}"
    assert api.post(f"/api/documents/{id}/back", {"base": before, "revision": 99})[0] == 404


def test_names_and_approval_stay_with_a_revision(api):
    id = api.plate()
    path = f"/api/documents/{id}/revisions/{base_of(api, id)}"
    server = api.server
    assert server.call("PUT", path, {"version": " First cast ", "approved": True})[0] == 200
    row = timeline(api, id)["revisions"][0]
    assert (row["version"], row["approved"] is not None) == ("First cast", True)
    assert server.call("PUT", path, {"approved": False})[0] == 200
    row = timeline(api, id)["revisions"][0]
    assert (row["version"], row["approved"]) == ("First cast", None)
    assert server.call("PUT", f"/api/documents/{id}/revisions/77", {"version": "x"})[0] == 404


def test_what_is_in_one_alone_is_weighed_by_the_kernel(api):
    """60 x 40 x 10 becomes 80 x 40 x 10 with a bore: 20 mm more, a cylinder less."""
    id = api.plate()
    must(api, id, add("mass", "Light", "200 g"), add("parameter", "w", "70 mm", parameter="w"))
    before = base_of(api, id)
    must(api, id, width("80 mm"), drilled("20 mm"))
    found = compared(api, id, {"revision": before}, {})
    bore = math.pi * 9 * 10
    volumes = found["geometry"]["volumes"]
    assert volumes["added"] == pytest.approx(20 * 40 * 10, rel=1e-9)
    assert volumes["removed"] == pytest.approx(bore, rel=1e-9)
    assert volumes["kept"] == pytest.approx(60 * 40 * 10 - bore, rel=1e-9)
    (row,) = found["geometry"]["rows"]
    assert (row["sign"], row["whole"]) == ("changed", True)
    assert {d["sign"] for d in found["geometry"]["drawn"]} == {"was", "is", "added", "removed"}
    said = {(d["group"], d["name"], d["sign"]) for d in found["differences"]}
    assert said == {("parameters", "w", "changed"), ("steps", "Bore", "added")}
    assert [found[k]["volume"] for k in ("before", "after")] == pytest.approx(
        [24000.0, 32000.0 - bore]
    )
    assert found["after"]["size"] == pytest.approx([80, 40, 10])
    checks = {c["name"]: [c[k]["state"] for k in ("before", "after")] for c in found["checks"]}
    assert checks == {"Light": ["holds", "fails"], "w": ["holds", "fails"]}
    # The other way round all changes its sign.
    other = compared(api, id, {}, {"revision": before})["geometry"]["volumes"]
    assert [other["added"], other["removed"]] == pytest.approx([bore, 8000.0])
    same = compared(api, id, {}, {})
    assert (same["differences"], same["geometry"]["rows"]) == ([], [])


def test_of_an_assembly_it_is_told_what_came_went_moved_and_changed(api):
    project = api.project()
    plate, block = api.plate(project), api.plate(project, depth="20 mm")
    whole = api.document("assembly", project=project)
    document = must(
        api, whole, *({"do": "add_component", "document": d, "name": n} for d, n in (
            (plate, "Stays"), (plate, "Moves"), (block, "Goes"), (block, "Grows"))),
    )  # fmt: skip
    ids = {c["name"]: c["id"] for c in document["components"]}
    before = base_of(api, whole)
    must(api, block, width("70 mm"))
    must(
        api, whole, {"do": "place_components", "placements": {ids["Moves"]: {"p": [3, 4, 0]}}},
        {"do": "remove_component", "id": ids["Goes"]},
        {"do": "add_component", "document": plate, "name": "Comes"},
    )  # fmt: skip
    found = compared(api, whole, {"revision": before}, {})
    rows = {r["name"].split(" / ")[0]: r for r in found["geometry"]["rows"]}
    assert {n: r["sign"] for n, r in rows.items()} == {
        "Moves": "moved", "Goes": "went", "Grows": "changed", "Comes": "came"}  # fmt: skip
    assert rows["Moves"]["moved"] == pytest.approx(5.0)
    # The part is taken as it was when that revision was made.
    assert rows["Goes"]["removed"] == pytest.approx(60 * 40 * 20)
    assert (rows["Grows"]["added"], rows["Grows"]["removed"]) == (pytest.approx(10 * 40 * 20), 0.0)


def test_variants_are_compared_like_revisions(api):
    id = api.plate()
    column = must(api, id, {"do": "add_column", "drives": "parameter", "of": {"name": "w"}})[
        "columns"
    ][0]["id"]
    document = must(
        api, id, {"do": "add_variant", "name": "Long", "cells": {column: {"formula": "9 cm"}}}
    )
    choice = {"variant": document["variants"][0]["id"], "options": {}}
    found = compared(api, id, {}, {"choice": choice})
    assert found["after"]["member"] == "Long"
    assert found["geometry"]["volumes"]["added"] == pytest.approx(30 * 40 * 10)
    other = api.document("assembly")
    status, said = api.post(
        f"/api/documents/{id}/compare", {"before": {}, "after": {"document": other}}
    )
    assert (status, said["error"]["text"]) == (422, "a part and an assembly cannot be compared")


def test_a_branch_is_taken_in_thing_by_thing_and_conflicts_are_chosen(api):
    id = api.plate()
    must(api, id, {"do": "add_parameter", "name": "d", "formula": "5 mm"})
    status, made = api.post(f"/api/documents/{id}/branches", {"name": "With a bore"})
    assert status == 200
    branch = made["id"]
    assert timeline(api, branch)["origin"]["document"] == id
    # Both go on, and both add: nothing of one is taken for something of the other.
    must(api, branch, drilled("20 mm"), width("70 mm"))
    must(
        api,
        id,
        drilled("45 mm"),
        width("100 mm"),
        {"do": "edit_parameter", "name": "d", "formula": "6 mm"},
    )
    ask = {"base": base_of(api, id), "branch": branch, "chosen": {}}
    look = api.post(f"/api/documents/{id}/merge-look", ask)[1]
    (conflict,) = look["conflicts"]
    assert [conflict[k] for k in ("name", "base", "ours", "theirs")] == [
        "w",
        "60 mm",
        "100 mm",
        "70 mm",
    ]
    assert [(d["sign"], d["name"]) for d in look["brings"]] == [("added", "Bore")]
    status, said = api.post(f"/api/documents/{id}/merge", ask)
    assert (status, said["error"]["text"]) == (422, "both changed w: choose which to keep")
    ask["chosen"] = {conflict["key"]: "theirs"}
    status, found = api.post(f"/api/documents/{id}/merge", ask)
    assert status == 200, found
    values = {p["name"]: p["formula"] for p in found["document"]["parameters"]}
    assert values == {"w": "70 mm", "d": "6 mm"}
    assert api.build(id)["volume"] == pytest.approx(70 * 40 * 10 - 2 * math.pi * 90)
    # Taken back, it brings the same again.
    assert api.post(f"/api/documents/{id}/undo", {"base": base_of(api, id)})[0] == 200
    ask["base"] = base_of(api, id)
    assert len(api.post(f"/api/documents/{id}/merge-look", ask)[1]["conflicts"]) == 1
    assert api.post(f"/api/documents/{id}/merge", ask)[0] == 200
    # Taken in once, it brings nothing new; what is done there later comes alone.
    ask = {"base": base_of(api, id), "branch": branch, "chosen": {}}
    assert (
        api.post(f"/api/documents/{id}/merge", ask)[1]["error"]["text"]
        == "With a bore brings nothing new"
    )
    must(api, branch, {"do": "edit_parameter", "name": "d", "formula": "8 mm"})
    look = api.post(f"/api/documents/{id}/merge-look", ask)[1]
    assert [c["name"] for c in look["conflicts"]] == ["d"]
    assert api.post(f"/api/documents/{branch}/merge-look", {**ask, "branch": id})[0] == 422


def test_a_pinned_component_stays_as_it_was_and_comes_through_a_zip(api):
    project = api.project()
    plate = api.plate(project)
    pin = base_of(api, plate)
    whole = api.document("assembly", project=project)
    document = must(
        api, whole, {"do": "add_component", "document": plate, "name": "Follows"},
        {"do": "add_component", "document": plate, "name": "Pinned", "choice": {"revision": pin}},
        add("mass", "Both", "400 g"),
    )  # fmt: skip
    assert document["components"][1]["choice"]["revision"] == pin
    weigh = lambda: api.build(whole)["mass"]  # noqa: E731
    assert weigh() == pytest.approx(2 * 188.4)
    assert [f["id"] for f in timeline(api, plate)["followers"]] == [whole]
    assert api.get(f"/api/documents/{plate}/followers")[1]["followers"] == [
        {
            "id": whole,
            "name": api.get(f"/api/documents/{whole}")[1]["document"]["name"],
            "kind": "assembly",
        }
    ]
    must(api, plate, width("120 mm"))
    assert weigh() == pytest.approx(188.4 * 3)
    assert settled_checks(api, whole)[0]["state"] == "fails"
    # What is pinned alone has nothing to measure again, and says so in lists.
    still = api.document("assembly", project=project)
    must(api, still, {"do": "add_component", "document": plate, "name": "Only", "choice": {"revision": pin}},
         add("mass", "Still", "200 g"))  # fmt: skip
    assert settled_checks(api, still)[0]["value"] == pytest.approx(0.1884)
    must(api, plate, width("130 mm"))
    found = {
        d["document"]: d["checks"]
        for d in api.get(f"/api/projects/{project}/checks")[1]["documents"]
    }
    assert [c["state"] for c in found[still]] == ["holds"]
    assert found[whole][0]["state"] != "holds"
    (line,) = api.get(f"/api/documents/{still}/parts")[1]["lines"]
    assert line["variant"] == f"r {pin}"
    must(api, plate, width("120 mm"))
    api.server.call("PUT", f"/api/documents/{plate}/revisions/{pin}", {"version": "Cast"})
    status, made = api.post(
        "/api/projects/archive",
        raw=api.get(f"/api/projects/{project}/archive")[1],
        headers={"X-File-Name": "p.zip"},
    )
    assert status == 200, made
    shelf = api.get("/api/shelf")[1]["projects"]
    documents = {d["name"]: d["id"] for p in shelf if p["id"] == made["id"] for d in p["documents"]}
    again = documents[document["name"]]
    assert api.build(again)["mass"] == pytest.approx(188.4 * 3)
    name = api.get(f"/api/documents/{plate}")[1]["document"]["name"]
    row = next(r for r in timeline(api, documents[name])["revisions"] if r["number"] == pin)
    assert row["version"] == "Cast"
    status, said = api.do(
        whole, {"do": "add_component", "document": plate, "name": "No", "choice": {"revision": 99}}
    )
    assert (status, said["error"]["text"]) == (422, "No: there is no revision 99 of its document")

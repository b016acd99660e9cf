"""When it fails: lost picks with ghosts and candidates, mended alike, marked until seen; the
last good state stays; searches stop; steps that have to stand earlier are named."""

import threading
import time

import pytest

from tests.core.drawings import plate


def ribbed(api) -> str:
    """A plate whose four upright edges and one top edge are rounded by two steps."""
    id = api.document()
    drawing = plate("60 mm", "40 mm").drawing
    api.do(id, {"do": "add_step", "kind": "sketch", "fields": {"drawing": drawing}})
    api.do(id, {"do": "add_step", "kind": "extrude", "fields": {"sketch": "s1", "depth": "10 mm"}})
    return id


def edge(api, id, *names) -> dict:
    """The pick of an edge of b_s2 by the faces it bounds."""
    wanted = sorted(names)
    return next(p for p in api.picks(id, "b_s2", "edge") if p["name"] == wanted)


def redrawn(api, id, line: str) -> None:
    """The sketch with one line drawn anew: another id, the same place."""
    _, view = api.get(f"/api/documents/{id}")
    drawing = view["document"]["steps"][0]["fields"]["drawing"]
    for e in drawing["entities"]:
        if e["id"] == line:
            e["id"] = "l99"
    for k in drawing["constraints"]:
        k["on"] = ["l99" if o == line else o for o in k["on"]]
    status, said = api.do(id, {"do": "edit_step", "id": "s1", "fields": {"drawing": drawing}})
    assert status == 200, said


def sides(api, id) -> list[str]:
    _, view = api.get(f"/api/documents/{id}")
    return [e["id"] for e in view["document"]["steps"][0]["fields"]["drawing"]["entities"]
            if e["type"] == "line"]  # fmt: skip


def test_lost_picks_are_mended_all_alike_and_marked_until_seen(api):
    id = ribbed(api)
    a, b, c, d = sides(api, id)
    s = "s2/side/"
    corner = edge(api, id, s + a, s + b)
    far = edge(api, id, s + c, s + d)
    rim = edge(api, id, s + a, "s2/cap/end")
    api.do(
        id,
        {"do": "add_step", "kind": "fillet", "fields": {"edges": [corner, far], "radius": "3 mm"}},
        {"do": "add_step", "kind": "chamfer", "fields": {"edges": [rim], "size": "1 mm"}},
    )
    good = api.build(id)
    assert [x["status"] for x in good["steps"]] == ["ok"] * 4
    redrawn(api, id, a)
    found = api.build(id)
    assert [x["status"] for x in found["steps"]] == ["ok", "ok", "failed", "failed"]
    error = found["steps"][2]["error"]
    lost = error["lost"]
    assert lost["pick"]["name"] == corner["name"]
    best = lost["candidates"][0]
    assert best["pick"]["name"] == sorted([s + "l99", s + b])
    assert best["score"] > lost["candidates"][1]["score"]
    # The ghost: where it was, from the revision before.
    status, ghost = api.post(f"/api/documents/{id}/ghost", {"step": "s3", "pick": lost["pick"]})
    assert status == 200
    (line,) = ghost["lines"]
    at = best["pick"]["witness"]["at"]
    assert [sum(p[k] for p in line) / len(line) for k in range(3)] == pytest.approx(at)
    # The chamfer lost the same face: it goes along.
    swap = {"step": "s3", "old": lost["pick"], "new": best["pick"]}
    _, alike = api.post(f"/api/documents/{id}/alike", swap)
    assert [(x["step"], x["new"]["name"]) for x in alike["swaps"]] == [
        ("s4", sorted([s + "l99", "s2/cap/end"]))
    ]
    swaps = [{**swap, "score": best["score"]}, *alike["swaps"]]
    assert api.do(id, {"do": "mend_picks", "swaps": swaps})[0] == 200
    again = api.build(id)
    assert [x["status"] for x in again["steps"]] == ["ok"] * 4
    assert again["volume"] == pytest.approx(good["volume"])
    _, view = api.get(f"/api/documents/{id}")
    assert [len(x["mended"]) for x in view["document"]["steps"]] == [0, 0, 1, 1]
    api.do(id, {"do": "seen_mends", "id": "s3"})
    _, view = api.get(f"/api/documents/{id}")
    assert [len(x["mended"]) for x in view["document"]["steps"]] == [0, 0, 0, 1]
    status, said = api.do(id, {"do": "mend_picks", "swaps": swaps[:1]})
    assert status == 422
    assert "no such pick" in said["error"]["text"]


def test_the_last_good_state_stays_and_what_does_not_depend_still_builds(api):
    id = ribbed(api)
    box = {"width": "5 mm", "depth": "5 mm", "height": "5 mm", "x": "100 mm"}
    api.do(id, {"do": "add_step", "kind": "primitive", "fields": box})
    good = api.build(id)
    api.do(id, {"do": "edit_step", "id": "s2", "fields": {"depth": "1 kg"}})
    found = api.build(id)
    assert [x["status"] for x in found["steps"]] == ["ok", "failed", "ok"]
    assert [b["id"] for b in found["bodies"]] == ["b_s3"]
    (past,) = found["past"]
    assert (past["id"], past["key"]) == ("b_s2", good["bodies"][0]["key"])
    assert api.server.call("GET", f"/api/meshes/{past['key']}")[0] == 200


def test_a_step_that_has_to_stand_earlier_is_named_and_moved(api):
    id = ribbed(api)
    a, b, *_ = sides(api, id)
    rims = [edge(api, id, f"s2/side/{x}", "s2/cap/end") for x in sides(api, id)]
    corners = [edge(api, id, f"s2/side/{a}", f"s2/side/{b}")]
    api.do(
        id,
        {"do": "add_step", "kind": "fillet", "name": "Soft top",
         "fields": {"edges": [*rims, *corners], "radius": "4 mm"}},
    )  # fmt: skip
    top = {"body": "b_s2", "kind": "face", "name": ["s2/cap/end"], "witness": {"kind": "plane"}}
    api.do(id, {"do": "add_step", "kind": "shell", "fields": {"open": [top], "wall": "2 mm"}})
    error = api.build(id)["steps"][3]["error"]
    assert "put this step before Soft top" in error["text"]
    offer = next(o for o in error["offers"] if o["commands"])
    assert api.do(id, *offer["commands"])[0] == 200
    _, view = api.get(f"/api/documents/{id}")
    assert [s["kind"] for s in view["document"]["steps"]] == [
        "sketch",
        "extrude",
        "shell",
        "fillet",
    ]
    assert api.build(id)["steps"][2]["status"] == "ok"


def test_a_search_for_what_would_fit_is_stopped(api):
    """Many edges with far too large a radius take long to search; stopping answers at once."""
    id = api.document()
    drawing = plate("200 mm", "200 mm").drawing
    api.do(id, {"do": "add_step", "kind": "sketch", "fields": {"drawing": drawing}})
    api.do(id, {"do": "add_step", "kind": "extrude", "fields": {"sketch": "s1", "depth": "10 mm"}})
    pin = {"form": "cylinder", "diameter": "6 mm", "height": "20 mm", "x": "12 mm", "y": "12 mm",
           "result": "add"}  # fmt: skip
    api.do(id, {"do": "add_step", "kind": "primitive", "fields": pin})
    rows = {"steps": ["s3"], "count": "5", "spacing": "22 mm", "way": "X", "count2": "5",
            "way2": "Y", "spacing2": "22 mm"}  # fmt: skip
    api.do(id, {"do": "add_step", "kind": "copies_linear", "fields": rows})
    of = {"by": "round", "of": "edge", "radius": "3 mm"}
    api.do(id, {"do": "add_step", "kind": "set", "fields": of})
    rounding = {"edges": [{"body": "", "kind": "set", "name": ["s5"]}], "radius": "9 mm"}
    api.do(id, {"do": "add_step", "kind": "fillet", "fields": rounding})
    answer = {}
    with api.listening() as news:
        worker = threading.Thread(target=lambda: answer.update(api.build(id)))
        worker.start()
        next(n for n in news if n["kind"] == "building" and n.get("searching"))
        start = time.monotonic()
        assert api.post(f"/api/documents/{id}/stop-search", {})[1] == {"ok": True}
        worker.join(60)
    assert "looking for what would was stopped" in answer["steps"][5]["error"]["text"]
    assert time.monotonic() - start < 60
    assert api.post(f"/api/documents/{id}/stop-search", {})[1] == {"ok": False}

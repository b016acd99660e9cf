"""Parts made in place: where they stand, what they take from around them, and that they are told when
that is no longer so. Against volumes and places by hand."""

import math

import numpy as np
import pytest

from vireo.core.assembly.pose import rotation_of

TURNED = {"p": (13.0, -270.0, 55.0), "q": (0.5, 0.1, -0.7, 0.5)}


def turn():
    q = np.array(TURNED["q"]) / np.linalg.norm(TURNED["q"])
    return rotation_of(q), np.array(TURNED["p"])


def matrix(view, key, id):
    found = next(c for c in view[key] if c["id"] == id)["matrix"]
    return np.array(found).reshape(4, 4).T


def area(width):
    return width * 40.0 - math.pi * 9.0


@pytest.fixture
def machine(api):
    """A turned plate of 60 x 40 x 10 mm with a bore of 6 mm, and one beside it."""
    project = api.project()
    plate = api.plate(project)
    round_ = {"entities": [{"type": "point", "id": "p1", "x": 10, "y": 10},
                           {"type": "circle", "id": "c2", "centre": "p1", "radius": 3}]}  # fmt: skip
    answer = api.do(
        plate,
        {"do": "add_step", "kind": "sketch", "fields": {"drawing": round_}},
        {"do": "add_step", "kind": "extrude",
         "fields": {"sketch": "s3", "depth": "20 mm", "result": "cut"}},
    )  # fmt: skip
    assert answer[0] == 200, answer
    id = api.document("assembly", project)
    answer = api.do(
        id,
        {"do": "add_component", "document": plate, "name": "Base", "placement": TURNED},
        {
            "do": "add_component",
            "document": plate,
            "name": "Other",
            "placement": {"p": (400, 0, 0)},
        },
    )
    assert answer[0] == 200, answer
    (body,) = api.build(plate)["bodies"]
    faces = api.picks(plate, body["id"], "face")
    top = next(f for f in faces if f["witness"]["kind"] == "plane" and f["witness"]["at"][2] > 9.9)
    rims = api.picks(plate, body["id"], "edge")
    rim = next(e for e in rims if e["witness"]["kind"] == "circle" and e["witness"]["at"][2] > 9.9)
    return id, plate, body["id"], top, rim


def begin(api, id, origin, turned=True):
    base = api.get(f"/api/documents/{id}")[1]["revision"]
    body = {"base": base, "name": "Pad", "origin": origin, "turned": turned}
    status, made = api.post(f"/api/documents/{id}/in-place", body)
    assert status == 200, made
    return made["part"], made["component"]


def take(api, id, component, solid, *picks, of="c1"):
    wish = {"component": of, "path": [], "solid": solid, "picks": list(picks)}
    body = {"component": component, "wanted": [wish]}
    return api.post(f"/api/documents/{id}/in-place/take", body)


def padded(api, machine):
    """A pad 3 mm thick on the top of the base, made in place over its bore."""
    id, _, solid, top, rim = machine
    part, component = begin(api, id, {"component": "c1", "pick": rim})
    status, found = take(api, id, component, solid, top)
    assert status == 200, found
    taken = [{**t, "number": n} for n, t in enumerate(found["taken"])]
    fields = {"document": id, "component": component, "taken": taken}
    answer = api.do(part, {"do": "add_step", "kind": "neighbours", "fields": fields})
    assert answer[0] == 200, answer
    face = api.picks(part, "b_s1", "face")[0]
    answer = api.do(
        part,
        {"do": "add_step", "kind": "thicken", "fields": {"faces": [face], "thickness": "3 mm"}},
    )
    assert answer[0] == 200, answer
    return part, component


def states(api, id):
    (found,) = api.get(f"/api/documents/{id}/in-place")[1]["parts"]
    return (
        found["fresh"],
        [s["state"] for s in found["sources"]],
        [s["text"] for s in found["sources"]],
    )


def test_a_part_is_made_where_it_is_picked_and_moves_with_what_that_lies_on(api, machine):
    id = machine[0]
    part, component = padded(api, machine)
    r, p = turn()
    view = api.get(f"/api/documents/{id}/assembly")[1]
    own = matrix(view, "components", component)
    # Its origin lies in the mouth of the bore, its z comes out of the plate.
    assert own[:3, 3] == pytest.approx(p + r @ [10.0, 10.0, 10.0], abs=1e-9)
    assert own[:3, 2] == pytest.approx(r[:, 2], abs=1e-9)
    built = api.build(part)
    assert built["volume"] == pytest.approx(3 * area(60), rel=1e-9)
    _, straight = begin(api, id, {"component": "c1", "pick": machine[4]}, turned=False)
    upright = matrix(api.get(f"/api/documents/{id}/assembly")[1], "components", straight)
    assert upright[:3, :3] == pytest.approx(np.eye(3))
    assert upright[:3, 3] == pytest.approx(own[:3, 3])
    assert [b["tool"] for b in built["bodies"]] == [True, False]
    # What it took is neither weighed nor part of the assembly.
    leaves = [x for x in view["leaves"] if x["component"] == component]
    assert [x["body"] for x in leaves] == ["b_s2"]
    (pad,) = (b for b in built["bodies"] if not b["tool"])
    middle = own[:3, :3] @ pad["centre"] + own[:3, 3]
    hole, whole = math.pi * 9.0, 60.0 * 40.0
    by_hand = [(30 * whole - 10 * hole) / area(60), (20 * whole - 10 * hole) / area(60), 11.5]
    assert middle == pytest.approx(p + r @ by_hand, abs=1e-6)
    # Pulled elsewhere, the plate takes the pad along.
    api.do(id, {"do": "edit_component", "id": "c1", "anchored": False})
    drive = {
        "revision": api.get(f"/api/documents/{id}")[1]["revision"], "component": "c1",
        "grip": (0, 0, 0), "target": (0.0, 5.0, 0.0),
    }  # fmt: skip
    status, driven = api.post(f"/api/documents/{id}/drive", drive)
    assert status == 200, driven
    base, now = (matrix(driven, "components", c) for c in ("c1", component))
    assert np.linalg.norm(base[:3, 3] - p) > 100.0
    assert np.linalg.inv(base) @ now == pytest.approx(
        np.linalg.inv(matrix(view, "components", "c1")) @ own, abs=1e-9
    )
    assert states(api, id) == (True, ["fresh"], [""])


def test_what_it_took_stays_frozen_and_is_brought_up_to_date_on_demand(api, machine):
    id, plate, *_ = machine
    part, component = padded(api, machine)
    api.do(plate, {"do": "edit_parameter", "name": "w", "formula": "70 mm"})
    fresh, state, (text,) = states(api, id)
    assert (fresh, state) == (False, ["changed"])
    assert f"{area(70):.5g} mm²" in text
    assert f"was {area(60):.5g}" in text
    assert api.build(part)["volume"] == pytest.approx(3 * area(60), rel=1e-9)
    ask = {"component": component, "step": "s1"}
    looked = api.post(f"/api/documents/{id}/in-place/look", ask)[1]
    ratio = area(70) / area(60)
    assert looked["after"] == pytest.approx(looked["before"] * ratio, rel=1e-9)
    assert (looked["troubles"], looked["left"]) == ([], [])
    assert api.build(part)["volume"] == pytest.approx(3 * area(60), rel=1e-9)
    status, done = api.post(f"/api/documents/{id}/in-place/renew", ask)
    assert (status, done["left"]) == (200, [])
    # The picks of later steps hold: what was taken goes by its names.
    assert api.build(part)["volume"] == pytest.approx(3 * area(70), rel=1e-9)
    assert all(s["status"] == "ok" for s in api.build(part)["steps"])
    assert states(api, id) == (True, ["fresh"], [""])
    api.post(f"/api/documents/{part}/undo", {"base": done["part"]["revision"]})
    assert api.build(part)["volume"] == pytest.approx(3 * area(60), rel=1e-9)
    assert states(api, id)[0] is False


def test_what_changed_elsewhere_is_no_matter_and_what_went_is_told_and_kept(api, machine):
    id, plate, *_ = machine
    part, component = padded(api, machine)
    # A slab below leaves the top as it was: other bodies, the same face.
    below = {"drawing": {"entities": [
        {"type": "point", "id": f"p{k}", "x": x, "y": y}
        for k, (x, y) in enumerate(((20, 5), (50, 5), (50, 35), (20, 35)))
    ] + [{"type": "line", "id": f"l{k}", "a": f"p{k}", "b": f"p{(k + 1) % 4}"} for k in range(4)]}}  # fmt: skip
    answer = api.do(
        plate,
        {"do": "add_step", "kind": "sketch", "fields": below},
        {"do": "add_step", "kind": "extrude",
         "fields": {"sketch": "s5", "depth": "4 mm", "flip": True, "result": "add"}},
    )  # fmt: skip
    assert answer[0] == 200, answer
    assert all(s["status"] == "ok" for s in api.build(plate)["steps"]), api.build(plate)["steps"]
    assert states(api, id) == (True, ["fresh"], [""])
    # The pad is moved by itself: what it took stands elsewhere, seen from it.
    group = api.get(f"/api/documents/{id}")[1]["document"]["bunches"][0]["id"]
    r, p = turn()
    q = np.array(TURNED["q"]) / np.linalg.norm(TURNED["q"])
    at = {"p": (p + r @ [10.0, 10.0, 12.0]).tolist(), "q": q.tolist()}
    api.do(id, {"do": "dissolve_group", "id": group},
           {"do": "edit_component", "id": component, "placement": at})  # fmt: skip
    fresh, state, (text,) = states(api, id)
    assert (fresh, state) == (False, ["changed"])
    assert "moved by 2 mm" in text or "turned" in text
    api.do(id, {"do": "remove_component", "id": "c1"})
    fresh, state, (text,) = states(api, id)
    assert state == ["gone"]
    assert "Base no longer stands" in text
    status, done = api.post(
        f"/api/documents/{id}/in-place/renew", {"component": component, "step": "s1"}
    )
    assert (status, len(done["left"])) == (200, 1)
    assert api.build(part)["volume"] == pytest.approx(3 * area(60), rel=1e-9)


def test_a_taken_body_stands_aside_until_it_is_chosen(api, machine):
    """A step that goes by what it meets leaves it alone; a cut may use it."""
    id, _, solid, _, rim = machine
    part, component = begin(api, id, {"component": "c1", "pick": rim})
    found = take(api, id, component, solid)[1]["taken"]
    edge = take(api, id, component, solid, rim)[1]["taken"]
    taken = [{**t, "number": n} for n, t in enumerate([*found, *edge])]
    fields = {"document": id, "component": component, "taken": taken}
    block = {"width": "10 mm", "depth": "10 mm", "height": "20 mm",
             "x": "-5 mm", "y": "-5 mm", "z": "-15 mm"}  # fmt: skip
    answer = api.do(
        part, {"do": "add_step", "kind": "neighbours", "fields": fields},
        {"do": "add_step", "kind": "primitive", "fields": block},
        {"do": "add_step", "kind": "primitive",
         "fields": {**block, "height": "2 mm", "result": "cut"}},
    )  # fmt: skip
    assert answer[0] == 200, answer
    built = api.build(part)
    assert [s["status"] for s in built["steps"]] == ["ok"] * 3, built["steps"]
    volumes = {b["id"]: b["volume"] for b in built["bodies"]}
    assert volumes["b_s1"] == pytest.approx(10 * area(60), rel=1e-9)
    assert volumes["b_s2"] == pytest.approx(100 * 18.0, rel=1e-9)
    cut = {"operation": "cut", "target": ["b_s2"], "tools": ["b_s1"], "keep": True}
    answer = api.do(part, {"do": "add_step", "kind": "combine", "fields": cut})
    assert answer[0] == 200, answer
    built = api.build(part)
    assert built["steps"][-1]["error"] is None
    # The block stands round the bore: what is left is above, below, and a plug in it.
    assert built["volume"] == pytest.approx(100 * 18.0 - 10 * (100.0 - math.pi * 9), rel=1e-9)
    assert {b["id"] for b in built["bodies"] if b["tool"]} == {"b_s1", "b_s1_1"}


def test_what_cannot_be_taken_is_refused_in_words(api, machine):
    id, plate, solid, top, rim = machine
    part, component = begin(api, id, {"component": "c1", "pick": rim})

    def head(id):
        return api.get(f"/api/documents/{id}")[1]["revision"]

    answers = [
        (take(api, id, component, solid, {**top, "name": ["s9/none"]}), "no longer there"),
        (take(api, id, component, "b_s7", top), "no longer in the assembly"),
        (take(api, id, "c99", solid, top), "no component of this assembly"),
        (take(api, id, "c1", solid, top), "nothing from itself"),
        (take(api, id, component, solid, {**rim, "kind": "vertex"}), "faces and edges"),
        (api.post(f"/api/documents/{id}/in-place/renew", {"component": component, "step": "s1"}),
         "takes nothing"),
        (api.post(f"/api/documents/{plate}/in-place", {"base": head(plate), "name": "X"}),
         "in an assembly"),
        (take(api, plate, component, solid, top), "in an assembly"),
    ]  # fmt: skip
    for (status, answer), words in answers:
        assert status in (409, 422), answer
        assert words in answer["error"]["text"], answer
    good = take(api, id, component, solid, top)[1]["taken"][0]
    other = take(api, id, component, solid, rim)[1]["taken"][0]
    for bad, words in (
        ({"file": "0" * 64}, "no longer in its project"),
        ({"names": ["a", "b"]}, "other faces than were taken"),
    ):
        fields = {"document": id, "component": component, "taken": [{**good, "number": 0, **bad}]}
        status, _ = api.do(part, {"do": "add_step", "kind": "neighbours", "fields": fields})
        assert status == 200
        (step,) = api.build(part)["steps"]
        assert step["status"] == "failed"
        assert words in step["error"]["text"]
        api.post(f"/api/documents/{part}/undo", {"base": head(part)})
    twice = [{**t, "number": 0} for t in (good, other)]
    fields = {"document": id, "component": component, "taken": twice}
    status, answer = api.do(part, {"do": "add_step", "kind": "neighbours", "fields": fields})
    assert (status, "each number once" in answer["error"]["text"]) == (422, True)
    gone = {"base": api.get(f"/api/documents/{id}")[1]["revision"], "name": "Y",
            "origin": {"component": "c1", "pick": {**rim, "name": ["s9/a", "s9/b"]}}}  # fmt: skip
    status, answer = api.post(f"/api/documents/{id}/in-place", gone)
    assert status == 422
    assert "no longer on the part" in answer["error"]["text"]
    assert api.get(f"/api/documents/{id}")[1]["revision"] == gone["base"]


def test_a_project_taken_elsewhere_keeps_what_was_frozen_and_from_where(api, machine):
    id, *_ = machine
    padded(api, machine)
    project = api.get(f"/api/documents/{id}")[1]["project"]
    data = api.get(f"/api/projects/{project}/archive")[1]
    status, made = api.post("/api/projects/archive", raw=data, headers={"X-File-Name": "p.zip"})
    assert status == 200, made
    shelf = api.get("/api/shelf")[1]["projects"]
    fresh = {d["name"]: d["id"] for p in shelf if p["id"] == made["id"] for d in p["documents"]}
    assert api.build(fresh["Pad"])["volume"] == pytest.approx(3 * area(60), rel=1e-9)
    name = api.get(f"/api/documents/{id}")[1]["document"]["name"]
    assert states(api, fresh[name]) == (True, ["fresh"], [""])
    # The document it was taken from goes: the part stands as it is.
    status, _ = api.server.call("DELETE", f"/api/documents/{fresh[name]}")
    assert status == 200
    assert all(s["status"] == "ok" for s in api.build(fresh["Pad"])["steps"])


def test_a_part_is_not_made_on_what_moves_inside_another_assembly(api, machine):
    id, _, solid, top, _ = machine
    outer = api.document("assembly", api.get(f"/api/documents/{id}")[1]["project"])
    api.do(outer, {"do": "add_component", "document": id, "name": "Unit"},
           {"do": "edit_component", "id": "c1", "moving": True})  # fmt: skip
    origin = {"component": "c1", "path": ["c2"], "pick": top}
    base = api.get(f"/api/documents/{outer}")[1]["revision"]
    body = {"base": base, "name": "Pad", "origin": origin}
    status, answer = api.post(f"/api/documents/{outer}/in-place", body)
    assert status == 422
    assert "made in its own document" in answer["error"]["text"]
    # Of a stiff one it is: nothing of that moves by itself.
    api.do(outer, {"do": "edit_component", "id": "c1", "moving": False})
    _, component = begin(api, outer, origin)
    status, found = api.post(
        f"/api/documents/{outer}/in-place/take",
        {"component": component,
         "wanted": [{"component": "c1", "path": ["c2"], "solid": solid, "picks": [top]}]},
    )  # fmt: skip
    assert status == 200, found
    assert found["taken"][0]["title"] == "Unit / Other"

"""Blanks over the wire: as they are seen, and their files read back by another program."""

import io
import math

import pytest
import shapely
from ezdxf import recover

from tests.core.test_sheet_parts import circle, edge, plated
from tests.server.test_runs import gone
from vireo.script.sketch import Sketch


def bent(api, *more):
    """A plate of 100 x 60 x 1.5 with two walls and a hole, as a document."""
    id = api.document()
    m = plated()
    edges = [*edge(m, 100, 30, 1.5), *edge(m, 50, 0, 1.5)]
    m.step("sheet_flange", edges=edges, length="20 mm")
    hole = m.sketch(circle(6.0, 40.0, 30.0))
    m.step("sheet_cut", sketch=hole)
    steps = [
        {"do": "add_step", "kind": s.kind, "name": s.name, "fields": s.model_dump(mode="json")["fields"]}
        for s in m.part.steps
    ]  # fmt: skip
    status, found = api.do(id, *steps, *more)
    assert status == 200, found
    return id


@pytest.fixture(scope="module")
def bracket(api):
    return bent(api)


def test_a_blank_is_told_with_its_bends_and_as_a_step_is_tried(api, bracket):
    status, flat = api.post(f"/api/documents/{bracket}/flat", {})
    assert status == 200, flat
    bend = math.pi / 2 * (2 + 0.44 * 1.5)
    wide, high = (100 - 3.5 + bend + 20 - 3.5, 60 - 3.5 + bend + 20 - 3.5)
    assert flat["size"] == pytest.approx([wide, high], abs=1e-6)
    assert flat["thickness"] == 1.5
    assert flat["pierces"] == 2
    assert [(b["up"], b["angle"], b["radius"]) for b in flat["bends"]] == [(True, 90.0, 2.0)] * 2
    assert flat["bends"][0]["deduction"] == pytest.approx(7.0 - bend)
    assert flat["mass"] == pytest.approx(flat["area"] * 1.5 * 7850e-6)
    assert api.get(f"/api/documents/{bracket}/build")[1]["bodies"][0]["sheet"] is True
    names = {w["name"] for p in flat["patches"] for w in p["walls"]}
    faces = {
        f["name"]
        for f in api.post(f"/api/documents/{bracket}/flat", {"side": "bottom"})[1]["patches"]
        for f in f["walls"]
    }
    assert names == faces
    # As a step would leave it, before it is kept.
    wider = {"do": "edit_step", "id": "s2", "fields": {"radius": "4 mm"}}
    tried = api.post(f"/api/documents/{bracket}/flat", {"commands": [wider]})[1]
    other = math.pi / 2 * (4 + 0.44 * 1.5)
    assert tried["size"][0] == pytest.approx(100 - 5.5 + other + 20 - 5.5, abs=1e-6)
    assert api.post(f"/api/documents/{bracket}/flat", {})[1]["size"] == flat["size"]


@pytest.mark.parametrize("side", ["top", "bottom"])
def test_the_dxf_read_back_has_the_area_and_the_bends(api, bracket, side):
    flat = api.post(f"/api/documents/{bracket}/flat", {"side": side, "turn": 30})[1]
    status, data = api.get(f"/api/documents/{bracket}/flat.dxf?side={side}&turn=30")
    assert status == 200
    read = recover.read(io.BytesIO(data))[0]
    space = read.modelspace()
    assert read.header["$INSUNITS"] == 4
    (outer,) = space.query("LWPOLYLINE[layer=='OUTER']")
    (hole,) = space.query("CIRCLE[layer=='INNER']")
    area = shapely.Polygon([p[:2] for p in outer.get_points()]).area - math.pi * hole.dxf.radius**2
    assert area == pytest.approx(flat["area"], rel=1e-9)
    layer = "BEND_UP" if side == "top" else "BEND_DOWN"
    lines = space.query(f"LINE[layer=='{layer}']")
    assert sorted((e.dxf.start - e.dxf.end).magnitude for e in lines) == pytest.approx(
        sorted(b["length"] for b in flat["bends"])
    )
    said = [t.dxf.text for t in space.query("TEXT")]
    assert len(said) == 2
    assert all("90° R2" in t for t in said)
    svg = api.get(f"/api/documents/{bracket}/flat.svg?side={side}&turn=30")[1]
    assert b"<path" in svg
    rows = api.get(f"/api/documents/{bracket}/flat.csv")[1].decode("utf-8-sig").splitlines()
    assert len(rows) == 3
    assert rows[1].split(",")[:4] == ["1", "Flange", "up", "90.0"]


def test_a_bend_order_is_found_by_a_job_and_told_by_names(api, bracket):
    found = gone(api, bracket, "bend_order", {})
    assert found["whole"]
    assert [s["name"] for s in found["strikes"]] == ["Flange", "Flange"]
    tall = {"do": "edit_step", "id": "s3", "fields": {"length": "90 mm"}}
    opposite = bent(api, tall)
    m = plated()
    edges = [*edge(m, 100, 30, 1.5), *edge(m, 0, 30, 1.5)]
    api.do(opposite, {"do": "edit_step", "id": "s3", "fields": {"edges": edges}})
    found = gone(api, opposite, "bend_order", {})
    assert not found["whole"]
    (stop,) = found["stops"]
    assert (stop["name"], stop["meets"], stop["tool"]) == ("Flange", "Flange", "punch")
    plain = api.plate()
    assert "Plate makes one" in gone(api, plain, "bend_order", {})["error"]["text"]


def test_what_has_no_blank_says_so(api, bracket):
    id = api.plate()
    assert "Plate makes one" in api.post(f"/api/documents/{id}/flat", {})[1]["error"]["text"]
    gone = api.post(f"/api/documents/{bracket}/flat", {"body": "b_s99"})
    assert gone[0] == 422
    assert "not there any more" in gone[1]["error"]["text"]
    assert "not there any more" in gone[1]["error"]["text"]
    for query in ("side=left", "turn=4000"):
        assert api.get(f"/api/documents/{bracket}/flat.dxf?{query}")[0] == 422
    # A spiral of walls, each on the last: it lies on itself in the flat.
    ring = Sketch()
    ring.box(0, 0, 60, 60)
    assembly = api.document(kind="assembly")
    assert api.post(f"/api/documents/{assembly}/flat", {})[0] == 422


def test_blanks_are_laid_on_stock_by_a_job_and_handed_over_as_dxf(api, bracket):
    flat = api.post(f"/api/documents/{bracket}/flat", {})[1]
    found = gone(
        api,
        bracket,
        "nest",
        {"counts": {flat["body"]: 5}, "width": 400, "height": 300, "seconds": 2},
    )
    laid = [p for s in found["sheets"] for p in s["pieces"]]
    assert len(laid) == 5
    assert sum(s["used"] for s in found["sheets"]) == pytest.approx(5 * flat["area"] / 120_000)
    space = recover.read(io.BytesIO(found["dxf"].encode()))[0].modelspace()
    assert len(space.query("LWPOLYLINE[layer=='OUTER']")) == 5
    refused = gone(api, bracket, "nest", {"counts": {flat["body"]: 5}, "width": 90})
    assert "does not fit" in refused["error"]["text"]
    refused = gone(api, bracket, "nest", {"counts": {flat["body"]: 0}})
    assert "between one and" in refused["error"]["text"]


def test_rules_of_sheets_are_kept_in_the_project_and_taken_from_bodies(api, bracket):
    project = api.get(f"/api/documents/{bracket}")[1]["project"]
    at = f"/api/projects/{project}/sheet_rules"
    assert len(api.get(at)[1]["library"]) > 10
    own = {"name": "Ours", "sets": {"thickness": "1.2 mm", "lengths": "din"}}
    assert api.post(at, own)[0] == 200
    assert api.get(at)[1]["own"] == [own]
    assert api.post(at, {**own, "sets": {}})[0] == 200
    assert api.get(at)[1]["own"] == []
    (body,) = api.get(f"/api/documents/{bracket}/build")[1]["bodies"]
    sizes = f"/api/documents/{bracket}/sheet_sizes"
    assert api.post(sizes, {"body": body["id"]})[1] == {"thickness": 1.5, "radius": 2.0}
    block = api.plate()
    (body,) = api.get(f"/api/documents/{block}/build")[1]["bodies"]
    status, said = api.post(f"/api/documents/{block}/sheet_sizes", {"body": body["id"]})
    # A plain plate is a sheet without bends, whatever it was made by.
    assert (status, said) == (200, {"thickness": 10.0, "radius": None})


def test_layers_are_called_as_asked_and_nothing_is_handed_over_without_a_step(api):
    id = bent(api)
    status, data = api.get(f"/api/documents/{id}/flat.dxf?layers=OUTER=cut,BEND_UP=bends")
    assert status == 200
    space = recover.read(io.BytesIO(data))[0].modelspace()
    assert {e.dxf.layer for e in space} == {"cut", "bends"}
    assert api.get(f"/api/documents/{id}/flat.dxf?layers=OUTER=a/b")[0] == 422
    assert api.get(f"/api/documents/{id}/flat.pdf")[1][:5] == b"%PDF-"
    api.do(id, {"do": "edit_step", "id": "s3", "fields": {"length": "1 mm"}})
    for form in ("dxf", "pdf", "csv"):
        status, said = api.get(f"/api/documents/{id}/flat.{form}")
        assert status == 422
        assert "does not build" in said["error"]["text"]
    (body,) = api.get(f"/api/documents/{id}/build")[1]["bodies"]
    refused = gone(api, id, "nest", {"counts": {body["id"]: 2}})
    assert "does not build" in refused["error"]["text"]

"""Bodies of a part: looks, masses, paint, parts of their own that follow, files brought in."""

import re

import pytest


def two_boxes(api, project=None) -> str:
    id = api.document(project=project)
    box = {"form": "box", "width": "20 mm", "depth": "10 mm", "height": "10 mm"}
    for x in ("0 mm", "50 mm"):
        status, _ = api.do(id, {"do": "add_step", "kind": "primitive", "fields": {**box, "x": x}})
        assert status == 200
    return id


def by_id(found):
    return {b["id"]: b for b in found["bodies"]}


def test_bodies_have_names_materials_and_masses_of_their_own(api):
    id = two_boxes(api)
    found = api.build(id)
    assert found["mass"] == pytest.approx(2 * 2000 * 7.85e-3)
    assert [b["name"] for b in found["bodies"]] == ["Plain solid", "Plain solid 2"]
    status, _ = api.do(
        id,
        {"do": "set_body", "body": "b_s1", "name": "Jaw", "material": "brass", "opacity": 0.5},
        {"do": "set_body", "body": "b_s2", "mass": 40.0, "colour": "#aa3322"},
    )
    assert status == 200
    found = api.build(id)
    jaw, other = by_id(found)["b_s1"], by_id(found)["b_s2"]
    assert (jaw["name"], jaw["opacity"], jaw["material"]) == ("Jaw", 0.5, "brass")
    assert jaw["mass"] == pytest.approx(2000 * 8.47e-3)
    assert (other["mass"], other["colour"]) == (40.0, "#aa3322")
    assert found["mass"] == pytest.approx(40 + 16.94)
    # The centre is that of the mass: 16.94 g at 10, 40 g at 60.
    assert found["centre"][0] == pytest.approx((16.94 * 10 + 40 * 60) / 56.94)
    assert [s["change"] for s in found["steps"]] == pytest.approx([16.94, 40.0])
    api.do(id, {"do": "set_body", "body": "b_s2", "mass": None, "colour": None})
    status, view = api.get(f"/api/documents/{id}")
    assert [x["body"] for x in view["document"]["looks"]] == ["b_s1"]
    for bad in ({"opacity": 0.0}, {"mass": -1.0}, {"colour": "red"}, {"name": "x" * 200}):
        status, said = api.do(id, {"do": "set_body", "body": "b_s1", **bad})
        assert status == 422, said


def top_of(api, key) -> dict:
    return {"body": "b_s1", "kind": "face", "name": ["s1/top"], "witness": {"kind": "plane"}}


def test_painted_faces_keep_their_colour_and_go_out_with_it(api):
    id = two_boxes(api)
    top = top_of(api, id)
    assert api.do(id, {"do": "paint_faces", "picks": [top], "colour": "#20ff10"})[0] == 200
    (paint,) = by_id(api.build(id))["b_s1"]["paints"]
    assert paint["colour"] == "#20ff10"
    api.do(id, {"do": "edit_step", "id": "s1", "fields": {"height": "30 mm"}})
    assert len(by_id(api.build(id))["b_s1"]["paints"]) == 1
    _, step = api.get(f"/api/documents/{id}/export.step")
    reds = re.findall(rb"COLOUR_RGB\('',([\d.E-]+),", step)
    assert len(reds) == 2  # that of the bodies and that of the face
    api.do(id, {"do": "edit_step", "id": "s1", "fields": {"form": "sphere", "diameter": "9 mm"}})
    assert api.build(id)["lost_paints"] == 1
    edge = {**top, "kind": "edge", "name": ["s1/top", "s1/front"]}
    status, said = api.do(id, {"do": "paint_faces", "picks": [edge], "colour": "#20ff10"})
    assert status == 422
    assert "faces are painted" in said["error"]["text"]
    api.do(id, {"do": "paint_faces", "picks": [top], "colour": None})
    assert api.build(id)["lost_paints"] == 0


def test_bodies_become_parts_that_follow(api):
    project = api.project()
    id = two_boxes(api, project)
    api.do(id, {"do": "set_body", "body": "b_s2", "name": "Slide", "material": "brass"})
    status, made = api.post(f"/api/documents/{id}/separate", {})
    assert status == 200
    _, shown = api.get(f"/api/documents/{made['id']}/assembly")
    assert shown["mass"] == pytest.approx(2000 * (7.85 + 8.47) * 1e-3)
    api.do(id, {"do": "edit_step", "id": "s2", "fields": {"width": "40 mm"}})
    _, shown = api.get(f"/api/documents/{made['id']}/assembly")
    assert shown["mass"] == pytest.approx((2000 * 7.85 + 4000 * 8.47) * 1e-3)
    # The parts are used: neither they nor what they follow can go.
    status, said = api.server.call("DELETE", f"/api/documents/{id}")
    assert status == 422
    assert "Slide" in said["error"]["text"]
    # A circle is refused by name before it is kept.
    _, shelf = api.get("/api/shelf")
    documents = next(p for p in shelf["projects"] if p["id"] == project)["documents"]
    slide = next(d["id"] for d in documents if d["name"] == "Slide")
    status, said = api.do(id, {"do": "add_step", "kind": "taken", "fields": {"document": slide}})
    assert status == 422
    assert "would contain itself" in said["error"]["text"]
    assert "Slide" in said["error"]["text"]
    # The project as a zip comes back linked to its own copies.
    _, data = api.get(f"/api/projects/{project}/archive")
    status, again = api.post("/api/projects/archive", raw=data, headers={"X-File-Name": "p.zip"})
    assert status == 200
    _, shelf = api.get("/api/shelf")
    copies = next(p for p in shelf["projects"] if p["id"] == again["id"])["documents"]
    copy = next(d["id"] for d in copies if d["name"] == "Slide")
    _, view = api.get(f"/api/documents/{copy}")
    assert view["document"]["steps"][0]["fields"]["document"] in [d["id"] for d in copies]
    assert api.build(copy)["volume"] == pytest.approx(4000)


def test_a_body_that_is_gone_there_is_told(api):
    project = api.project()
    id = two_boxes(api, project)
    taker = api.document(project=project)
    fields = {"document": id, "which": "b_s9"}
    api.do(taker, {"do": "add_step", "kind": "taken", "fields": fields})
    error = api.build(taker)["steps"][0]["error"]
    assert error["code"] == "lost_pick"
    assert [o["fields"]["which"] for o in error["offers"]] == ["b_s1", "b_s2"]
    api.do(taker, {"do": "edit_step", "id": "s1", "fields": {"document": "dnone", "which": ""}})
    assert "no longer in this project" in api.build(taker)["steps"][0]["error"]["text"]


STL = (
    b"solid t\n"
    + b"".join(
        b"facet normal 0 0 0\nouter loop\n"
        + b"".join(b"vertex %d %d %d\n" % p for p in t)
        + b"endloop\nendfacet\n"
        for t in (
            ((0, 0, 0), (0, 9, 0), (9, 0, 0)), ((0, 0, 0), (9, 0, 0), (0, 0, 9)),
            ((0, 0, 0), (0, 0, 9), (0, 9, 0)), ((9, 0, 0), (0, 9, 0), (0, 0, 9)),
        )
    )
    + b"endsolid t\n"
)  # fmt: skip


def test_files_come_into_a_part_that_is_there(api):
    id = two_boxes(api)
    status, kept = api.post(
        f"/api/documents/{id}/bring", raw=STL, headers={"X-File-Name": "tetra.stl"}
    )
    assert (status, kept["form"], kept["source"]) == (200, "mesh", "tetra.stl")
    api.do(id, {"do": "add_step", "kind": "import", "fields": kept})
    assert api.build(id)["volume"] == pytest.approx(4000 + 729 / 6)
    for junk in (b"junk", b"ISO-10303-21;\nDATA;", b"solid\nfacet\nvertex 1 2 x\n"):
        status, said = api.post(
            f"/api/documents/{id}/bring", raw=junk, headers={"X-File-Name": "x"}
        )
        assert status == 422, said

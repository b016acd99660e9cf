"""Drawing over the wire: tools, help, links, files."""

import io

import ezdxf
import pytest

from tests.core.drawings import plate


def solved(api, id, drawing, **more):
    status, found = api.post("/api/sketch/solve", {"document": id, "drawing": drawing, **more})
    assert status == 200, found
    return found


def test_a_tool_draws_reads_and_says_why_it_cannot(api):
    id = api.document()
    ask = {
        "document": id, "drawing": {}, "tool": "slot", "texts": {"width": "8 mm"},
        "spots": [{"at": [0, 0]}, {"at": [30, 0], "level": "horizontal"}, {"at": [30, 5]}],
    }  # fmt: skip
    status, made = api.post("/api/sketch/draw", ask)
    assert status == 200
    assert made["read"]["length"] == pytest.approx(30)
    assert {c["id"] for c in made["curves"]} <= set(made["touched"])
    found = solved(api, id, made["drawing"])
    assert found["holds"]
    assert list(found["values"].values())[-1] == pytest.approx(8)
    status, none = api.post("/api/sketch/draw", {**ask, "spots": [{"at": [1, 1]}] * 3})
    assert status == 200
    assert "slot needs" in none["trouble"]
    assert api.post("/api/sketch/draw", {**ask, "tool": "magic"})[1]["trouble"]
    assert api.post("/api/sketch/draw", {**ask, "spots": [{"at": [1, "x"]}]})[0] == 422


def test_help_over_the_wire_settles_moves_and_says_how_far(api):
    id = api.document()
    s = plate()
    s.circle(s.point(20, 20), 3.0)
    ask = {"document": id, "drawing": s.drawing}
    proposed = api.post("/api/sketch/settle", ask)[1]["proposals"]
    assert sum(p["takes"] for p in proposed) == 3
    assert len(api.post("/api/sketch/motions", ask)[1]["motions"]) == 3
    drawing = {**s.drawing, "constraints": [*s.drawing["constraints"],
               {"id": "d9", "type": "distance", "on": ["p1", "p3"], "formula": "500 mm"}]}  # fmt: skip
    loose = {**drawing, "constraints": [c for c in drawing["constraints"] if c["id"] != "k6"]}
    assert solved(api, id, loose)["holds"]
    found = solved(api, id, drawing, edited="d9")
    assert not found["holds"]
    assert "as far as 72.11 mm" in found["troubles"][0]["text"]


def test_a_dxf_comes_in_and_sketches_go_out(api):
    document = ezdxf.new("R2010", units=ezdxf.units.MM)
    document.modelspace().add_circle((5, 5), 3)
    document.modelspace().add_text("hello")
    out = io.StringIO()
    document.write(out)
    status, found = api.post(
        "/api/sketch/layout", raw=out.getvalue().encode(), headers={"X-File-Name": "a.dxf"}
    )
    assert status == 200, found
    assert found["left"] == {"TEXT": 1}
    assert [e["type"] for e in found["drawing"]["entities"]] == ["point", "circle"]
    status, said = api.post("/api/sketch/layout", raw=b"nonsense", headers={"X-File-Name": "a.dxf"})
    assert status == 422
    assert "DXF" in said["error"]["text"]
    id = api.plate()
    for form, mark in (("dxf", b"SECTION"), ("svg", b"<svg")):
        status, data = api.get(f"/api/documents/{id}/sketches/s1/export.{form}")
        assert status == 200
        assert mark in data[:400]
    assert api.get(f"/api/documents/{id}/sketches/s9/export.dxf")[0] == 422


def test_an_edge_is_brought_into_a_sketch(api):
    id = api.plate()
    body = api.build(id)["bodies"][0]
    api.do(id, {"do": "add_step", "kind": "sketch", "fields": {"plane": {"base": "XY"}}})
    brought = {"id": "x1", "pick": {"body": body["id"], "kind": "face", "name": ["s2/cap/end"],
               "witness": {"kind": "plane", "at": [30, 20, 10], "size": 2400}}}  # fmt: skip
    ask = {"document": id, "drawing": {}, "step": "s3", "brought": [brought]}
    status, found = api.post("/api/sketch/bring", ask)
    assert status == 200, found
    lines = [e for e in found["drawing"]["entities"] if e["type"] == "line"]
    assert len(lines) == 4
    assert all(e["source"] == "x1" for e in lines)
    assert solved(api, id, found["drawing"])["freedom"] == 0
    assert api.post("/api/sketch/bring", {**ask, "step": "s8"})[0] == 422

"""2D files over the wire: kept, shown, taken from, replaced by newer ones, refused."""

import io

import ezdxf
import pytest

SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm" viewBox="0 0 200 100">
 <g id="cutlayer" transform="translate(10,0)">
  <path id="lug" d="M0 0 L10 0 A5 5 0 0 1 20 0 C 30 0 30 10 20 10 Q 10 20 0 10 Z"/>
  <circle cx="50" cy="50" r="10"/>
 </g>
 <text x="1" y="2">words</text>
</svg>"""


def dxf(size=20.0, count=0, broken=False) -> bytes:
    document = ezdxf.new("R2010", units=ezdxf.units.MM)
    space = document.modelspace()
    c = [(0, 0), (size, 0), (size, 20), (0, 20)]
    for a, b in zip(c, c[1:] + c[:1], strict=True):
        space.add_line(a, b, dxfattribs={"layer": "cut"})
    block = document.blocks.new("LUG")
    block.add_circle((0, 0), 2)
    space.add_blockref("LUG", (10, 10), dxfattribs={"layer": "holes"})
    space.add_spline([(40, 0), (45, 5), (50, 0)], dxfattribs={"layer": "grip"})
    for k in range(count):
        space.add_line((k % 200, 100 + k // 200), (k % 200 + 0.5, 100 + k // 200))
    out = io.StringIO()
    document.write(out)
    text = out.getvalue()
    return (text[: len(text) // 3] + "\n  7\nrubbish\n" if broken else text).encode()


def lay(api, id, data, name="sheet.dxf"):
    return api.post(f"/api/documents/{id}/layouts", raw=data, headers={"X-File-Name": name})


def test_a_layout_is_kept_taken_from_and_followed_into_a_newer_file(api):
    id = api.document()
    api.do(id, {"do": "add_step", "kind": "sketch", "fields": {"plane": {"base": "XY"}}})
    status, found = lay(api, id, dxf())
    assert status == 200, found
    assert found["layers"] == ["cut", "grip", "holes"]
    assert len(found["items"]) == 6
    again = api.get(f"/api/documents/{id}/layouts/{found['file']}")[1]
    assert again["items"] == found["items"]
    cut = next(i for i in found["items"] if i["layer"] == "cut")
    items = api.post("/api/sketch/layout_chain",
                     {"document": id, "file": found["file"], "key": cut["key"]})[1]["items"]  # fmt: skip
    assert len(items) == 4
    bore = next(i for i in found["items"] if i["layer"] == "holes")
    items.append({k: v for k, v in bore.items() if k != "points"})
    under = {"id": "u1", "file": found["file"], "source": "sheet.dxf", "scale": 2.0}
    links = [{"id": "x1", "layout": {"underlay": "u1", "items": items}}]
    ask = {"document": id, "drawing": {}, "step": "s1", "brought": links, "underlays": [under]}
    status, made = api.post("/api/sketch/bring", ask)
    assert status == 200, made
    fields = {"drawing": made["drawing"], "brought": links, "underlays": [under]}
    assert api.do(id, {"do": "edit_step", "id": "s1", "fields": fields})[0] == 200
    api.do(id, {"do": "add_step", "kind": "extrude", "fields": {"sketch": "s1", "depth": "1 mm"}})
    assert api.build(id)["volume"] == pytest.approx(40 * 40 - 3.14159265 * 16)
    # A newer file: the plate is longer, the bore stays; nothing is kept until one says so.
    newer = lay(api, id, dxf(26.0))[1]["file"]
    status, compared = api.post("/api/sketch/replace_layout", {
        **ask, "drawing": made["drawing"], "underlay": "u1", "file": newer, "source": "b.dxf"})  # fmt: skip
    assert status == 200, compared
    assert (compared["same"], len(compared["changed"]), compared["gone"]) == (3, 3, [])
    assert compared["lost"] == {}
    fields = {k: compared[k] for k in ("drawing", "brought", "underlays")}
    assert api.do(id, {"do": "edit_step", "id": "s1", "fields": fields})[0] == 200
    assert api.build(id)["volume"] == pytest.approx(52 * 40 - 3.14159265 * 16)
    # The file goes with the project.
    data = api.get(f"/api/projects/{api.get(f'/api/documents/{id}')[1]['project']}/archive")[1]
    status, moved = api.post("/api/projects/archive", raw=data, headers={"X-File-Name": "p.zip"})
    assert status == 200, moved
    shelf = api.get("/api/shelf")[1]["projects"]
    copy = next(p for p in shelf if p["id"] == moved["id"])["documents"][0]["id"]
    assert api.build(copy)["volume"] == pytest.approx(52 * 40 - 3.14159265 * 16)


def test_an_svg_lies_at_true_size_with_its_groups_as_layers(api):
    id = api.document()
    status, found = lay(api, id, SVG, "lug.svg")
    assert status == 200, found
    assert found["layers"] == ["cutlayer"]
    assert found["left"] == {"text": 1}
    round_ = next(i for i in found["items"] if i["form"] == "circle")
    assert round_["at"] == pytest.approx([30, -25])
    assert round_["length"] == pytest.approx(2 * 3.14159265 * 5)
    assert {i["form"] for i in found["items"]} == {"line", "arc", "spline", "circle"}


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"nonsense", "DXF"),
        (b"<svg><g>", "SVG"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "holds no lines"),
        (b"<!DOCTYPE svg [<!ENTITY a 'b'>]><svg>&a;</svg>", "entities"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'><path d='M0 0 L1e300 1'/></svg>", "finite"),
    ],
)
def test_broken_files_are_refused_in_words(api, data, said):
    status, found = lay(api, api.document(), data)
    assert status == 422
    assert said in found["error"]["text"]


def test_twenty_thousand_curves_are_shown_and_taken_from(api):
    id = api.document()
    api.do(id, {"do": "add_step", "kind": "sketch", "fields": {"plane": {"base": "XY"}}})
    status, found = lay(api, id, dxf(count=19_990))
    assert status == 200, found
    assert len(found["items"]) == 19_996
    item = {k: v for k, v in found["items"][0].items() if k != "points"}
    ask = {"document": id, "drawing": {}, "step": "s1",
           "brought": [{"id": "x1", "layout": {"underlay": "u1", "items": [item]}}],
           "underlays": [{"id": "u1", "file": found["file"]}]}  # fmt: skip
    assert len(api.post("/api/sketch/bring", ask)[1]["drawing"]["entities"]) == 3
    # A damaged file: what can be read is read, or it is said that it cannot.
    status, torn = lay(api, id, dxf(broken=True))
    said = "" if status == 200 else torn["error"]["text"]
    assert status == 200 or any(w in said for w in ("cannot", "no lines", "not a DXF file")), said


def test_sizes_are_read_off_over_the_wire(api):
    d = {"entities": [{"type": "point", "id": "p1", "x": 0, "y": 0},
                      {"type": "circle", "id": "c1", "centre": "p1", "radius": 5}]}  # fmt: skip
    found = api.post("/api/sketch/measure", {"drawing": d, "selected": ["c1"]})[1]
    assert {r["label"]: r["shown"] for r in found["readings"]}["Diameter"] == "10 mm"
    assert api.post("/api/sketch/measure", {"drawing": d, "selected": ["q"]})[0] == 422

"""Variants and options on the screen: columns by click, cells typed and pasted, proving, choosing a member."""

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from vireo.script.sketch import Sketch


@pytest.fixture
def block(server):
    """A block with a parameter, one edge rounded and a check of its mass."""
    project = server.call("POST", "/api/projects", {"name": "Blocks"})[1]["id"]
    id = server.call(
        "POST", f"/api/projects/{project}/documents", {"kind": "part", "name": "Block"}
    )[1]["id"]

    def do(*commands):
        base = server.call("GET", f"/api/documents/{id}")[1]["revision"]
        body = {"base": base, "commands": list(commands)}
        status, found = server.call("POST", f"/api/documents/{id}/commands", body)
        assert status == 200, found

    do({"do": "add_parameter", "name": "wide", "formula": "40 mm"},
       {"do": "add_step", "kind": "primitive", "fields": {
           "form": "box", "width": "wide", "depth": "20 mm", "height": "10 mm"}})  # fmt: skip
    edge = {"body": "b_s1", "kind": "edge", "name": ["s1/front", "s1/right"]}
    do({"do": "add_step", "kind": "fillet", "fields": {"edges": [edge], "radius": "2 mm"}},
       {"do": "add_check", "kind": "mass", "name": "Stays light", "limit": "70 g"})  # fmt: skip
    return id


def test_a_family_is_made_by_clicks_proved_and_a_wrong_row_mended(page, server, block, tmp_path):
    """Columns by click and from the list, rows typed and pasted, proved; the wrong one opens on its step."""

    def view():
        return server.call("GET", f"/api/documents/{block}")[1]["document"]

    page.go(f"/d/{block}")
    page.idle()
    page.press("tab-variants")
    page.press("choose-columns")
    page.press("drive-s2-radius")
    page.idle()
    page.press_option("take-column", "wide")
    page.idle()
    page.press("choose-columns")
    radius, wide = (c["id"] for c in view()["columns"])
    page.press("add-variant")
    page.fill("new-variant", "Small", enter=True)
    page.idle()
    page.keys(Keys.ESCAPE)
    row = view()["variants"][0]["id"]
    page.press(f"cell-{row}-{wide}")
    page.keys("30", Keys.ENTER)
    page.idle()
    assert view()["variants"][0]["cells"] == {wide: {"formula": "30 mm"}}
    text = "Variant\tFillet · Radius\twide\nLarge\t3\t2 in\nToo round\t30\t"
    page.js(
        "const d = new DataTransfer(); d.setData('text/plain', arguments[0]);"
        "document.querySelector('table.variants').dispatchEvent("
        "new ClipboardEvent('paste', {clipboardData: d, bubbles: true}))",
        text,
    )
    page.wait(lambda: len(view()["variants"]) == 3, "pasted")
    page.idle()
    large, wrong = (v["id"] for v in view()["variants"][1:])
    assert view()["variants"][1]["cells"] == {
        radius: {"formula": "3 mm"},
        wide: {"formula": "2 in"},
    }
    page.press("prove")
    page.press_text("Every row")
    page.wait(
        lambda: page.has("proved-count") and "2 of 4 good" in page.text("proved-count"),
        "proved",
        60,
    )
    assert "Stays light" in page.text(f"variant-{large}")
    assert "30 mm" in page.text(f"variant-{wrong}")
    page.press("go-wrong")
    page.wait(lambda: "Too round" in page.text("member-name"), "switched")
    page.wait(lambda: page.has("editor"), "opened on its step")
    page.fill("field-radius", "5 mm")
    page.idle()
    page.press("keep")
    page.idle()
    assert view()["variants"][2]["cells"] == {radius: {"formula": "5 mm"}}
    page.wait(lambda: "out of date" in page.text(f"variant-{wrong}"), "told")
    assert "out of date" not in page.text(f"variant-{large}")
    sheet = tmp_path / "sizes.csv"
    sheet.write_text("Variant;wide\nSmall;35\nMiddle;1 kg\nHuge;9 cm\n")
    page.driver.find_element("css selector", "[data-testid=table-file]").send_keys(str(sheet))
    page.wait(lambda: page.has("incoming"), "told")
    told = page.text("incoming")
    assert "Small, wide: 30 mm → 35 mm" in told
    assert "B3 wide takes a length; 1 kg is a mass" in told
    page.press("take-rows")
    page.idle()
    page.wait(lambda: [v["name"] for v in view()["variants"]][-2:] == ["Middle", "Huge"], "taken")
    page.press("switch-drawn")
    page.idle()
    page.wait(lambda: "As drawn" in page.text("member-name"), "as drawn again")
    built = server.call("GET", f"/api/documents/{block}/build")[1]
    assert built["steps"][1]["values"]["radius"] == pytest.approx(2.0)
    assert page.complaints() == []


def test_options_are_chosen_and_their_combinations_proved(page, server, demo):
    """The motor's bracket: on a rail with a cable at the left; every pair of choices in a few members."""
    id = demo["Motor bracket"]
    page.go(f"/d/{id}")
    page.idle()
    page.press("tab-variants")
    for value in ("rail", "left", "yes"):
        page.press(f"value-{value}")
        page.idle()
    page.wait(lambda: page.text("member-name") == "rail · left · Cable · 50 mm", "its name")
    built = server.call("GET", f"/api/documents/{id}/build")[1]
    assert built["bodies"][0]["colour"] == "#b59a6a"
    document = server.call("GET", f"/api/documents/{id}")[1]["document"]
    awake = {s["name"] for s in document["steps"] if not s["asleep"]}
    assert {"Rail slot", "Cable hole"} <= awake
    assert not awake & {"Foot hole 1", "Flange hole 1"}
    page.press("prove")
    page.press_text("Combinations: every pair of choices")
    page.wait(lambda: page.has("proved-count"), "proved", 90)
    count = int(page.text("proved-count").split(" of ")[1].split()[0])
    assert 9 <= count <= 20
    assert page.complaints() == []


def test_a_member_is_chosen_by_conditions_where_it_comes_in_and_swapped_later(page, server, demo):
    """Of 25 angles those at least 50 wide and 150 long: six match; one comes in, and is swapped."""
    angle = demo["Angle"]
    project = server.call("GET", f"/api/documents/{angle}")[1]["project"]
    wish = {"kind": "assembly", "name": "Frame"}
    made = server.call("POST", f"/api/projects/{project}/documents", wish)[1]["id"]
    page.go(f"/d/{made}")
    page.idle()
    page.press("verb-place")
    page.press("place-Angle")
    page.wait(lambda: page.has("add-condition"), "members")
    for n, words in enumerate((("leg", "at least", "50 mm"), ("long", "at least", "150 mm"))):
        page.press("add-condition")
        for field, word in zip(
            page.find(f"condition-{n}").find_elements("tag name", "select"), words, strict=True
        ):
            Select(field).select_by_visible_text(word)
    assert page.text("matches") == "6 of 25 match"
    rows = {
        v["name"]: v["id"]
        for v in server.call("GET", f"/api/documents/{angle}")[1]["document"]["variants"]
    }
    page.press(f"member-{rows['60 x 180']}")
    page.press("take-member")
    page.idle()
    page.wait(lambda: page.has("member-of-c1") and page.text("member-of-c1") == "60 x 180", "in")

    def mass():
        return server.call("GET", f"/api/documents/{made}/assembly")[1]["leaves"][0]["mass"]

    before = mass()
    page.press("place-done")
    page.js(
        "document.querySelector('[data-testid=component-c1]').dispatchEvent("
        "new MouseEvent('contextmenu', {bubbles: true, clientX: 1000, clientY: 300}))"
    )
    page.press_text("Variant and revision …")
    page.press(f"member-{rows['30 x 60']}")
    page.press("take-member")
    page.idle()
    page.wait(lambda: page.text("member-of-c1") == "30 x 60", "swapped")
    assert mass() < before / 4
    assert page.complaints() == []


def test_a_size_in_a_sketch_becomes_a_column_and_a_row_a_part_of_its_own(page, server, demo):
    """A plate 30 by 20 by 8, wide as its sketch says: a row of 45; its file is old when the row changes,
    and the part made of it goes along."""
    project = server.call("GET", f"/api/documents/{demo['Angle']}")[1]["project"]
    sketch = Sketch()
    corners = sketch.box(0, 0, 30, 20)
    sketch.put("distance_x", corners[0], corners[2], formula="30 mm")
    commands = [
        {"do": "add_step", "kind": "sketch", "fields": {"drawing": sketch.drawing}},
        {"do": "add_step", "kind": "extrude", "fields": {"sketch": "s1", "depth": "8 mm"}},
    ]
    wish = {"kind": "part", "name": "Shim"}
    id = server.call("POST", f"/api/projects/{project}/documents", wish)[1]["id"]
    server.call("POST", f"/api/documents/{id}/commands", {"base": 1, "commands": commands})
    page.go(f"/d/{id}?drawer=variants")
    page.idle()
    page.press("card-s1")
    page.wait(lambda: page.has("sketch-keep"), "the sketch")
    page.press("choose-columns")
    size = sketch.drawing["constraints"][-1]["id"]
    page.press(f"dim-{size}")
    page.idle()
    (column,) = server.call("GET", f"/api/documents/{id}")[1]["document"]["columns"]
    assert column["of"]["field"] == f"drawing.constraints.{size}.formula"
    page.press("choose-columns")
    page.press("sketch-discard")
    page.idle()
    page.press("add-variant")
    page.find("new-variant").send_keys("Long\n")
    page.idle()
    row = server.call("GET", f"/api/documents/{id}")[1]["document"]["variants"][0]["id"]

    def width(words):
        page.press(f"cell-{row}-{column['id']}")
        page.driver.switch_to.active_element.send_keys(
            Keys.CONTROL + "a" + Keys.NULL, words, Keys.ENTER
        )
        page.idle()

    width("45 mm")
    page.press("table-out")
    page.press_text("STEP of each, in a ZIP")
    page.wait(lambda: page.has(f"handed-{row}") and page.text(f"handed-{row}") == "STEP", "written")
    page.press("table-out")
    page.press_text("Rows as parts of their own")
    page.wait(lambda: "Shim Long" in page.text(f"handed-{row}"), "a part of its own")
    width("50 mm")
    page.wait(lambda: page.text(f"handed-{row}").startswith("STEP old"), "told to be old")
    assert page.text("handed-drawn") == "STEP"
    page.press_text("Shim Long")
    page.idle()
    page.wait(lambda: "Shim Long" in page.driver.title or page.has("card-s1"), "opened")
    own = page.driver.current_url.split("/d/")[1].split("?")[0]
    assert own != id
    assert server.call("GET", f"/api/documents/{own}/build")[1]["volume"] == pytest.approx(
        50 * 20 * 8
    )
    # Whoever edits the first is told where it goes on.
    page.go(f"/d/{id}")
    page.idle()
    page.press("card-s2")
    page.wait(
        lambda: page.has("follow-line") and page.text("follow-line") == "goes on into Shim Long",
        "who follows",
    )
    assert page.complaints() == []

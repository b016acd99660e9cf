"""A part from nothing by mouse and keyboard."""

import math

import pytest
from selenium.webdriver.common.keys import Keys

RHO = 7850e-6


def grams(text: str) -> float:
    return float(text.replace(" g", "").replace("−", "-"))


def new_part(page, project, name):
    page.go("/")
    page.press("new-project")
    page.fill("name-field", project)
    page.press("make")
    page.wait(
        lambda: any(project in e.text for e in page.driver.find_elements("tag name", "section")),
        project,
    )
    page.wait(
        lambda: not page.driver.find_elements("css selector", ".n-modal"), "the question gone"
    )
    section = next(s for s in page.driver.find_elements("tag name", "section") if project in s.text)
    section.find_element("css selector", "[data-testid=new-part]").click()
    page.fill("name-field", name)
    page.press("make")
    page.wait(lambda: "/d/" in page.driver.current_url, "the part's page")
    page.keep_seam()
    page.idle()


def settle(page):
    """Wait until the camera has stopped flying."""
    page.idle()


def test_a_dimensioned_plate_with_holes_extruded_filleted_and_changed_by_a_parameter(page):
    new_part(page, "First project", "Plate")
    page.press("tab-parameters")
    page.press("begin-parameter")
    page.fill("new-name", "width")
    page.fill("new-formula", "60 mm", enter=True)
    page.idle()
    page.press("first-sketch")
    page.press("choose-XY")
    page.idle()
    settle(page)
    # A rectangle from the origin: width by a parameter, height by a number, both typed.
    page.press("verb-box")
    page.press("tool-draw:rectangle")
    page.click_model(0, 0)
    page.mouse(*page.at(40, 25), None)
    page.find("size-0").send_keys("width" + Keys.TAB)
    page.keys("40", Keys.ENTER)
    page.idle()
    assert page.text("sketch-state") == "Settled"
    # Two loose points for holes, then sizes to hold one of them.
    page.press("verb-point")
    page.press("tool-draw:point")
    page.click_model(12, 12)
    page.idle()
    page.click_model(48, 28)
    page.idle()
    assert page.text("sketch-state") == "4 freedoms left"
    page.keys(Keys.ESCAPE)
    page.click_model(12, 12)
    page.mouse(*page.at(48, 28), shift=True)
    page.press("size-distance_x")
    page.fill("dimension-field", "30", enter=True)
    page.idle()
    assert page.text("sketch-state") == "3 freedoms left"
    page.press("sketch-keep")
    page.idle()
    page.press("verb-grow")
    page.press("tool-extrude")
    page.idle()
    page.fill("field-depth", "10")
    page.idle()
    assert grams(page.text("trial-mass").split(" +")[0]) == pytest.approx(188.4)
    page.press("keep")
    page.idle()
    page.press("verb-cut")
    page.press("tool-hole")
    page.idle()
    page.fill("field-bore", "6 mm")
    page.idle()
    page.press("keep")
    page.idle()
    holes = 2 * math.pi * 9 * 10
    assert grams(page.text("total-mass")) == pytest.approx((24000 - holes) * RHO, abs=0.06)
    # Fillet the uprights that can be seen, typed through quick entry.
    page.keys("7")
    page.keys("f")
    settle(page)
    page.keys("/")
    page.fill("quick", "fillet 5", enter=True)
    page.find("editor")
    page.idle()
    body = "b_s2"
    edges = page.topology(body)["edges"]
    picked = 0
    for i, e in enumerate(edges):
        if (
            e["kind"] == "line"
            and abs(e["direction"][2]) > 0.9
            and (spot := page.spot(body, "edge", i))
        ):
            page.mouse(*spot)
            picked += 1
    assert picked == 3
    page.idle()
    page.press("keep")
    page.idle()
    rounds = 3 * (25 - math.pi * 25 / 4) * 10
    assert grams(page.text("total-mass")) == pytest.approx((24000 - holes - rounds) * RHO, abs=0.06)
    # One number changes: mass and picture follow; undo brings both back.
    before, mass = page.topology(body), page.text("total-mass")
    page.find("parameter-width").find_element("css selector", "td.formula").click()
    page.keys(Keys.CONTROL, "a")
    page.driver.switch_to.active_element.send_keys("80 mm" + Keys.ENTER)
    page.wait(lambda: page.text("total-mass") != mass, "a new mass")
    page.idle()
    page.wait(lambda: page.topology(body) != before, "a new picture")
    assert max(v["at"][0] for v in page.topology(body)["vertices"]) == pytest.approx(80)
    assert grams(page.text("total-mass")) == pytest.approx((32000 - holes - rounds) * RHO, abs=0.06)
    page.press("undo")
    page.wait(lambda: page.text("total-mass") == mass, "the old mass")
    page.wait(lambda: page.topology(body) == before, "the old picture")


def test_a_fillet_that_does_not_fit_offers_what_does(page, demo):
    page.go(f"/d/{demo['Base plate']}")
    page.idle()
    body = next(iter(page.js("return Object.keys({b_s2: 1})")))
    page.topology(body)
    page.press("verb-edges")
    page.press("tool-chamfer")
    page.idle()
    edges = page.topology(body)["edges"]
    index = next(
        i for i, e in enumerate(edges) if e["kind"] == "circle" and page.spot(body, "edge", i)
    )
    page.mouse(*page.spot(body, "edge", index))
    page.fill("field-size", "40")
    page.idle()
    said = page.wait(
        lambda: page.find("editor").find_element("css selector", ".trouble").text, "trouble"
    )
    assert "does not fit" in said
    page.press("discard")


def test_conflicts_are_named_and_can_be_dropped(page, demo):
    page.go(f"/d/{demo['Drum shaft']}")
    page.idle()
    page.press("card-s1")
    page.idle()
    settle(page)
    state = page.text("sketch-state")
    assert state == "Settled"
    x, y = page.at(0, 0, 13)
    page.mouse(x, y)
    page.press("size-radius")
    said = page.wait(
        lambda: page.find("sketch-panel").find_element("css selector", ".trouble").text, "trouble"
    )
    assert "nothing new" in said
    page.press_text("Keep it to read out only")
    page.idle()
    assert page.text("sketch-state") == "Settled"
    page.press("sketch-discard")
    page.idle()


def test_the_marker_walks_the_build_list_and_views_have_keys(page, demo):
    page.go(f"/d/{demo['Bearing block']}")
    page.idle()
    full = page.text("total-mass")
    page.driver.find_element("tag name", "body").click()
    page.keys("[")
    page.idle()
    page.wait(lambda: page.text("total-mass") != full, "less built")
    page.keys("]")
    page.idle()
    page.wait(lambda: page.text("total-mass") == full, "all built")
    before = page.at(30, 0, 0)
    page.keys("3")
    settle(page)
    assert page.at(30, 0, 0) != before
    page.keys("x")
    page.wait(lambda: page.driver.find_elements("css selector", ".section"), "a section")
    page.keys("x")


def test_a_step_is_dragged_to_another_place_and_one_that_is_needed_stays(page, demo):
    page.go(f"/d/{demo['Bearing block']}")
    page.idle()

    def order():
        cards = page.driver.find_elements("css selector", "article.card b.name")
        return [c.text for c in cards]

    def grip(id):
        box = page.find(f"card-{id}").rect
        return box["x"] + 70, box["y"] + box["height"] / 2

    before = order()
    (x, y), (u, v) = grip("s6"), grip("s3")
    page.drag([(x, y), (x, y - 20), (u, v - 12)])
    page.wait(lambda: order() != before, "the new order")
    page.idle()
    assert order() == [*before[:2], before[5], *before[2:5], *before[6:]]
    # Onto a place before the sketch it is made of: refused, and said why.
    (x, y), (u, v) = grip("s2"), grip("s1")
    page.drag([(x, y), (x, y - 15), (u, v - 12)])
    page.wait(lambda: page.driver.find_elements("css selector", ".card .trouble"), "the refusal")
    page.idle()
    assert order()[:2] == before[:2]
    assert all("422" in c for c in page.complaints())  # the refused command, nothing else
    page.find("undo").click()
    page.wait(lambda: order() == before, "the old order")


def test_the_second_pane_shows_another_document_and_cameras_go_together(page, server, demo):
    shaft = f"/api/documents/{demo['Drum shaft']}"
    above = {"name": "From above", "eye": [0, 0, 1], "up": [0, 1, 0], "target": [0, 0, 0], "height": 200}  # fmt: skip
    base = server.call("GET", shaft)[1]["revision"]
    edit = {"base": base, "commands": [{"do": "keep_view", "view": above}]}
    assert server.call("POST", f"{shaft}/commands", edit)[0] == 200
    page.go(f"/d/{demo['Bearing block']}")
    page.idle()
    page.keys("b")
    pane = page.find("beside")
    canvas = pane.find_element("tag name", "canvas")

    def picture():
        return page.js("return arguments[0].toDataURL()", canvas)

    def views():
        lists = page.driver.find_elements("css selector", "select[aria-label=Orientation]")
        return [e.get_attribute("value") for e in lists]

    page.wait(lambda: len(picture()) > 3000, "the model beside")
    assert views() == ["iso", "iso"]
    page.keys("1")
    page.wait(lambda: views() == ["front", "front"], "the same view in both")
    block = picture()
    page.press_option("beside-document", "Drum shaft")
    page.wait(lambda: picture() != block, "the shaft beside")
    page.press("beside-linked")
    page.keys("7")
    page.wait(lambda: views()[0] == "iso", "the first pane back")
    assert views()[1] == "front"  # on its own now
    # The other document's own views are there to go to.
    pane.find_element("css selector", "[data-testid=view-menu]").click()
    page.press("go-view-From above")
    page.wait(lambda: views() == ["iso", "top"], "the named view of the shaft")
    page.press("shut-beside")
    page.wait(lambda: not page.has("beside"), "one pane again")

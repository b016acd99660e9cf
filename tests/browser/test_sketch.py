"""Sketching by mouse and keyboard: tools, help, links, all through the real server."""

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.test_part import grams, new_part


def start(page, name):
    new_part(page, f"Sketches {name}", name)
    page.press("first-sketch")
    page.press("choose-XY")
    page.idle()


def choose(page, group, tool):
    page.press(f"verb-{group}")
    page.press(f"tool-draw:{tool}")


def curves(page):
    return len(page.driver.find_elements("css selector", "path.curve"))


def freedom(page):
    text = page.text("sketch-state")
    return 0 if text == "Settled" else int(text.split()[0])


def until(page, count):
    page.wait(lambda: curves(page) == count, f"{count} curves, there are {curves(page)}")
    page.idle()


def test_the_lever_is_drawn_rounded_trimmed_and_grown(page):
    start(page, "Lever")
    # Two circles with typed sizes, the second on the axis; a box between them, trimmed away.
    page.keys("c")
    page.click_model(0, 0)
    page.mouse(*page.at(9, 3), None)
    page.keys("24")
    page.keys(Keys.ENTER)
    until(page, 1)
    choose(page, "circle", "circle")
    page.click_model(50, 0)
    page.mouse(*page.at(56, 3), None)
    page.keys("12")
    page.keys(Keys.ENTER)
    until(page, 2)
    page.keys("r")
    page.click_model(-4, -3)
    page.click_model(55, 4)
    until(page, 6)
    page.keys("u")
    page.wait(lambda: page.has("tool-card"), "trim in hand")
    for x, y in ((-4, 0.5), (55, 0.5)):  # the two upright sides, inside the circles
        page.click_model(x, y)
        page.idle()
    until(page, 4)
    page.keys(Keys.ESCAPE)
    page.press("sketch-keep")
    page.idle()
    page.press("verb-grow")
    page.press("tool-extrude")
    page.idle()
    page.press("keep")
    page.idle()
    page.wait(lambda: grams(page.text("total-mass")) > 0, "a body")


def test_slots_splines_and_copies_have_their_tools(page):
    start(page, "Chute")
    choose(page, "box", "slot")
    page.click_model(10, 10)
    page.click_model(40, 10)
    page.mouse(*page.at(30, 16), None)
    page.wait(lambda: page.find("size-1").get_attribute("placeholder"), "the width as drawn")
    page.find("size-0").send_keys("30" + Keys.TAB)
    page.keys("10", Keys.ENTER)
    until(page, 5)
    page.keys("s")
    for x, y in ((-60, -30), (-30, -10), (0, -34), (30, -20)):
        page.click_model(x, y)
    page.keys(Keys.ENTER)
    until(page, 6)
    page.keys(Keys.ESCAPE)
    # Select the spline: its comb and its least radius are shown.
    page.mouse(*page.at(-30, -10))
    x, y = page.at(-30, -10)
    page.mouse(x + 14, y + 1)
    page.wait(lambda: page.has("least-radius"), "the least radius")
    # Mirror the slot's outline in the Y axis: double click picks the chain, Shift adds the axis.
    top = page.at(45, 10)
    page.double(*top)
    page.mouse(*page.at(0, 60), shift=True)
    page.keys("M")
    page.press("tool-apply")
    until(page, 10)
    # Row of three along X, then undone.
    before = curves(page)
    page.double(*top)
    page.mouse(*page.at(-70, 0), shift=True)
    choose(page, "copy", "linear_copies")
    page.fill("given-count", "3")
    page.fill("given-spacing", "45")
    page.press("tool-apply")
    until(page, before + 8)
    page.driver.find_element("css selector", "[data-testid=sketch-panel] footer button").click()
    until(page, before)


def volume(page, server):
    """Of the open part, in mm3, as the server has it."""
    id = page.js("return location.pathname.split('/')[2]")
    return server.call("GET", f"/api/documents/{id}/build")[1]["volume"]


def grow(page, depth):
    page.press("sketch-keep")
    page.idle()
    page.press("verb-grow")
    page.press("tool-extrude")
    page.idle()
    page.fill("field-depth", depth)
    page.idle()
    page.press("keep")
    page.idle()


def typed_circle(page, at, diameter, count):
    """A circle about a place, its diameter typed while drawing."""
    page.keys("c")
    page.click_model(*at)
    page.mouse(*page.at(at[0] + 7, at[1] + 4), None)
    page.keys(diameter)
    page.keys(Keys.ENTER)
    until(page, count)
    page.keys(Keys.ESCAPE)


def size_between(page, first, second, label, value):
    page.keys("d")
    page.click_model(*first)
    page.click_model(*second)
    page.click_model(*label)
    page.find("dimension-field").send_keys(Keys.CONTROL, "a")
    page.keys(value, Keys.ENTER)
    page.idle()
    page.keys(Keys.ESCAPE)


def test_the_drum_end_is_drawn_from_scratch(page, server):
    """160 across, bore 26, four vents of 30 on a circle of 100, 4 thick."""
    start(page, "Drum end")
    typed_circle(page, (0, 0), "160", 1)
    page.keys("f")
    page.idle()
    typed_circle(page, (0, 0), "26", 2)
    # The vent's centre is put on the X axis by the pointer, then held at its distance.
    typed_circle(page, (47, 0), "30", 3)
    size_between(page, (0, 0), (47, 0), (24, -9), "50")
    page.wait(lambda: page.text("sketch-state") == "Settled", "settled")
    # Three more round the middle: select the vent, then the point to go round.
    page.click_model(50, 15)
    page.mouse(*page.at(0, 0), shift=True)
    choose(page, "copy", "circular_copies")
    page.fill("given-count", "4")
    page.press("tool-apply")
    until(page, 6)
    assert freedom(page) == 0
    # What is read off agrees with what was meant.
    page.keys(Keys.ESCAPE)
    page.keys("m")
    page.click_model(0, 80)
    page.wait(lambda: page.text("reading-Diameter") == "160 mm", "the diameter")
    page.keys(Keys.ESCAPE)
    grow(page, "4 mm")
    exact = 3.141592653589793 * (80**2 - 13**2 - 4 * 15**2) * 4
    page.wait(lambda: abs(volume(page, server) - exact) < 1e-3, "the volume by hand")


def test_a_layout_is_laid_under_scaled_taken_and_followed(page, server, tmp_path):
    import ezdxf

    def sheet(path, width):
        document = ezdxf.new("R2010", units=ezdxf.units.MM)
        space = document.modelspace()
        c = [(0, 0), (width, 0), (width, 20), (0, 20)]
        for a, b in zip(c, c[1:] + c[:1], strict=True):
            space.add_line(a, b, dxfattribs={"layer": "cut"})
        lug = document.blocks.new("LUG")
        lug.add_circle((0, 0), 5)
        space.add_blockref("LUG", (10, 10), dxfattribs={"layer": "holes"})
        space.add_spline([(2, 4), (8, 2), (20, 5), (26, 3)], dxfattribs={"layer": "notes"})
        document.saveas(path)
        return str(path)

    def choose_file(testid, path):
        page.driver.find_element("css selector", f'[data-testid="{testid}"]').send_keys(path)
        page.idle()

    start(page, "Layout")
    choose_file("layout-in", sheet(tmp_path / "one.dxf", 30))
    page.wait(lambda: page.has("layout-scale"), "the layout opened")
    page.press("layer-notes")
    page.keys(Keys.ESCAPE)
    # Its true size: the lower edge is 60 long.
    page.press("layout-scale-by")
    page.click_model(0, 0)
    page.click_model(30, 0)
    page.fill("true-distance", "60")
    page.press("take-scale")
    page.wait(lambda: page.find("layout-scale").get_attribute("value") == "2", "scaled")
    page.idle()
    page.press("verb-link")
    page.press("link-whole")
    page.click_model(30, 0)
    until(page, 4)
    page.press("link-whole")
    page.click_model(20, 30)
    until(page, 5)
    assert freedom(page) == 0
    page.keys(Keys.ESCAPE)
    grow(page, "3 mm")
    exact = (60 * 40 - 3.141592653589793 * 100) * 3
    page.wait(lambda: abs(volume(page, server) - exact) < 1e-3, "the volume by hand")
    # A newer file comes: what differs is listed, what is linked follows.
    page.press("card-s1")
    page.idle()
    page.wait(lambda: page.has("underlay"), "the layout")
    page.driver.find_element("css selector", "[data-testid=underlay] .name").click()
    choose_file("layout-newer", sheet(tmp_path / "two.dxf", 36))
    assert "3 changed" in page.text("difference")
    page.press("take-newer")
    page.idle()
    page.press("sketch-keep")
    page.idle()
    exact = (72 * 40 - 3.141592653589793 * 100) * 3
    page.wait(lambda: abs(volume(page, server) - exact) < 1e-3, "the newer volume")


def test_the_cut_of_the_body_and_a_text_through_quick_entry(page, demo):
    page.go(f"/d/{demo['Bearing block']}")
    page.idle()
    page.press("verb-sketch")
    page.press("choose-XZ")
    page.idle()
    page.press("verb-link")
    page.idle()
    page.press("way-cut")
    page.press("link-whole")
    page.wait(lambda: page.topology("b_s2"), "the body")
    page.click_model(0, 0, 10)
    page.wait(lambda: curves(page) > 8, "the cut")
    page.idle()
    assert freedom(page) == 0
    page.keys(Keys.ESCAPE)
    page.keys("/")
    page.fill("quick", "text Vireo 8", enter=True)
    page.wait(lambda: page.has("tool-card"), "the tool")
    page.click_model(-60, 0, 60)
    page.wait(lambda: page.driver.find_elements("css selector", "path.curve.text"), "the text")
    page.idle()
    page.keys(Keys.ESCAPE, Keys.ESCAPE)
    page.press("sketch-discard")
    page.idle()


def test_what_is_loose_is_settled_by_proposals_and_a_size_says_how_far_it_goes(page):
    start(page, "Help")
    page.keys("l")
    for x, y in ((0, 0), (40, 0), (12, 25)):
        page.click_model(x, y)
        page.idle()
    page.click_model(0, 0)
    until(page, 3)
    page.keys(Keys.ESCAPE, Keys.ESCAPE)
    assert freedom(page) > 0
    page.press("wiggle")
    all_paths = (
        "return [...document.querySelectorAll('path.curve')].map(p => p.getAttribute('d')).join()"
    )
    seen = set()

    def moving():
        seen.add(page.js(all_paths))
        return len(seen) > 3

    page.wait(moving, "the sketch moving")
    page.press("wiggle")
    page.press("settle")
    page.find("proposals")
    page.press("take-proposals")
    page.wait(lambda: page.text("sketch-state") == "Settled", "settled")
    # A side longer than the other two together has no solution: how far it goes is offered.
    sizes = page.driver.find_elements("css selector", "g.label")
    assert len(sizes) >= 3
    target = next(
        s for s in sizes if float(s.text.strip("°").split()[-1]) == pytest.approx(40, abs=0.6)
    )
    page.driver.execute_script(
        "arguments[0].dispatchEvent(new MouseEvent('dblclick',{bubbles:true}))", target
    )
    page.find("dimension-field").send_keys(Keys.CONTROL, "a")
    page.keys("400", Keys.ENTER)
    page.wait(lambda: "it can go as far as" in page.text("sketch-panel"), "how far it goes")
    page.press_text(page.driver.find_element("css selector", ".trouble .offers button").text)
    page.idle()
    page.wait(lambda: page.text("sketch-state") == "Settled", "settled again")


def test_an_open_end_is_pointed_at_with_the_size_of_its_gap(page):
    start(page, "Gap")
    page.keys("l")
    for x, y in ((0, 0), (40, 0), (40, 30), (0, 30)):
        page.click_model(x, y)
        page.idle()
    at = page.at(0, 0)
    page.hold_hints()
    page.mouse(at[0] + 3, at[1] - 8)
    page.release_hints()
    until(page, 4)
    page.keys(Keys.ESCAPE, Keys.ESCAPE)
    assert "gap" in page.text("gap")
    choose(page, "change", "join")
    page.fill("given-tolerance", "3")
    page.press("tool-apply")
    page.wait(lambda: not page.has("gap"), "the gap closed")
    page.wait(lambda: page.driver.find_elements("css selector", "path.region"), "a region")


def test_an_edge_of_the_body_is_linked_and_follows(page, demo):
    page.go(f"/d/{demo['Base plate']}")
    page.idle()
    mass = grams(page.text("total-mass"))
    top = next(
        i for i, f in enumerate(page.topology("b_s2")["faces"])
        if f["kind"] == "plane" and f["direction"][2] > 0.99
    )  # fmt: skip

    def picked():
        spot = page.spot("b_s2", "face", top)
        page.mouse(*spot)
        return page.driver.find_elements("css selector", ".count")

    page.wait(picked, "the face picked")
    page.press("verb-sketch")
    page.idle()
    page.wait(lambda: page.has("sketch-layer"), "the sketch")
    page.keys("i")
    page.idle()
    spot = page.wait(lambda: page.spot("b_s2", "face", top), "the face to link")
    page.mouse(*spot)
    page.wait(lambda: curves(page) > 3, "the outline")
    page.idle()
    page.keys(Keys.ESCAPE)
    assert freedom(page) == 0
    page.press("sketch-keep")
    page.idle()
    page.press("verb-grow")
    page.press("tool-extrude")
    page.idle()
    page.fill("field-depth", "2 mm")
    page.idle()
    page.press("keep")
    page.idle()
    page.wait(lambda: grams(page.text("total-mass")) > mass, "a heavier plate")

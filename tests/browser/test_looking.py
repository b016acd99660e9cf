"""Looking by mouse and keyboard: sections, maps, views, targets, before and after, help."""

from selenium.webdriver.support.ui import Select

from tests.browser.test_groups import BLOCK, document
from tests.browser.test_steps import part_with, step

TRAY = step("primitive", width="57 mm", depth="36 mm", height="18 mm", x="1.5 mm", y="2 mm",
            z="2 mm", result="cut")  # fmt: skip


def style(page, word):
    Select(page.find("style")).select_by_visible_text(word)


def menu(page, step_id, item):
    """Choose from the menu of a card."""
    page.find(f"card-{step_id}").find_element("css selector", "button.more").click()

    def option():
        found = page.driver.find_elements("css selector", ".n-dropdown-option")
        return next((e for e in found if e.text == item and e.is_displayed()), None)

    page.wait(option, f"the menu with {item}").click()


def middle(element):
    box = element.rect
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_a_section_is_dragged_kept_in_a_view_and_found_again(page, server):
    part_with(page, server, BLOCK, TRAY)
    page.keys("x")
    page.wait(lambda: page.has("section"), "the section")
    assert page.find("section-at-0").get_attribute("value") == "20"
    # What was inside is picked where the front was: the wall at the back.
    page.press("measure")
    page.mouse(*page.at(30, 38, 15))
    page.wait(lambda: page.has("size-area") and "mm²" in page.text("size-area"), "its area")
    assert page.text("size-area").split()[1] == str(57 * 18)
    page.press("measure")
    handle = page.find("section-handle-0").find_elements("css selector", "circle")[1]
    x, y = middle(handle)
    page.drag([(x, y), (x - 20, y + 12), (x - 40, y + 24)])
    moved = page.wait(
        lambda: (v := float(page.find("section-at-0").get_attribute("value"))) != 20 and v,
        "it moved",
    )
    assert 0 <= moved < 20
    page.press("view-menu")
    page.fill("view-name", "Cut open")
    page.press("keep-view")
    page.wait(lambda: page.has("go-view-Cut open"), "it is listed")
    page.press("perspective")
    page.press_text("Section")
    page.wait(lambda: not page.has("section"), "whole again")
    # A click beside the card shuts it; it fades, so its going is waited for.
    page.wait(lambda: not page.has("view-card"), "the card gone")
    page.press("view-menu")
    page.press("go-view-Cut open")
    page.wait(lambda: page.has("section"), "cut again")
    assert float(page.find("section-at-0").get_attribute("value")) == moved
    view = server.call("GET", f"/api/documents/{document(page)}")[1]["document"]["views"][0]
    assert view["cut"]["planes"][0]["normal"] == [0, -1, 0]
    assert view["perspective"] is False


def test_thin_walls_are_coloured_counted_and_numbered(page, server):
    part_with(page, server, BLOCK, TRAY)
    style(page, "Wall thickness")
    page.wait(lambda: page.has("place-0"), "the thinnest place")
    assert page.text("place-0") == "1 · 1.5 mm"
    assert "% of the skin is thinner" in page.text("thin-share")
    page.js(
        "const r = document.querySelector('[aria-label=Threshold]'); r.value = 1;"
        "r.dispatchEvent(new Event('input'))"
    )
    page.wait(lambda: page.text("thin-share") == "no wall is thinner", "none below 1 mm")
    page.press("place-0")
    # A change is shown anew, by its own map.
    id = document(page)
    base = server.call("GET", f"/api/documents/{id}")[1]["revision"]
    thinner = {"do": "edit_step", "id": "s2", "fields": {"x": "0.7 mm"}}
    server.call("POST", f"/api/documents/{id}/commands", {"base": base, "commands": [thinner]})
    page.wait(lambda: page.has("place-0") and page.text("place-0") == "1 · 0.7 mm", "0.7 mm")
    style(page, "Undercut")
    page.wait(lambda: "no undercut" in page.text("legend"), "it opens upwards")


def test_a_picture_of_a_huge_size_is_refused_and_a_small_one_saved(page, server, downloads):
    part_with(page, server, BLOCK)
    page.press("view-menu")
    page.fill("picture-width", "40000")
    page.press("save-picture")
    page.wait(lambda: "at most 16384 pixels" in page.text("picture-trouble"), "refused")
    page.fill("picture-width", "640")
    page.press("save-picture")
    found = page.wait(lambda: list(downloads.glob("*.png")), "the file")[0]
    data = page.wait(found.read_bytes, "its content")
    assert data[1:4] == b"PNG"
    assert (int.from_bytes(data[16:20], "big"), int.from_bytes(data[20:24], "big")) == (640, 1080)


def test_a_target_is_missed_and_the_step_looked_at_before_and_after(page, server):
    part_with(page, server, BLOCK, TRAY)
    menu(page, "s1", "Set target mass or volume")
    page.fill("target", "48 cm**3", enter=True)
    page.wait(lambda: "target 48000" in page.text("card-s1"), "it holds")
    menu(page, "s2", "Set target mass or volume")
    page.fill("target", "100 g", enter=True)
    page.wait(lambda: "missed here first" in page.text("card-s2"), "the first miss is flagged")
    menu(page, "s2", "Before and after")
    page.wait(lambda: page.has("beside-caption"), "two panes")
    assert page.text("caption") == f"Before Plain solid 2 · −{57 * 36 * 18} mm³"
    assert page.text("beside-caption") == "After"
    page.press("end-compare")
    page.wait(lambda: not page.has("beside"), "one pane again")


def test_help_is_searched_and_a_message_leads_to_its_page(page, server):
    part_with(page, server, BLOCK, step("shell", wall="90 mm", bodies=["b_s1"]))
    page.press("help-button")
    page.fill("help-search", "thin wall mould")
    page.wait(lambda: "Looking at the model" in page.text("help-pages"), "the page")
    page.fill("help-search", "draft")
    page.press("help-step:draft")
    page.wait(
        lambda: page.js(
            "return document.querySelector('[data-testid=help-page] img').naturalWidth"
        ),
        "its picture",
    )
    assert "Parting line" in page.text("help-page")
    page.press("shut-help")
    page.press("why")
    page.wait(lambda: "What to do" in page.text("help-page"), "the page of the message")
    page.press("shut-help")


def test_what_the_shelf_refuses_is_explained_there(page, demo):
    page.go("/")
    page.wait(lambda: page.has("document-card"), "the shelf")
    page.js("window.confirm = () => true")
    card = page.driver.find_element("xpath", "//a[contains(., 'Base plate')]")
    page.js("arguments[0].querySelector('.bin').click()", card)
    page.wait(lambda: "is used by" in page.driver.find_element("tag name", "body").text, "why not")
    page.press("why")
    page.wait(lambda: "Something else needs" in page.text("help"), "its page")
    page.press("begin-tour")
    page.wait(lambda: page.has("tour"), "the tour on the demo's part")
    page.press("end-tour")
    assert all("422" in c for c in page.complaints())  # the refused deletion, nothing else


def test_a_reading_stays_with_the_document(page, server):
    part_with(page, server, BLOCK)
    page.press("measure")
    page.mouse(*page.at(30, 20, 20))
    page.press("pin-area")
    page.wait(lambda: "2400" in page.driver.find_element("css selector", ".note").text, "the note")
    page.go(f"/d/{document(page)}")
    page.idle()
    page.wait(
        lambda: "2400" in page.driver.find_element("css selector", ".note").text, "still there"
    )
    (note,) = server.call("GET", f"/api/documents/{document(page)}")[1]["document"]["notes"]
    assert note["key"] == "area"

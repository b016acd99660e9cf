"""A part in inches and pounds from sketch to mass; settings; the mouse as a person has it."""

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

INCH = 25.4


@pytest.fixture
def habits(page):
    """Habits are kept in the browser: put back as they were."""
    yield
    page.js("localStorage.removeItem('vireo-habits')")
    page.go("/")


def test_a_part_in_inches_and_pounds_from_sketch_to_mass(page, habits):
    page.go("/")
    page.press("new-project")
    page.fill("name-field", "In inches")
    page.press_text("Inches and pounds")
    page.wait(lambda: page.find("project-material").get_attribute("value") == "S235", "materials")
    Select(page.find("project-material")).select_by_value("6061-T6")
    page.press("make")
    page.wait(lambda: not page.driver.find_elements("css selector", ".n-modal"), "it gone")
    page.wait(
        lambda: any(
            "In inches" in s.text for s in page.driver.find_elements("tag name", "section")
        ),
        "the project",
    )
    section = next(
        s for s in page.driver.find_elements("tag name", "section") if "In inches" in s.text
    )
    section.find_element("css selector", "[data-testid=new-part]").click()
    page.fill("name-field", "Plate")
    page.press("make")
    page.wait(lambda: "/d/" in page.driver.current_url, "the part's page")
    page.keep_seam()
    page.idle()
    assert page.text("units") == "in"
    assert "6061-T6" in page.text("material")
    page.press("first-sketch")
    page.press("choose-XY")
    page.idle()
    page.press("verb-box")
    page.press("tool-draw:rectangle")
    page.click_model(0, 0)
    page.mouse(*page.at(40, 25), None)
    # A plain number and a fraction take the document's unit, another unit is taken as typed.
    page.find("size-0").send_keys("3" + Keys.TAB)
    page.keys("1 1/2", Keys.ENTER)
    page.idle()
    assert page.text("sketch-state") == "Settled"
    marks = [e.text for e in page.driver.find_elements("css selector", "[data-testid^=dim-]")]
    assert {"3", "1.5"} <= {m.strip("↔↕ ") for m in marks}, marks
    page.press("sketch-keep")
    page.idle()
    page.press("verb-grow")
    page.press("tool-extrude")
    page.idle()
    page.fill("field-depth", "12.7 mm")
    page.idle()
    # 3 x 1 1/2 x 1/2 in of aluminium: 2.25 in3 of 2700 kg/m3.
    pounds = 2.25 * INCH**3 * 2700e-9 / 0.45359237
    assert float(page.text("trial-mass").split(" lb")[0]) == pytest.approx(pounds, abs=2e-3)
    page.press("keep")
    page.idle()
    assert page.text("total-mass").endswith(" lb")
    assert page.text("number-s2") == "0.5 in"
    # On the card a plain number is an inch again, and what was typed is stored as typed.
    page.press("number-s2")
    page.driver.switch_to.active_element.send_keys(Keys.CONTROL + "a")
    page.keys("3/4", Keys.ENTER)
    page.idle()
    assert page.text("number-s2") == "0.75 in"
    stored = page.js("return fetch('/api/documents/' + location.pathname.split('/')[2])"
                     ".then(r => r.json()).then(d => d.document.steps[1].fields.depth)")  # fmt: skip
    assert stored == "3/4 in"
    # A comma is refused with the right word.
    page.press("number-s2")
    page.driver.switch_to.active_element.send_keys(Keys.CONTROL + "a")
    page.keys("0,5", Keys.ENTER)
    page.idle()
    card = page.driver.find_element("css selector", "[data-testid=build-list]").text
    assert "write 0.5: a point stands before the decimals" in card
    page.press("undo")
    page.idle()
    # The same part in millimetres: nothing but what is shown changes.
    page.press("units")
    page.press_text("mm and grams")
    page.idle()
    assert page.text("number-s2") == "19.05 mm"
    page.keys(Keys.ESCAPE)


def test_a_count_takes_no_millimetres_on_its_card(page, demo):
    """Eight on the card of copies became 8 mm and was refused."""
    page.go(f"/d/{demo['Drum hub']}")
    page.keep_seam()
    page.idle()
    numbers = page.driver.find_elements("css selector", "[data-testid^=number-]")
    count = next(e for e in numbers if e.text.startswith("×"))
    id = count.get_attribute("data-testid")
    was = count.text
    page.press(id)
    page.driver.switch_to.active_element.send_keys(Keys.CONTROL + "a")
    page.keys("5", Keys.ENTER)
    page.idle()
    assert page.text(id) == "× 5"
    page.press("undo")
    page.idle()
    assert page.text(id) == was


def test_settings_are_kept_and_the_mouse_does_as_told(page, demo, habits):
    page.go("/settings")
    page.press("mouse-middle")
    page.press("theme-dark")
    assert page.js("return document.documentElement.dataset.theme") == "dark"
    page.go("/settings")
    assert "on" in page.find("mouse-middle").get_attribute("class")
    page.press("theme-light")
    page.go(f"/d/{demo['Bearing block']}")
    page.keep_seam()
    page.idle()
    page.press_text("Iso")
    page.idle()
    stage = page.find("stage").rect
    x, y = stage["x"] + 0.7 * stage["width"], stage["y"] + 0.8 * stage["height"]

    def chip():
        found = page.driver.find_elements("css selector", ".chip.on")
        return [e.text for e in found if e.text in ("Iso", "Front", "Top")]

    assert chip() == ["Iso"]
    page.drag([(x, y), (x + 60, y + 20)], "right")
    page.idle()
    assert chip() == ["Iso"]  # the right button does not turn any more
    page.drag([(x, y), (x + 60, y + 20)], "middle")
    page.idle()
    assert chip() == []

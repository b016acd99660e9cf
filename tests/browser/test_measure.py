"""Measuring by mouse and keyboard: from a reading to a note, a number, a check; mass properties."""

import math

import pytest

from tests.browser.test_groups import BLOCK, document, edge, face
from tests.browser.test_sketch import volume
from tests.browser.test_steps import part_with, step

BORE = step("primitive", form="cylinder", diameter="10 mm", height="20 mm", x="20 mm", y="20 mm",
            result="cut")  # fmt: skip


def test_two_faces_are_measured_and_become_a_check(page, server):
    part_with(page, server, BLOCK, BORE)
    page.driver.find_element("tag name", "body").send_keys("m")
    page.mouse(*face(page, "s1/front"))
    page.idle()
    page.wait(lambda: "1200 mm²" in page.text("size-area"), "its area")
    page.mouse(*edge(page, "s1/top", "s2/wall"))
    page.idle()
    page.wait(lambda: "15 mm" in page.text("size-least"), "the wall before the bore")
    page.press("pin-least")
    page.press("check-least")
    page.idle()
    checks = server.call("GET", f"/api/documents/{document(page)}")[1]["document"]["checks"]
    assert [(c["kind"], c["limit"]) for c in checks] == [("distance", "15 mm")]
    # The number the model is changed by breaks the check; the note says how much is left.
    base = server.call("GET", f"/api/documents/{document(page)}")[1]["revision"]
    change = {"do": "edit_step", "id": "s2", "fields": {"diameter": "16 mm"}}
    server.call(
        "POST", f"/api/documents/{document(page)}/commands", {"base": base, "commands": [change]}
    )
    page.wait(lambda: "12 mm" in page.driver.find_element("css selector", ".note").text, "the note")
    page.press("tab-checks")
    page.wait(
        lambda: "fails" in page.driver.find_element("css selector", ".middle").text, "it fails"
    )


def test_a_reading_becomes_a_number_that_a_later_step_uses(page, server):
    part_with(page, server, BLOCK, BORE)
    page.press("measure")
    page.mouse(*edge(page, "s1/top", "s2/wall"))
    page.idle()
    page.press("number-diameter")
    page.idle()
    page.press("tab-parameters")
    page.wait(lambda: "10 mm" in page.text("measured-diameter"), "it stands among the parameters")
    base = server.call("GET", f"/api/documents/{document(page)}")[1]["revision"]
    server.call(
        "POST", f"/api/documents/{document(page)}/commands",
        {"base": base, "commands": [
            step("primitive", width="diameter * 3", depth="10 mm", height="10 mm", x="100 mm")]},
    )  # fmt: skip
    page.wait(
        lambda: volume(page, server) == pytest.approx((2400 - math.pi * 25) * 20 + 3000), "30 wide"
    )


def test_mass_properties_are_shown_and_told_in_kilograms(page, server):
    part_with(page, server, BLOCK)
    page.press("mass-open")
    page.wait(lambda: "376.8 g" in page.text("mass-Mass"), "the mass")
    assert page.text("mass-Centre of gravity") == "30, 20, 10 mm"
    card = page.text("mass-card")
    # m (b2 + c2) / 3 about the corner: 376.8 g, 40 and 20 mm.
    assert "251200" in card
    page.js(
        "const s = document.querySelectorAll('[data-testid=mass-card] select')[1]; s.value = 'kg';"
        "s.dispatchEvent(new Event('change'))"
    )
    page.wait(lambda: "0.3768 kg" in page.text("mass-Mass"), "kilograms")
    assert "2.5120e-4" in page.text("mass-card")

"""Sheet metal by hand: from a plate to its blank, picked in one pane and lit in the other."""

import io
import math
import time

import pytest
from ezdxf import recover
from selenium.webdriver.support.select import Select

from tests.browser.test_steps import part_with, step
from tests.core.test_sheet_parts import boxed


def lit(page):
    return page.js(
        "return [...document.querySelectorAll('[data-testid=flat-picture] .patch.lit')].map(p => p.dataset.patch)"
    )


def clicked(page, css):
    page.js(
        "document.querySelector(arguments[0]).dispatchEvent(new MouseEvent('click', {bubbles: true}))",
        css,
    )


def test_from_a_plate_to_its_blank(page, server, downloads):
    part_with(
        page, server, step("sketch", drawing=boxed(100, 60).drawing, plane={"base": "XY"}),
        step("sheet_plate", sketch="s1", thickness="1.5 mm", radius="2 mm"),
    )  # fmt: skip
    page.press("open-beside")
    Select(page.find("beside-document")).select_by_visible_text("Blank of Plate")
    page.wait(lambda: "100 mm × 60 mm" in page.text("flat-facts"), "the blank of the plate")
    # An edge picked in the blank is the edge the flange goes to.
    page.press("verb-sheet")
    page.press("tool-sheet_flange")
    page.idle()
    wall = page.js(
        """const far = [...document.querySelectorAll('[data-wall]')].map(p => [p.getBBox().x, p.dataset.wall])
        return far.sort((a, b) => b[0] - a[0])[0][1]"""
    )
    clicked(page, f"[data-wall='{wall}']")
    page.fill("field-length", "25")
    page.idle()
    bend = math.pi / 2 * (2 + 0.44 * 1.5)
    long = 100 - 3.5 + bend + 25 - 3.5
    # The blank goes along while the step is tried.
    page.wait(lambda: f"{long:.3f}" in page.text("flat-facts"), "the blank as it would be")
    page.press("keep")
    page.idle()
    page.wait(lambda: "up 90°" in page.text("flat"), "the table of bends")
    page.press("find-order")
    page.wait(lambda: "in this order" in page.text("flat-order"), "an order to bend in", 60)
    assert "1. straight punch" in page.text("flat")
    # A flange picked on the body is lit in the blank, and the other way round.
    faces = page.topology("b_s2")["faces"]
    flange = next(
        i for i, f in enumerate(faces) if "/panel/" in f["name"] and f["name"].endswith("/bottom")
    )
    page.mouse(*page.wait(lambda: page.spot("b_s2", "face", flange), "the flange"))
    page.wait(
        lambda: lit(page) == [faces[flange]["name"].removesuffix("/bottom")],
        "the flange in the blank",
    )
    clicked(page, "[data-patch='s2']")
    page.wait(lambda: lit(page) == ["s2"], "the plate in the blank")
    assert "1 face" in page.text("stage")
    # Handed over as it is seen.
    page.press("flat-turn")
    page.wait(lambda: f"60 mm × {long:.3f}" in page.text("flat-facts"), "the blank turned")
    page.press("flat-files")
    page.press_text("DXF: outline, bend lines, notes")
    file = page.wait(lambda: next(iter(downloads.glob("*.dxf")), None), "the file")
    time.sleep(0.2)
    space = recover.read(io.BytesIO(file.read_bytes()))[0].modelspace()
    (outer,) = space.query("LWPOLYLINE[layer=='OUTER']")
    xs = [p[0] for p in outer.get_points()]
    assert max(xs) - min(xs) == pytest.approx(60)


def test_forms_are_seen_in_the_blank_strikes_are_played_and_blanks_laid_out(page, demo):
    page.go(f"/d/{demo['Vented hood']}")
    page.idle()
    page.press("open-beside")
    Select(page.find("beside-document")).select_by_visible_text("Blank of Lid")
    page.idle()
    forms = "return [...document.querySelectorAll('[data-form] title')].map(t => t.textContent)"
    found = page.wait(lambda: page.js(forms), "the forms")
    assert len(found) == 7
    assert any("Louvres: louvre up 4" in f for f in found)
    page.press("find-order")
    page.wait(lambda: page.has("play-order"), "an order", 60)
    page.press("play-order")
    page.press("strike-on")
    assert "50 %" in page.text("strike-said")
    page.press("flat-nest")
    page.fill("nest-count", "4")
    page.press("nest-run")
    page.wait(lambda: page.has("nest-sheet"), "a stock sheet", 60)
    assert "4 blanks" in page.text("nest-sheet")
    assert not page.complaints()

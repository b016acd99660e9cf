"""The parameters drawer and the script pane, by mouse and keyboard."""

import json

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.test_sketch import volume
from tests.browser.test_steps import part_with, step

WIDE = {"do": "add_parameter", "name": "wide", "formula": "60 mm",
        "limits": {"kind": "range", "least": "40 mm", "most": "80 mm"}}  # fmt: skip
BLOCK = step("primitive", width="wide", depth="40 mm", height="20 mm")


def cell(page, name, column):
    return page.driver.find_element("css selector", f'[data-cell="{name}/{column}"]')


def test_parameters_by_keyboard_tell_what_breaks_and_lead_to_what_uses_them(page, server):
    part_with(page, server, WIDE, BLOCK)
    page.press("tab-parameters") if not page.has("parameter-wide") else None
    cell(page, "wide", "formula").click()
    page.keys("90 m")
    page.wait(lambda: page.has("completions"), "units are offered")
    page.keys(Keys.TAB)
    page.wait(lambda: "would break wide" in page.text("foreseen"), "what breaks")
    assert volume(page, server) == pytest.approx(48000)
    page.keys(Keys.ENTER)
    page.wait(lambda: volume(page, server) == pytest.approx(72000), "it is used all the same")
    page.wait(lambda: page.has("limits-badge"), "the head bar says so")
    assert "90 mm" in page.text("limit-line")
    # The cursor stands on: typing begins, Esc leaves, arrows go on.
    page.keys("7", Keys.ESCAPE, Keys.ARROW_RIGHT)
    page.keys("40 mm … 95 mm", Keys.ENTER)
    page.wait(lambda: not page.has("limits-badge"), "allowed now")
    page.driver.find_element("css selector", "[data-testid=parameter-wide] .use").click()
    page.wait(lambda: page.has("editor"), "the step that uses it")
    page.keys(Keys.ESCAPE)


def test_a_table_is_put_in(page, server):
    part_with(page, server, WIDE, BLOCK)
    page.press("paste-table")
    page.js(
        "const t = document.querySelector('[data-testid=table-text]');"
        "t.value = 'name\\tvalue\\tunit\\tgroup\\nwide\\t70\\tmm\\tSizes\\nrib\\t3\\tmm\\tSizes';"
        "t.dispatchEvent(new Event('input'))"
    )
    page.press("table-look")
    page.wait(lambda: "changed wide" in page.text("table-read"), "what it does is told first")
    page.press("table-put")
    page.wait(lambda: page.has("parameter-rib"), "it is in")
    page.wait(lambda: volume(page, server) == pytest.approx(56000), "and used")


def test_what_is_done_by_hand_is_recorded_undone_and_run_again(page, server):
    part_with(page, server, WIDE, BLOCK)
    page.press("tab-script")
    page.press("record-script")
    page.press("tab-parameters")
    cell(page, "wide", "formula").click()
    page.keys("75 mm", Keys.ENTER)
    page.wait(lambda: volume(page, server) == pytest.approx(60000), "wider")
    page.press("tab-script")
    text = "document.querySelector('[data-testid=script-text]').value"
    page.wait(lambda: ".set(wide='75 mm')" in page.js(f"return {text}"), "the edit as script")
    page.press("record-script")
    changed = volume(page, server)
    assert changed != pytest.approx(48000)
    page.press("undo")
    page.wait(lambda: volume(page, server) == pytest.approx(48000), "undone")
    page.press("run-script")
    page.wait(lambda: page.has("script-outcome"), "it ran")
    assert "1 document changed" in page.text("script-outcome")
    page.wait(lambda: volume(page, server) == pytest.approx(changed), "the same again")
    page.press("undo")
    page.wait(lambda: volume(page, server) == pytest.approx(48000), "one edit, one undo")
    # A mistake is told with its line, and nothing of the script is kept.
    page.js(f"{text} = 'part = project.current\\npart.set(wide=\"50 mm\")\\npart.bore()\\n';"
            "document.querySelector('[data-testid=script-text]').dispatchEvent(new Event('input'))")  # fmt: skip
    page.press("run-script")
    page.wait(lambda: page.has("script-trouble"), "it stopped")
    assert page.text("script-trouble").startswith("3")
    assert volume(page, server) == pytest.approx(48000)
    page.press("tab-messages")
    page.wait(
        lambda: "Script line 3" in page.driver.find_element("css selector", ".drawer").text, "told"
    )
    # The whole part as script makes it again.
    page.press("tab-script")
    page.press("tell-script")
    page.wait(lambda: "project.part('Steps')" in page.js(f"return {text}"), "the part as script")


def test_the_whole_demo_is_made_again_by_its_script(server):
    """Every document as it is, ids and picks included; only references between documents move."""
    shelf = server.call("GET", "/api/shelf")[1]["projects"]
    # What other tests leave in the demo's project comes after its own eleven documents.
    demo = next(p for p in shelf if p["name"] == "Coffee roaster")["documents"][:11]
    told = [server.call("GET", f"/api/documents/{d['id']}/script")[1]["text"] for d in demo]
    again = server.call("POST", "/api/projects", {"name": "Made by script"})[1]["id"]
    found = server.call("POST", f"/api/projects/{again}/run", {"text": "\n".join(told)})[1]
    assert found["trouble"] is None
    shelf = server.call("GET", "/api/shelf")[1]["projects"]
    fresh = {d["name"]: d["id"] for p in shelf if p["id"] == again for d in p["documents"]}
    moved = {d["id"]: fresh[d["name"]] for d in demo}
    assert len(moved) == 11

    def document_of(id):
        return server.call("GET", f"/api/documents/{id}")[1]["document"]

    for old, made in moved.items():
        text = json.dumps(document_of(old))
        for a, b in moved.items():
            text = text.replace(a, b)
        assert json.loads(text) == document_of(made)
    server.call("DELETE", f"/api/projects/{again}")

"""Parameters explored on the screen: a range with its chart, what matters, a value sought and taken over."""

import pytest
from selenium.webdriver.support.ui import Select


@pytest.fixture
def bar(server):
    project = server.call("POST", "/api/projects", {"name": "Explored"})[1]["id"]
    body = {"kind": "part", "name": "Bar"}
    id = server.call("POST", f"/api/projects/{project}/documents", body)[1]["id"]
    commands = [
        {"do": "add_parameter", "name": "long", "formula": "50 mm"},
        {"do": "add_parameter", "name": "tall", "formula": "10 mm"},
        {"do": "add_step", "kind": "primitive", "fields": {
            "form": "box", "width": "long", "depth": "20 mm", "height": "tall"}},
        {"do": "add_check", "kind": "mass", "name": "Light", "limit": "85 g"},
    ]  # fmt: skip
    base = server.call("GET", f"/api/documents/{id}")[1]["revision"]
    made = server.call(
        "POST", f"/api/documents/{id}/commands", {"base": base, "commands": commands}
    )
    assert made[0] == 200, made
    return id


def built(page):
    page.wait(lambda: page.find("explore-go").is_enabled(), "built", 60)


def test_a_range_is_built_what_matters_told_and_a_value_sought_and_used(page, server, bar):
    page.go(f"/d/{bar}?drawer=explore")
    page.idle()
    page.press("explore-go")
    page.wait(lambda: page.has("range-chart"), "points", 60)
    built(page)
    Select(page.find("explore-of")).select_by_visible_text("Light")
    assert len(page.driver.find_elements("css selector", "[data-testid^=point-] circle")) == 9
    # 85 g are 54.1 mm: beyond it fails.
    bad = page.driver.find_elements("css selector", "[data-testid^=point-] circle.bad")
    assert len(bad) == 3
    page.js(
        "document.querySelector('[data-testid=point-8]').dispatchEvent(new MouseEvent('click', {bubbles: true}))"
    )
    assert "long = 60 mm" in page.text("point-card")
    page.press("explore-sensitivity")
    page.press("explore-go")
    page.wait(lambda: page.has("slopes"), "slopes", 60)
    assert "+1.00 % for 1 %" in page.text("slopes")
    page.press("explore-seek")
    Select(page.find("seek-aim")).select_by_visible_text("reach")
    Select(page.find("seek-of")).select_by_visible_text("Mass")
    page.fill("seek-value", "70.65 g")
    page.press("explore-go")
    page.wait(lambda: page.has("use-values"), "sought", 60)
    document = server.call("GET", f"/api/documents/{bar}")[1]["document"]
    assert document["parameters"][0]["formula"] == "50 mm"
    page.press("use-values")
    page.idle()
    document = server.call("GET", f"/api/documents/{bar}")[1]["document"]
    # 70.65 g are 45 mm.
    assert document["parameters"][0]["formula"] == "45 mm"

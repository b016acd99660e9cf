"""Pictures of the main views from the demo data, for the README: `make pictures`."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.select import Select

from tests.browser.page import Page, open_browser
from tests.serving import Server

OUT = Path(__file__).parents[2] / "docs" / "screenshots"


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "data", "demo")
        driver = open_browser()
        page = Page(driver, server.base, "full")
        try:
            take(page, server)
        finally:
            driver.quit()
            server.stop()


def lose_a_pick(page: Page, server: Server, ids: dict[str, str]) -> None:
    """The base plate's outline with one line drawn anew: what was picked on its face is lost."""
    id = ids["Base plate"]
    view = server.call("GET", f"/api/documents/{id}")[1]
    drawing = view["document"]["steps"][0]["fields"]["drawing"]
    old = next(e["id"] for e in drawing["entities"] if e["type"] == "line")
    for e in drawing["entities"]:
        e["id"] = "l99" if e["id"] == old else e["id"]
    for k in drawing["constraints"]:
        k["on"] = ["l99" if o == old else o for o in k["on"]]
    edit = {"do": "edit_step", "id": "s1", "fields": {"drawing": drawing}}
    body = {"base": view["revision"], "commands": [edit]}
    server.call("POST", f"/api/documents/{id}/commands", body)
    page.go(f"/d/{id}")
    page.idle()
    page.find("candidate-0").click()
    page.wait(lambda: page.has("mend-one"), "what goes along")
    time.sleep(1.5)


def compared(page: Page, server: Server, ids: dict[str, str]) -> None:
    """The bearing block for another shaft beside what it was."""
    id = ids["Bearing block"]
    before = server.call("GET", f"/api/documents/{id}")[1]["revision"]
    edit = {"do": "edit_parameter", "name": "shaft_d", "formula": "32 mm"}
    server.call("POST", f"/api/documents/{id}/commands", {"base": before, "commands": [edit]})
    page.go(f"/d/{id}/compare?before=[null,{before},null]")
    page.wait(lambda: page.has("volumes"), "compared", 60)
    time.sleep(2.0)
    page.shot(OUT / "compare.png")


def new_looks(page: Page, open_) -> None:
    """Wall thickness, parameters being typed, a script that ran."""
    open_("Hopper throat")
    page.press_option("style", "Wall thickness")
    page.wait(lambda: page.has("place-0"), "the thinnest places")
    time.sleep(0.8)
    page.shot(OUT / "thickness.png")
    open_("Bearing block")
    page.driver.find_element("css selector", '[data-cell="wall/formula"]').click()
    page.keys("2*s")
    page.wait(lambda: page.has("completions"), "completion")
    time.sleep(1.5)
    page.shot(OUT / "parameters.png")
    # The first shuts the list, the second leaves the cell; the field is gone in between.
    ActionChains(page.driver).send_keys(Keys.ESCAPE, Keys.ESCAPE).perform()
    page.press("tab-script")
    page.find("script-text")
    page.js(
        "const t = document.querySelector('[data-testid=script-text]'); t.value = arguments[0];"
        "t.dispatchEvent(new Event('input'))",
        SCRIPT,
    )
    page.press("run-script")
    page.wait(lambda: page.has("script-outcome"), "it ran")
    time.sleep(0.6)
    page.shot(OUT / "script.png")
    page.press("undo")
    page.press("tab-parameters")
    page.idle()


SCRIPT = """# A bead of 1.5 mm along every round rim of the front face.
part = project.current
front = min(part.body.faces, key=lambda f: f.at[1])
for edge in front.edges:
    if edge.kind == "circle":
        part.pipe(f"Bead {edge.index}", along="edges", edges=[edge],
                  diameter="1.5 mm", result="add")
print(round(part.mass, 1), "g with beads")
"""


def take(page: Page, server: Server) -> None:
    ids = {
        d["name"]: d["id"] for d in server.call("GET", "/api/shelf")[1]["projects"][0]["documents"]
    }

    def open_(name: str) -> None:
        page.go(f"/d/{ids[name]}")
        page.idle()
        time.sleep(1.5)

    def shot(name: str) -> None:
        page.mouse(640, 20, None)
        time.sleep(0.5)
        page.shot(OUT / f"{name}.png")

    page.go("/")
    time.sleep(3)
    shot("shelf")

    open_("Bearing block")
    body = "b_s2"
    faces = page.topology(body)["faces"]
    seat = next(
        i
        for i, f in enumerate(faces)
        if f["kind"] == "cylinder" and abs(f.get("radius", 0) - 17) < 1e-6
    )
    page.mouse(*page.spot(body, "face", seat))
    time.sleep(0.4)
    page.shot(OUT / "part.png")
    page.press_text("Section")
    shot("section")
    page.press_text("Section")

    page.press("card-s1")
    page.idle()
    time.sleep(1.2)
    shot("sketch")
    page.press("sketch-discard")

    open_("Discharge door")
    page.press("card-s1")
    page.idle()
    page.keys("s")
    for x, y in ((-26, -20), (-8, -46), (10, -16), (27, -44)):
        page.click_model(x, 0, y)
    page.keys(Keys.ENTER)
    page.idle()
    page.keys(Keys.ESCAPE)
    x, y = page.at(10, 0, -16)
    page.mouse(x + 13, y + 4)
    time.sleep(0.6)
    page.press("verb-change")
    time.sleep(0.6)
    page.shot(OUT / "drawing.png")
    page.keys(Keys.ESCAPE)
    page.press("sketch-discard")

    page.js("localStorage.setItem('drawer', '380')")
    open_("Motor bracket")
    page.press("tab-variants")
    page.press("prove")
    page.press_text("Every row")
    page.wait(lambda: page.has("proved-count"), "proved", 60)
    page.press("table-out")
    page.press_text("STEP of each, in a ZIP")
    page.wait(lambda: page.has("handed-drawn") and "STEP" in page.text("handed-drawn"), "written")
    page.press("value-rail")
    page.idle()
    shot("variants")
    page.press("value-foot")
    page.idle()
    page.js("localStorage.removeItem('drawer')")

    open_("Chute")
    page.press("open-beside")
    Select(page.find("beside-document")).select_by_visible_text("Blank of Floor")
    page.press("find-order")
    page.wait(lambda: "in this order" in page.text("flat-order"), "an order to bend in", 60)
    page.press("tab-parameters")
    page.keys("f")
    time.sleep(1.0)
    shot("sheet")
    page.press("tab-parameters")
    page.press("shut-beside")
    open_("Bearing block")
    page.press("measure")
    block = page.topology("b_s2")
    rims = [
        i for i, e in enumerate(block["edges"])
        if e["kind"] == "circle" and e["at"][1] < -16.9 and page.spot("b_s2", "edge", i)
    ]  # fmt: skip
    flat = next(i for i, f in enumerate(block["faces"]) if f["name"].endswith("side/l11"))
    page.mouse(*page.spot("b_s2", "edge", rims[0]))
    if spot := page.spot("b_s2", "face", flat):
        page.mouse(*spot)
    page.idle()
    time.sleep(0.6)
    page.shot(OUT / "measure.png")
    page.press("measure")
    new_looks(page, open_)
    open_("Air knob")
    page.press_text("Hand over")
    page.press_text("For printing: 3MF, STL")
    page.press("show-mesh")
    page.wait(lambda: page.has("triangles"), "the review")
    time.sleep(2)
    page.shot(OUT / "print.png")
    page.press("shut-printing")
    lose_a_pick(page, server, ids)
    shot("repair")
    page.press("undo")
    page.idle()

    open_("Roaster corner")
    page.press("tab-results")
    page.press("run-interference")
    page.find("no-overlap")
    page.press("run-motion")
    page.find("clash", seconds=90)
    page.driver.find_element("tag name", "body").send_keys("f")
    time.sleep(1)
    shot("motion")
    page.press("tab-runs")
    page.press("go-run")
    page.wait(lambda: page.has("run-gap"), "the run", 90)
    page.driver.execute_script(
        "const s = document.querySelector('[data-testid=run-scrub]'); s.value = 46;"
        "s.dispatchEvent(new Event('input'))"
    )
    time.sleep(1.5)
    shot("run")
    page.press("run-back")

    open_("Lever strength")
    page.press("solve")
    page.wait(lambda: page.has("study-results"), "the study", 120)
    page.driver.find_element("tag name", "body").send_keys("f")
    time.sleep(1.5)
    shot("strength")
    page.press("tab-checks")
    page.press_text("Part")
    time.sleep(1)
    page.driver.find_element("css selector", '[data-testid^="open-check-"]').click()
    time.sleep(1.5)
    shot("checks")
    compared(page, server, ids)
    page.js("localStorage.setItem('vireo-theme', 'dark')")
    open_("Tabletop roaster")
    page.press("tree-fold")
    page.keys("f")
    time.sleep(1)
    shot("dark")
    page.js("localStorage.removeItem('vireo-theme')")


if __name__ == "__main__":
    main()

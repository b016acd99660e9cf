"""Each group of the rail by mouse and keyboard, bodies, files brought in, lost picks mended."""

import math
import re
import shutil
from pathlib import Path

import pytest
from OCP.BRepTools import BRepTools
from selenium.webdriver.common.keys import Keys

from tests.browser.test_sketch import volume
from tests.browser.test_steps import part_with, step
from tests.core.drawings import plate
from tests.core.parts import block
from tests.core.test_grow import boxed
from tests.core.test_intake import bumpy_ball, dressed_file, loosened
from tests.server.conftest import Api
from vireo.core.printing import Printed, stl

XZ = {"base": "XZ", "face": None}
BLOCK = step("primitive", width="60 mm", depth="40 mm", height="20 mm")


def document(page) -> str:
    return page.driver.current_url.split("/d/")[1].split("?")[0]


def face(page, name, body="b_s1"):
    faces = page.topology(body)["faces"]
    index = next(i for i, f in enumerate(faces) if f["name"] == name)
    return page.wait(lambda: page.spot(body, "face", index), name)


def edge(page, *names, body="b_s1"):
    t = page.topology(body)
    wanted = sorted(names)
    index = next(
        i
        for i, e in enumerate(t["edges"])
        if sorted(t["faces"][f]["name"] for f in e["faces"]) == wanted
    )
    return page.wait(lambda: page.spot(body, "edge", index), f"{names}")


def begin(page, verb, tool):
    """Open the editor of a step from the rail."""
    page.press(f"verb-{verb}")
    page.press(f"tool-{tool}")
    page.idle()


def kept(page, server, exact, rel=1e-6):
    page.idle()
    page.press("keep")
    page.idle()
    page.wait(lambda: volume(page, server) == pytest.approx(exact, rel=rel), "the volume by hand")


def test_grow_a_ring_turned_by_the_keyboard_alone(page, server):
    part_with(page, server, step("sketch", drawing=boxed(10, 8, (20, 0)).drawing, plane=XZ))
    page.keys("/")
    page.fill("quick", "revolve", enter=True)
    page.find("editor")
    page.idle()
    page.press_option("choose-reach", "One way")
    page.fill("field-angle", "180")
    page.idle()
    page.keys(Keys.ENTER)
    page.idle()
    page.wait(
        lambda: volume(page, server) == pytest.approx(math.pi * (900 - 400) * 8 / 2), "half a ring"
    )


def test_cut_a_screw_hole_clicked_onto_a_face(page, server):
    part_with(page, server, BLOCK)
    begin(page, "cut", "hole")
    page.press("choice-at-faces")
    page.mouse(*face(page, "s1/top"))
    page.idle()
    for x, value in enumerate(("20", "15", "20")):
        page.fill(f"spot-h1-{x}", value + Keys.TAB)
    page.press_option("choose-form", "Counterbored")
    page.press("choice-size-screw")
    page.idle()
    # M6, medium: 6.6 through, recess 11 wide and 6.5 deep (tables of core/screws.py).
    bore, recess = math.pi / 4 * 6.6**2, math.pi / 4 * 11**2
    kept(page, server, 48000 - bore * 20 - (recess - bore) * 6.5, 2e-3)
    # A lone hole at the typed place.
    walls = [f for f in page.topology("b_s1")["faces"] if f["name"] == "s2/h1/wall"]
    assert walls[0]["at"][:2] == pytest.approx([20, 15])


def test_edges_a_bevel_of_two_lengths(page, server):
    part_with(page, server, BLOCK)
    begin(page, "edges", "chamfer")
    page.mouse(*edge(page, "s1/top", "s1/front"))
    page.idle()
    page.press("choice-form-two")
    page.fill("field-size", "4")
    page.fill("field-second", "6")
    kept(page, server, 48000 - 4 * 6 / 2 * 60)


def test_edges_three_radii_in_one_step(page, server):
    part_with(page, server, BLOCK)
    begin(page, "edges", "fillet")
    page.mouse(*edge(page, "s1/front", "s1/left"))
    page.fill("field-radius", "8")
    page.idle()
    for n, (side, size) in enumerate((("right", "4"), ("top", "2.5"))):
        page.press("another-more")
        page.mouse(*edge(page, "s1/front", f"s1/{side}"))
        page.wait(lambda n=n: page.text(f"picks-more-{n}") == "1 edge", "its edge")
        page.fill(f"size-more-{n}", size)
        page.idle()
    # Round the two corners the third round follows the other two.
    round_ = 1 - math.pi / 4
    kept(page, server, 48000 - round_ * (64 * 20 + 16 * 20 + 6.25 * 60), 1e-3)


def test_faces_one_is_moved_and_a_face_is_healed_over(page, server):
    bore = step("primitive", form="cylinder", diameter="10 mm", height="20 mm", x="15 mm",
                y="20 mm", result="cut")  # fmt: skip
    part_with(page, server, BLOCK, bore)
    begin(page, "faces", "move_faces")
    page.mouse(*face(page, "s1/top"))
    page.fill("field-z", "5")
    kept(page, server, (2400 - math.pi * 25) * 25)
    begin(page, "faces", "delete_faces")
    page.mouse(*face(page, "s2/wall"))
    kept(page, server, 60000)


def test_copy_a_body_is_moved_and_turned(page, server):
    part_with(page, server, BLOCK)
    begin(page, "copy", "move_body")
    page.fill("field-x", "100")
    page.fill("field-angle", "90")
    kept(page, server, 48000)
    at = [v["at"] for v in page.topology("b_s1")["vertices"]]
    assert min(p[0] for p in at) == pytest.approx(60)
    assert max(p[1] for p in at) == pytest.approx(60)


def test_refer_a_set_gathers_edges_and_a_step_takes_it_as_one(page, server):
    pins = [
        step("primitive", form="cylinder", diameter="8 mm", height="30 mm", x=f"{x} mm", y="20 mm",
             result="add")
        for x in (15, 45)
    ]  # fmt: skip
    part_with(page, server, BLOCK, *pins)
    begin(page, "refer", "set")
    page.press("choice-of-edge")
    page.press_option("choose-by", "Round, of a radius")
    page.fill("field-radius", "4")
    page.idle()
    page.wait(lambda: "edges now" in page.text("editor"), "how many it gathers")
    page.press("keep")
    page.idle()
    begin(page, "edges", "chamfer")
    page.press("set-edges-s4")
    page.fill("field-size", "1")
    page.idle()
    page.press("keep")
    page.idle()
    steps = server.call("GET", f"/api/documents/{document(page)}/build")[1]["steps"]
    assert [s["status"] for s in steps] == ["ok"] * 5
    t = page.topology("b_s1")
    assert len([f for f in t["faces"] if f["kind"] == "cone"]) >= 4


def test_bodies_are_named_hidden_painted_and_parted(page, server):
    other = step("primitive", form="cylinder", diameter="20 mm", height="20 mm", x="90 mm")
    part_with(page, server, BLOCK, other)
    page.find("body-b_s1").find_element("css selector", ".open").click()
    page.fill("body-name", "Jaw" + Keys.TAB)
    page.idle()
    page.press_option("body-material", "Brass CW614N")
    page.idle()
    page.wait(lambda: "406.6 g" in page.text("body-b_s1"), "brass weighs more")
    page.keys(Keys.ESCAPE)
    page.find("body-b_s2").find_element("css selector", ".icon-btn").click()
    page.wait(lambda: page.js("return window.__test.topology('b_s2')") is None, "it is hidden")
    page.mouse(*face(page, "s1/top"))
    page.js(
        "const i = document.querySelector('[data-testid=paint]'); i.value = '#d24a9c';"
        "i.dispatchEvent(new Event('change', { bubbles: true }))"
    )
    page.idle()
    found = server.call("GET", f"/api/documents/{document(page)}/build")[1]["bodies"]
    assert found[0]["paints"] == [{"face": found[0]["paints"][0]["face"], "colour": "#d24a9c"}]
    before = document(page)
    page.press("separate")
    page.wait(lambda: document(page) != before, "the assembly's page")
    names = [
        d["name"] for p in server.call("GET", "/api/shelf")[1]["projects"] for d in p["documents"]
    ]
    assert {"Jaw", "Plain solid 2", "Steps assembly"} <= set(names)


def test_a_faulty_file_shows_its_gaps_and_is_mended_with_one_click(page, server, tmp_path):
    path = tmp_path / "gaps.brep"
    BRepTools.Write_s(loosened(block().body()[1], 0.004), str(path))
    part_with(page, server)
    page.js("document.querySelector('[data-testid=bring-file]').hidden = false")
    page.find("bring-file").send_keys(str(path))
    page.wait(lambda: "a gap of" in page.text("editor"), "what is wrong with it")
    page.press_text(page.driver.find_element("css selector", ".trouble .offers button").text)
    page.idle()
    page.wait(lambda: "gaps closed" in page.text("editor"), "what was done")
    kept(page, server, 24000, 1e-3)


def test_a_step_file_comes_with_its_names_and_colours(page, server, tmp_path):
    dressed_file(tmp_path)
    part_with(page, server)
    page.js("document.querySelector('[data-testid=bring-file]').hidden = false")
    page.find("bring-file").send_keys(str(tmp_path / "whole.step"))
    page.wait(lambda: page.has("editor") and page.text("editor"), "its card")
    page.idle()
    page.press("keep")
    page.idle()
    bodies = server.call("GET", f"/api/documents/{document(page)}/build")[1]["bodies"]
    assert [b["name"] for b in bodies] == ["Hub", "Hub 2", "Lid, öffnet"]
    assert [len(b["paints"]) for b in bodies] == [1, 1, 0]
    assert "Lid, öffnet" in page.text("body-b_s1_2")


def test_a_mesh_that_is_too_fine_is_offered_coarser(page, server, tmp_path):
    ball = bumpy_ball(60)  # 6962 flat patches
    path = tmp_path / "scan.stl"
    path.write_bytes(stl([Printed("scan", "#aaaaaa", ball.points, ball.corners)], text=False))
    part_with(page, server)
    page.js("document.querySelector('[data-testid=bring-file]').hidden = false")
    page.find("bring-file").send_keys(str(path))
    page.wait(lambda: "flat patches" in page.text("editor"), "what is wrong with it", 40)
    offer = page.driver.find_element("css selector", ".trouble .offers button")
    card = page.find("editor")
    assert offer.rect["x"] + offer.rect["width"] < card.rect["x"] + card.rect["width"]
    assert re.fullmatch(r"Make it coarser, within [\d.]+ mm", offer.text)
    page.press("discard")


def test_lost_picks_are_mended_together_and_marked_until_seen(page, server):
    part_with(
        page, server, step("sketch", drawing=plate("60 mm", "40 mm").drawing),
        step("extrude", sketch="s1", depth="10 mm"),
    )  # fmt: skip
    id = document(page)
    api = Api(server)
    drawing = server.call("GET", f"/api/documents/{id}")[1]["document"]["steps"][0]["fields"][
        "drawing"
    ]
    a, b, *_ = [e["id"] for e in drawing["entities"] if e["type"] == "line"]
    edges = {tuple(p["name"]): p for p in api.picks(id, "b_s2", "edge")}
    corner = edges[tuple(sorted((f"s2/side/{a}", f"s2/side/{b}")))]
    rim = edges[tuple(sorted((f"s2/side/{a}", "s2/cap/end")))]
    api.do(id, step("fillet", edges=[corner]), step("chamfer", edges=[rim], size="1 mm"))
    good = api.build(id)["volume"]
    for e in drawing["entities"]:
        e["id"] = "l99" if e["id"] == a else e["id"]
    for k in drawing["constraints"]:
        k["on"] = ["l99" if o == a else o for o in k["on"]]
    api.do(id, {"do": "edit_step", "id": "s1", "fields": {"drawing": drawing}})
    page.go(f"/d/{id}")
    page.idle()
    page.wait(lambda: "Dashed in the picture" in page.text("repair"), "the ghost")
    page.press("candidate-0")
    page.press("mend-all")
    page.idle()
    page.wait(lambda: volume(page, server) == pytest.approx(good), "as it was")
    page.find("mended").find_element("css selector", "button").click()
    page.idle()
    marks = [len(s["mended"]) for s in
             server.call("GET", f"/api/documents/{id}")[1]["document"]["steps"]]  # fmt: skip
    assert sorted(marks) == [0, 0, 0, 1]


def test_a_step_of_ones_own_stands_in_the_rail(page, server):
    folder = server.data / "steps"
    folder.mkdir(exist_ok=True)
    own = shutil.copy(Path(__file__).parents[2] / "docs/examples/steps/teardrop.py", folder)
    try:
        part_with(page, server, BLOCK)
        page.press("verb-cut")
        page.press("tool-teardrop")
        page.idle()
        page.fill("field-length", "60")
        page.fill("field-y", "20")
        kept(page, server, 48000 - (0.75 * math.pi * 16 + 16) * 60)
    finally:
        Path(own).unlink()
        server.call("GET", "/api/kinds")

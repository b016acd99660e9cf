"""Choosing what a step works on: regions, everything inside an outline, chains, bodies, faces."""

import math

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.test_groups import BLOCK, begin, document, face, kept
from tests.browser.test_steps import part_with, step
from tests.core.drawings import Sketcher

XY = {"base": "XY", "face": None}


def plate_with_bore_and_cut():
    """A plate 60 x 40, a bore of 12 in it, a line that parts it, and an open chain beside it."""
    s = Sketcher()
    s.box(0, 0, 60, 40)
    s.circle(s.point(20, 20), 6)
    s.line(s.point(40, -5), s.point(40, 45))
    corners = [s.point(70, 0), s.point(90, 0), s.point(90, 20)]
    s.line(corners[0], corners[1])
    s.line(corners[1], corners[2])
    return s


def counted(page):
    return page.driver.find_elements("css selector", ".regions path.picked:not(.whole)")


def test_everything_inside_an_outline_stays_whole_through_what_is_drawn_in_it(page, server):
    part_with(page, server, step("sketch", drawing=plate_with_bore_and_cut().drawing, plane=XY))
    begin(page, "grow", "extrude")
    page.fill("field-depth", "5")
    page.idle()
    # One by one: the right hand piece only; a second click takes it off again.
    page.click_model(50, 20)
    page.idle()
    assert page.text("picks-regions") == "1 region"
    assert len(counted(page)) == 1
    page.click_model(50, 20)
    page.press("whole-regions")
    page.click_model(50, 20)
    page.idle()
    # The picture shows what counts: both halves and the bore between.
    page.wait(lambda: len(counted(page)) == 3, "three regions lit")
    page.fill("step-name", "Body plate")
    kept(page, server, 60 * 40 * 5)
    document_ = server.call("GET", f"/api/documents/{document(page)}")[1]["document"]
    assert document_["steps"][-1]["name"] == "Body plate"


def test_a_wall_runs_along_a_whole_chain_at_one_click(page, server):
    part_with(page, server, step("sketch", drawing=plate_with_bore_and_cut().drawing, plane=XY))
    begin(page, "grow", "extrude")
    page.press("choice-profile-wall")
    page.fill("field-depth", "10")
    page.idle()
    page.press("whole-chains")
    page.click_model(80, 0)
    page.idle()
    assert page.text("picks-chains") == "2 curves"
    # An angle of 20 and 20, 2 thick in the middle: the corner counts once.
    kept(page, server, (40 * 2 + 1 - 1) * 10)


def test_bodies_are_picked_in_the_picture(page, server):
    second = step("primitive", width="20 mm", depth="20 mm", height="20 mm", x="80 mm",
                  result="new")  # fmt: skip
    part_with(page, server, BLOCK, second)
    begin(page, "copy", "move_body")
    page.press("picks-bodies")
    page.mouse(*face(page, "s2/top", "b_s2"))
    page.idle()
    page.fill("field-z", "15")
    page.idle()
    page.press("keep")
    page.idle()
    page.wait(lambda: top_of(page, "b_s2") == pytest.approx(35), "the small one lifted")
    assert top_of(page, "b_s1") == pytest.approx(20)
    # Its name is changed where it is edited; the chosen body is still lit.
    page.find("card-s3").click()
    assert page.find("step-name").get_attribute("value") == "Move bodies"
    page.fill("step-name", "Lifted")
    page.idle()
    page.press("keep")
    page.idle()
    assert "Lifted" in page.text("card-s3")
    assert top_of(page, "b_s2") == pytest.approx(35)


def top_of(page, body):
    return max(v["at"][2] for v in page.topology(body)["vertices"])


def test_clearances_on_picked_faces_follow_one_parameter(page, server):
    """A pocket and a bore are opened by a clearance at the end of the list."""
    pocket = step("primitive", width="20 mm", depth="10 mm", height="12 mm", x="30 mm", y="15 mm",
                  z="8 mm", result="cut")  # fmt: skip
    bore = step("primitive", form="cylinder", diameter="8 mm", height="20 mm", x="12 mm",
                y="20 mm", result="cut")  # fmt: skip
    gap = {"do": "add_parameter", "name": "gap", "formula": "0.3 mm"}
    part_with(page, server, gap, BLOCK, pocket, bore)
    begin(page, "faces", "offset_faces")
    there = page.topology("b_s1")["faces"]
    walls = {f["name"]: i for i, f in enumerate(there) if f["name"][:2] in ("s2", "s3")}
    spots = page.wait(
        lambda: {n: at for n, i in walls.items() if (at := page.spot("b_s1", "face", i))}, "walls"
    )
    assert len(spots) >= 3
    for place in spots.values():
        page.mouse(*place)
        page.idle()
    assert page.text("picks-faces") == f"{len(spots)} faces"
    page.fill("field-by", "-gap")
    moved = {n.split("/")[1]: 1 for n in spots if n.startswith("s2/")}

    def exact(g):
        w, d, h = (
            size + g * sum(moved.get(side, 0) for side in sides)
            for size, sides in ((20, ("left", "right")), (10, ("front", "back")), (12, ("under",)))
        )
        r = 4 + g if "s3/wall" in spots else 4
        return 48000 - w * d * h - math.pi * r**2 * 20

    kept(page, server, exact(0.3))
    if not page.has("parameter-gap"):  # the drawer remembers whether it was open
        page.press("tab-parameters")
    page.find("parameter-gap").find_element("css selector", "td.formula").click()
    page.keys(Keys.CONTROL, "a")
    page.driver.switch_to.active_element.send_keys("0.45 mm" + Keys.ENTER)
    page.idle()
    page.wait(lambda: page_volume(page, server) == pytest.approx(exact(0.45)), "the wider gap")


def page_volume(page, server):
    return server.call("GET", f"/api/documents/{document(page)}/build")[1]["volume"]


def test_a_line_drawn_from_corner_to_edge_of_the_model_follows_it(page, server):
    wide = {"do": "add_parameter", "name": "wide", "formula": "60 mm"}
    part_with(page, server, wide, step("primitive", width="wide", depth="40 mm", height="20 mm"))
    page.mouse(*face(page, "s1/top", "b_s1"))
    page.press("verb-sketch")
    page.idle()
    page.press("verb-line")
    # From the far corner to the left edge, with the pointer a little off both.
    page.mouse(*page.at(59.2, 39.3, 20))
    page.idle()
    page.mouse(*page.at(0.7, 12, 20))
    page.idle()
    page.keys(Keys.ESCAPE)
    page.press("sketch-keep")
    page.idle()
    id = document(page)

    def line():
        """The ends of the one curve that was drawn, in the plane of the face."""
        body = server.call("GET", f"/api/documents/{id}/build")[1]
        sketch = next(x["sketch"] for x in body["steps"] if x["sketch"])
        (own,) = [c for c in sketch["curves"] if not c["id"].startswith("x")]
        o, x, y = (sketch["frame"][k] for k in ("origin", "x", "y"))
        return sorted(
            [round(o[k] + u * x[k] + v * y[k], 6) for k in (0, 1)] for u, v in own["points"]
        )

    assert line() == [[0, pytest.approx(12, abs=0.8)], [60, 40]]
    base = server.call("GET", f"/api/documents/{id}")[1]["revision"]
    wider = {"do": "edit_parameter", "name": "wide", "formula": "75 mm"}
    body = {"base": base, "commands": [wider]}
    server.call("POST", f"/api/documents/{id}/commands", body)
    assert line() == [[0, pytest.approx(12, abs=0.8)], [75, 40]]

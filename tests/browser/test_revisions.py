"""Checks and revisions on the screen: a check made and broken, the change named; two states compared; a
branch taken in."""

import pytest
from selenium.webdriver.support.ui import Select


@pytest.fixture
def bar(server):
    """A bar of a length, in an assembly; what does to it, and the ids of both."""
    project = server.call("POST", "/api/projects", {"name": "Bars"})[1]["id"]

    def made(kind, name):
        body = {"kind": kind, "name": name}
        return server.call("POST", f"/api/projects/{project}/documents", body)[1]["id"]

    def do(id, *commands):
        base = server.call("GET", f"/api/documents/{id}")[1]["revision"]
        body = {"base": base, "commands": list(commands)}
        status, found = server.call("POST", f"/api/documents/{id}/commands", body)
        assert status == 200, found
        return found["document"]

    part, whole = made("part", "Bar"), made("assembly", "Frame")
    do(part, {"do": "add_parameter", "name": "long", "formula": "40 mm"},
       {"do": "add_step", "kind": "primitive", "fields": {
           "form": "box", "width": "long", "depth": "20 mm", "height": "10 mm"}})  # fmt: skip
    do(whole, {"do": "add_component", "document": part, "name": "One"})
    return do, part, whole


def choose(page, testid, text):
    Select(page.find(testid)).select_by_visible_text(text)


def test_a_check_is_made_broken_and_the_change_named(page, server, bar):
    do, part, _ = bar
    page.go(f"/d/{part}?drawer=checks")
    page.idle()
    page.press("add-check-size")
    choose(page, "check-axis", "along X")
    page.fill("check-limit", "50 mm")
    choose(page, "check-severity", "should hold")
    page.press("make-check")
    page.idle()
    (check,) = server.call("GET", f"/api/documents/{part}")[1]["document"]["checks"]
    assert (check["fields"], check["severity"]) == ({"axis": "x"}, "should")
    page.wait(lambda: "holds" in page.text(f"check-{check['id']}"), "measured")
    do(part, {"do": "edit_parameter", "name": "long", "formula": "60 mm"})
    page.wait(lambda: "fails" in page.text(f"check-{check['id']}"), "measured again")
    page.press(f"open-check-{check['id']}")
    page.wait(lambda: page.has("blame") and "long = 60 mm" in page.text("blame"), "blamed")
    assert page.has("check-chart")
    page.fill("card-note", "the door is 50 wide", enter=True)
    page.idle()
    # All of the project on one page, and back from there.
    page.press("all-checks")
    page.wait(lambda: page.has(f"checks-of-{part}"), "the page of all")
    assert "the door is 50 wide" in page.text(f"checks-of-{part}")
    page.press("show-wrong")
    assert "60 mm" in page.text(f"checks-of-{part}")
    do(part, {"do": "edit_parameter", "name": "long", "formula": "30 mm"})
    page.wait(lambda: not page.has(f"checks-of-{part}"), "run by itself")


def test_two_states_are_compared_named_and_gone_back_to(page, server, bar):
    do, part, whole = bar
    do(part, {"do": "edit_parameter", "name": "long", "formula": "70 mm"})
    head = server.call("GET", f"/api/documents/{part}")[1]["revision"]
    page.go(f"/d/{part}?drawer=revisions")
    page.idle()
    page.wait(lambda: page.has(f"revision-{head}"), "the timeline")
    assert "long: 40 mm → 70 mm" in page.text(f"revision-{head}")
    assert "Frame" in page.text("followers")
    page.press(f"more-revision-{head - 1}")
    page.press_text("Name it")
    page.fill("revision-name", "Short", enter=True)
    page.wait(lambda: "Short" in page.text(f"revision-{head - 1}"), "named")
    page.press(f"more-revision-{head - 1}")
    page.press_text("Approve")
    page.wait(lambda: "approved" in page.text(f"revision-{head - 1}"), "approved")
    page.press(f"more-revision-{head - 1}")
    page.press_text("Compare with now")
    page.wait(lambda: page.has("volumes"), "compared", 30)
    assert "added 6000 mm³" in page.text("volumes")
    assert "removed 0 mm³" in page.text("volumes")
    assert "40 mm → 70 mm" in page.text("compared")
    page.press("compare-apart")
    page.press("compare-one")
    page.go(f"/d/{part}?drawer=revisions")
    page.idle()
    page.press(f"more-revision-{head - 1}")
    page.press_text("Go back to this")
    page.wait(lambda: page.has(f"revision-{head + 1}"), "gone back")
    document = server.call("GET", f"/api/documents/{part}")[1]["document"]
    assert document["parameters"][0]["formula"] == "40 mm"
    # A component is pinned where it was approved.
    page.go(f"/d/{whole}")
    page.idle()
    component = server.call("GET", f"/api/documents/{whole}")[1]["document"]["components"][0]["id"]
    page.js(
        f"document.querySelector('[data-testid=component-{component}] [aria-label^=More]').click()"
    )
    page.press_text("Variant and revision …")
    page.wait(
        lambda: page.has("choose-revision") and "approved" in page.text("choose-revision"),
        "offered",
    )
    Select(page.find("choose-revision")).select_by_index(1)
    page.press("take-member")
    page.idle()
    choice = server.call("GET", f"/api/documents/{whole}")[1]["document"]["components"][0]["choice"]
    assert choice["revision"] == head - 1


def test_a_branch_is_tried_and_brought_back_with_a_choice(page, server, bar):
    do, part, _ = bar
    page.go(f"/d/{part}?drawer=revisions")
    page.idle()
    head = server.call("GET", f"/api/documents/{part}")[1]["revision"]
    page.press(f"more-revision-{head}")
    page.press_text("Branch off here")
    page.fill("branch-name", "Bar with a hole")
    page.press("make-branch")
    page.wait(lambda: page.has("bring-back"), "on the branch")
    branch = page.driver.current_url.split("/d/")[1].split("?")[0]
    assert branch != part
    do(branch, {"do": "edit_parameter", "name": "long", "formula": "80 mm"},
       {"do": "add_step", "kind": "primitive", "name": "Hole", "fields": {
           "form": "cylinder", "diameter": "6 mm", "height": "10 mm", "x": "10 mm", "y": "10 mm",
           "result": "cut"}})  # fmt: skip
    do(part, {"do": "edit_parameter", "name": "long", "formula": "90 mm"})
    page.press("bring-back")
    page.wait(lambda: page.has("merge") and "1 to choose" in page.text("take-in"), "asked")
    assert "Hole" in page.text("merge")
    page.press("keep-theirs")
    page.wait(lambda: page.text("take-in") == "Take in", "chosen")
    page.press("take-in")
    page.wait(lambda: f"/d/{part}" in page.driver.current_url, "brought back")
    document = server.call("GET", f"/api/documents/{part}")[1]["document"]
    assert document["parameters"][0]["formula"] == "80 mm"
    assert [s["name"] for s in document["steps"]][-1] == "Hole"

"""Assembling, hardware, copies, files out and in: by mouse."""

import time
import zipfile
from functools import partial

import pytest
from selenium.webdriver.common.keys import Keys

from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.shape import solids_of
from vireo.script.sketch import Sketch


def leaf_of(server, id, component):
    found = server.call("GET", f"/api/documents/{id}/assembly")[1]
    return next(x["id"] for x in found["leaves"] if x["component"] == component)


def edge_spot(page, body, test):
    """Pixel of a visible edge for which test(edge) holds."""
    edges = page.topology(body)["edges"]
    for i, e in enumerate(edges):
        if test(e) and (spot := page.spot(body, "edge", i)):
            return spot
    raise AssertionError("no such edge can be seen")


def test_two_parts_are_placed_and_joined_by_their_round_edges(page, server, demo):
    shelf = server.call("GET", "/api/shelf")[1]["projects"][0]
    made = server.call(
        "POST", f"/api/projects/{shelf['id']}/documents", {"kind": "assembly", "name": "By hand"}
    )[1]
    page.go(f"/d/{made['id']}")
    page.idle()
    for c, name in (("c1", "Bearing block"), ("c2", "Drum shaft")):
        page.press("verb-place")
        page.press(f"place-{name}")
        page.idle()
        page.wait(lambda c=c: page.has(f"component-{c}"), name)
    assert page.text("freedom") == "6 freedoms"
    page.wait(lambda: page.topology(leaf_of(server, made["id"], "c2")), "both shown")
    page.driver.find_element("tag name", "body").click()
    page.keys("f")
    time.sleep(0.4)
    page.press("verb-join")
    page.press("tool-join:revolute")
    block, shaft = (leaf_of(server, made["id"], c) for c in ("c1", "c2"))
    bore = edge_spot(page, block, lambda e: e["kind"] == "circle" and abs(e["radius"] - 17) < 1e-6)
    page.mouse(*bore)
    end = edge_spot(page, shaft, lambda e: e["kind"] == "circle" and e["radius"] > 11)
    page.mouse(*end)
    page.press("keep-joint")
    page.idle()
    page.wait(lambda: page.text("freedom") == "1 freedom", "one freedom left")
    found = server.call("GET", f"/api/documents/{made['id']}/assembly")[1]
    assert found["holds"]
    # Coaxial: the shaft's axis runs through the seat, 40 mm above the foot.
    matrix = next(c["matrix"] for c in found["components"] if c["id"] == "c2")
    assert matrix[12] == pytest.approx(0, abs=1e-6)
    assert matrix[14] == pytest.approx(40, abs=1e-6)


def extruded(server, project, name, corners, depth):
    """A part grown from an outline."""
    made = server.call(
        "POST", f"/api/projects/{project}/documents", {"kind": "part", "name": name}
    )[1]
    sketch = Sketch()
    sketch.polygon(corners)
    commands = [
        {"do": "add_step", "kind": "sketch", "fields": {"drawing": sketch.drawing}},
        {"do": "add_step", "kind": "extrude", "fields": {"sketch": "s1", "depth": depth}},
    ]
    base = server.call("GET", f"/api/documents/{made['id']}")[1]["revision"]
    answer = server.call(
        "POST", f"/api/documents/{made['id']}/commands", {"base": base, "commands": commands}
    )
    assert answer[0] == 200, answer
    return made["id"]


def face_spot(page, body, axis, place):
    """Pixel of a visible flat face that looks along an axis at a place (its own coordinates)."""
    for i, f in enumerate(page.topology(body)["faces"]):
        way = f.get("direction")
        if way and abs(way[axis]) > 0.99 and abs(f["at"][axis] - place) < 1e-6:
            spot = page.spot(body, "face", i)
            if spot:
                return spot
    raise AssertionError(f"no such face of {body} can be seen")


def test_two_picks_propose_a_joint_a_tab_is_centred_and_a_distance_held(page, server):
    """A tab of 18 mm in a channel of 20: one millimetre to either wall, 5 mm above the ground."""
    project = server.call("POST", "/api/projects", {"name": "By picking"})[1]["id"]
    channel = [(0, 0), (60, 0), (60, 40), (40, 40), (40, 10), (20, 10), (20, 40), (0, 40)]
    parts = [
        extruded(server, project, "Channel", channel, "50 mm"),
        extruded(server, project, "Tab", [(0, 0), (18, 0), (18, 60), (0, 60)], "12 mm"),
    ]
    made = server.call(
        "POST", f"/api/projects/{project}/documents", {"kind": "assembly", "name": "Slot"}
    )[1]
    commands = [
        {"do": "add_component", "document": parts[0], "name": "Channel"},
        {"do": "add_component", "document": parts[1], "name": "Tab",
         "placement": {"p": [80.0, 15.0, 70.0]}},
    ]  # fmt: skip
    server.call(
        "POST",
        f"/api/documents/{made['id']}/commands",
        {"base": 1, "commands": commands},
    )
    page.go(f"/d/{made['id']}")
    page.idle()
    block, tab = (leaf_of(server, made["id"], c) for c in ("c1", "c2"))
    page.wait(lambda: page.topology(tab), "shown")
    page.keys("f")
    time.sleep(0.4)
    page.keys("j")
    page.find("joint-editor")

    def pick(body, axis, place, view, turn=0):
        page.keys(view)
        page.idle()
        if turn:
            page.drag([(500, 400), (500 + turn / 2, 400), (500 + turn, 400)], button="right")
            page.idle()
        page.mouse(*face_spot(page, body, axis, place))

    # Both walls of the slot, then both sides of the tab: what is meant is proposed.
    pick(block, 0, 20.0, "2", 90)
    pick(block, 0, 40.0, "2", -90)
    pick(tab, 0, 0.0, "3")
    page.wait(lambda: page.find("joint-kind").get_attribute("value") == "centred", "centred")
    pick(tab, 0, 18.0, "4")
    page.wait(lambda: page.text("joint-leaves") == "leaves 3 freedoms", "looked at")
    # Nothing is kept before it is said.
    assert server.call("GET", f"/api/documents/{made['id']}")[1]["document"]["joints"] == []
    page.press("keep-joint")
    page.idle()
    found = server.call("GET", f"/api/documents/{made['id']}/assembly")[1]
    assert found["components"][1]["placement"]["p"][0] == pytest.approx(21.0, abs=1e-6)
    assert found["components"][1]["freedom"] == 3
    # A distance starts with the one there is; another is typed.
    page.keys("j")
    pick(block, 2, 50.0, "5")
    pick(tab, 2, 12.0, "5")
    # Beside the second pick stands what fits two faces.
    page.find("mini-bar")
    page.press("mini-distance")
    page.wait(
        lambda: page.find("joint-value-distance").get_attribute("value") == "32 mm", "measured"
    )
    page.fill("joint-value-distance", "5")
    page.wait(lambda: page.text("joint-leaves") == "leaves 1 freedom", "looked at again")
    page.press("mini-keep")
    page.idle()
    found = server.call("GET", f"/api/documents/{made['id']}/assembly")[1]
    place = found["components"][1]["placement"]["p"]
    assert place[0] == pytest.approx(21.0, abs=1e-6)
    assert place[2] + 12.0 == pytest.approx(55.0, abs=1e-6)
    # A second one that cannot be: told with by how much, and nothing moves.
    page.press("verb-hold")
    page.press("tool-join:distance")
    pick(block, 2, 50.0, "5")
    pick(tab, 2, 12.0, "5")
    page.wait(lambda: page.find("joint-value-distance").get_attribute("value"), "measured")
    page.fill("joint-value-distance", "9")
    page.wait(lambda: "2 mm off at the best" in page.text("joint-editor"), "told")
    page.keys(Keys.ESCAPE)
    page.wait(lambda: not page.has("joint-editor"), "left")
    assert page.text("freedom") == "1 freedom"


def test_the_project_goes_out_as_zip_and_comes_back(page, server, demo, downloads):
    page.go(f"/d/{demo['Base plate']}")
    page.idle()
    page.press("hand-over")
    page.press_text("Whole project (zip)")
    path = downloads / "Coffee roaster.zip"
    page.wait(path.exists, "the zip")
    with zipfile.ZipFile(path) as z:
        assert "project.json" in z.namelist()
    before = len(server.call("GET", "/api/shelf")[1]["projects"])
    page.go("/")
    page.driver.find_element("css selector", "input[accept='.zip']").send_keys(str(path))
    page.wait(
        lambda: len(server.call("GET", "/api/shelf")[1]["projects"]) == before + 1, "the copy"
    )
    copy = server.call("GET", "/api/shelf")[1]["projects"][-1]
    assert {d["name"] for d in copy["documents"]} >= {
        "Base plate",
        "Roaster corner",
        "Lever strength",
    }
    page.go(f"/d/{demo['Base plate']}")  # the shelf would ask for pictures of what is going
    page.idle()
    server.call("DELETE", f"/api/projects/{copy['id']}")


def test_another_window_is_told_and_its_stale_edit_refused(page, server, demo):
    id = demo["Door frame"]
    page.go(f"/d/{id}")
    page.idle()
    before = server.call("GET", f"/api/documents/{id}")[1]
    command = {"do": "rename_step", "id": "s1", "name": "Opening of the door"}
    server.call(
        "POST", f"/api/documents/{id}/commands", {"base": before["revision"], "commands": [command]}
    )
    page.wait(lambda: "Opening of the door" in page.text("build-list"), "the other window's change")


def test_a_machine_is_folded_listed_tagged_and_copied(page, server, demo, downloads):
    """Sub-assemblies in the tree, the list of parts with its file, tags as a table, a copy beside."""
    shelf = server.call("GET", "/api/shelf")[1]["projects"][0]
    made = server.call(
        "POST", f"/api/projects/{shelf['id']}/documents", {"kind": "assembly", "name": "Machine"}
    )[1]
    corner, shaft = demo["Roaster corner"], demo["Drum shaft"]
    commands = [
        {"do": "add_component", "document": corner, "name": "Corner"},
        {"do": "add_component", "document": shaft, "name": "Spare shaft",
         "placement": {"p": [0, -180, 0]}},
    ]  # fmt: skip
    path = f"/api/documents/{made['id']}"
    server.call("POST", f"{path}/commands", {"base": 1, "commands": commands})
    page.go(f"/d/{made['id']}")
    page.idle()
    page.wait(lambda: page.js("return window.__test.bodies()") == 8, "all bodies are drawn")
    assert not page.has("component-c1/c2")
    page.press("fold-c1")
    assert "Bearing block front" in page.text("assembly-panel")
    page.fill("tree-find", "lever")
    page.wait(lambda: "Base plate" not in page.text("assembly-panel"), "found")
    assert "Door lever" in page.text("assembly-panel")
    page.find("tree-find").send_keys(Keys.ESCAPE)
    # What is picked in the list is lit in the picture and in the tree.
    page.press("tab-parts")
    page.press("list-parts")
    page.wait(lambda: page.text("list-count") == "6 lines", "parts only")
    row = next(r for r in page.driver.find_elements("css selector", "[data-testid=parts-line]")
               if "Drum shaft" in r.text)  # fmt: skip
    assert "2" in row.text.split()
    row.click()
    page.wait(lambda: "2 components" in page.js("return document.body.innerText"), "lit")
    page.press("list-csv")
    file = downloads / "Machine parts.csv"
    page.wait(file.exists, "saved")
    page.wait(lambda: b"Bearing block" in file.read_bytes(), "written")
    lines = file.read_text("utf-8-sig").splitlines()
    assert lines[0] == "Position,Name,Quantity,Material,Mass g,Total mass g,Tags"
    assert any(",Bearing block,2," in line for line in lines)
    # Tags down the column; the same one twice is pointed at.
    page.press("tab-tags")
    page.fill("tag-c1", "R-1", enter=True)
    page.idle()
    page.fill("tag-c2", "R-1", enter=True)
    page.wait(lambda: page.has("tag-twice"), "told")
    # A copy stands beside the first and is chosen.
    page.press("component-c2")
    page.find("component-c2").find_element("css selector", ".icon-btn").click()
    page.press_text("Copy")
    page.wait(lambda: page.has("component-c3"), "copied")
    page.idle()
    places = {
        c["id"]: c["placement"]["p"] for c in server.call("GET", path)[1]["document"]["components"]
    }
    assert places["c3"][0] > places["c2"][0] + 20
    assert places["c3"][1:] == places["c2"][1:]


def test_hardware_goes_into_the_picked_hole_and_copies_follow(page, server, demo):
    shelf = server.call("GET", "/api/shelf")[1]["projects"][0]
    block = next(d["id"] for d in shelf["documents"] if d["name"] == "Bearing block")
    made = server.call(
        "POST", f"/api/projects/{shelf['id']}/documents", {"kind": "assembly", "name": "Fastened"}
    )[1]
    server.call(
        "POST", f"/api/documents/{made['id']}/commands",
        {"base": 1, "commands": [{"do": "add_component", "document": block, "name": "Block"}]},
    )  # fmt: skip
    page.go(f"/d/{made['id']}")
    page.idle()
    body = leaf_of(server, made["id"], "c1")
    page.wait(lambda: page.topology(body), "shown")
    page.keys("h")
    page.wait(lambda: "pick the rim of a hole" in page.text("hardware-editor"), "asks for a hole")
    page.mouse(*edge_spot(
        page, body,
        lambda e: e["kind"] == "circle" and abs(e["radius"] - 3.3) < 1e-6 and e["centre"][2] > 13,
    ))  # fmt: skip
    page.wait(lambda: "ISO 4762 M6 x 25" in page.text("hardware-stack"), "what goes in")
    page.press("hardware-washer")
    page.wait(lambda: "ISO 7089" not in page.text("hardware-stack"), "without washers")
    page.press("keep-hardware")
    page.idle()
    found = server.call("GET", f"/api/documents/{made['id']}/assembly")[1]
    assert found["holds"]
    assert len(found["leaves"]) == 1 + 2 * 2
    page.wait(lambda: "2 copies" in page.text("assembly-panel"), "the other hole too")
    page.keys(Keys.ESCAPE)
    # The block in a row of three; the middle one is left out, then the row is made longer in the tree.
    page.press("component-c1")
    page.press("verb-copy")
    page.press("tool-copy:row")
    page.press("copies-axis-Y")
    page.fill("copies-count", "3")
    page.fill("copies-spacing", "70")
    page.press("copies-out-2")
    page.wait(lambda: page.text("copies-made") == "1 copy", "one is left")
    page.press("keep-copies")
    page.idle()
    rows = server.call("GET", f"/api/documents/{made['id']}")[1]["document"]["copies"]
    page.fill(f"count-{rows[-1]['id']}", "5", enter=True)
    page.idle()
    found = server.call("GET", f"/api/documents/{made['id']}/assembly")[1]
    along = sorted(x["matrix"][13] for x in found["leaves"] if x["component"].startswith("c1"))
    assert along == pytest.approx([0, 140, 210, 280])
    # Two of what holds the screws are taken together: they move as one.
    page.press("component-c2")
    page.driver.execute_script(
        "document.querySelector('[data-testid=component-c4]').dispatchEvent("
        "new MouseEvent('click', {bubbles: true, shiftKey: true}))"
    )
    page.keys("g")
    page.idle()
    page.wait(lambda: "moves as one" in page.text("assembly-panel"), "a group")
    assert not page.complaints()


def test_a_component_is_replaced_and_its_joint_mended(page, server, demo):
    shelf = server.call("GET", "/api/shelf")[1]["projects"][0]
    ids = {d["name"]: d["id"] for d in shelf["documents"]}
    made = server.call(
        "POST", f"/api/projects/{shelf['id']}/documents", {"kind": "assembly", "name": "Swapped"}
    )[1]["id"]

    server.call(
        "POST", f"/api/documents/{made}/commands",
        {"base": 1, "commands": [
            {"do": "add_component", "document": ids["Bearing block"], "name": "Bearing block"},
            {"do": "add_component", "document": ids["Drum shaft"], "name": "Drum shaft",
             "placement": {"p": (90.0, 0.0, 0.0)}}]},
    )  # fmt: skip
    page.go(f"/d/{made}")
    page.idle()
    block, shaft = (leaf_of(server, made, c) for c in ("c1", "c2"))
    page.wait(lambda: page.topology(shaft), "shown")
    page.keys("j")
    page.mouse(
        *edge_spot(page, block, lambda e: e["kind"] == "circle" and abs(e["radius"] - 17) < 1e-6)
    )
    page.mouse(*edge_spot(page, shaft, lambda e: e["kind"] == "circle" and e["radius"] > 11))
    page.press("keep-joint")
    page.idle()
    page.press("component-c2")
    page.driver.execute_script(
        "document.querySelector('[data-testid=component-c2]').dispatchEvent("
        "new MouseEvent('contextmenu', {bubbles: true, clientX: 1000, clientY: 300}))"
    )
    page.press_text("Replace by …")
    page.press("place-Drum hub")
    page.wait(lambda: "mend" in page.text("replace-ends"), "what does not match")
    page.press("keep-replace")
    page.idle()
    page.wait(lambda: "no longer" in page.text("joint-j3"), "a card to mend")
    page.press_text("Use the nearest edge")
    page.idle()
    found = server.call("GET", f"/api/documents/{made}/assembly")[1]
    assert found["joints"][0]["trouble"] is None
    assert found["holds"]
    assert page.text("component-c2").startswith("Drum hub")


def document(server, kind, name, *commands):
    """A document in the first project, after commands."""
    project = server.call("GET", "/api/shelf")[1]["projects"][0]["id"]
    made = server.call("POST", f"/api/projects/{project}/documents", {"kind": kind, "name": name})[
        1
    ]["id"]
    answer = server.call(
        "POST", f"/api/documents/{made}/commands", {"base": 1, "commands": commands}
    )
    assert answer[0] == 200, answer
    return made


def test_ports_offer_their_places_and_one_is_taken(page, server, demo):
    made = partial(document, server)

    def port(**fields):
        return {
            "do": "add_step",
            "kind": "port",
            "name": "Foot",
            "fields": {"sort": "seat", **fields},
        }

    solid = {
        "do": "add_step",
        "kind": "primitive",
        "fields": {"form": "box", "width": "90 mm", "height": "12 mm"},
    }
    rail = made("part", "Port rail", solid, *(port(x=f"{x} mm", z="12 mm") for x in (20, 60)))
    made("part", "Port post", {"do": "add_step", "kind": "primitive", "fields": {"form": "cylinder"}},
         port(flip=True))  # fmt: skip
    whole = made("assembly", "Ported", {"do": "add_component", "document": rail, "name": "Rail"})
    page.go(f"/d/{whole}")
    page.idle()
    page.press("verb-place")
    page.press("place-Port post")
    page.idle()
    page.wait(lambda: "Foot on Rail · 2" in page.text("ports-card"), "two places")
    page.press("port-1")
    page.idle()
    page.wait(lambda: page.text("freedom") == "all held", "joined")
    found = server.call("GET", f"/api/documents/{whole}/assembly")[1]
    post = next(c for c in found["components"] if c["id"] == "c2")
    assert post["matrix"][12:15] == pytest.approx([60, 0, 12])
    # What has no port that fits is set down, and nothing is asked.
    page.press("place-Air knob")
    page.idle()
    page.wait(lambda: page.text("freedom") == "6 freedoms", "it lies free")
    assert not page.driver.find_elements("css selector", "[data-testid=ports-card]")


def test_a_step_file_is_chosen_from_by_its_tree(page, server, demo, tmp_path):
    made = partial(document, server)
    # Names of their own: other tests find documents of the demo by theirs.
    block, pin, other = (
        made(
            "part",
            f"Traded {name}",
            {"do": "add_step", "kind": "primitive", "fields": {"form": form}},
        )
        for name, form in (("block", "box"), ("pin", "cylinder"), ("ball", "sphere"))
    )
    whole = made("assembly", "Traded whole", *(
        {"do": "add_component", "document": d, "name": n, "placement": {"p": (50.0 * k, 0.0, 7.0)}}
        for k, (d, n) in enumerate(((block, "Front"), (block, "Rear"), (pin, "Pin"), (other, "Ball")))
    ))  # fmt: skip
    file = tmp_path / "traded.step"
    file.write_bytes(server.call("GET", f"/api/documents/{whole}/export.step")[1])
    page.go("/")
    # The chooser of the system cannot be driven: what it would give is given by hand.
    page.js("HTMLInputElement.prototype.click = () => {}")
    page.press_text("From a file")
    chooser = next(
        i for i in page.driver.find_elements("css selector", "input[type=file]")
        if ".step" in (i.get_attribute("accept") or "")
    )  # fmt: skip
    chooser.send_keys(str(file))
    page.wait(lambda: "Traded block" in page.text("step-tree"), "the tree")
    assert "2 ×" in page.text("step-tree")
    page.press("step-none")
    assert not page.find("step-assembly").is_enabled()

    def row(name):
        return next(
            r for r in page.driver.find_elements("css selector", "[data-testid=step-tree] .line")
            if r.text.split("\n")[0] == name
        )  # fmt: skip

    # One of them is looked at; the whole is taken without the one that is not wanted.
    row("Traded block").find_element("css selector", "button").click()
    page.wait(lambda: "1 solid" in page.text("step-look"), "what it is", 60)
    row("Traded whole").find_element("css selector", "input").click()
    kept = {"Traded whole", "Traded block", "Traded pin"}
    rows = page.driver.find_elements("css selector", "[data-testid=step-tree] .line")
    assert all(r.find_element("css selector", "input").is_selected() for r in rows)
    for name in {r.text.split("\n")[0] for r in rows} - kept:
        row(name).find_element("css selector", "input").click()
    page.press("step-assembly")
    page.wait(lambda: "/d/" in page.driver.current_url, "it opens", 60)
    id = page.driver.current_url.split("/d/")[1].split("?")[0]
    found = server.call("GET", f"/api/documents/{id}/assembly")[1]
    where = {x["names"][0]: x["matrix"][12:15] for x in found["leaves"]}
    assert set(where) == {"Front", "Rear", "Pin"}
    for k, name in enumerate(("Front", "Rear", "Pin")):
        assert where[name] == pytest.approx([50 * k, 0, 7], abs=1e-5)


def test_the_roaster_is_taken_apart_and_kept_so(page, server, demo):
    id = demo["Tabletop roaster"]
    page.go(f"/d/{id}")
    page.idle()
    before = server.call("GET", f"/api/documents/{id}/assembly")[1]
    page.press("apart-joints")
    page.wait(lambda: page.has("apart-share"), "the slider")
    page.fill("apart-name", "All", enter=True)
    page.idle()
    page.wait(lambda: "All" in page.text("apart"), "kept by name")
    (kept,) = server.call("GET", f"/api/documents/{id}")[1]["document"]["explosions"]
    assert len(kept["steps"]) > 3
    # The picture comes apart, the assembly does not.
    after = server.call("GET", f"/api/documents/{id}/assembly")[1]
    assert after["leaves"] == before["leaves"]
    page.press("apart-together")
    page.press(f"apart-{kept['id']}")
    page.press("apart-play")
    page.press("apart-together")
    assert not page.complaints()


def plate_alone(page, server, project, name):
    """A plate of 60 x 40 x 10 mm, alone in an assembly that is open: ids of part, assembly, body."""
    project = server.call("POST", "/api/projects", {"name": project})[1]["id"]
    part = extruded(server, project, name, [(0, 0), (60, 0), (60, 40), (0, 40)], "10 mm")
    wish = {"kind": "assembly", "name": f"{name} and more"}
    made = server.call("POST", f"/api/projects/{project}/documents", wish)[1]["id"]
    command = {"do": "add_component", "document": part, "name": name}
    server.call("POST", f"/api/documents/{made}/commands", {"base": 1, "commands": [command]})
    page.go(f"/d/{made}")
    page.idle()
    leaf = leaf_of(server, made, "c1")
    page.wait(lambda: page.topology(leaf), "shown")
    page.keys("f")
    time.sleep(0.4)
    return part, made, leaf


def test_a_part_is_made_in_place_and_follows_its_neighbour_on_demand(page, server):
    """A pad on a plate: the plate grows by 6 mm, the pad is told, and brought up to date by a click."""
    base, _, leaf = plate_alone(page, server, "In place", "Base")
    page.keys("n")
    page.find("in-place-editor")
    page.mouse(*face_spot(page, leaf, 2, 10.0))
    page.fill("in-place-name", "Pad")
    page.press("keep-in-place")
    page.wait(lambda: "?in=" in page.driver.current_url, "opened in place")
    page.keep_seam()
    page.idle()
    ghost = f"~{leaf}"
    page.wait(lambda: page.topology(ghost), "what stands around")
    page.press("verb-in place")
    page.mouse(*face_spot(page, ghost, 2, 10.0))
    page.wait(lambda: page.has("taken-0"), "taken")
    page.idle()
    page.press("keep")
    page.idle()
    page.press("verb-faces")
    page.press("tool-thicken")
    page.wait(lambda: page.topology("b_s1"), "frozen")
    page.mouse(*page.spot("b_s1", "face", 0))
    page.fill("field-thickness", "3 mm")
    page.idle()
    page.press("keep")
    page.idle()
    part = page.driver.current_url.split("/d/")[1].split("?")[0]
    built = server.call("GET", f"/api/documents/{part}/build")[1]
    assert built["volume"] == pytest.approx(60 * 40 * 3.0)
    page.press("back-to-assembly")
    page.wait(lambda: "With Pad" in page.text("assembly-panel"), "back in the assembly")
    assert not page.has("stale-c2")
    page.press("verb-refer")
    page.press("tool-references")
    assert "up to date" in page.text("references")
    head = server.call("GET", f"/api/documents/{base}")[1]["revision"]
    taller = {"do": "edit_step", "id": "s2", "fields": {"sketch": "s1", "depth": "16 mm"}}
    server.call("POST", f"/api/documents/{base}/commands", {"base": head, "commands": [taller]})
    page.wait(lambda: "moved by 6 mm" in page.text("stale-c2"), "told")
    page.press("look-renewed")
    page.wait(lambda: page.has("renewal"), "what would change")
    page.press("renew")
    page.wait(lambda: not page.has("stale-c2"), "up to date")
    body = server.call("GET", f"/api/documents/{part}/build")[1]["bodies"][-1]
    # Its origin lies in the middle of the face as it was picked, 10 mm up.
    assert body["centre"] == pytest.approx([0.0, 0.0, 7.5])
    assert page.complaints() == []


def test_a_share_copy_is_seen_beside_and_written_without_what_is_inside(page, server):
    """A block in a closed case is left out; the lid is shown as a box by hand."""
    project = server.call("POST", "/api/projects", {"name": "Shared"})[1]["id"]

    def post(path, body):
        answer = server.call("POST", path, body)
        assert answer[0] == 200, answer
        return answer[1]

    def solid(name, *boxes):
        id = post(f"/api/projects/{project}/documents", {"kind": "part", "name": name})["id"]
        steps = [
            {"do": "add_step", "kind": "primitive", "fields": {
                "width": f"{w} mm", "depth": f"{d} mm", "height": f"{h} mm", "x": f"{x} mm",
                "y": f"{y} mm", "z": f"{z} mm", "result": "cut" if k else "new"}}
            for k, (x, y, z, w, d, h) in enumerate(boxes)
        ]  # fmt: skip
        post(f"/api/documents/{id}/commands", {"base": 1, "commands": steps})
        return id

    case = solid("Case", (0, 0, 0, 100, 80, 60), (10, 10, 10, 80, 60, 40))
    rotor = solid("Rotor", (40, 30, 10, 20, 20, 20))
    lid = solid("Lid", (10, 10, 60, 80, 60, 10), (20, 20, 65, 60, 40, 5))
    made = post(f"/api/projects/{project}/documents", {"kind": "assembly", "name": "Motor"})["id"]
    parts = [{"do": "add_component", "document": d, "name": n}
             for d, n in ((case, "Case"), (rotor, "Rotor"), (lid, "Lid"))]  # fmt: skip
    post(f"/api/documents/{made}/commands", {"base": 1, "commands": parts})
    page.go(f"/d/{made}")
    page.idle()
    page.press("hand-over")
    page.press_text("Share copy for outsiders …")
    page.wait(lambda: "nobody sees it" in page.text("share-c2"), "looked at")
    assert "12 → 6 faces" in page.text("share-c1")
    page.wait(lambda: page.has("shut-beside"), "beside each other")
    page.press_option("share-of-c3", "box")
    page.wait(lambda: page.find("share-as-0").get_attribute("value") == "box", "a rule by hand")
    page.press("write-share")
    page.wait(
        lambda: server.call("GET", f"/api/documents/{made}")[1]["document"]["shares"],
        "kept by name",
    )
    page.wait(lambda: page.text("write-share") == "Write STEP", "written", 60)
    assert not page.has("trouble")
    data = server.call("GET", f"/api/documents/{made}/share.step?share=For%20outsiders")[1]
    found = sorted(volume_of(s) for s in solids_of(read_shape(data).shape))
    assert found == pytest.approx([80 * 60 * 10, 100 * 80 * 60])
    assert b"Rotor" not in data
    assert page.complaints() == []


def test_a_part_is_set_down_at_a_click_and_moved_by_what_is_typed(page, server):
    """On the middle of an edge of a plate; then 30 mm up and a quarter turn about X."""
    _, made, leaf = plate_alone(page, server, "Set down", "Slab")
    page.keys("p")
    page.press_option("place-where", "where I click")
    page.press("place-Slab")
    page.wait(lambda: "click where Slab" in page.text("place-hint"), "asked for")
    long = edge_spot(page, leaf, lambda e: e["at"] == [30.0, 0.0, 10.0])
    page.mouse(*long)
    page.wait(lambda: page.has("component-c2"), "set down")
    page.press("place-done")

    def stands():
        return server.call("GET", f"/api/documents/{made}")[1]["document"]["components"][1][
            "placement"
        ]

    assert stands()["p"] == pytest.approx([30.0, 0.0, 10.0], abs=1e-6)
    page.press("component-c2")
    page.keys("v")
    page.fill("move-z", "30")
    page.fill("move-turn", "90")
    page.press_option("move-axis", "about X")
    page.press("keep-move")
    page.idle()
    page.wait(lambda: not page.has("move-editor"), "kept")
    assert stands()["p"] == pytest.approx([30.0, 0.0, 40.0], abs=1e-6)
    half = 0.5**0.5
    assert stands()["q"] == pytest.approx([half, half, 0.0, 0.0], abs=1e-9)
    page.js("localStorage.removeItem('vireo-place-where')")
    assert page.complaints() == []

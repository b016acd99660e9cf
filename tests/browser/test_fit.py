"""Interference, motion, runs and dragging to contact: by mouse."""

import math
import time

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select


def test_the_door_clashes_before_its_stop_and_the_faces_are_named(page, server, demo):
    id = demo["Roaster corner"]
    page.go(f"/d/{id}")
    page.idle()
    page.press("tab-results")
    page.press("run-interference")
    page.find("no-overlap")
    page.press("run-motion")
    said = page.find("clash", seconds=90).text
    assert "One clash at 21.88" in said
    assert "Door frame meets Door lever" in said
    jobs = server.call("GET", f"/api/documents/{id}/jobs")[1]["jobs"]
    clash = next(j for j in jobs if j["kind"] == "motion")["result"]["clash"]
    assert clash["faces_a"]
    assert clash["faces_b"]
    page.press("run-reach")
    page.wait(lambda: page.has("reach"), "how far it goes", 90)
    rows = page.find("reach").find_elements("css selector", "li")
    back, up = (r.text for r in rows)
    assert "-5" in back
    assert "its own limit" in back
    assert float(up.split()[2].strip("°")) == pytest.approx(21.8795, abs=1e-3)
    assert "Door frame meets Door lever" in up
    # What is shown is a preview: one goes back, or stays.
    page.press("motion-back")
    page.wait(lambda: not page.has("motion-back"), "as it is kept")
    # The result is still there after a reload.
    page.go(f"/d/{id}")
    page.idle()
    page.press("tab-results")
    assert page.text("clash") == said


def test_an_overlap_is_looked_at_meant_raised_again_and_mended(page, server, demo):
    shelf = server.call("GET", "/api/shelf")[1]["projects"][0]
    block = demo["Bearing block"]

    def do(id, *commands):
        base = server.call("GET", f"/api/documents/{id}")[1]["revision"]
        body = {"base": base, "commands": list(commands)}
        return server.call("POST", f"/api/documents/{id}/commands", body)

    id = server.call(
        "POST", f"/api/projects/{shelf['id']}/documents", {"kind": "assembly", "name": "Pressed"}
    )[1]["id"]
    do(id, {"do": "add_component", "document": block, "name": "Lower"},
       {"do": "add_component", "document": block, "name": "Upper"})  # fmt: skip
    page.go(f"/d/{id}")
    page.idle()
    page.press("tab-results")
    page.press("run-interference")
    # Both stand at one place: doubled, and wholly in each other.
    row = page.find("overlap", seconds=60)
    assert "wholly inside" in row.text
    do(id, {"do": "edit_component", "id": "c2", "placement": {"p": (200.0, 0.0, 0.0)}})
    page.idle()
    page.wait(lambda: page.has("fit-old"), "told to be out of date")
    page.press("run-interference")
    page.wait(lambda: page.has("no-overlap"), "nothing overlaps", 60)
    assert "Lower × Upper" in page.text("fit-gone")
    built = server.call("GET", f"/api/documents/{id}/assembly")[1]
    (leaf, _) = built["leaves"]
    faces = page.topology(leaf["id"])["faces"]
    width = max(f["at"][0] for f in faces if f["kind"] == "plane") - min(
        f["at"][0] for f in faces if f["kind"] == "plane"
    )
    do(id, {"do": "edit_component", "id": "c2", "placement": {"p": (width - 0.02, 0.0, 0.0)}})
    page.idle()
    page.press("run-interference")
    page.wait(lambda: page.has("fit-bad"), "an overlap", 60)
    assert "0.02 mm" in page.text("fit-bad")
    page.press("overlap")
    page.find("fit-card")
    page.press("fit-cut")
    page.press("mean")
    page.wait(lambda: page.has("fit-intended"), "meant")
    assert page.find("meant-reason").get_attribute("value") == "press fit"
    do(id, {"do": "edit_component", "id": "c2", "placement": {"p": (width - 0.05, 0.0, 0.0)}})
    page.idle()
    page.press("run-interference")
    page.wait(lambda: page.has("fit-grown"), "raised again", 60)
    assert "deeper" in page.text("fit-grown")
    do(id, {"do": "edit_component", "id": "c2", "placement": {"p": (width, 0.0, 0.0)}})
    page.idle()
    page.press("run-interference")
    page.wait(lambda: page.has("no-overlap"), "mended", 60)
    assert "touching" in page.text("fit-touching").lower()


def pull(page, start, by, steps):
    """Hold what is at a pixel and pull it in small steps; what the page says at the end."""
    canvas = page.driver.find_element("css selector", "canvas")
    box = canvas.rect

    def to(x, y):
        at = (round(x - box["x"] - box["width"] / 2), round(y - box["y"] - box["height"] / 2))
        ActionChains(page.driver, duration=10).move_to_element_with_offset(canvas, *at).perform()

    to(*start)
    ActionChains(page.driver).click_and_hold().perform()
    for k in range(1, steps + 1):
        to(start[0] + by[0] * k / steps, start[1] + by[1] * k / steps)
        time.sleep(0.1)


def put_back(server, id, revision):
    """Undo what a test did to the demo."""
    while (now := server.call("GET", f"/api/documents/{id}")[1]["revision"]) > revision:
        server.call("POST", f"/api/documents/{id}/undo", {"base": now})


def test_a_run_is_made_plotted_scrubbed_and_its_clash_mended_by_one_parameter(page, server, demo):
    """The demo's door: its lever meets the stop lug at 21.9 degrees; a shorter lug clears by half a
    millimetre."""
    id = demo["Roaster corner"]
    before = server.call("GET", f"/api/documents/{id}")[1]["revision"]
    page.go(f"/d/{id}")
    page.idle()
    page.press("tab-runs")
    page.press("new-run")
    page.fill("run-name", "Door only")
    hinge = "Door hinge"
    Select(page.find("driver-0").find_element("css selector", "select")).select_by_visible_text(
        hinge
    )
    page.press_option("driver-law", "To a value")
    page.fill("driver-value", "60 deg")
    page.fill("run-frames", "24")
    page.press("watch-gap")
    built = server.call("GET", f"/api/documents/{id}/assembly")[1]
    leaf = {x["names"][0]: x["id"] for x in built["leaves"]}
    for name in ("Door lever", "Base plate"):
        spots = (page.spot(leaf[name], "face", k) for k in range(20))
        page.mouse(*next(s for s in spots if s))
    page.press("keep-and-run")
    page.wait(lambda: page.has("run-gap"), "the run", 90)
    assert "Door lever – Base plate" in page.text("run-gap")
    assert "Door frame meets Door lever" in page.text("run-clash")
    page.press("run-clash")
    page.idle()
    slider = page.find("drive-j11")
    page.wait(
        lambda: abs(float(slider.get_attribute("value")) - 21.9) < 0.3, "the door at the clash"
    )
    # Half-way through, half-way open: by the smooth law of the driver.
    page.driver.execute_script(
        "const s = document.querySelector('[data-testid=run-scrub]'); s.value = 12;"
        "s.dispatchEvent(new Event('input'))"
    )
    page.wait(lambda: page.text("run-time") == "1 s", "the scrubbed time")
    page.wait(lambda: abs(float(slider.get_attribute("value")) - 30.0) < 0.3, "the door half open")
    page.press("run-curves")
    page.press("curve-effort:j11:turn")
    assert len(page.driver.find_elements("css selector", "[data-testid=chart]")) == 3
    page.press("run-back")
    page.wait(lambda: float(slider.get_attribute("value")) == 0.0, "everything as it was")
    frame = demo["Door frame"]
    base = server.call("GET", f"/api/documents/{frame}")[1]["revision"]
    edit = {"do": "edit_parameter", "name": "stop_out", "formula": "50.5 mm"}
    server.call("POST", f"/api/documents/{frame}/commands", {"base": base, "commands": [edit]})
    page.wait(lambda: page.has("run-old"), "told to be out of date", 60)
    page.press("go-run")
    page.wait(
        lambda: "No clash" in page.driver.find_element("css selector", ".runs").text, "mended", 90
    )
    put_back(server, frame, base)
    put_back(server, id, before)
    assert not page.complaints()


def asked(server, id, kind, options):
    """What a job found."""
    job = server.call("POST", f"/api/documents/{id}/jobs", {"kind": kind, "options": options})[1]
    for _ in range(1200):
        if job["state"] not in ("queued", "running"):
            break
        time.sleep(0.1)
        job = server.call("GET", f"/api/jobs/{job['id']}")[1]
    assert job["state"] == "done", job
    return job["result"]


def changed(server, id, **fields):
    revision = server.call("GET", f"/api/documents/{id}")[1]["revision"]
    body = {"base": revision, "commands": [{"do": "edit_parameter", **fields}]}
    status, found = server.call("POST", f"/api/documents/{id}/commands", body)
    assert status == 200, found
    return revision


def test_drums_of_three_sizes_turn_in_the_housing_and_the_largest_does_not_get_round(server, demo):
    """By hand: a vane's corner, 69.5 mm out and 1.5 mm aside, is over the rim of the throat's hole at
    24 mm along the drum (12.369 mm off the middle) once 69.5 sin a + 1.5 cos a is that: 9.013 degrees."""
    id = demo["Tabletop roaster"]
    joints = server.call("GET", f"/api/documents/{id}")[1]["document"]["joints"]
    spin = next(j["id"] for j in joints if j["name"] == "Shaft turns")
    # The vanes are alike every quarter turn, and what is in the way of the large ones is so at once.
    turn = {"joint": spin, "start": 0, "end": 90, "steps": 18}
    parts = [demo["Drum tube"], demo["Drum end"]]
    tube = server.call("GET", f"/api/documents/{parts[0]}/build")[1]
    # A ring, and of each vane what stands out of it: a chord's sagitta of 0.02 mm more or less.
    wall = math.pi * (58.0**2 - 55.0**2) * 50
    assert len(tube["bodies"]) == 1
    assert tube["volume"] == pytest.approx(wall + 4 * 6 * 3 * 48, rel=1e-4)
    before = [server.call("GET", f"/api/documents/{p}")[1]["revision"] for p in parts]
    for size in ("108 mm", "127 mm"):
        for part in parts:
            changed(server, part, name="drum_d", formula=size)
        found = asked(
            server, id, "motion", turn if size == "108 mm" else {**turn, "end": 15, "steps": 3}
        )
        if size == "108 mm":
            assert found["clashes"] == []
            continue
        first = found["clashes"][0]
        assert (first["name_a"], first["name_b"]) == ("Drum / Drum tube", "Housing")
        assert first["value"] == pytest.approx(9.0127, abs=1e-3)
    for part, revision in zip(parts, before, strict=True):
        put_back(server, part, revision)


def test_a_bush_that_is_pressed_in_is_meant_until_it_is_too_tight(server, demo):
    id = demo["Tabletop roaster"]

    def bush():
        rows = asked(server, id, "interference", {})["rows"]
        (found,) = [r for r in rows if "Seal bush" in (r["name_a"], r["name_b"])
                    and r["state"] == "overlap"]  # fmt: skip
        return found

    row = bush()
    assert (row["class"], row["reason"]) == ("intended", "pressed in")
    assert row["depth"] == pytest.approx(0.01, abs=1e-6)
    # A ring of 34 mm, 6 mm wide and as thick as it is too wide.
    assert row["volume"] == pytest.approx(math.pi * (17.01**2 - 17.0**2) * 6, rel=1e-3)
    before = changed(server, demo["Seal bush"], name="fit", formula="0.05 mm")
    row = bush()
    assert (row["class"], row["news"]) == ("grown", "grown")
    assert row["depth"] == pytest.approx(0.025, abs=1e-6)
    put_back(server, demo["Seal bush"], before)
    assert bush()["class"] == "intended"


def test_loose_ends_are_listed_shown_and_held_by_a_check(page, server, demo):
    id = demo["Roaster corner"]
    before = server.call("GET", f"/api/documents/{id}")[1]["revision"]
    page.go(f"/d/{id}")
    page.idle()
    page.press("tab-ends")
    page.press("run-survey")
    page.wait(lambda: page.has("ends-empty"), "the lists", 60)
    holes = page.find("ends-empty")
    rows = holes.find_elements("css selector", "[data-testid=end]")
    # Two blocks and the frame stand on two holes each, and no screw is in any.
    assert len(rows) == 6
    assert "made for M6, and nothing is in it" in rows[0].text
    assert "lies in line with it" in page.text("ends-out_of_line")
    rows[0].click()
    page.wait(lambda: page.has("fit-card"), "what it is about")
    assert "Made for M6" in page.text("fit-card")
    holes.find_element("css selector", "h3 button").click()
    page.wait(lambda: page.find("checks-badge").find_elements("css selector", ".no"), "red", 60)
    page.press("tab-checks")
    check = server.call("GET", f"/api/documents/{id}")[1]["document"]["checks"][-1]
    assert page.text(f"check-{check['id']}").startswith("fails")
    put_back(server, id, before)
    assert not page.complaints()


def test_the_room_the_door_takes_up_is_seen_and_kept_as_a_reference(page, server, demo):
    id = demo["Roaster corner"]
    found = server.call("GET", f"/api/documents/{id}")[1]
    before = found["revision"]
    # What clashes is no matter here, and takes its time.
    quick = {
        "do": "edit_run",
        "id": found["document"]["runs"][0]["id"],
        "frames": 16,
        "clashes": False,
    }
    server.call("POST", f"/api/documents/{id}/commands", {"base": before, "commands": [quick]})
    page.go(f"/d/{id}")
    page.idle()
    page.press("tab-runs")
    page.press("go-run")
    page.wait(lambda: page.has("envelope"), "the run", 90)
    page.press("envelope")
    page.wait(lambda: page.has("envelope-found"), "the envelope", 120)
    assert "Envelope of Discharge door" in page.text("envelope-found")
    page.press("envelope-keep")

    def last():
        return server.call("GET", f"/api/documents/{id}")[1]["document"]["components"][-1]

    page.wait(lambda: last()["name"] == "Envelope of Discharge door", "the reference", 60)
    assert (last()["reference"], last()["anchored"]) == (True, True)
    page.wait(lambda: "reference" in page.text(f"component-{last()['id']}"), "its row", 60)
    page.idle()
    put_back(server, id, before)
    assert not page.complaints()


def test_what_is_dragged_stops_at_first_contact_with_the_gap_told(page, server, demo):
    """Pulled down and towards one the door opens until its lever meets the lug, wherever one pulls to."""
    id = demo["Roaster corner"]
    before = server.call("GET", f"/api/documents/{id}")[1]["revision"]
    page.go(f"/d/{id}")
    page.idle()
    if "on" not in (page.find("contact").get_attribute("class") or "").split():
        page.press("contact")
    try:
        built = server.call("GET", f"/api/documents/{id}/assembly")[1]
        lever = next(x["id"] for x in built["leaves"] if x["names"][0] == "Door lever")
        spot = page.spot(lever, "face", 1) or page.spot(lever, "face", 0)
        # Upwards: the lever swings up, against the lug.
        pull(page, spot, (-30, -160), 14)
        page.wait(lambda: page.has("meets") and "touches" in page.text("meets"), "the contact", 30)
        assert "Door lever" in page.text("meets")
        ActionChains(page.driver).release().perform()
        page.idle()

        def angle():
            now = server.call("GET", f"/api/documents/{id}/assembly")[1]
            return next(j for j in now["joints"] if j["name"] == "Door hinge")["coordinates"][0][
                "value"
            ]

        page.wait(lambda: abs(angle() - 21.88) < 0.05, "the door kept at the contact")
    finally:
        page.press("contact")
        put_back(server, id, before)
    assert not page.complaints()


def test_driving_a_joint_by_its_slider_is_kept_and_undone(page, server, demo):
    id = demo["Roaster corner"]
    page.go(f"/d/{id}")
    page.idle()
    before = server.call("GET", f"/api/documents/{id}")[1]["revision"]

    def hinge():
        joints = server.call("GET", f"/api/documents/{id}/assembly")[1]["joints"]
        return next(j for j in joints if j["name"] == "Door hinge")

    def revision():
        return server.call("GET", f"/api/documents/{id}")[1]["revision"]

    start, joint = hinge()["coordinates"][0]["value"], hinge()["id"]
    slider = page.find(f"drive-{joint}")
    for _ in range(4):
        slider.send_keys(Keys.ARROW_RIGHT)
    page.wait(lambda: revision() != before, "kept")
    page.idle()
    assert 0 < hinge()["coordinates"][0]["value"] - start <= 2.0 + 1e-9
    while (now := revision()) > before:
        page.press("undo")
        page.wait(lambda n=now: revision() != n, "undone")
        page.idle()


def test_equal_bodies_drawn_in_one_go_look_as_each_drawn_by_itself(page, server, demo):
    """Turned, cut open, in every style, with soft shadows: only the calls are fewer."""
    page.js("localStorage.setItem('vireo-habits', '{\"shading\": true}')")
    try:
        page.go(f"/d/{demo['Roaster corner']}")
        page.idle()
        page.wait(lambda: page.js("return window.__test.bodies()") == 7, "all bodies")
        for view in ("Iso", "Back", "Under"):
            page.press_text(view)
            for style in ("Shaded", "Hidden dashed", "Edges only"):
                page.press_option("style", style)
                page.idle()
                found = page.js("return window.__test.together()")
                assert found["few"] < found["many"]
                assert found["differ"] <= 1e-4 * found["of"], (view, style, found)
        page.press_text("Section")
        page.idle()
        found = page.js("return window.__test.together()")
        assert found["differ"] <= 1e-4 * found["of"], found
    finally:
        page.js("localStorage.setItem('vireo-habits', '{\"shading\": false}')")

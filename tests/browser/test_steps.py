"""Steps on faces and bodies by hand: what is picked, previewed, refused with what would work."""

from tests.browser.test_sketch import volume


def part_with(page, server, *commands):
    """A new part made by commands, open in the browser."""
    shelf = server.call("GET", "/api/shelf")[1]["projects"]
    body = {"kind": "part", "name": "Steps"}
    id = server.call("POST", f"/api/projects/{shelf[0]['id']}/documents", body)[1]["id"]
    base = server.call("GET", f"/api/documents/{id}")[1]["revision"]
    server.call("POST", f"/api/documents/{id}/commands", {"base": base, "commands": list(commands)})
    page.go(f"/d/{id}")
    page.idle()


def step(kind, **fields):
    return {"do": "add_step", "kind": kind, "fields": fields}


def test_a_box_is_hollowed_by_hand_and_too_thick_a_wall_says_what_fits(page, server):
    part_with(page, server, step("primitive", width="60 mm", depth="40 mm", height="20 mm"))
    page.press("verb-faces")
    page.press("tool-shell")
    page.idle()
    faces = page.topology("b_s1")["faces"]
    top = next(i for i, f in enumerate(faces) if f["name"] == "s1/top")
    page.mouse(*page.wait(lambda: page.spot("b_s1", "face", top), "the top"))
    page.idle()
    page.fill("field-wall", "30")
    page.idle()
    page.wait(lambda: "largest that works" in page.text("editor"), "what would fit")
    page.press_text(page.driver.find_element("css selector", ".trouble .offers button").text)
    page.idle()
    page.fill("field-wall", "3")
    page.idle()
    page.press("keep")
    page.idle()
    exact = 48000 - 54 * 34 * 17
    page.wait(lambda: abs(volume(page, server) - exact) < 1e-3, "the volume by hand")


def test_a_bore_is_copied_round_and_one_left_out(page, server):
    disc = step("primitive", form="cylinder", diameter="100 mm", height="8 mm")
    bore = step(
        "primitive", form="cylinder", diameter="10 mm", height="8 mm", x="35 mm", result="cut"
    )
    part_with(page, server, disc, bore)
    page.press("verb-copy")
    page.press("tool-copies_circular")
    page.idle()
    page.fill("field-count", "8")
    page.idle()
    page.fill("field-skips", "3, 5\t")
    page.idle()
    page.press("keep")
    page.idle()
    exact = 3.141592653589793 * (50**2 - 6 * 5**2) * 8
    page.wait(lambda: abs(volume(page, server) - exact) < 1e-3, "six bores")

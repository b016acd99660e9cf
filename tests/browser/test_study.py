"""A strength study set up, failed and mended: by mouse."""

from selenium.webdriver.common.keys import Keys


def test_the_study_fails_its_check_until_one_parameter_is_changed(page, server, demo):
    study, lever = demo["Lever strength"], demo["Door lever"]
    # A coarser mesh than the mesher chooses: how exact it is, other tests ask.
    base = server.call("GET", f"/api/documents/{study}")[1]["revision"]
    mesh = {"base": base, "commands": [{"do": "set_mesh", "size": "3 mm"}]}
    assert server.call("POST", f"/api/documents/{study}/commands", mesh)[0] == 200
    page.go(f"/d/{study}")
    page.idle()
    page.press("solve")
    first = float(page.wait(lambda: page.text("safety"), "a safety factor", 120))
    assert 1.5 < first < 2.0
    assert "cancel" in page.text("balance")
    page.find("legend")
    page.wait(lambda: "1" in page.find("checks-badge").text, "a failing check")
    page.press("tab-checks")
    page.wait(lambda: "fails" in page.find("check-k3").text, "the failing check")
    page.go(f"/d/{lever}")
    page.idle()
    page.find("parameter-thick").find_element("css selector", "td.formula").click()
    page.keys(Keys.CONTROL, "a")
    page.driver.switch_to.active_element.send_keys("4" + Keys.ENTER)
    page.idle()
    page.go(f"/d/{study}")
    page.idle()
    page.press("tab-checks")
    page.wait(lambda: "holds" in page.find("check-k3").text, "the check to hold", 120)
    page.go(f"/d/{lever}")
    page.idle()
    page.press("undo")
    page.idle()


def test_a_force_is_put_on_by_picking_faces(page, server, demo):
    shelf = server.call("GET", "/api/shelf")[1]["projects"][0]
    body = {"kind": "study", "name": "Shaft bends", "part": demo["Drum shaft"]}
    made = server.call("POST", f"/api/projects/{shelf['id']}/documents", body)[1]
    page.go(f"/d/{made['id']}")
    page.idle()
    page.press("solve")
    page.wait(lambda: "nothing holds the part" in page.text("study-trouble"), "what is missing", 60)
    topology = page.topology("b_s2")
    ends = [i for i, f in enumerate(topology["faces"]) if f["kind"] == "plane"]
    seen = next(i for i in ends if page.spot("b_s2", "face", i))
    page.press("verb-hold")
    page.mouse(*page.spot("b_s2", "face", seen))
    page.press("keep-condition")
    page.idle()
    page.press("verb-load")
    page.press("tool-force")
    side = next(i for i, f in enumerate(topology["faces"]) if f["kind"] == "cylinder")
    page.mouse(*page.spot("b_s2", "face", side))
    page.fill("condition-size", "500 N")
    page.press("keep-condition")
    page.idle()
    document = server.call("GET", f"/api/documents/{made['id']}")[1]["document"]
    assert len(document["supports"]) == 1
    assert document["loads"][0]["size"] == "500 N"

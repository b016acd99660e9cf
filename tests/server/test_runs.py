"""Runs over the wire: real bodies with real masses against closed forms, checks of runs, bad runs refused."""

import math
import time

import pytest

from tests.server.test_assemblies import settled_checks, swinging_arm

G = 9.80665


def started(api, id, kind, options):
    return api.post(f"/api/documents/{id}/jobs", {"kind": kind, "options": options})[1]


def gone(api, id, kind, options):
    """What a job found; its error where it failed."""
    job = started(api, id, kind, options)
    if "state" not in job:
        return job
    for _ in range(900):
        job = api.get(f"/api/jobs/{job['id']}")[1]
        if job["state"] not in ("queued", "running"):
            break
        time.sleep(0.1)
    return job["result"] if job["state"] == "done" else job


@pytest.fixture(scope="module")
def swing(api):
    """An arm on its hinge beside a post: assembly, joint, and what the arm weighs."""
    id, arm = swinging_arm(api, 10.0)
    return id, "j4", api.build(arm)["mass"] * 1e-3


def arm_about_its_bore(kg):
    """The arm's centre from the bore (mm) and its inertia about that (kg mm2), by hand."""
    whole, hole = 60 * 40.0, math.pi * 9.0
    per = kg / (whole - hole)
    centre = (whole * 20.0) / (whole - hole)  # the bore's own centre adds nothing
    inertia = per * (whole * ((60**2 + 40**2) / 12 + 20.0**2) - hole * 9.0 / 2)
    return centre, inertia


def keep(api, id, **run):
    status, found = api.do(id, {"do": "keep_run", "name": run.pop("name", "Swing"), **run})
    assert status == 200, found
    runs = found["document"]["runs"]
    return runs[-1]["id"]


def series(found, id):
    return next(s["values"] for s in found["series"] if s["id"] == id)


def test_a_driven_arm_needs_the_torque_of_its_weight_and_inertia(api, swing):
    id, hinge, kg = swing
    run = keep(api, id, duration="1 s", frames=24, gravity="-Y", clashes=False, drivers=[
        {"joint": hinge, "law": "formula", "value": "20 deg * (1 - cos(360 deg * t / 1 s))"}])  # fmt: skip
    found = gone(api, id, "run", {"run": run})
    out, inertia = arm_about_its_bore(kg)
    for t, torque, angle in zip(found["times"], series(found, f"effort:{hinge}:turn"),
                                series(found, f"value:{hinge}:turn"), strict=True):  # fmt: skip
        turn = math.radians(20) * (1 - math.cos(2 * math.pi * t))
        growth = math.radians(20) * (2 * math.pi) ** 2 * math.cos(2 * math.pi * t)
        assert angle == pytest.approx(math.degrees(turn), abs=1e-4)
        meant = (inertia * growth + kg * G * 1e3 * out * math.cos(turn)) * 1e-6
        assert torque == pytest.approx(meant, rel=1e-4)
    # The drive's work is what the arm gained in height, back at rest.
    assert found["balance"]["work"] == pytest.approx(found["balance"]["gained"], abs=2e-5)


def test_an_arm_let_go_swings_in_its_closed_form_period_for_small_angles(api, swing):
    """About the lowest place: T = 2 pi sqrt(J / m g r), 1.0002 of that for 3 degrees."""
    id, hinge, kg = swing
    out, inertia = arm_about_its_bore(kg)
    period = 2 * math.pi * math.sqrt(inertia / (kg * G * 1e3 * out))
    period *= 1 + math.radians(3.0) ** 2 / 16
    api.do(
        id, {"do": "edit_joint", "id": hinge, "fields": {"motions": {"turn": {"value": "3 deg"}}}}
    )
    run = keep(api, id, duration=f"{period} s", frames=16, gravity="X", clashes=False,
               drivers=[{"joint": hinge, "law": "free"}])  # fmt: skip
    found = gone(api, id, "run", {"run": run})
    api.do(id, {"do": "edit_joint", "id": hinge, "fields": {"motions": {"turn": {"value": None}}}})
    angles = series(found, f"value:{hinge}:turn")
    assert found["freedom"] == 1
    assert angles[0] == pytest.approx(3.0, abs=1e-6)
    assert angles[8] == pytest.approx(-3.0, abs=1e-4)
    assert angles[16] == pytest.approx(3.0, abs=1e-4)


def test_a_run_tells_the_clash_and_the_least_gap_and_checks_hold_them(api, swing):
    """By hand: the corner (8, 63) of the post lies 43.046 mm from the bore; the arm's side, 20 mm from it,
    passes there. Clear, the gap is that of the corner to the side."""
    id, hinge, _ = swing
    watched = [{"a": "c2", "b": "c3"}]
    run = keep(api, id, name="Far", duration="2 s", frames=40, gravity="", watched=watched,
               drivers=[{"joint": hinge, "law": "speed", "value": "60 deg/s"}])  # fmt: skip
    far = gone(api, id, "run", {"run": run})
    # The post's near corner (12, 63) is met first: at rest on the arm's side at 20 mm from the bore.
    meets = min(
        math.degrees(math.atan2(y - 20, x - 10) - math.asin(20 / math.hypot(x - 10, y - 20)))
        for x, y in ((8, 63), (12, 63))
    )
    (clash,) = far["clashes"]
    assert {clash["name_a"], clash["name_b"]} == {"Arm", "Post"}
    assert clash["value"] * 60 == pytest.approx(meets, abs=0.01)
    near = keep(api, id, name="Near", duration="1 s", frames=20, gravity="", watched=watched, drivers=[
        {"joint": hinge, "law": "formula", "value": "50 deg * sin(180 deg * t / 1 s)"}])  # fmt: skip
    found = gone(api, id, "run", {"run": near})
    turn = math.radians(50)
    gap = min(
        -(x - 10) * math.sin(turn) + (y - 20) * math.cos(turn) - 20 for x, y in ((8, 63), (12, 63))
    )
    (w,) = found["watched"]
    assert (w["name_a"], w["name_b"]) == ("Arm", "Post")
    assert w["least"] == pytest.approx(gap, abs=1e-5)
    assert w["value"] == pytest.approx(0.5, abs=1e-3)
    status, answer = api.do(
        id,
        {"do": "add_check", "kind": "clearance", "name": "Clear", "relation": "at_least",
         "limit": f"{gap - 0.01} mm", "fields": {"run": near}},
        {"do": "add_check", "kind": "clearance", "name": "Not so clear", "relation": "at_least",
         "limit": f"{gap + 0.01} mm", "fields": {"run": near}},
        {"do": "add_check", "kind": "run_clash", "name": "No clash", "limit": "0 mm", "fields": {"run": near}},
        {"do": "add_check", "kind": "run_clash", "name": "A clash", "limit": "0 mm", "fields": {"run": run}},
        {"do": "add_check", "kind": "effort", "name": "Torque", "limit": "1 N*m",
         "fields": {"run": near, "joint": hinge, "coordinate": "turn"}},
        {"do": "add_check", "kind": "reach", "name": "Opens", "relation": "at_least",
         "limit": f"{meets - 0.02} deg", "fields": {"joint": hinge, "coordinate": "turn", "side": "up"}},
        {"do": "add_check", "kind": "clearance", "name": "Of nothing", "relation": "at_least",
         "limit": "1 mm", "fields": {}},
    )  # fmt: skip
    assert status == 200, answer
    states = {c["id"]: c for c in settled_checks(api, id)}
    names = {c["id"]: c["name"] for c in answer["document"]["checks"]}
    found = {names[k]: v["state"] for k, v in states.items()}
    assert found == {"Clear": "holds", "Not so clear": "fails", "No clash": "holds", "A clash": "fails",
                     "Torque": "holds", "Opens": "holds", "Of nothing": "trouble"}  # fmt: skip
    # What a run asks is part of it: with another angle it is another answer.

    def holds():
        jobs = api.get(f"/api/documents/{id}/jobs")[1]["jobs"]
        job = next(j for j in jobs if j["request"].get("run") == near)
        return api.get(f"/api/documents/{id}/jobs/current")[1]["current"][job["id"]]

    assert holds()
    api.do(id, {"do": "edit_run", "id": near, "name": "Nearer"})
    assert holds()
    api.do(id, {"do": "edit_run", "id": near, "duration": "2 s"})
    assert not holds()


@pytest.mark.parametrize(
    ("run", "says"),
    [
        ({"drivers": [{"joint": "j4", "law": "speed", "value": "20 mm/s"}]}, "Hinge: its speed"),
        ({"drivers": [{"joint": "j4", "law": "go_to", "value": "90"}]}, "angle is asked"),
        ({"drivers": [{"joint": "j4", "law": "go_to", "value": "90 deg", "over": "0 s"}]}, "more than none"),
        ({"drivers": [{"joint": "j4", "law": "warp"}]}, "no law of motion called warp"),
        ({"drivers": [{"joint": "j4", "law": "formula", "value": "1 deg * sqrt(0.5 - t / 1 s)"}]}, "t = "),
        ({"drivers": [{"joint": "j4", "law": "points", "points": [["0 s", "0 deg"], ["0 s", "9 deg"]]}]},
         "does not come after"),
        ({"drivers": [{"joint": "j4"}, {"joint": "j4", "law": "free"}]}, "driven twice"),
        ({"drivers": [{"joint": "j4", "law": "speed", "value": "6000 rpm"}], "limits": 80},
         "passes its limit of 80° at 0.00"),
        ({"duration": "-1 s"}, "more than none"),
        ({"duration": "3 mm"}, "duration"),
        ({"loads": [{"kind": "spring", "value": "1 N/mm"}]}, "load 1: a place"),
        ({"loads": [{"kind": "joint_spring", "joint": "j4", "value": "1 N/mm"}]}, "stiffness"),
        ({"loads": [{"kind": "effort", "joint": "j4", "value": "5 N"}]}, "a torque"),
    ],
)  # fmt: skip
def test_what_cannot_be_run_is_said_before_anything_moves(api, swing, run, says):
    id, _, _ = swing
    run = {
        "drivers": [{"joint": "j4", "law": "speed", "value": "30 deg/s"}],
        "duration": "1 s",
        **run,
    }
    limit = run.pop("limits", None)
    if limit:
        api.do(
            id,
            {"do": "edit_joint", "id": "j4", "fields": {"motions": {"turn": {"most": "80 deg"}}}},
        )
    for driver in run["drivers"]:
        if driver.keys() == {"joint"}:
            driver |= {"law": "speed", "value": "30 deg/s"}
    kept = keep(api, id, name="Wrong", **run)
    job = gone(api, id, "run", {"run": kept})
    assert job.get("state") == "failed", job
    assert says in job["error"]["text"]
    api.do(id, {"do": "remove_run", "id": kept})
    if limit:
        api.do(
            id, {"do": "edit_joint", "id": "j4", "fields": {"motions": {"turn": {"most": None}}}}
        )


def test_turns_are_counted_however_fast_and_few_frames(api, swing):
    """3000 and 2900 rpm for a second, told at 10 frames: five whole turns between two of them, or a little
    less."""
    id, hinge, _ = swing
    for rpm in (3000, 2900):
        run = keep(api, id, name="Fast", duration="1 s", frames=10, clashes=False, weighed=False,
                   drivers=[{"joint": hinge, "law": "speed", "value": f"{rpm} rpm"}])  # fmt: skip
        found = gone(api, id, "run", {"run": run})
        assert series(found, f"value:{hinge}:turn") == pytest.approx(
            [6.0 * rpm * t for t in found["times"]], abs=1e-3
        )
    # What stands still is not sent with every frame.
    assert {id for frame in found["frames"] for id in frame} == {"c2"}


def test_a_run_of_a_joint_or_component_that_is_gone_is_refused_by_name(api, swing):
    id, _, _ = swing
    for wrong in ({"drivers": [{"joint": "j99"}]}, {"watched": [{"a": "c2", "b": "c99"}]},
                  {"watched": [{"a": "c2", "b": "c2"}]}):  # fmt: skip
        status, found = api.do(id, {"do": "keep_run", "name": "Wrong", **wrong})
        assert status == 422, found


@pytest.mark.parametrize("contact", [False, True])
def test_what_is_held_at_a_value_is_pulled_off_it_and_not_back_at_every_other_step(api, contact):
    """A hinge held at nothing, its arm pulled round in steps of two degrees."""
    id, _ = swinging_arm(api, 40.0)
    api.do(
        id, {"do": "edit_joint", "id": "j4", "fields": {"motions": {"turn": {"value": "0 deg"}}}}
    )
    revision = api.get(f"/api/documents/{id}")[1]["revision"]
    places, angles = {}, []
    for k in range(1, 8):
        turn = math.radians(2 * k)
        # The far end of the arm, 40 mm from the bore.
        target = [10 + 40 * math.cos(turn), 20 + 40 * math.sin(turn), 10.0]
        status, found = api.post(f"/api/documents/{id}/drive", {
            "revision": revision, "placements": places, "component": "c2", "grip": [50.0, 20.0, 0.0],
            "target": target, "contact": contact})  # fmt: skip
        assert status == 200, found
        places = {c["id"]: c["placement"] for c in found["components"]}
        angles.append(found["joints"]["j4"]["turn"])
    assert angles == pytest.approx([2.0 * k for k in range(1, 8)], abs=0.05)


def test_an_envelope_becomes_a_reference_that_is_in_nobodys_way(api, swing):
    id, hinge, _ = swing
    run = keep(api, id, name="Half", duration="1 s", frames=12, clashes=False,
               drivers=[{"joint": hinge, "law": "go_to", "value": "40 deg"}])  # fmt: skip
    found = gone(api, id, "envelope", {"run": run, "component": "c2", "fine": 2.0})
    # A plate that turns about a bore in it: all of it stays within its farthest corner.
    sector = math.pi * math.hypot(50.0, 20.0) ** 2 * 10
    plate = (60 * 40 - math.pi * 9) * 10
    assert plate < found["volume"] < sector
    assert 0 < found["over"] < 2
    joint = gone(
        api, id, "envelope", {"joint": hinge, "start": 0, "end": 40, "component": "c2", "fine": 2.0}
    )
    assert joint["volume"] == pytest.approx(found["volume"], rel=0.1)
    for wrong, word in (({"component": "c2"}, "of a run, or of a joint"),
                        ({"run": run, "component": "c99"}, "is gone"),
                        ({"run": "m99", "component": "c2"}, "no longer there")):  # fmt: skip
        assert word in gone(api, id, "envelope", wrong)["error"]["text"]
    status, stl = api.get(f"/api/envelopes/{found['key']}")
    assert status == 200
    assert stl.startswith(b"Vireo mesh")
    project = api.get(f"/api/documents/{id}")[1]["project"]
    status, part = api.server.call(
        "POST", f"/api/projects/{project}/bring", raw=stl, headers={"X-File-Name": "Envelope.stl"}
    )
    assert status == 200, part
    assert api.build(part["id"])["volume"] == pytest.approx(found["volume"], rel=1e-4)
    before = api.get(f"/api/documents/{id}/assembly")[1]
    asked = [("run", {"run": run}), ("interference", {}), ("reach", {"joint": hinge}),
             ("envelope", {"run": run, "component": "c2", "fine": 2.0})]  # fmt: skip
    for kind, options in asked:
        gone(api, id, kind, options)
    jobs = [started(api, id, *a)["id"] for a in asked]
    status, said = api.do(id, {"do": "add_component", "document": part["id"], "name": "Envelope",
                               "anchored": True, "reference": True})  # fmt: skip
    assert status == 200, said
    after = api.get(f"/api/documents/{id}/assembly")[1]
    assert after["mass"] == pytest.approx(before["mass"])
    assert [x["reference"] for x in after["leaves"]].count(True) == 1
    looked = gone(api, id, "interference", {})
    names = {n for r in looked["rows"] for n in (r["name_a"], r["name_b"])}
    assert "Envelope" not in names
    assert looked["left"] == []
    listed = api.get(f"/api/documents/{id}/parts")[1]
    assert "Envelope" not in str(listed)
    # What is only looked at makes no answer old; what may be in the way does.
    assert [started(api, id, *a)["id"] for a in asked] == jobs
    number = after["components"][-1]["id"]
    api.do(id, {"do": "edit_component", "id": number, "reference": False})
    assert "Envelope" in str(api.get(f"/api/documents/{id}/parts")[1])
    assert started(api, id, *asked[1])["id"] not in jobs
    api.do(id, {"do": "remove_component", "id": number}, {"do": "remove_run", "id": run})


def test_a_check_whose_run_is_refused_says_so_and_rests(api):
    id, _ = swinging_arm(api, 10.0)
    run = keep(
        api, id, duration="2 s", drivers=[{"joint": "j4", "law": "speed", "value": "60 deg/s"}]
    )
    limits = {"motions": {"turn": {"most": "25 deg"}}}
    check = {"do": "add_check", "kind": "run_clash", "name": "Clear", "limit": "0 mm"}
    limited = {"do": "edit_joint", "id": "j4", "fields": limits}
    api.do(id, limited, {**check, "fields": {"run": run}})
    for _ in range(3):
        (check,) = settled_checks(api, id)
        assert check["state"] == "trouble"
        assert "it passes its limit of 25°" in check["trouble"]["text"]
    jobs = api.get(f"/api/documents/{id}/jobs")[1]["jobs"]
    assert len([j for j in jobs if j["kind"] == "run"]) == 1
    # Asked for by hand it is begun again.
    gone(api, id, "run", {"run": run})
    assert len(api.get(f"/api/documents/{id}/jobs")[1]["jobs"]) == 2


def test_how_far_it_opens_between_two_picks_by_hand(api):
    """The corner of the arm over the corner of the base: chords of the angle the hinge goes."""
    (id, _), hinge = swinging_arm(api, 10.0), "j4"
    part = api.get(f"/api/documents/{id}")[1]["document"]["components"][0]["document"]
    corners = api.picks(part, api.build(part)["bodies"][0]["id"], "vertex")
    corner = next(p for p in corners if p["witness"]["at"] == pytest.approx([60.0, 40.0, 0.0]))
    top = next(p for p in corners if p["witness"]["at"] == pytest.approx([60.0, 40.0, 10.0]))
    picks = [{"component": "c1", "pick": top}, {"component": "c2", "pick": corner}]
    api.do(
        id,
        {
            "do": "edit_joint",
            "id": hinge,
            "fields": {"motions": {"turn": {"least": "-30 deg", "most": "25 deg"}}},
        },
    )
    found = gone(api, id, "reach", {"joint": hinge, "picks": picks})
    out = math.hypot(50.0, 20.0)
    for end in found["ends"]:
        chord = 2 * out * math.sin(math.radians(abs(end["value"])) / 2)
        assert end["between"] == pytest.approx(chord, abs=1e-6)
    assert found["ends"][0]["value"] == pytest.approx(-30.0, abs=1e-3)
    assert found["between"] == pytest.approx(0.0, abs=1e-9)
    fields = {"picks": picks, "joint": hinge, "coordinate": "turn", "side": "back"}
    api.do(id, {"do": "add_check", "kind": "opening", "name": "Opens", "relation": "at_least",
                "limit": "27 mm", "fields": fields})  # fmt: skip
    check = settled_checks(api, id)[-1]
    assert check["state"] == "holds", check
    assert check["shown"] == f"{2 * out * math.sin(math.radians(15)):.3f} mm"
    api.do(id, {"do": "remove_check", "id": check["id"]})
    assert "of two" in gone(api, id, "reach", {"joint": hinge, "picks": picks[:1]})["error"]["text"]

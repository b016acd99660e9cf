"""Parameters varied, their weight told, and values sought, over the wire and against closed forms."""

import pytest

from tests.server.test_checks import add, must
from tests.server.test_runs import gone

DENSITY = 7.85e-3


@pytest.fixture
def plate(api):
    """w x 40 x d, 60 mm and 10 mm as it stands; a list parameter that nothing hangs on."""
    id = api.plate()
    must(api, id, {"do": "add_parameter", "name": "d", "formula": "10 mm"},
         {"do": "edit_step", "id": "s2", "fields": {"depth": "d"}},
         {"do": "add_parameter", "name": "half", "formula": "w / 2"})  # fmt: skip
    return id


def refused(api, id, kind, options):
    status, said = api.post(f"/api/documents/{id}/jobs", {"kind": kind, "options": options})
    assert status == 422, said
    return said["error"]["text"]


def span(name, least, most, count=5):
    return {"name": name, "least": least, "most": most, "count": count}


def test_every_point_is_built_and_where_checks_fail_is_told(api, plate):
    document = must(
        api,
        plate,
        add("mass", "Light", "200 g"),
        add("size", "Long", "50 mm", "at_least", axis="x"),
    )
    light, long = (c["id"] for c in document["checks"])
    found = gone(
        api, plate, "vary", {"ranges": [span("w", "40 mm", "8 cm"), span("d", "5", "15", 3)]}
    )
    assert found["count"] == len(found["rows"]) == 15
    for row in found["rows"]:
        w, d = row["numbers"]["w"], row["numbers"]["d"]
        assert row["mass"] == pytest.approx(w * 40 * d * DENSITY)
        assert row["size"] == pytest.approx([w, 40, d])
        states = {c["id"]: c["state"] for c in row["checks"]}
        assert states == {
            light: "holds" if row["mass"] <= 200 else "fails", long: "holds" if w >= 50 else "fails"}  # fmt: skip
    assert [r["set"]["w"] for r in found["rows"][::3]] == [
        "40 mm",
        "50 mm",
        "60 mm",
        "70 mm",
        "80 mm",
    ]
    # Nothing was put in.
    now = api.get(f"/api/documents/{plate}")[1]["document"]
    assert now["parameters"][0]["formula"] == "60 mm"
    # What does not build says where and why; limits of a parameter hold.
    must(
        api,
        plate,
        {
            "do": "edit_parameter",
            "name": "d",
            "limits": {"kind": "range", "least": "6 mm", "most": None},
        },
    )
    rows = gone(api, plate, "vary", {"ranges": [span("d", "4 mm", "8 mm", 3)]})["rows"]
    assert [r["state"] for r in rows] == ["failed", "ok", "ok"]
    assert rows[0]["why"].startswith("d: 4 mm is below")
    assert (
        refused(api, plate, "vary", {"ranges": [span("x", "1", "2")]}) == "there is no parameter x"
    )
    assert "length" in refused(api, plate, "vary", {"ranges": [span("w", "1 kg", "2 kg")]})
    assert "up to 400" in refused(
        api, plate, "vary", {"ranges": [span("w", "1", "90", 30), span("d", "1", "9", 30)]}
    )
    assert "both ends" in refused(api, plate, "vary", {"ranges": [span("w", "1 cm", "10 mm")]})


def test_a_list_takes_its_own_values(api, plate):
    limits = {"kind": "list", "values": ["8 mm", "10 mm", "12 mm", "20 mm"]}
    must(api, plate, {"do": "edit_parameter", "name": "d", "limits": limits})
    rows = gone(api, plate, "vary", {"ranges": [span("d", "9 mm", "15 mm", 50)]})["rows"]
    assert [r["numbers"]["d"] for r in rows] == [10.0, 12.0]
    assert "none of its values" in refused(
        api, plate, "vary", {"ranges": [span("d", "13 mm", "15 mm")]}
    )


def test_what_moves_a_quantity_most_is_told_by_slopes(api, plate):
    document = must(api, plate, add("volume", "Room", "1 m^3"))
    room = document["checks"][0]["id"]
    found = gone(api, plate, "sensitivity", {})
    slopes = {(s["of"], s["parameter"]): s for s in found["slopes"]}
    # Linear in each: the slope is exact, a percent of either is a percent of mass. What follows is not changed.
    assert {p for _, p in slopes} == {"w", "d"}
    assert slopes["mass", "w"]["slope"] == pytest.approx(40 * 10 * DENSITY)
    assert slopes["mass", "d"]["slope"] == pytest.approx(60 * 40 * DENSITY)
    assert slopes[room, "d"]["slope"] == pytest.approx(60 * 40)
    assert slopes["mass", "w"]["percent"] == pytest.approx(1.0)
    assert slopes["size_x", "d"]["slope"] == pytest.approx(0.0, abs=1e-9)
    assert slopes["mass", "w"]["sides"] == 2
    assert "no number" in refused(api, plate, "sensitivity", {"parameters": ["half"]})


def test_a_value_is_reached_and_proposed_never_put_in(api, plate):
    ask = {"of": "mass", "aim": "reach", "value": "250 g", "ranges": [span("w", "40 mm", "120 mm")]}
    found = gone(api, plate, "seek", ask)
    assert found["found"]["numbers"]["w"] == pytest.approx(250 / (40 * 10 * DENSITY), rel=2e-4)
    assert found["found"]["mass"] == pytest.approx(250, rel=1e-4)
    assert found["tried"] <= 70
    assert api.get(f"/api/documents/{plate}")[1]["document"]["parameters"][0]["formula"] == "60 mm"
    must(api, plate, *found["commands"])
    assert api.build(plate)["mass"] == pytest.approx(250, rel=1e-4)
    far = gone(api, plate, "seek", {**ask, "value": "9 kg"})
    assert (far["found"], far["commands"]) == (None, [])
    assert far["why"].endswith("within the ranges it came no nearer than 376.8")
    assert "not mass" in refused(api, plate, "seek", {**ask, "value": "3 mm"})


def test_a_value_is_reached_by_a_list_and_a_range_and_by_several(api, plate):
    limits = {"kind": "list", "values": ["5 mm", "8 mm", "11 mm", "13 mm"]}
    must(api, plate, {"do": "edit_parameter", "name": "d", "limits": limits})
    must(api, plate, {"do": "add_parameter", "name": "e", "formula": "2 mm"},
         {"do": "add_step", "kind": "primitive", "fields": {
             "form": "box", "width": "e", "depth": "e", "height": "d", "result": "cut"}})  # fmt: skip
    ask = {"of": "mass", "aim": "reach", "value": "143 g", "tries": 40, "ranges": [
        span("w", "35 mm", "65 mm"), span("d", "5 mm", "13 mm"), span("e", "1 mm", "9 mm")]}  # fmt: skip
    row = gone(api, plate, "seek", ask)["found"]
    w, d, e = (row["numbers"][n] for n in "wde")
    assert d in (8.0, 11.0, 13.0)
    assert row["mass"] == pytest.approx((w * 40 - e * e) * d * DENSITY)
    assert row["mass"] == pytest.approx(143, rel=1.01e-4)


def test_least_mass_with_all_that_must_hold(api, plate):
    """Mass is least on the bounds of what must hold: a volume of 30 cm3 kept, the plate at least 12 thick, and of
    what only should hold nothing is asked."""
    document = must(
        api, plate, add("volume", "Room", "30000 mm^3", "at_least"),
        add("size", "Thick", "12 mm", "at_least", axis="z"),
        add("size", "Wide", "200 mm", "at_least", "should", axis="x"), add("mass", "Goal", "1 kg"),
    )  # fmt: skip
    ranges = [span("w", "20 mm", "120 mm"), span("d", "5 mm", "25 mm")]
    found = gone(api, plate, "seek", {"of": "mass", "aim": "least", "ranges": ranges, "tries": 80})
    assert found["found"]["mass"] == pytest.approx(30000 * DENSITY, rel=2e-3)
    assert found["found"]["volume"] >= 30000 * (1 - 1e-9)
    assert found["found"]["numbers"]["d"] >= 12 - 1e-9
    states = {c["name"]: c["state"] for c in found["found"]["checks"]}
    assert states == {"Room": "holds", "Thick": "holds", "Wide": "fails", "Goal": "holds"}
    # A list and a range: the least of the list that still can.
    must(api, plate, {"do": "edit_parameter", "name": "d", "limits": {
        "kind": "list", "values": ["8 mm", "10 mm", "16 mm", "20 mm"]}})  # fmt: skip
    found = gone(api, plate, "seek", {"of": "mass", "aim": "least", "ranges": ranges, "tries": 80})
    assert found["found"]["numbers"]["d"] in (16.0, 20.0)
    assert found["found"]["mass"] == pytest.approx(30000 * DENSITY, rel=2e-3)
    narrow = [span("w", "20 mm", "30 mm"), span("d", "5 mm", "17 mm")]
    none = gone(api, plate, "seek", {"of": "mass", "aim": "least", "ranges": narrow})
    assert none["found"] is None
    assert "never held" in none["why"]
    assert document["checks"][0]["name"] in none["why"]

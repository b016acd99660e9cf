"""Assemblies over the wire: what overlaps inside a part of the assembly is found and fails."""

import time

import pytest


def settled_checks(api, id):
    for _ in range(300):
        checks = api.get(f"/api/documents/{id}/checks")[1]["checks"]
        if all(c["state"] != "running" for c in checks):
            return checks
        time.sleep(0.1)
    raise AssertionError("the checks do not end")


@pytest.mark.parametrize("limit", ["0 mm3", "0 mm**3"])
@pytest.mark.parametrize("sunk", [0.0, 0.5])
def test_what_overlaps_inside_a_sub_assembly_fails_the_check_above_it(api, limit, sunk):
    project = api.project()
    plate = api.plate(project)  # 60 x 40 x 10 mm, with a hole of 6 mm
    volume = api.build(plate)["volume"]
    inner = api.document("assembly", project)
    outer = api.document("assembly", project)
    api.do(
        inner,
        {"do": "add_component", "document": plate, "name": "Lower"},
        {"do": "add_component", "document": plate, "name": "Upper",
         "placement": {"p": (0.0, 0.0, 10.0 - sunk)}},
    )  # fmt: skip
    answer = api.do(
        outer,
        {"do": "add_component", "document": inner, "name": "Pair"},
        {"do": "add_component", "document": inner, "name": "Pair beside",
         "placement": {"p": (100.0, 0.0, 0.0)}},
        {"do": "add_check", "kind": "interference", "name": "Nothing overlaps", "limit": limit},
    )  # fmt: skip
    assert answer[0] == 200, answer
    (check,) = settled_checks(api, outer)
    job = api.get(f"/api/jobs/{check['job']}")[1]
    assert check["state"] == ("fails" if sunk else "holds"), check
    assert len(job["result"]["clashes"]) == (2 if sunk else 0)
    assert job["result"]["volume"] == pytest.approx(2 * sunk * volume / 10.0, abs=1e-6)


def test_a_surface_is_not_passed_over_in_silence(api):
    """Overlaps are of volumes: what has none is named, and no check is green over it."""
    project = api.project()
    plate = api.plate(project)
    skin = api.document(project=project)
    line = {"entities": [
        {"type": "point", "id": "p1", "x": -50, "y": 5}, {"type": "point", "id": "p2", "x": 90, "y": 5},
        {"type": "line", "id": "l3", "a": "p1", "b": "p2"},
    ]}  # fmt: skip
    answer = api.do(
        skin,
        {"do": "add_step", "kind": "sketch", "fields": {"drawing": line}},
        {"do": "add_step", "kind": "extrude",
         "fields": {"sketch": "s1", "profile": "surface", "depth": "8 mm"}},
    )  # fmt: skip
    assert answer[0] == 200, answer
    id = api.document("assembly", project)
    api.do(
        id,
        {"do": "add_component", "document": plate, "name": "Plate"},
        {"do": "add_component", "document": skin, "name": "Skin"},
        {"do": "add_check", "kind": "interference", "name": "Clear", "limit": "0 mm3"},
    )
    (check,) = settled_checks(api, id)
    assert check["state"] == "trouble", check
    assert "a surface" in check["trouble"]["text"]
    assert api.get(f"/api/jobs/{check['job']}")[1]["result"]["left"] == ["Skin"]

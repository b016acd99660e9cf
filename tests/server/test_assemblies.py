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

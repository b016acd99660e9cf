"""Loose ends of an assembly: holes out of line or empty, what is loose, doubled or inside; nothing else."""

import math
import random

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.server.test_assemblies import bored, rims, settled_checks
from tests.server.test_runs import gone

AT = ((12.0, 10.0), (48.0, 10.0), (12.0, 30.0), (48.0, 30.0))


def brick(api, project, wide, deep, high):
    id = api.document(project=project)
    api.do(id, {"do": "add_step", "kind": "primitive", "fields": {
        "form": "box", "width": f"{wide} mm", "depth": f"{deep} mm", "height": f"{high} mm"}})  # fmt: skip
    return id


def move(api, id, component, p, q=(1.0, 0.0, 0.0, 0.0)):
    status, found = api.do(
        id, {"do": "place_components", "placements": {component: {"p": p, "q": q}}}
    )
    assert status == 200, found


def rows(api, id, **options):
    found = gone(api, id, "survey", options)
    assert "lists" in found, found
    return {each["kind"]: each["rows"] for each in found["lists"]}


def turned(degrees, axis=(0, 0, 1)):
    half = math.radians(degrees) / 2
    return (math.cos(half), *(math.sin(half) * a for a in axis))


@pytest.fixture(scope="module")
def parts(api):
    project = api.project()
    sizes = {"clear": 3.3, "tapped": 2.5, "wide": 4.5}
    made = {name: bored(api, project, r, *AT) for name, r in sizes.items()}
    made["three"] = bored(api, project, 3.3, *AT[:3])
    made["pin"], made["small"] = brick(api, project, 2, 2, 20), brick(api, project, 6, 6, 4)
    made["project"] = project
    return made


def stacked(api, parts, lower, upper, p=(0.0, 0.0, 10.0), q=(1.0, 0.0, 0.0, 0.0)):
    id = api.document("assembly", parts["project"])
    status, found = api.do(
        id,
        {"do": "add_component", "document": parts[lower], "name": "Lower", "anchored": True},
        {"do": "add_component", "document": parts[upper], "name": "Upper", "anchored": True,
         "placement": {"p": p, "q": q}},
    )  # fmt: skip
    assert status == 200, found
    return id


def test_holes_are_told_by_how_far_their_axes_are_apart_and_those_in_line_are_not(api, parts):
    """Any shift and any turn of the whole about z: the axes of all four are as far apart as the plates are
    shifted, and what still passes is what two circles leave."""
    dice = random.Random(5)
    id = stacked(api, parts, "tapped", "clear")
    assert rows(api, id)["out_of_line"] == []
    for shift in [0.004, *(10 ** dice.uniform(-1.9, 0.5) for _ in range(5))]:
        way = dice.uniform(0, 2 * math.pi)
        p = (shift * math.cos(way), shift * math.sin(way), 10.0)
        move(api, id, "c2", p)
        found = rows(api, id)
        off = found["out_of_line"]
        assert len(off) == (4 if shift > 0.01 else 0), (shift, off)
        for row in off:
            assert row["what"] == "off"
            assert row["numbers"]["offset"] == pytest.approx(shift, abs=1e-9)
            passes = min(5.0, 6.6, 5.8 - shift)
            assert row["numbers"]["passes"] == pytest.approx(passes, abs=1e-9)
        # In line within what is asked they are made for one screw, and empty.
        assert len(found["empty"]) == (0 if shift > 0.01 else 4)
        assert rows(api, id, tolerance=shift + 0.001)["out_of_line"] == []


def test_holes_are_told_wherever_the_whole_stands_and_through_a_chamfer(api, parts):
    """Two plates on each other, turned and moved at random as one; then with the rims eased."""
    dice = np.random.default_rng(4)
    rimmed = bored(api, parts["project"], 3.3, *AT)
    stood = {**parts, "rimmed": rimmed}
    id = stacked(api, stood, "tapped", "rimmed")

    def stand(shift):
        turn, base = Rotation.random(random_state=dice), dice.uniform(-300, 300, 3)
        x, y, z, w = turn.as_quat()
        for component, p in (("c1", (0, 0, 0)), ("c2", (*shift, 10.0))):
            move(api, id, component, tuple(turn.apply(p) + base), (w, x, y, z))

    for eased in (False, True):
        if eased:
            edges = rims(api, rimmed, 3.3, up=False)
            status, _ = api.do(rimmed, {"do": "add_step", "kind": "chamfer", "fields": {
                "edges": edges, "size": "0.6 mm"}})  # fmt: skip
            assert status == 200
        for size in (0.0, *10 ** dice.uniform(-1.5, 0.3, 2)):
            way = dice.uniform(0, 2 * math.pi)
            stand((size * math.cos(way), size * math.sin(way)))
            found = rows(api, id)
            assert [len(found[k]) for k in ("out_of_line", "empty")] == ([4, 0] if size else [0, 4])
            assert found["loose"] == found["doubled"] == []
            for row in found["out_of_line"]:
                assert row["numbers"]["offset"] == pytest.approx(size, abs=1e-8)


def test_a_plate_that_leans_is_told_by_its_angle(api, parts):
    id = stacked(api, parts, "tapped", "clear", q=turned(0.02, (1, 0, 0)))
    found = rows(api, id)["out_of_line"]
    assert len(found) == 4
    assert all(math.degrees(r["numbers"]["lean"]) == pytest.approx(0.02, rel=1e-6) for r in found)
    assert all("leaning by 0.02°" in r["text"] for r in found)


def test_sizes_no_screw_is_for_and_holes_that_meet_a_wall_are_told(api, parts):
    id = stacked(api, parts, "tapped", "wide")  # a drill for M6 under room for M8
    found = rows(api, id)
    assert [r["what"] for r in found["out_of_line"]] == ["size"] * 4
    assert "M8, with room" in found["out_of_line"][0]["text"]
    assert found["empty"] == []
    id = stacked(api, parts, "three", "clear")
    (row,) = rows(api, id)["out_of_line"]
    assert (row["what"], row["name_a"], row["name_b"]) == ("shut", "Upper", "Lower")
    assert row["at"] == pytest.approx([48.0, 30.0, 10.0])
    # Three of a part that covers a grid of holes elsewhere are no fault of the grid.
    id = stacked(api, parts, "clear", "three", (36.0, 0.0, 10.0))
    assert rows(api, id)["out_of_line"] == []


def test_a_hole_is_empty_until_something_stands_in_it(api, parts):
    id = stacked(api, parts, "tapped", "clear")
    assert len(rows(api, id)["empty"]) == 4
    assert "made for M6" in rows(api, id)["empty"][0]["text"]
    x, y = AT[2]
    status, found = api.do(id, {
        "do": "add_component", "document": parts["pin"], "name": "Pin", "anchored": True,
        "placement": {"p": (x - 1.0, y - 1.0, 0.0)}})  # fmt: skip
    assert status == 200, found
    assert len(rows(api, id)["empty"]) == 3


def test_what_nothing_holds_or_touches_is_loose_with_how_far_the_nearest_is(api, parts):
    id = stacked(api, parts, "tapped", "clear")
    assert rows(api, id)["loose"] == []
    api.do(
        id,
        {"do": "add_component", "document": parts["small"], "name": "Away", "anchored": True,
         "placement": {"p": (70.0, 5.0, 3.0)}},
        {"do": "add_component", "document": parts["small"], "name": "Beside",
         "placement": {"p": (-6.0, 5.0, 3.0)}},
    )  # fmt: skip
    found = {r["name_a"]: r for r in rows(api, id)["loose"]}
    assert set(found) == {"Away", "Beside"}
    assert found["Away"]["what"] == "afloat"
    assert found["Away"]["numbers"]["gap"] == pytest.approx(10.0, abs=1e-9)
    assert found["Away"]["name_b"] == "Lower"
    assert found["Beside"]["what"] == "unheld"
    # Near enough is touching.
    assert len(rows(api, id, near=10.5)["loose"]) == 1


def test_what_stands_twice_or_inside_another_is_told_and_held_by_a_check(api, parts):
    id = stacked(api, parts, "clear", "clear")
    field = {"list": "doubled"}
    status, found = api.do(id, {"do": "add_check", "kind": "loose_ends", "name": "Nothing doubled",
                                "limit": "0", "fields": field})  # fmt: skip
    assert status == 200, found
    assert settled_checks(api, id)[0]["state"] == "holds"
    api.do(id, {"do": "copy_components", "ids": ["c2"]})
    twin = api.get(f"/api/documents/{id}")[1]["document"]["components"][-1]
    (row,) = rows(api, id)["doubled"]
    assert row["what"] == "twice"
    assert "delete one" in row["text"]
    (check,) = settled_checks(api, id)
    assert (check["state"], check["shown"]) == ("fails", "1")
    api.do(
        id,
        {"do": "remove_component", "id": twin["id"]},
        {"do": "add_component", "document": parts["small"], "name": "Sunk", "anchored": True,
         "placement": {"p": (25.0, 15.0, 13.0)}},
    )  # fmt: skip
    (row,) = rows(api, id)["doubled"]
    assert (row["what"], row["name_a"], row["name_b"]) == ("inside", "Sunk", "Upper")
    # What is cast in is meant.
    deep = row["numbers"]["depth"]
    api.do(
        id, {"do": "mark_meant", "a": row["a"].split("/")[0], "b": "c2", "depth": f"{deep + 1} mm"}
    )
    assert rows(api, id)["doubled"] == []
    assert settled_checks(api, id)[0]["state"] == "holds"

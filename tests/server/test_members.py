"""Variants and options over the wire: switching, proving, what is out of date."""

import io
import math
import zipfile

import pytest

from tests.server.test_assemblies import sent, settled_checks
from tests.server.test_runs import gone
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.shape import solids_of


def must(api, id, *commands):
    status, found = api.do(id, *commands)
    assert status == 200, found
    return found["document"]


def amount(text):
    return {"formula": text}


@pytest.fixture
def family(api):
    """A plate so wide and so deep with one hole and one edge rounded, in rows of a width, a depth, a
    round; and checks of its mass."""
    id = api.document()
    must(
        api, id,
        {"do": "add_parameter", "name": "wide", "formula": "40 mm"},
        {"do": "add_step", "kind": "primitive", "fields": {
            "form": "box", "width": "wide", "depth": "20 mm", "height": "10 mm"}},
    )  # fmt: skip
    (edge, *_) = [
        p for p in api.picks(id, "b_s1", "edge") if {"s1/front", "s1/right"} == set(p["name"])
    ]
    must(
        api, id, {"do": "add_step", "kind": "fillet", "fields": {"edges": [edge], "radius": "2 mm"}}
    )
    columns = [
        must(api, id, {"do": "add_column", "drives": d, "of": of})["columns"][-1]["id"]
        for d, of in (
            ("parameter", {"name": "wide"}), ("field", {"step": "s1", "field": "depth"}),
            ("asleep", {"group": "steps", "id": "s2"}), ("field", {"step": "s2", "field": "radius"}),
        )
    ]  # fmt: skip
    must(api, id, {"do": "add_check", "kind": "mass", "name": "Light", "limit": "90 g"})
    return id, columns


def volume(wide, deep, radius):
    return wide * deep * 10.0 - (1 - math.pi / 4) * radius**2 * 10.0


def test_a_family_is_proved_and_a_wrong_member_found_mended_and_proved_again(api, family):
    id, (wide, deep, sleeps, radius) = family
    sizes = [(30 + 5 * k, 15 + k, 1.0 + 0.5 * k) for k in range(8)]
    document = must(api, id, *(
        {"do": "add_variant", "name": f"{w} x {d}", "cells": {
            wide: amount(f"{w} mm"), deep: amount(f"{d / 10} cm"), radius: amount(f"{r} mm")}}
        for w, d, r in sizes
    ), {"do": "add_variant", "name": "Square", "cells": {sleeps: "yes"}},
       {"do": "add_variant", "name": "Too round", "cells": {radius: amount("wide")}})  # fmt: skip
    rows = [v["id"] for v in document["variants"]]
    found = gone(api, id, "prove", {})
    names = ["As drawn", *(f"{w} x {d}" for w, d, _ in sizes), "Square", "Too round"]
    assert [r["name"] for r in found["rows"]] == names
    by_hand = [volume(40, 20, 2), *(volume(*s) for s in sizes), 8000.0]
    for row, v in zip(found["rows"], by_hand, strict=False):
        assert (row["state"], row["volume"]) == ("ok", pytest.approx(v, rel=1e-9)), row
        (check,) = row["checks"]
        assert check["state"] == ("holds" if row["mass"] <= 90 else "fails")
    assert found["rows"][3]["size"] == pytest.approx([40, 17, 10])
    wrong = found["rows"][-1]
    assert (wrong["state"], wrong["where"], wrong["step"]) == ("failed", "step:s2", "Fillet")
    assert "40 mm" in wrong["why"] or "fit" in wrong["why"], wrong["why"]
    # Switched to it opens on its failing step; mended there the cell is mended and nothing else.
    must(api, id, {"do": "choose", "variant": rows[-1]})
    assert [s["status"] for s in api.build(id)["steps"]] == ["ok", "failed"]
    document = must(api, id, {"do": "edit_step", "id": "s2", "fields": {"radius": "3 mm"}})
    assert document["variants"][-1]["cells"][radius] == amount("3 mm")
    assert document["variants"][0]["cells"][radius] == amount("1.0 mm")
    job = next(j for j in api.get(f"/api/documents/{id}/jobs")[1]["jobs"] if j["kind"] == "prove")
    assert [r["name"] for r in job["result"]["rows"] if r["old"]] == ["Too round"]
    one = gone(api, id, "prove", {"members": [{"variant": rows[-1]}]})
    assert one["rows"][0]["volume"] == pytest.approx(volume(40, 20, 3), rel=1e-9)
    # An edit of what no row drives puts all of them out of date.
    must(api, id, {"do": "edit_step", "id": "s1", "fields": {"height": "12 mm"}})
    job = next(j for j in api.get(f"/api/documents/{id}/jobs")[1]["jobs"] if j["kind"] == "prove")
    assert all(r["old"] for r in job["result"]["rows"])


def test_switching_builds_what_was_built_before_from_what_is_kept(api, family):
    id, (wide, *_) = family
    document = must(api, id, *(
        {"do": "add_variant", "name": f"V{k}", "cells": {wide: amount(f"{50 + k} mm")}} for k in range(12)
    ))  # fmt: skip
    gone(api, id, "prove", {})
    for k in (11, 3, 7, 0):
        must(api, id, {"do": "choose", "variant": document["variants"][k]["id"]})
        built = api.build(id)
        assert built["volume"] == pytest.approx(volume(50 + k, 20, 2), rel=1e-9)
        assert all(s["kept"] for s in built["steps"]), k


def test_the_table_tells_what_is_own_what_formulas_come_to_and_what_it_stands_as(api, family):
    id, (wide, _, sleeps, radius) = family
    document = must(
        api, id,
        {"do": "add_option", "name": "Side", "values": ["left", "right"]},
        {"do": "add_option", "name": "Coated", "kind": "yes_no"},
        {"do": "add_variant", "name": "Wide", "cells": {wide: amount("3 in"), radius: amount("wide / 20")}},
    )  # fmt: skip
    side = document["options"][0]["id"]
    body = {
        "do": "add_column",
        "drives": "look",
        "of": {"body": "b_s1", "what": "colour"},
        "option": side,
    }
    colour = must(api, id, body)["columns"][-1]["id"]
    must(
        api,
        id,
        {"do": "set_option_cells", "id": side, "value": "Right", "cells": {colour: "#aa3311"}},
    )
    must(
        api,
        id,
        {"do": "choose", "variant": document["variants"][0]["id"], "options": {side: "right"}},
    )
    found = api.get(f"/api/documents/{id}/members")[1]
    assert (found["name"], found["combinations"]) == ("Wide · right", 2 * 2 * 2)
    assert [c["name"] for c in found["columns"]] == [
        "wide", "Plain solid · Depth", "Fillet · asleep", "Fillet · Radius", "Plain solid · colour",
    ]  # fmt: skip
    drawn, wider = found["rows"]
    assert drawn["cells"][wide] == {"text": "40 mm", "own": False, "value": None, "number": 40.0}
    assert wider["cells"][radius] == {
        "text": "wide / 20",
        "own": True,
        "value": "3.81 mm",
        "number": pytest.approx(3.81),
    }
    assert wider["cells"][sleeps] == {"text": "no", "own": False, "value": None, "number": None}
    assert api.build(id)["bodies"][0]["colour"] == "#aa3311"
    found = gone(api, id, "prove", {"how": "all"})
    assert len(found["rows"]) == 8
    assert {r["name"] for r in found["rows"]} >= {"left", "right · Coated", "Wide · left · Coated"}
    status, picture = api.get(f"/api/documents/{id}/thumbnail.svg?member=%7B%22variant%22:null%7D")
    assert status == 200
    assert b"<svg" in (picture if isinstance(picture, bytes) else picture.encode())


def test_wrong_members_are_refused_in_words(api, family):
    id, (wide, *_) = family
    must(api, id, {"do": "add_variant", "name": "A", "cells": {}})
    for options, why in (
        ({"variants": ["v99"]}, "no such variant; there is A"),
        ({"members": [{"options": {"o9": "x"}}]}, "no such option"),
        ({"how": "some"}, "how"),
    ):
        status, answer = api.post(
            f"/api/documents/{id}/jobs", {"kind": "prove", "options": options}
        )
        assert (status, why in answer["error"]["text"]) == (422, True), answer
    status, answer = api.do(id, {"do": "set_cells", "cells": {wide: amount("3 kg")}})
    assert (status, answer["error"]["text"]) == (422, "wide takes a length; 3 kg is a mass")


def test_members_of_a_part_stand_in_an_assembly_and_follow_their_rows(api, family):
    """A small and a large one side by side: each as its row says, whatever the part stands as; swapped by
    one edit, left out by another; what stands somewhere is not taken away."""
    id, (wide, *_) = family
    project = api.get(f"/api/documents/{id}")[1]["project"]
    document = must(api, id, *(
        {"do": "add_variant", "name": n, "cells": {wide: amount(w)}}
        for n, w in (("Small", "30 mm"), ("Large", "80 mm"))
    ))  # fmt: skip
    small, large = (v["id"] for v in document["variants"])
    must(api, id, {"do": "set_property", "name": "Part number", "value": "F-0"})
    number = must(
        api, id, {"do": "add_column", "drives": "property", "of": {"name": "Part number"}}
    )["columns"][-1]["id"]
    must(api, id, {"do": "set_cells", "id": large, "cells": {number: "F-80"}})
    whole = api.document("assembly", project)
    must(
        api, whole,
        {"do": "add_component", "document": id, "name": "Drawn"},
        {"do": "add_component", "document": id, "name": "Left", "choice": {"variant": small}},
        {"do": "add_component", "document": id, "name": "Right", "choice": {"variant": large}},
    )  # fmt: skip
    must(api, id, {"do": "choose", "variant": large})

    def masses():
        leaves = api.get(f"/api/documents/{whole}/assembly")[1]["leaves"]
        return {leaf["component"]: leaf["mass"] / 7.85e-3 for leaf in leaves}

    by_hand = {"c1": volume(40, 20, 2), "c2": volume(30, 20, 2), "c3": volume(80, 20, 2)}
    assert masses() == pytest.approx(by_hand, rel=1e-6)
    built = api.get(f"/api/documents/{whole}/assembly")[1]
    assert built["members"] == {"c2": "Small", "c3": "Large"}
    assert {leaf["document"] for leaf in built["leaves"]} == {id}
    lines = api.get(f"/api/documents/{whole}/parts")[1]["lines"]
    assert [(x["variant"], x["properties"]["Part number"], x["quantity"]) for x in lines] == [
        ("", "F-0", 1), ("Small", "F-0", 1), ("Large", "F-80", 1),
    ]  # fmt: skip
    # A row that changes is followed; one that stands somewhere stays.
    must(api, id, {"do": "set_cells", "id": small, "cells": {wide: amount("35 mm")}})
    assert masses()["c2"] == pytest.approx(volume(35, 20, 2), rel=1e-6)
    status, answer = api.do(id, {"do": "remove_variant", "id": small})
    assert status in {409, 422}
    assert "Small stands in" in answer["error"]["text"]
    status, answer = api.do(
        whole, {"do": "edit_component", "id": "c1", "choice": {"variant": "v99"}}
    )
    assert "Drawn: " in answer["error"]["text"]
    assert "there is Small, Large" in answer["error"]["text"]
    # An assembly has variants of its own: which member, which is left out.
    column, out = (
        must(api, whole, {"do": "add_column", "drives": d, "of": {"component": c}})["columns"][-1][
            "id"
        ]
        for d, c in (("member", "c2"), ("absent", "c3"))
    )
    cells = {column: {"variant": large}, out: True}
    bare = must(api, whole, {"do": "add_variant", "name": "Bare", "cells": cells})
    row = bare["variants"][0]["id"]
    table = api.get(f"/api/documents/{whole}/members")[1]["rows"]
    assert [r["cells"][column]["text"] for r in table] == ["Small", "Large"]
    found = gone(api, whole, "prove", {})["rows"]
    assert [r["mass"] / 7.85e-3 for r in found] == pytest.approx(
        [sum(masses().values()), volume(40, 20, 2) + volume(80, 20, 2)], rel=1e-6
    )
    must(api, whole, {"do": "choose", "variant": row})
    assert masses() == pytest.approx({"c1": volume(40, 20, 2), "c2": volume(80, 20, 2)}, rel=1e-6)
    assert [x["quantity"] for x in api.get(f"/api/documents/{whole}/parts")[1]["lines"]] == [1, 1]
    job = next(
        j for j in api.get(f"/api/documents/{whole}/jobs")[1]["jobs"] if j["kind"] == "prove"
    )
    assert [r["old"] for r in job["result"]["rows"]] == [False, False]
    before = api.get(f"/api/documents/{whole}")[1]["document"]["components"]
    must(api, whole, {"do": "choose"})
    assert len(masses()) == 3
    must(
        api,
        whole,
        {"do": "choose", "variant": row},
        {"do": "choose"},
        {"do": "choose", "variant": row},
    )
    assert api.get(f"/api/documents/{whole}")[1]["document"]["components"] == before


def test_overlaps_are_looked_for_in_the_variants_of_an_assembly(api, family):
    """A post that the large plate runs into and the small one does not: told by variant, in one run and
    by a check, whatever the assembly stands as."""
    id, (wide, *_) = family
    project = api.get(f"/api/documents/{id}")[1]["project"]
    rows = (("Small", "30 mm"), ("Large", "80 mm"))
    document = must(api, id, *(
        {"do": "add_variant", "name": n, "cells": {wide: amount(w)}} for n, w in rows
    ))  # fmt: skip
    small, large = (v["id"] for v in document["variants"])
    post = api.document(project=project)
    must(api, post, {"do": "add_step", "kind": "primitive", "fields": {
        "form": "box", "width": "5 mm", "depth": "5 mm", "height": "10 mm"}})  # fmt: skip
    whole = api.document("assembly", project)
    must(
        api, whole,
        {"do": "add_component", "document": id, "name": "Plate"},
        {"do": "add_component", "document": post, "name": "Post", "placement": {"p": [70, 5, 0]}},
    )  # fmt: skip
    column = must(api, whole, {"do": "add_column", "drives": "member", "of": {"component": "c1"}})
    column = column["columns"][0]["id"]
    document = must(api, whole, *(
        {"do": "add_variant", "name": n, "cells": {column: {"variant": v}}}
        for n, v in (("For small", small), ("For large", large))
    ))  # fmt: skip
    ids = [v["id"] for v in document["variants"]]
    found = gone(api, whole, "interference", {"variants": ["", *ids]})
    assert [(r["variant_name"], r["volume"]) for r in found["rows"] if r["state"] == "overlap"] == [
        ("For large", pytest.approx(250.0)),
    ]  # fmt: skip
    must(api, whole, {"do": "choose", "variant": ids[0]})
    must(api, whole, {"do": "add_check", "kind": "interference", "name": "Clear", "limit": "0 mm**3",
                      "fields": {"variants": ["", *ids]}})  # fmt: skip
    (check,) = settled_checks(api, whole)
    assert (check["state"], check["shown"]) == ("fails", "250 mm³")
    must(api, whole, {"do": "edit_check", "id": api.get(f"/api/documents/{whole}")[1]["document"]["checks"][0]["id"],
                      "fields": {"variants": ["", ids[0]]}})  # fmt: skip
    (check,) = settled_checks(api, whole)
    assert check["state"] == "holds"


def test_a_file_is_written_of_each_variant_and_what_does_not_build_is_named(api, family):
    id, (wide, _, _, radius) = family
    document = must(api, id, *(
        {"do": "add_variant", "name": n, "cells": {c: amount(w)}}
        for n, c, w in (("Wide/er", wide, "60 mm"), ("Too round", radius, "30 mm"))
    ))  # fmt: skip
    must(api, id, {"do": "choose", "variant": document["variants"][1]["id"]})
    status, data = api.post(f"/api/documents/{id}/members/files", {"form": "step"})
    assert status == 200
    name = document["name"]
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        files = {
            f"{name} As drawn.step": volume(40, 20, 2),
            f"{name} Wide er.step": volume(60, 20, 2),
        }
        assert set(packed.namelist()) == {*files, "not written.txt"}
        for file, by_hand in files.items():
            (solid,) = solids_of(read_shape(packed.read(file)).shape)
            assert volume_of(solid) == pytest.approx(by_hand, rel=1e-9)
        assert packed.read("not written.txt").decode().startswith("Too round: Fillet")
    status, _ = api.post(f"/api/documents/{id}/members/files", {"form": "exe"})
    assert status == 422
    # What was handed out is known, and old once it would be another.
    rows = [v["id"] for v in document["variants"]]

    def old():
        found = api.get(f"/api/documents/{id}/members/handed")[1]["rows"]
        return {(r["row"], f["form"]): f["old"] for r in found for f in r["files"]}

    assert old() == {(None, "step"): False, (rows[0], "step"): False}
    must(api, id, {"do": "rename_parameter", "name": "wide", "new": "breadth"},
         {"do": "choose", "variant": None},
         {"do": "add_check", "kind": "mass", "name": "Other", "limit": "1 kg"})  # fmt: skip
    assert old() == {(None, "step"): False, (rows[0], "step"): False}
    must(api, id, {"do": "set_cells", "id": rows[0], "cells": {wide: amount("61 mm")}})
    assert old() == {(None, "step"): False, (rows[0], "step"): True}
    must(api, id, {"do": "set_body", "body": "b_s1", "colour": "#aa3311"})
    assert old() == {(None, "step"): True, (rows[0], "step"): True}
    api.post(f"/api/documents/{id}/members/files", {"form": "3mf", "rows": [rows[0]]})
    assert old()[rows[0], "3mf"] is False


def test_variants_become_documents_of_their_own_that_follow(api, family):
    id, (wide, deep, *_) = family
    must(
        api,
        id,
        {"do": "set_property", "name": "Number", "value": "P-1"},
        {"do": "set_material", "material": "S235"},
    )
    document = must(api, id, *(
        {"do": "add_variant", "name": n, "cells": {wide: amount(w)}}
        for n, w in (("Wide", "60 mm"), ("Wider", "80 mm"))
    ))  # fmt: skip
    rows = [v["id"] for v in document["variants"]]
    made = api.post(f"/api/documents/{id}/members/documents", {"rows": [rows[1]]})[1]["documents"]
    own = made[rows[1]]

    def volume_now(part):
        built = api.get(f"/api/documents/{part}/build")[1]
        assert not any(s["error"] for s in built["steps"]), built["steps"]
        return built["volume"]

    found = api.get(f"/api/documents/{own}")[1]["document"]
    assert (found["name"], found["material"]) == (f"{document['name']} Wider", "S235")
    assert found["properties"][0]["value"] == "P-1"
    assert volume_now(own) == pytest.approx(volume(80, 20, 2))
    # Edits of the row reach it, those of other rows do not; asked again it is the same one.
    must(api, id, {"do": "set_cells", "id": rows[1], "cells": {deep: amount("30 mm")}})
    assert volume_now(own) == pytest.approx(volume(80, 30, 2))
    must(api, id, {"do": "set_cells", "id": rows[0], "cells": {deep: amount("70 mm")}})
    assert volume_now(own) == pytest.approx(volume(80, 30, 2))
    again = api.post(f"/api/documents/{id}/members/documents", {})[1]["documents"]
    assert again[rows[1]] == own
    assert volume_now(again[rows[0]]) == pytest.approx(volume(60, 70, 2))
    handed = {
        r["row"]: r["documents"] for r in api.get(f"/api/documents/{id}/members/handed")[1]["rows"]
    }
    assert [d["id"] for d in handed[rows[1]]] == [own]
    assert handed[None] == []

    # What the row is made of and what is said of it: the first follows by itself, the second when asked.
    def mass_now():
        return api.get(f"/api/documents/{own}/build")[1]["mass"]

    assert mass_now() == pytest.approx(volume(80, 30, 2) * 7.85e-3)
    must(api, id, {"do": "add_column", "drives": "material", "of": {}})
    other = api.get(f"/api/documents/{id}")[1]["document"]["columns"][-1]["id"]
    must(api, id, {"do": "set_cells", "id": rows[1], "cells": {other: "6061-T6"}},
         {"do": "set_property", "name": "Number", "value": "P-2"})  # fmt: skip
    assert mass_now() == pytest.approx(volume(80, 30, 2) * 2.70e-3)

    def told():
        found = api.get(f"/api/documents/{id}/members/handed")[1]["rows"]
        return {r["row"]: [d["old"] for d in r["documents"]] for r in found}

    assert told() == {None: [], rows[0]: [True], rows[1]: [True]}
    api.post(f"/api/documents/{id}/members/documents", {"rows": [rows[1]]})
    assert told() == {None: [], rows[0]: [True], rows[1]: [False]}
    assert api.get(f"/api/documents/{own}")[1]["document"]["properties"][0]["value"] == "P-2"
    must(api, id, {"do": "set_cells", "id": rows[1], "cells": {other: "S235"}})
    # A row somebody follows does not go; a circle is refused; what can be done with it is told by the step.
    status, refused = api.do(id, {"do": "remove_variant", "id": rows[1]})
    assert status >= 400
    assert "stands in" in refused["error"]["text"]
    status, refused = api.do(id, {"do": "add_step", "kind": "taken", "fields": {"document": own}})
    assert status == 422, refused
    # Assemblies the same way.
    whole = api.document("assembly", project=api.get(f"/api/documents/{id}")[1]["project"])
    must(
        api,
        whole,
        {"do": "add_component", "document": id, "name": "Plate", "choice": {"variant": rows[0]}},
    )
    column = must(api, whole, {"do": "add_column", "drives": "member", "of": {"component": "c1"}})[
        "columns"
    ][0]["id"]
    (row,) = must(
        api, whole, {"do": "add_variant", "name": "Large", "cells": {column: {"variant": rows[1]}}}
    )["variants"]
    made = api.post(f"/api/documents/{whole}/members/documents", {"rows": [row["id"]]})[1][
        "documents"
    ]
    weighed = api.get(f"/api/documents/{made[row['id']]}/assembly")[1]["mass"]
    assert weighed == pytest.approx(volume(80, 30, 2) * 7.85e-3)


def test_shares_and_dissolving_go_by_the_member_that_stands_there(api, family):
    """A property that only one variant has keeps that one out of a share copy; an assembly that stands as
    a variant is dissolved into that, whatever it is looked at as."""
    id, (wide, *_) = family
    project = api.get(f"/api/documents/{id}")[1]["project"]
    must(api, id, {"do": "set_property", "name": "Secret", "value": "no"})
    secret = must(api, id, {"do": "add_column", "drives": "property", "of": {"name": "Secret"}})
    secret = secret["columns"][-1]["id"]
    document = must(api, id, *(
        {"do": "add_variant", "name": n, "cells": {wide: amount(w), secret: x}}
        for n, w, x in (("Small", "30 mm", "no"), ("Large", "80 mm", "yes"))
    ))  # fmt: skip
    small, large = (v["id"] for v in document["variants"])
    inner = api.document("assembly", project)
    must(api, inner, {"do": "add_component", "document": id, "name": "One", "choice": {"variant": small}},
         {"do": "add_component", "document": id, "name": "Two", "choice": {"variant": large},
          "placement": {"p": [0, 90, 0]}})  # fmt: skip
    share = {"rules": [{"by": "property", "what": "secret=yes", "level": "out"}], "level": "exact"}
    found = api.post(f"/api/documents/{inner}/share/look", share)[1]
    assert [(r["name"], r["level"]) for r in found["rows"]] == [("One", "exact"), ("Two", "out")]
    column = must(api, inner, {"do": "add_column", "drives": "member", "of": {"component": "c1"}})
    column = column["columns"][0]["id"]
    row = must(
        api, inner, {"do": "add_variant", "name": "Big", "cells": {column: {"variant": large}}}
    )
    row = row["variants"][0]["id"]
    outer = api.document("assembly", project)
    must(api, outer, {"do": "add_component", "document": inner, "name": "Set", "choice": {"variant": row},
                      "placement": {"p": [7, 0, 0]}})  # fmt: skip

    def stands():
        leaves = api.get(f"/api/documents/{outer}/assembly")[1]["leaves"]
        return sorted((round(x["mass"], 6), *(round(c, 6) for c in x["matrix"])) for x in leaves)

    before = stands()
    base = api.get(f"/api/documents/{outer}")[1]["revision"]
    wish = {"base": base, "component": "c1"}
    assert api.post(f"/api/documents/{outer}/assembly/dissolve", wish)[0] == 200
    assert stands() == before
    assert set(api.get(f"/api/documents/{outer}/assembly")[1]["members"].values()) == {"Large"}


def test_what_is_read_from_files_is_proved_too_and_limits_by_parameters_put_rows_out_of_date(
    api, family
):
    """An import that is awake in all rows but the first: its file is there for all that build beside each
    other. A limit that hangs on a parameter nothing is built by."""
    id, _ = family
    _, step = api.get(f"/api/documents/{id}/export.step")
    part = api.document()
    status, brought = sent(api, f"/api/documents/{part}/bring", step, "plate.step")
    assert status == 200
    must(api, part, {"do": "add_parameter", "name": "most", "formula": "1 kg"},
         {"do": "add_step", "kind": "primitive", "fields": {
             "form": "box", "width": "9 mm", "depth": "9 mm", "height": "9 mm", "x": "500 mm"}},
         {"do": "add_step", "kind": "import", "fields": brought},
         {"do": "sleep_step", "id": "s2", "asleep": True},
         {"do": "add_check", "kind": "mass", "name": "Light", "limit": "most"})  # fmt: skip
    column = must(
        api, part, {"do": "add_column", "drives": "asleep", "of": {"group": "steps", "id": "s2"}}
    )
    column = column["columns"][0]["id"]
    must(
        api,
        part,
        *({"do": "add_variant", "name": f"R{k}", "cells": {column: False}} for k in range(5)),
    )
    found = gone(api, part, "prove", {})["rows"]
    assert [r["volume"] for r in found] == pytest.approx([729.0] + [729.0 + volume(40, 20, 2)] * 5)
    assert {r["checks"][0]["state"] for r in found} == {"holds"}
    must(api, part, {"do": "edit_parameter", "name": "most", "formula": "10 g"})
    job = next(j for j in api.get(f"/api/documents/{part}/jobs")[1]["jobs"] if j["kind"] == "prove")
    assert all(r["old"] for r in job["result"]["rows"])
    found = gone(api, part, "prove", {})["rows"]
    assert [r["checks"][0]["state"] for r in found] == ["holds"] + ["fails"] * 5

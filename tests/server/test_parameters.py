"""Parameters: where they are used, tables in and out, what a change would do."""

import pytest


def test_where_a_parameter_is_used(api):
    id = api.plate()
    api.do(
        id,
        {"do": "add_parameter", "name": "deep", "formula": "w/6"},
        {"do": "edit_step", "id": "s2", "fields": {"depth": "deep"}},
        {"do": "add_check", "kind": "mass", "name": "Light enough", "limit": "w*1 kg/m"},
    )
    _, found = api.get(f"/api/documents/{id}/uses")
    told = {n: [(u["kind"], u["name"]) for u in us] for n, us in found["uses"].items()}
    assert told == {
        "w": [("parameter", "deep"), ("step", "Sketch"), ("check", "Light enough")],
        "deep": [("step", "Extrude")],
    }


def test_a_table_goes_out_and_comes_back_changed(api):
    id = api.plate()
    status, text = api.get(f"/api/documents/{id}/parameters.csv")
    assert status == 200
    assert text.decode("utf-8-sig").splitlines()[1] == "w,60 mm,,,,60 mm"
    table = (
        "name\tvalue\tunit\tlimits\tgroup\nw\t75\tmm\t50 mm … 90 mm\tPlate\nrib\t3\tmm\t\tPlate\n"
    )
    _, read = api.post(f"/api/documents/{id}/parameters/table", {"text": table})
    assert read["new"] == 1
    assert api.build(id)["volume"] == pytest.approx(24000)
    status, view = api.do(id, *read["commands"])
    assert status == 200
    found = {p["name"]: p for p in view["document"]["parameters"]}
    assert found["w"]["formula"] == "75 mm"
    assert found["w"]["limits"] == {"kind": "range", "least": "50 mm", "most": "90 mm"}
    assert found["rib"]["group"] == "Plate"
    status, said = api.post(
        f"/api/documents/{id}/parameters/table", {"text": "name\tnote\nfin\tlater\n"}
    )
    assert (status, said["error"]["text"]) == (
        422,
        "line 2: fin is new and has no formula or value",
    )


def test_what_a_change_would_break_is_told_and_nothing_is_kept(api):
    id = api.plate()
    api.do(
        id,
        {"do": "edit_parameter", "name": "w",
         "limits": {"kind": "range", "least": "50 mm", "most": "80 mm"}},
        {"do": "set_target", "id": "s2", "target": "24000 mm**3"},
    )  # fmt: skip
    before = api.get(f"/api/documents/{id}")[1]

    def foresee(formula):
        change = {"do": "edit_parameter", "name": "w", "formula": formula}
        status, found = api.post(f"/api/documents/{id}/foresee", {"commands": [change]})
        assert status == 200, found
        return found

    found = foresee("90 mm")
    assert {f["name"] for f in found["breaks"]} == {"w", "Extrude"}
    assert found["values"] == [{"name": "w", "was": "60 mm", "now": "90 mm"}]
    assert found["mass_after"] == pytest.approx(1.5 * found["mass_before"])
    assert foresee("60 mm")["breaks"] == []
    api.do(id, {"do": "edit_parameter", "name": "w", "formula": "90 mm"})
    assert {f["name"] for f in foresee("60 mm")["mends"]} == {"w", "Extrude"}
    api.post(f"/api/documents/{id}/undo", {"base": before["revision"] + 1})
    assert api.get(f"/api/documents/{id}")[1]["document"] == before["document"]


def test_joints_and_parts_an_edit_breaks_are_told_apart_by_what_they_are(api):
    project = api.project()
    disc = api.document(project=project)
    api.do(disc, {"do": "add_step", "kind": "primitive", "fields": {"form": "cylinder"}})
    rim = next(p for p in api.picks(disc, "b_s1", "edge") if "s1/top" in p["name"])
    whole = api.document("assembly", project)
    one, two = ({"do": "add_component", "document": disc, "name": n} for n in ("One", "Two"))
    api.do(whole, {**one, "anchored": True}, two)
    swing = {"do": "add_parameter", "name": "swing", "formula": "20 deg", "limits": "≤ 40 deg"}
    joint = {"do": "add_joint", "kind": "revolute", "name": "swing", "value": "swing",
             "most": "30 deg", "a": {"component": "c1", "pick": rim},
             "b": {"component": "c2", "pick": rim}}  # fmt: skip
    status, view = api.do(whole, swing, joint)
    assert status == 200, view

    def foresee(*commands):
        status, found = api.post(f"/api/documents/{whole}/foresee", {"commands": commands})
        assert status == 200, found
        return found

    assert foresee({**swing, "do": "edit_parameter", "formula": "25 deg"})["breaks"] == []
    found = foresee({**swing, "do": "edit_parameter", "formula": "50 deg"})
    # One name, two things that break.
    assert [f["name"] for f in found["breaks"]] == ["swing", "swing"]
    limit, stop = (f["text"] for f in found["breaks"])
    assert limit == "50 deg is above its largest value 40 deg"
    assert stop.endswith("30 deg")
    assert found["mass_after"] == pytest.approx(found["mass_before"])
    third = foresee({"do": "add_component", "document": disc, "name": "Three"})
    assert third["mass_after"] == pytest.approx(1.5 * third["mass_before"])


def test_a_part_starts_from_a_template_of_another_project(api):
    id = api.plate()
    limits = {"kind": "range", "least": "50 mm", "most": "80 mm"}
    api.do(id, {"do": "edit_parameter", "name": "w", "limits": limits})
    api.do(id, {"do": "set_template", "on_offer": True})
    _, shelf = api.get("/api/shelf")
    offered = [d["id"] for p in shelf["projects"] for d in p["documents"] if d["template"]]
    assert offered == [id]
    made = api.document(project=api.project(), like=id)
    _, view = api.get(f"/api/documents/{made}")
    assert view["document"]["parameters"][0]["limits"] == limits
    assert (view["document"]["template"], view["document"]["name"][:3]) == (False, "Doc")
    assert api.build(made)["volume"] == pytest.approx(24000)
    # It is its own: the template does not follow it.
    api.do(made, {"do": "edit_parameter", "name": "w", "formula": "70 mm"})
    assert api.build(id)["volume"] == pytest.approx(24000)
    status, said = api.post(
        f"/api/projects/{api.project()}/documents",
        {"kind": "part", "name": "X", "like": api.document("assembly")},
    )
    assert (status, said["error"]["text"]) == (422, "only a part can be a start for another")

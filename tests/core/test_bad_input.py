"""Bad input for every kind of step: absurd sizes, lost and foreign picks, missing things. Each is
refused in words or gives a sound part; nothing hangs, nothing is hidden."""

import math
from functools import lru_cache

import pytest

from tests.core.parts import Maker
from tests.core.test_grow import boxed
from tests.core.test_guided import circle, line
from vireo.core.naming import make_pick
from vireo.core.part.build import in_use
from vireo.core.part.cache import Cache
from vireo.core.part.kind import all_kinds
from vireo.core.trouble import Trouble

XZ = {"base": "XZ", "face": None}
CACHE = Cache()


def at(z: float) -> dict:
    return {"base": "XY", "face": None, "offset": {"formula": f"{z} mm"}}


def ground() -> Maker:
    """A block with a bore, a disc beside it, sketches of all sorts."""
    m = Maker(CACHE)
    m.step("primitive", width="60 mm", depth="40 mm", height="20 mm")  # s1
    m.step("primitive", form="cylinder", diameter="8 mm", height="20 mm", x="15 mm", y="20 mm",
           result="cut")  # s2  # fmt: skip
    m.step("primitive", form="cylinder", diameter="20 mm", height="10 mm", x="100 mm")  # s3
    m.sketch(boxed(10, 8, (35, 15)), at(20))  # s4
    m.sketch(line((0, 0), (0, 50)), XZ)  # s5
    m.sketch(circle(6.0), at(40))  # s6
    m.sketch(circle(9.0), at(60))  # s7
    m.sketch(line((10, 10), (50, 10)), at(30))  # s8
    points = circle(1.0, 200, 0)
    points.point(40, 20)
    points.point(50, 30)
    m.sketch(points, at(20))  # s9
    m.step("set", picks=faces(m, "s1/top"))  # s10
    m.step("sketch", drawing=boxed(40, 30, (5, 5)).drawing, plane=at(20))  # s11
    m.sketch(line((-5, 10), (65, 10)), at(30))  # s12
    return m


def faces(m: Maker, *names: str, body="b_s1") -> list[dict]:
    t = m.topology(body)
    return [
        make_pick(t, body, "face", i).model_dump(mode="json")
        for n in names
        for i, f in enumerate(t.faces)
        if f.name == n
    ]


def edges(m: Maker, *names: str, body="b_s1") -> list[dict]:
    t = m.topology(body)
    return [
        make_pick(t, body, "edge", i).model_dump(mode="json")
        for i in range(len(t.edges))
        if t.edge_name(i) == tuple(sorted(names))
    ]


@lru_cache
def recipes() -> dict[str, list[dict]]:
    """Fields that build, one or more ways for every kind."""
    m = ground()
    top, front = faces(m, "s1/top"), faces(m, "s1/front")
    rim = edges(m, "s1/top", "s1/front")
    wall = faces(m, "s3/wall", body="b_s3")
    disc_rim = edges(m, "s3/top", "s3/wall", body="b_s3")
    spot = {"id": "a", "face": top[0], "at": [{"formula": v} for v in ("40 mm", "20 mm", "20 mm")]}
    copied = {"steps": ["s2"]}
    return {
        "extrude": [{"sketch": "s4", "result": "add"}, {"sketch": "s4", "reach": "two", "draft": "3 deg"},
                    {"sketch": "s8", "profile": "wall"}],
        "revolve": [{"sketch": "s4", "axis": "y_axis"}, {"sketch": "s4", "reach": "one", "angle": "90 deg"}],
        "sweep": [{"sketch": "s6", "path": "s5"}, {"sketch": "s6", "path": "s5", "twist": "30 deg"}],
        "pipe": [{"path": "s5"}, {"along": "helix", "hollow": "hollow", "wall": "1 mm", "turns": "1"}],
        "loft": [{"sections": ["s6", "s7"]}, {"sections": ["s6", "s7"], "start": "upright"}],
        "rib": [{"sketch": "s8", "grows": "across", "flip": True, "into": ["b_s1"]}],
        "primitive": [{}, {"form": "cone"}, {"form": "torus"}, {"form": "wedge"}, {"form": "sphere"}],
        "hole": [{"sketch": "s9"}, {"at": "faces", "spots": [spot], "form": "counterbored"},
                 {"sketch": "s9", "form": "countersunk"}, {"sketch": "s9", "form": "tapered"},
                 {"sketch": "s9", "form": "tapped", "size": "screw", "reach": "blind", "bottom": "point"}],
        "thread": [{"faces": wall, "size": "own", "pitch": "1.5 mm", "shown": "marked"}],
        "fillet": [{"edges": rim}, {"edges": rim, "form": "varying"}],
        "chamfer": [{"edges": rim}, {"edges": rim, "form": "two"}, {"edges": rim, "form": "angle"}],
        "shell": [{"open": top, "wall": "2 mm"}, {"wall": "2 mm", "bodies": ["b_s1"]}],
        "draft": [{"faces": front, "about": "XY"}, {"by": "line", "edges": rim, "both": True}],
        "offset_faces": [{"faces": top, "by": "1 mm"}],
        "delete_faces": [{"faces": faces(m, "s2/wall")}],
        "move_faces": [{"faces": top, "z": "2 mm"}],
        "replace_face": [{"face": top, "onto": "XY", "shift": "25 mm"}],
        "split_faces": [{"faces": top, "by": "sketch", "sketch": "s12"}],
        "thicken": [{"faces": top}],
        "emboss": [{"sketch": "s4", "face": top}],
        "combine": [{"operation": "add", "target": ["b_s1"], "tools": ["b_s1"]}],
        "split_body": [{"by": "YZ", "shift": "30 mm", "bodies": ["b_s1"]}],
        "copies_linear": [{**copied, "spacing": "12 mm"}],
        "copies_circular": [{**copied, "count": "2", "angle": "20 deg"}],
        "copies_points": [{**copied, "sketch": "s9"}],
        "copies_fill": [{**copied, "sketch": "s11"}],
        "copies_curve": [{**copied, "path": "s8"}, {"what": "bodies", "bodies": ["b_s3"], "path": "s8"}],
        "mirror": [{"what": "bodies", "bodies": ["b_s3"]}],
        "move_body": [{"bodies": ["b_s3"], "x": "5 mm", "angle": "30 deg"}],
        "scale_body": [{"bodies": ["b_s3"], "factor": "1.5"}, {"bodies": ["b_s3"], "how": "each", "x": "2"}],
        "align_body": [{"what": faces(m, "s3/top", body="b_s3"), "to": top}],
        "plane": [{"by": "5 mm"}, {"form": "turned", "face": top, "edge": rim, "angle": "30 deg"}],
        "axis": [{"form": "along", "of": wall}],
        "point": [{"form": "at"}, {"form": "at", "of": disc_rim}],
        "frame": [{"at": disc_rim}],
        "port": [{"at": disc_rim}],
        "measured": [{"picks": [*top, *faces(m, "s1/under")]}, {"picks": rim, "what": "length"}],
        "set": [{"by": "round", "of": "edge", "radius": "4 mm"}],
    }  # fmt: skip


#: Kinds tried elsewhere: drawings, files and other documents are no sizes.
ELSEWHERE = {"sketch", "import", "taken"}
WAYS = [(k, n) for k, given in sorted(recipes().items()) for n in range(len(given))]
UNITS = {"length": " mm", "angle": " deg", "number": ""}


def test_every_kind_is_tried():
    kinds = {k.kind for k in all_kinds()}
    assert kinds - set(recipes()) == ELSEWHERE


def tried(m: Maker, kind: str, fields: dict):
    """The report of a step with these fields, or the words the command itself was refused with."""
    before = m.part
    try:
        m.step(kind, **fields)
    except Trouble as refused:
        return refused.text
    report = m.build().steps[-1]
    m.part = before
    return report


def sensible(report, what: str) -> None:
    if isinstance(report, str):
        assert len(report) > 12, what
        return
    if report.error:
        text = report.error.text
        assert len(text) > 12, what
        for leak in ("Traceback", "Standard_", "StdFail", "OCP", "object has no", "NoneType"):
            assert leak not in text, (what, text)
    assert math.isfinite(report.volume), what
    assert report.volume > 0, what


@pytest.mark.parametrize(("kind", "n"), WAYS)
def test_absurd_sizes_are_refused_or_sound(kind, n):
    given = recipes()[kind][n]
    m = ground()
    good = tried(m, kind, given)
    found = next(k for k in all_kinds() if k.kind == kind)
    usual = not isinstance(good, str) and good.error is None
    fields = found.Fields.model_validate(given)
    for name, spec in found.Fields.model_fields.items():
        meta = (spec.json_schema_extra or {})["vireo"]
        if meta["type"] != "quantity" or not in_use(meta, fields):
            continue
        unit = UNITS[meta["dimension"]]
        for value in (f"1e12{unit}", f"-1e7{unit}", f"1e-9{unit}", "1 kg", "1/0", "nothing + 1"):
            report = tried(m, kind, {**given, name: value})
            sensible(report, f"{kind} {name} = {value}")
            if value in ("1 kg", "1/0", "nothing + 1"):
                assert isinstance(report, str) or report.error is not None, (kind, name, value)
    assert usual or kind in ("combine", "rib"), (
        kind,
        n,
        good if isinstance(good, str) else good.error,
    )


@pytest.mark.parametrize(("kind", "n"), WAYS)
def test_lost_picks_sketches_steps_and_bodies_are_told(kind, n):
    given = recipes()[kind][n]
    m = ground()
    found = next(k for k in all_kinds() if k.kind == kind)
    for name, spec in found.Fields.model_fields.items():
        type_ = (spec.json_schema_extra or {})["vireo"]["type"]
        wrong: list[object] = {
            "picks": [[{"body": "b_s1", "kind": k, "name": ["s99/side"]} for k in ("face",)],
                      [{"body": "b_s77", "kind": "face", "name": ["s1/top"]}],
                      [{"body": "b_s1", "kind": "edge", "name": ["a", "b"]}],
                      [{"body": "", "kind": "set", "name": ["s66"]}], []],
            "sketch": ["s99", "s1", ""], "steps": [["s99"], ["s4"], []], "bodies": [["b_s99"]],
            "sketches": [["s99", "s98"], ["s6"], []], "points": [["p99"]], "curves": [["c99"]],
            "regions": [[{"id": "nothing"}]], "axis": ["l99"], "numbers": [[1, 2, 3, 999]],
            "spots": [[{"id": "a", "face": {"body": "b_s1", "kind": "face", "name": ["gone"]},
                        "at": [{"formula": "1"}] * 3}]],
        }.get(type_, [])  # fmt: skip
        if name not in given and type_ not in ("picks",):
            continue
        for value in wrong:
            report = tried(m, kind, {**given, name: value})
            sensible(report, f"{kind} {name} = {value}")
    report = tried(m, kind, {**given, "colour_of_the_moon": 3})
    assert isinstance(report, str)


@pytest.mark.parametrize("kind", sorted(recipes()))
def test_an_empty_part_is_no_ground_for_anything_but_words(kind):
    m = Maker()
    report = tried(m, kind, recipes()[kind][0])
    if not isinstance(report, str):
        report.volume = report.volume or 1.0  # an empty part weighs nothing
    sensible(report, kind)

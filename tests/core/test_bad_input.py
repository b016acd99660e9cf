"""Bad input for every kind of step: absurd sizes, lost and foreign picks, missing things. Each is
refused in words or gives a sound part; nothing hangs, nothing is hidden."""

import math

import pytest

from vireo.core.declared.step import all_kinds
from vireo.core.part.values import in_use
from vireo.core.samples.maker import Maker
from vireo.core.samples.ways import ground, ways
from vireo.core.trouble import Trouble

#: Kinds tried elsewhere: drawings, files, other documents and neighbours are no sizes.
ELSEWHERE = {"sketch", "import", "taken", "neighbours"}
WAYS = [(k, n) for k, given in sorted(ways().items()) for n in range(len(given))]
#: Words of the machinery that no message may hold.
LEAKS = ("Traceback", "Standard_", "StdFail", "OCP", "object has no", "NoneType", "Quantity(",
         "Dimension(", "object at 0x", "np.float", "array(")  # fmt: skip
UNITS = {"length": " mm", "angle": " deg", "number": ""}


def test_every_kind_is_tried():
    kinds = {k.kind for k in all_kinds()}
    assert kinds - set(ways()) == ELSEWHERE


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
    said = [n.text for n in report.notes]
    if report.error:
        assert len(report.error.text) > 12, what
        said += [report.error.text, *(o.label for o in report.error.offers)]
    for text in said:
        for leak in LEAKS:
            assert leak not in text, (what, text)
    assert math.isfinite(report.volume), what
    assert report.volume > 0, what


@pytest.mark.parametrize(("kind", "n"), WAYS)
def test_absurd_sizes_are_refused_or_sound(kind, n):
    given = ways()[kind][n]
    m = ground()
    good = tried(m, kind, given)
    found = next(k for k in all_kinds() if k.kind == kind)
    usual = not isinstance(good, str) and good.error is None
    sensible(good, kind)
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
    assert usual, (kind, n, good if isinstance(good, str) else good.error)


@pytest.mark.parametrize(("kind", "n"), WAYS)
def test_lost_picks_sketches_steps_and_bodies_are_told(kind, n):
    given = ways()[kind][n]
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


@pytest.mark.parametrize(("kind", "n"), WAYS)
def test_what_is_offered_for_a_lost_pick_can_be_taken(kind, n):
    given = ways()[kind][n]
    for name, picks in given.items():
        if not isinstance(picks, list) or not picks or not isinstance(picks[0], dict):
            continue
        if "witness" not in picks[0]:
            continue
        gone = {**picks[0], "name": [f"{x}/gone" for x in picks[0]["name"]]}
        m = ground()
        report = tried(m, kind, {**given, name: [gone, *picks[1:]]})
        assert not isinstance(report, str), report
        if report.error is None:
            continue  # not looked at with these fields
        assert report.error.lost is not None, (kind, name, report.error.text)
        for offer in report.error.offers:
            taken = tried(m, kind, {**given, name: [gone, *picks[1:]], **offer.fields})
            assert not isinstance(taken, str), (kind, name, offer.label, taken)
            assert not taken.error or not taken.error.lost, (kind, name, taken.error)


@pytest.mark.parametrize("kind", sorted(ways()))
def test_an_empty_part_is_no_ground_for_anything_but_words(kind):
    m = Maker()
    report = tried(m, kind, ways()[kind][0])
    if not isinstance(report, str):
        report.volume = report.volume or 1.0  # an empty part weighs nothing
    sensible(report, kind)

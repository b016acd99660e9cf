"""500 random edits against ground truth: no pick lands on other geometry, few are lost."""

from dataclasses import replace

import pytest

from tests.core.truth import Part


@pytest.mark.parametrize("seed", range(10))
def test_no_pick_lands_on_other_geometry(seed, record_property):
    part = Part(seed)
    for _ in range(50):
        part.edit()
    t = part.tally
    assert not t.wrong, t.wrong[:5]
    assert t.asked > 500
    record_property("lost picks", f"{t.lost} of {t.asked} asked in {t.edits} edits")
    assert t.lost <= 0.01 * t.asked, f"{t.lost} of {t.asked} lost"


def test_the_truth_notices_names_that_changed_places():
    part = Part(99)
    for _ in range(6):
        part.edit()
    assert not part.tally.wrong
    t = part.topology
    picked = {n for h in part.held if h.pick.kind == "face" for n in h.pick.name}
    a = next(i for i, f in enumerate(t.faces) if f.name in picked)
    b = next(i for i, f in enumerate(t.faces) if f.kind != t.faces[a].kind)
    faces = list(t.faces)
    faces[a], faces[b] = (
        replace(faces[a], name=faces[b].name), replace(faces[b], name=faces[a].name)
    )  # fmt: skip
    part.topology = replace(t, faces=tuple(faces))
    part.ask()
    assert part.tally.wrong

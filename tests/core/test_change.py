"""The material a step adds and takes away, against closed forms; targets on cards."""

import math

import pytest

from tests.core.parts import Maker
from tests.core.test_bodies import brick
from vireo.core.measure.change import change
from vireo.core.trouble import BadInput


def bodies(m: Maker) -> dict:
    return {id: m.cache.body(b["key"]) for id, b in m.build().bodies.items()}


def test_what_steps_add_and_remove():
    m = brick(40, 30, 20)
    plain = bodies(m)
    edges = m.pick("edge", lambda e: e.kind == "line" and abs(e.direction[2]) > 0.9)
    m.step("fillet", edges=edges, radius="4 mm")
    rounded = bodies(m)
    (gone,) = change(plain, rounded)
    assert (gone.sign, gone.body) == ("removed", "b_s1")
    assert gone.volume == pytest.approx((4 - math.pi) * 16 * 20)
    # A rib across and a new body: both are added, nothing goes.
    m.step("primitive", form="box", width="10 mm", depth="10 mm", height="25 mm", x="15 mm",
           y="10 mm", result="add")  # fmt: skip
    m.step("primitive", form="sphere", diameter="8 mm", x="100 mm")
    grown = bodies(m)
    found = {p.body: p for p in change(rounded, grown)}
    assert {p.sign for p in found.values()} == {"added"}
    assert found["b_s1"].volume == pytest.approx(500)
    ball = next(p for id, p in found.items() if id != "b_s1")
    assert ball.volume == pytest.approx(4 / 3 * math.pi * 64)
    # A step that moves a face outwards on one side and cuts on the other does both.
    assert change(grown, grown) == []
    both = change(plain, {"b_s1": grown["b_s1"]})
    assert {p.sign: round(p.volume, 6) for p in both} == {
        "added": 500.0, "removed": round((4 - math.pi) * 320, 6),
    }  # fmt: skip


def test_a_target_is_a_mass_or_a_volume_and_the_first_miss_is_flagged():
    m = brick(40, 30, 20)
    m.step("primitive", form="cylinder", diameter="6 mm", height="20 mm", x="20 mm", y="15 mm",
           result="cut")  # fmt: skip
    m.do("set_target", id="s1", target="24 cm**3").do("set_target", id="s2", target="24000 mm**3")
    assert [s.misses_target for s in m.build().steps] == [False, True]
    m.do("set_target", id="s2", target=24000 - math.pi * 9 * 20)
    assert m.part.steps[1].target_volume is None
    m.do("set_target", id="s2", target=f"{24000 - math.pi * 9 * 20!r} mm**3")
    assert [s.misses_target for s in m.build().steps] == [False, False]
    m.do("set_target", id="s2", target=None)
    assert (m.part.steps[1].target, m.part.steps[1].target_volume) == (None, None)
    for bad, why in (("12 mm", "a mass or a volume"), ("heavy", "heavy"), ("-3 g", "greater than")):
        with pytest.raises(BadInput, match=why):
            m.do("set_target", id="s2", target=bad)

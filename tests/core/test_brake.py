"""Orders of bending: limits worked out by hand, every strike looked at again by points."""

import math

import numpy as np
import pytest
import shapely

from tests.core.test_panels import leg, plate
from tests.core.test_sheet_parts import edge, plated, sheet_of, trouble
from vireo.core.panels.loops import inside
from vireo.core.panels.places import places
from vireo.core.sheet.allowance import KFactor
from vireo.core.sheet.brake import PUNCHES, bend_order, struck


def channel(wall, base=83.0):
    sheet = leg(plate(1.5, base, 60), "p", "e1", "a", wall, math.pi / 2, 2.0, KFactor())
    return leg(sheet, "p", "e3", "b", wall, math.pi / 2, 2.0, KFactor())


def test_the_second_wall_of_a_channel_goes_as_far_as_it_does_by_hand():
    """Both legs stand at 45 degrees when it is done. The inside corner is 0.83 mm below the tip of the punch; the
    base is 80 mm inside, so the tip of the first wall, h - 1.5 inside, stands (80 - (h - 1.5)) / sqrt 2 beside the
    middle, over 76 mm up where a punch is 13 mm wide to either side, less half the clearance of 0.15 mm."""
    limit = 1.5 + 80.0 - (13.0 - 0.075) * math.sqrt(2.0)
    for wall, goes in ((limit - 0.4, True), (limit + 0.4, False)):
        found = bend_order(channel(wall))
        assert found.whole == goes, wall
        assert len(found.strikes) == (2 if goes else 1)
        if not goes:
            (stop,) = found.stops
            assert (stop.tool, stop.share) == ("punch", 1.0)
            assert stop.panel in ("a.p", "b.p")


def test_strikes_of_a_zigzag_turn_it_over_as_seldom_as_can_be():
    """Bends up and down by turns on two sides: all of one sense first, then all of the other, one turn."""
    sheet = plate(1.0, 60, 40)
    sheet = leg(sheet, "p", "e1", "a", 20.0, math.pi / 3, 2.0, KFactor())
    sheet = leg(sheet, "a.p", "far", "b", 20.0, -math.pi / 3, 2.0, KFactor())
    sheet = leg(sheet, "p", "e3", "c", 20.0, math.pi / 3, 2.0, KFactor())
    sheet = leg(sheet, "c.p", "far", "d", 20.0, -math.pi / 3, 2.0, KFactor())
    found = bend_order(sheet)
    assert found.whole
    assert found.turns == 1
    assert sorted(s.bend for s in found.strikes) == ["a", "b", "c", "d"]
    assert [s.over for s in found.strikes] in (
        [True, True, False, False],
        [False, False, True, True],
    )


@pytest.mark.parametrize("length", [18.0, 25.0])
def test_every_strike_of_a_box_is_clear_of_the_punch_by_points(length):
    """The walls of a box with a lip: points of every panel, brought to the brake here once more, are not in the
    profile of the punch while the bend is struck."""
    m = plated()
    around = [p for at in ((50, 0), (100, 30), (50, 60), (0, 30)) for p in edge(m, *at, 1.5)]
    m.step("sheet_flange", edges=around, length=f"{length} mm")
    m.step(
        "sheet_flange", edges=edge(m, 50, 0, length), length="10 mm", width="centred", wide="40 mm"
    )
    assert trouble(m) == ""
    sheet = sheet_of(m).sheet
    found = bend_order(sheet)
    assert found.whole, found.stops
    done, dice = set(), np.random.default_rng(3)
    t = sheet.thickness
    for strike in found.strikes:
        bend = sheet.bends[strike.bend]
        sign = 1.0 if bend.angle > 0 else -1.0
        for share in (0.4, 0.8, 1.0):
            turn = abs(bend.angle) * share
            k = (bend.allowance / abs(bend.angle) - bend.radius) / t
            state = {
                b.id: (b.angle, b.radius) if b.id in done else (0.0, 0.0)
                for b in sheet.bends.values()
            }
            state[bend.id] = (sign * turn, max(bend.allowance / turn - k * t, 0.0))
            stands = places(sheet, state)
            s = [x for lp in bend.loops for seg in lp for x in (seg.a[0], seg.b[0])]
            middle, reach = 0.5 * (min(s) + max(s)), 0.5 * 0.75 * (max(s) - min(s))
            frame, at = struck(stands[bend.id], middle, sign, turn, t, strike.round)
            punch = shapely.Polygon(PUNCHES[strike.punch]).buffer(-0.5)
            for panel in sheet.panels.values():
                corners = np.array([seg.a for lp in panel.loops for seg in lp])
                for p in dice.uniform(corners.min(axis=0), corners.max(axis=0), (60, 2)):
                    if not inside(tuple(p), panel.loops):
                        continue
                    x, y, z = frame @ (stands[panel.id].at(tuple(p), t / 2) - at)
                    assert abs(x) > reach or not punch.contains(shapely.Point(y, z)), (
                        strike,
                        panel.id,
                    )
        done.add(strike.bend)


def test_a_hem_is_struck_with_an_acute_punch_and_pressed():
    sheet = leg(plate(1.0, 60, 40), "p", "e1", "a", 20.0, math.pi / 2, 2.0, KFactor())
    sheet = leg(sheet, "a.p", "far", "h", 6.0, math.pi, 0.02, KFactor())
    found = bend_order(sheet)
    assert found.whole
    by = {s.bend: s for s in found.strikes}
    assert (by["h"].punch, by["h"].pressed) == ("acute", True)
    assert not by["a"].pressed

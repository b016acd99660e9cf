"""Thin walls whose curves cross, meet and touch: one wall, against areas by counting cells."""

import math
import random

import numpy as np
import pytest

from tests.core.parts import Maker, upright
from tests.core.test_grow import volume
from vireo.core.kernel.shape import solids_of
from vireo.script.sketch import Sketch as Sketcher


def walled(lines, t=2.0, side="middle", ends="square", depth=10.0) -> Maker:
    m = Maker()
    s = Sketcher()
    places: dict = {}

    def at(p):
        key = (round(p[0], 6), round(p[1], 6))
        if key not in places:
            places[key] = s.point(*p)
        return places[key]

    for a, b in lines:
        s.line(at(a), at(b))
    m.step("extrude", sketch=m.sketch(s), profile="wall", thickness=f"{t!r} mm", side=side,
           ends=ends, depth=f"{depth!r} mm")  # fmt: skip
    return m


def solids(m) -> int:
    return len(solids_of(m.body()[1].shape))


def test_two_crossing_lines_are_one_wall():
    m = walled([((0, 30), (60, 30)), ((30, 0), (30, 60))])
    assert volume(m) == pytest.approx(2360)
    assert solids(m) == 1
    # The inner corners are edges like any: rounded, and added to.
    inner = m.pick("edge", lambda e: upright(e) and 28 < e.at[0] < 32 and 28 < e.at[1] < 32)
    assert len(inner) == 4
    m.step("fillet", edges=inner, radius="3 mm")
    assert volume(m) == pytest.approx(2360 + 4 * 9 * (1 - math.pi / 4) * 10)
    m.step("primitive", form="cylinder", diameter="10 mm", height="20 mm", x="30 mm", y="30 mm",
           result="add")  # fmt: skip
    assert solids(m) == 1


@pytest.mark.parametrize("ends", ["square", "round"])
def test_a_t_an_l_and_a_star(ends):
    caps = 0 if ends == "square" else math.pi / 2
    t = walled([((0, 0), (60, 0)), ((30, 0), (30, 40))], ends=ends)
    assert volume(t) == pytest.approx(10 * (120 + 80 - 2 + 3 * caps), rel=1e-9)
    fork = walled([((0, 0), (30, 0)), ((30, 0), (60, 0)), ((30, 0), (30, 40))], ends=ends)
    assert volume(fork) == pytest.approx(volume(t))
    away = [
        (40 * math.cos(a), 40 * math.sin(a)) for a in (0.3 + k * 2 * math.pi / 3 for k in range(3))
    ]
    star = walled([((0, 0), p) for p in away], ends=ends)
    # Three bands of 40 that meet at 120 degrees: the mitres of a hexagon's half are shared.
    overlap = 3 * (1.0 / math.tan(math.radians(60)))
    assert volume(star) == pytest.approx(10 * (3 * 80 - overlap + 3 * caps), rel=1e-9)
    assert solids(star) == 1


def test_a_run_that_crosses_itself_and_one_that_turns_back():
    loop = walled(
        [((0, 0), (40, 0)), ((40, 0), (40, 30)), ((40, 30), (20, 30)), ((20, 30), (20, -20))]
    )
    assert solids(loop) == 1
    assert volume(loop) == pytest.approx(10 * (80 + 60 + 40 + 100 - 4), rel=1e-9)
    eight = walled([((0, 0), (40, 30)), ((40, 30), (40, 0)), ((40, 0), (0, 30)), ((0, 30), (0, 0))])
    assert solids(eight) == 1
    back = [((0, 0), (40, 0)), ((40, 0), (40, 6)), ((40, 6), (0, 1))]
    # At the two corners the mitres stick out of the bands cut off square.
    corners = 1 + math.tan(math.radians(90) / 2 - math.atan(5 / 40) / 2)
    assert volume(walled(back)) / 10 == pytest.approx(counted(back, 2.0) + corners, rel=5e-3)


def counted(lines, t, n=700):
    """Area within half a thickness of any line, square ends flush: by counting cells."""
    p = np.array([[*a, *b] for a, b in lines], dtype=float)
    low, high = p.reshape(-1, 2).min(0) - t, p.reshape(-1, 2).max(0) + t
    x = low[0] + (np.arange(n) + 0.5) * (high[0] - low[0]) / n
    y = low[1] + (np.arange(n) + 0.5) * (high[1] - low[1]) / n
    gx, gy = np.meshgrid(x, y)
    covered = np.zeros(gx.shape, dtype=bool)
    for ax, ay, bx, by in p:
        k = math.hypot(bx - ax, by - ay)
        along = ((gx - ax) * (bx - ax) + (gy - ay) * (by - ay)) / k
        across = np.abs((gx - ax) * (by - ay) - (gy - ay) * (bx - ax)) / k
        covered |= (along >= 0) & (along <= k) & (across <= t / 2)
    return covered.sum() * (high[0] - low[0]) * (high[1] - low[1]) / n**2


@pytest.mark.parametrize("seed", range(12))
def test_random_crossing_lines_cover_what_their_bands_do(seed):
    rng = random.Random(seed)
    t = rng.uniform(1, 4)
    lines = [
        tuple((rng.uniform(0, 100), rng.uniform(0, 100)) for _ in range(2))
        for _ in range(rng.randint(2, 6))
    ]
    m = walled(lines, t)
    assert volume(m) / 10 == pytest.approx(counted(lines, t), rel=0.01)

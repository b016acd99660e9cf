"""The room a body takes up: never less than it is, and more by no more than is told."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_fit import pin
from vireo.core.assembly.pose import Pose
from vireo.core.kernel.mesh import tessellate
from vireo.core.motion.envelope import Skin, envelope
from vireo.core.triangles.levels import level_surface
from vireo.core.trouble import BadInput


def volume(points, corners):
    t = points[corners]
    return np.einsum("ij,ij->i", t[:, 0], np.cross(t[:, 1], t[:, 2])).sum() / 6


def closed(corners):
    """Every edge is there once each way."""
    edges = np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]])
    forth = {tuple(e) for e in edges.tolist()}
    return len(forth) == len(edges) and all((b, a) in forth for a, b in forth)


@given(st.lists(st.floats(-1, 1), min_size=9, max_size=9), st.floats(0.2, 0.9))
@settings(max_examples=30, deadline=None)
def test_a_level_of_any_function_is_a_closed_surface_that_looks_out(waves, level):
    a = np.linspace(0, 3, 14)
    x, y, z = np.meshgrid(a, a, a, indexing="ij")
    values = sum(
        w * np.sin(k * x + w) * np.cos((3 - k) * y + k * z) for k, w in enumerate(waves[:3])
    ) + sum(w * v for w, v in zip(waves[3:6], (x, y, z), strict=True))  # fmt: skip
    border = np.ones_like(values, dtype=bool)
    border[1:-1, 1:-1, 1:-1] = False
    values[border] = 2.0
    points, corners = level_surface(values.astype(np.float32), np.zeros(3), a[1], level)
    assert closed(corners)
    inside = (values < level).sum()
    # The cells round corners that are inside, but for what the border takes.
    assert volume(points, corners) >= 0 if not inside else volume(points, corners) > 0


def test_a_ball_is_as_large_as_it_is():
    a = np.linspace(-1.5, 1.5, 61)
    x, y, z = np.meshgrid(a, a, a, indexing="ij")
    points, corners = level_surface(
        np.sqrt(x * x + y * y + z * z).astype(np.float32), np.full(3, -1.5), a[1] - a[0], 1.0
    )
    assert volume(points, corners) == pytest.approx(4 / 3 * math.pi, rel=5e-3)
    assert np.linalg.norm(points, axis=1) == pytest.approx(1.0, abs=2e-3)


def box(low, high):
    corners = np.array([[(low, high)[i >> k & 1][k] for k in range(3)] for i in range(8)], float)
    faces = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]
    triangles = [t for a, b, c, d in faces for t in ((a, b, c), (a, c, d))]
    return Skin(corners, np.array(triangles, dtype=np.int32), 0.0)


def turned(angle, p=(0.0, 0.0, 0.0)):
    return Pose(np.array(p), np.array([math.cos(angle / 2), 0, 0, math.sin(angle / 2)]))


def holds(found, truth, area):
    """All of it is inside, and it is no larger than what lies `over` outside takes."""
    assert closed(found.mesh.corners)
    assert truth <= found.volume
    # What an offset adds to a convex edge is less than its square.
    assert found.volume <= truth + area * found.over + 4 * found.over**2 * math.sqrt(area)


def test_a_block_that_slides_takes_up_a_longer_block():
    found = envelope(
        [box((0, 0, 0), (12, 8, 6))], lambda v: [turned(0.3, (v * 0.6, v * 0.8, 0))], 0.0, 30.0, 3
    )
    # Prism: the shadow along the way (block seen from there) times how far, and the block.
    c, s = math.cos(0.3), math.sin(0.3)
    across = max(
        abs((c * x - s * y) * -0.8 + (s * x + c * y) * 0.6 - ((c * u - s * w) * -0.8 + (s * u + c * w) * 0.6))
        for x in (0, 12) for y in (0, 8) for u in (0, 12) for w in (0, 8)
    )  # fmt: skip
    truth = 12 * 8 * 6 + across * 6 * 30
    holds(found, truth, 2 * (across * 36 + across * 6 + 36 * 6) * 1.5)
    assert found.over < 1.0
    low, high = found.mesh.points.min(axis=0), found.mesh.points.max(axis=0)
    assert low[2] == pytest.approx(0, abs=found.over + 1e-6)
    assert low[2] <= 1e-9
    assert high[2] >= 6 - 1e-9


@pytest.mark.parametrize("fine", [0.0, 1.0])
def test_an_arm_that_turns_takes_up_its_sector(fine):
    """A slender bar from the axis outward: a sector with the bar's half widths beside it."""
    reach, half, turn = 40.0, 2.0, 1.2
    skin = box((0, -half, 0), (reach, half, 5))
    found = envelope([skin], lambda v: [turned(v)], 0.0, turn, 6, fine=fine)
    corner = math.hypot(reach, half)
    grid = np.arange(-5, 45, 0.1)
    x, y = np.meshgrid(grid, grid)
    swept = np.zeros(x.shape, dtype=bool)
    for v in np.linspace(0, turn, 300):
        u, w = x * math.cos(v) + y * math.sin(v), y * math.cos(v) - x * math.sin(v)
        swept |= (u >= 0) & (u <= reach) & (np.abs(w) <= half)
    area = swept.sum() * 0.1**2
    holds(found, area * 5 * (1 - 4e-3), 2 * area + (2 * corner + corner * turn + 8) * 5)
    assert found.over < (1.0 if not fine else 1.3)
    far = np.linalg.norm(found.mesh.points[:, :2], axis=1).max()
    assert corner - 0.02 <= far <= corner + found.over + 1e-6


def test_what_turns_in_itself_takes_up_itself():
    mesh = tessellate(pin(6.0, 30.0), None, 0.3)
    skin = Skin(mesh.points, mesh.triangles, mesh.deflection)
    found = envelope([skin], lambda v: [turned(v)], 0.0, 1.5, 6)
    holds(found, math.pi * 36 * 30 * 0.99, 2 * math.pi * 6 * 36)


def test_what_goes_too_far_for_the_grid_is_refused_in_words():
    skin = box((0, 0, 0), (5, 5, 5))
    with pytest.raises(BadInput, match="too fine"):
        envelope([skin], lambda v: [turned(0.0, (v, 0, 0))], 0.0, 4000.0, 4, fine=0.05)
    with pytest.raises(BadInput, match="goes too far"):
        envelope(
            [skin], lambda v: [turned(0.0, (50 * math.sin(v), 0, 0))], 0.0, 900.0, 800, fine=1.0
        )

"""Wall thickness, undercuts and curvature against walls and bends known by construction."""

import json
import math

import numpy as np
import pytest

from tests.core.parts import Maker
from tests.core.test_bodies import brick
from vireo.core.maps.kind import MAP_KINDS, made, pack
from vireo.core.trouble import BadInput
from vireo.script.sketch import Sketch

UP = (0.0, 0.0, 1.0)


def body_of(m: Maker):
    found = m.build()
    assert not [s.error for s in found.steps if s.error]
    (held,) = found.state.bodies.values()
    return held.load()


def box(m: Maker, size, at=(0, 0, 0), **more):
    names = ("width", "depth", "height")
    sizes = {n: f"{v} mm" for n, v in zip(names, size, strict=True)}
    places = {n: f"{v} mm" for n, v in zip("xyz", at, strict=True)}
    return m.step("primitive", form="box", **sizes, **places, **more)


def tray(left=1.5, floor=2.0) -> Maker:
    m = brick(60, 40, 20)
    box(m, (60 - left - 3.0, 36, 20 - floor), (left, 2, floor), result="cut")
    return m


@pytest.mark.parametrize(("left", "floor"), [(1.5, 2.0), (0.4, 6.0), (2.5, 1.2)])
def test_walls_of_a_tray_are_as_thick_as_they_were_made(left, floor):
    found = made("thickness", body_of(tray(left, floor)), UP)
    assert found.told["least"] == pytest.approx(min(left, floor, 2.0))
    # Every wall shows its own thickness, in the middle of its outer face.
    for at, wall in {
        (0, 20, 11): left,
        (60, 20, 11): 3.0,
        (30, 0, 11): 2.0,
        (30, 20, 0): floor,
    }.items():
        away = np.linalg.norm(found.points - np.array(at), axis=1)
        assert found.values[away.argmin(), 0] == pytest.approx(wall, rel=1e-4)
    place = found.places[0]
    assert math.dist(place.at, place.to) == pytest.approx(place.value)


def test_the_thinnest_place_of_an_eccentric_tube_is_found():
    m = Maker()
    m.step("primitive", form="cylinder", diameter="20 mm", height="30 mm")
    m.step("primitive", form="cylinder", diameter="16 mm", height="30 mm", x="0.8 mm", result="cut")
    found = made("thickness", body_of(m), UP)
    assert found.told["least"] == pytest.approx(2.0 - 0.8, rel=2e-3)
    assert found.places[0].at[0] > 8.5
    assert abs(found.places[0].at[1]) < 1.0


def test_a_block_has_no_thin_walls_at_its_edges_even_when_drafted():
    m = brick(40, 30, 20)
    sides = m.pick("face", lambda f: abs(f.direction[2]) < 0.01)
    m.step("draft", faces=sides, angle="3 deg")
    found = made("thickness", body_of(m), UP)
    # The shortest way across is the height, up to what the lean takes off.
    assert found.told["least"] == pytest.approx(20.0, rel=0.01)


def test_a_sharp_edge_is_no_thin_wall_but_a_slender_wedge_and_a_blunt_rib_are():
    def least(rise: float, blunt: float) -> float | None:
        """A wedge rising from `blunt` to `rise` mm over 100 mm."""
        m = Maker()
        s = Sketch()
        s.polygon([(0, 0), (100, 0), (100, rise), *([(0, blunt)] if blunt else [])])
        m.step("extrude", sketch=m.sketch(s, {"base": "XZ", "face": None}), depth="30 mm")
        return made("thickness", body_of(m), UP).told["least"]

    # 40 degrees to nothing: only across its width is it a wall.
    assert least(84.0, 0.0) == pytest.approx(30.0, rel=1e-3)
    # 3 degrees to nothing: too thin to make, wherever one measures.
    assert least(5.0, 0.0) < 0.2
    # 40 degrees, but its tip is a wall of its own: faces that do not meet.
    assert least(84.0, 0.5) < 1.0


def test_undercuts_are_what_no_straight_pull_reaches():
    m = brick(40, 40, 20)
    box(m, (10, 40, 10), (15, 0, 10), result="cut")
    assert made("undercut", body_of(m), UP).told["area"] == pytest.approx(0.0)
    # A slot widened below: its ceilings and what they shade cannot be pulled free.
    box(m, (24, 40, 4), (8, 0, 10), result="cut")
    body = body_of(m)
    found = made("undercut", body, UP)
    ceilings, walls, shaded = 14 * 40, 2 * 4 * 40, 14 * 40
    assert found.told["area"] == pytest.approx(ceilings + walls + shaded, rel=0.02)
    assert {p.at[2] for p in found.places} >= {10.0, 14.0}
    # Along the slot everything comes free.
    assert made("undercut", body, (0.0, 1.0, 0.0)).told["area"] == pytest.approx(0.0)


def test_curvature_of_rounds_and_of_a_ring():
    m = tray()
    inner = m.pick("edge", lambda e: e.kind == "line" and abs(e.at[2] - 2.0) < 1e-9)
    m.step("fillet", edges=inner, radius="0.75 mm")
    found = made("curvature", body_of(m), UP)
    assert found.told["least_hollow"] == pytest.approx(0.75)
    assert found.told["least_bulge"] is None
    m = Maker()
    m.step("primitive", form="torus", diameter="40 mm", tube="10 mm")
    found = made("curvature", body_of(m), UP)
    # Euler: the tube bends by 1/r everywhere, along the ring by cos/(R + r cos) at most.
    assert found.told["least_bulge"] == pytest.approx(5.0)
    assert found.told["least_hollow"] == pytest.approx(15.0, rel=1e-3)


def test_the_buffer_of_a_map_and_what_is_refused():
    found = made("thickness", body_of(brick(10, 10, 10)), UP)
    data = pack(found)
    head = np.frombuffer(data, "<u4", 8)
    told = json.loads(data[-int(head[5]) :])
    assert told["least"] == pytest.approx(10.0)
    assert len(data) == 32 + 4 * (7 * len(found.points) + 3 * len(found.triangles)) + head[5]
    with pytest.raises(BadInput, match="known: curvature, thickness, undercut"):
        made("warmth", body_of(brick(1, 1, 1)), UP)
    with pytest.raises(BadInput, match="zero length"):
        made("undercut", body_of(brick(1, 1, 1)), (0.0, 0.0, 0.0))
    assert all(k.line for k in MAP_KINDS.values())

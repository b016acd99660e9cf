"""Faces thickened, moved, replaced, split; outlines raised and sunk, wound onto cylinders."""

import math

import pytest

from tests.core.parts import Maker, block, near
from tests.core.test_bodies import brick, down, up
from tests.core.test_grow import boxed, names, trouble, volume
from vireo.script.sketch import Sketch as Sketcher

XZ = {"base": "XZ", "face": None}


def can(d=40.0, h=50.0) -> Maker:
    m = Maker()
    m.step("primitive", form="cylinder", diameter=f"{d} mm", height=f"{h} mm")
    return m


def wall(m):
    return m.pick("face", lambda f: f.kind == "cylinder")


def test_faces_thickened_alone_and_together():
    m = brick()
    k = m.step("thicken", faces=m.pick("face", up), thickness="3 mm")
    assert m.build().bodies[f"b_{k}"]["volume"] == pytest.approx(60 * 40 * 3)
    side = m.pick("face", lambda f: f.kind == "plane" and f.direction[0] > 0.99, "b_s1")
    m.do("edit_step", id=k, fields={"faces": [*m.pick("face", up, "b_s1"), *side]})
    # Two faces at a right angle: the outer corner is filled by the mitre of both.
    assert m.build().bodies[f"b_{k}"]["volume"] == pytest.approx(40 * (60 * 3 + 10 * 3 + 9))
    m.do("edit_step", id=k, fields={"result": "add"})
    assert volume(m) == pytest.approx(24000 + 40 * (180 + 30 + 9))
    c = can()
    c.step("thicken", faces=wall(c), thickness="2 mm", side="in")
    exact = math.pi * (400 - 18**2) * 50
    assert c.build().bodies["b_s2"]["volume"] == pytest.approx(exact)
    assert {"s2/base/s1/wall", "s2/skin/s1/wall"} <= {f.name for f in c.topology("b_s2").faces}
    c.do("edit_step", id="s2", fields={"thickness": "25 mm"})
    assert "the largest that works" in trouble(c).text


def test_a_bore_and_a_boss_moved():
    m = block(depth="20 mm")
    m.step("primitive", form="cylinder", diameter="10 mm", height="20 mm", x="15 mm", y="20 mm",
           result="cut")  # fmt: skip
    before = volume(m)
    bore = m.pick("face", lambda f: f.kind == "cylinder")
    k = m.step("move_faces", faces=bore, x="20 mm", y="5 mm")
    assert volume(m) == pytest.approx(before)
    moved = next(f for f in m.topology().faces if f.kind == "cylinder")
    assert (moved.name, moved.at) == ("s3/wall", pytest.approx((35, 25, 10)))
    m.do("edit_step", id=k, fields={"x": "45 mm", "y": "0 mm"})  # half over the border
    assert volume(m) == pytest.approx(48000 - math.pi * 25 * 20 / 2)
    m.do("edit_step", id=k, fields={"faces": m.pick("face", up)})
    assert "within its own plane" in trouble(m).text
    b = brick()
    b.step("primitive", form="box", width="10 mm", depth="10 mm", height="25 mm", x="5 mm",
           y="5 mm", result="add")  # fmt: skip
    boss = b.pick("face", lambda f: f.name.startswith("s2/"))
    b.step("move_faces", faces=boss, x="30 mm", angle="45 deg")
    assert volume(b) == pytest.approx(24000 + 1500)
    assert len(b.pick("face", lambda f: f.name.startswith("s2/"))) == len(boss)


def test_a_face_put_onto_a_plane_and_onto_another_face():
    m = brick()
    k = m.step("replace_face", face=m.pick("face", up), onto="XY", shift="17 mm")
    assert volume(m) == pytest.approx(60 * 40 * 17)
    assert names(m) == {f"s1/{n}" for n in ("left", "right", "front", "back", "top", "under")}
    m.do("edit_step", id=k, fields={"shift": "4 mm"})
    assert volume(m) == pytest.approx(60 * 40 * 4)
    m.do("remove_step", id=k)
    m.step("primitive", form="cylinder", diameter="200 mm", height="40 mm", plane="XZ", x="30 mm",
           y="-75 mm", z="-40 mm")  # fmt: skip
    body = next(b for b in m.build().bodies if b != "b_s1")
    round_ = m.pick("face", lambda f: f.kind == "cylinder", body)
    top = m.pick("face", up, "b_s1")
    m.step("replace_face", face=top, onto="face", target=round_)
    t = m.topology("b_s1")
    assert next(f for f in t.faces if f.name == "s1/top").kind == "cylinder"


def test_faces_split_by_plane_sketch_and_face():
    m = brick()
    tops = m.pick("face", up)
    k = m.step("split_faces", faces=tops, by="YZ", shift="20 mm")
    areas = sorted(f.area for f in m.topology().faces if f.direction[2] > 0.99)
    assert areas == pytest.approx([800, 1600])
    assert volume(m) == pytest.approx(24000)
    s = Sketcher()
    s.circle(s.point(30, 20), 8.0)
    sketch = m.sketch(s)
    m.do("move_step", id=sketch, to=1)
    m.do("edit_step", id=k, fields={"by": "sketch", "sketch": sketch})
    areas = sorted(f.area for f in m.topology().faces if f.direction[2] > 0.99)
    assert areas == pytest.approx([64 * math.pi, 2400 - 64 * math.pi])
    assert len(set(names(m))) == 7
    # The patch is a face of its own: it can be offset.
    patch = m.pick("face", lambda f: f.kind == "plane" and near((f.area,), (64 * math.pi,), 0.1))
    m.step("thicken", faces=patch, thickness="1 mm", result="add")
    assert volume(m) == pytest.approx(24000 + 64 * math.pi)
    m.do("edit_step", id=k, fields={"by": "YZ", "shift": "500 mm"})
    assert "nothing goes through" in trouble(m).text


@pytest.mark.parametrize("way", ["raise", "sink"])
def test_outlines_on_flat_and_round_faces_have_their_closed_forms(way):
    m = brick()
    s = m.sketch(boxed(10, 6, (20, 15)), {"base": "XY", "face": None,
                 "offset": {"formula": "50 mm"}})  # fmt: skip
    sign = 1 if way == "raise" else -1
    m.step("emboss", sketch=s, face=m.pick("face", up), way=way, height="0.8 mm")
    assert volume(m) == pytest.approx(24000 + sign * 60 * 0.8)
    c = can()
    before = math.pi * 400 * 50
    c.step("emboss", sketch=c.sketch(boxed(10, 6, (-5, 20)), XZ), face=wall(c), way=way,
           height="0.8 mm")  # fmt: skip
    # Lengths are kept on the cylinder: 10 mm of 2 pi 20 round, 6 mm high.
    ring = abs((20 + sign * 0.8) ** 2 - 400) * 10 / (2 * 20) * 6
    assert volume(c) == pytest.approx(before + sign * ring, rel=1e-7)
    centre = next(f for f in c.topology().faces if "outer" in f.name or "inner" in f.name).at
    assert centre[1] < -19  # the front, where the sketch looks to


def test_text_round_a_knob():
    c = can()
    s = Sketcher()
    s.circle(s.point(0, 25), 3.0)
    s.circle(s.point(9, 25), 3.0)
    c.step("emboss", sketch=c.sketch(s, XZ), face=wall(c), way="raise", height="0.5 mm")
    ring = (20.5**2 - 400) / 2 / 20 * math.pi * 9 * 2
    assert volume(c) == pytest.approx(math.pi * 400 * 50 + ring, rel=1e-6)
    bottom = c.pick("face", down)
    c.do("edit_step", id="s3", fields={"face": bottom})
    assert "parallel to a flat face" in trouble(c).text
    b = Maker()
    b.step("primitive", form="sphere", diameter="40 mm")
    b.step("emboss", sketch=b.sketch(boxed(4, 4)), face=b.pick("face", lambda f: True))
    assert "not onto a sphere" in trouble(b).text


def test_flat_faces_move_and_lean_with_their_neighbours():
    m = brick(60, 40, 20)
    m.step("primitive", form="cylinder", diameter="8 mm", height="20 mm", x="15 mm", y="20 mm",
           result="cut")  # fmt: skip
    bore = math.pi * 16
    top = m.pick("face", up)
    k = m.step("move_faces", faces=top, z="2 mm")
    assert volume(m) == pytest.approx(60 * 40 * 22 - bore * 22)
    # Leant about the Y axis: the mean height over the face is that over its middle.
    m.do("edit_step", id=k, fields={"z": "0 mm", "angle": "-5 deg", "axis": "Y"})
    rise = math.tan(math.radians(5))
    at = 20 / math.cos(math.radians(5))  # the plane turned about the origin passes here at x = 0
    exact = 60 * 40 * (at + 30 * rise) - bore * (at + 15 * rise)
    assert volume(m) == pytest.approx(exact, rel=1e-6)

"""Twists, guides, helices, rims, lofts with eased ends and guides."""

import math

import pytest

from tests.core.parts import Maker, block, near
from tests.core.test_grow import boxed, names, trouble, volume
from vireo.core.samples.ways import circle, line
from vireo.script.sketch import Sketch as Sketcher

XZ = {"base": "XZ", "face": None}
YZ = {"base": "YZ", "face": None}


def at(z: float) -> dict:
    return {"base": "XY", "face": None, "offset": {"formula": f"{z} mm"}}


def through(s: Sketcher, points) -> None:
    s.add("spline", through=points)


@pytest.mark.parametrize(("twist", "length"), [(35.0, 80), (-200.0, 60), (720.0, 120)])
def test_a_twisted_bar_keeps_its_volume_and_turns_its_end(twist, length):
    m = Maker()
    m.step("sweep", sketch=m.sketch(boxed(10, 6, (-5, -3))), twist=f"{twist!r} deg",
           path=m.sketch(line((0, 0), (0, length)), XZ))  # fmt: skip
    assert volume(m) == pytest.approx(60 * length, rel=1e-4)
    ends = [e for e in m.topology().edges if abs(e.at[2] - length) < 1e-6
            and e.length == pytest.approx(10, abs=1e-3)]  # fmt: skip
    at_, end = ends[0].at, m.topology().vertices[ends[0].ends[0]].at
    turned = math.degrees(math.atan2(end[1] - at_[1], end[0] - at_[0]))
    assert abs((turned - twist + 90) % 180 - 90) < 0.1


def test_a_twist_follows_a_bent_path_too():
    m = Maker()
    s = Sketcher()
    s.arc(s.point(0, 60), s.point(0, 0), s.point(60, 60))
    m.step("sweep", sketch=m.sketch(boxed(10, 6, (-5, -3)), YZ), twist="180 deg",
           path=m.sketch(s, XZ))  # fmt: skip
    assert volume(m) == pytest.approx(60 * math.pi * 30, rel=2e-3)


@pytest.mark.parametrize(("coil", "turns", "hand"), [(20, 0.5, "right"), (43, 5.3, "left")])
def test_a_spring_has_area_by_the_length_of_its_helix(coil, turns, hand):
    m = Maker()
    m.step("pipe", along="helix", coil=f"{coil!r} mm", coil_end=f"{coil!r} mm", pitch="9 mm",
           turns=f"{turns!r}", hand=hand, diameter="4 mm")  # fmt: skip
    length = turns * math.hypot(math.pi * coil, 9)
    assert volume(m) == pytest.approx(math.pi * 4 * length, rel=2e-6)
    m.do("edit_step", id="s1", fields={"coil_end": f"{coil / 2!r} mm"})
    assert volume(m) < math.pi * 4 * length


def test_a_profile_goes_round_every_rim_of_a_face():
    """A square bead round the top of a plate and round its bore, in one step."""
    m = block()
    m.step("primitive", form="cylinder", diameter="20 mm", height="10 mm", x="30 mm", y="20 mm",
           result="cut")  # fmt: skip
    before = volume(m)
    top = m.pick("face", lambda f: f.kind == "plane" and f.direction[2] > 0.99)
    m.step("sweep", sketch=m.sketch(boxed(2, 2, (-1, -1))), along="rims", faces=top, result="add")
    border = 4 * 200 - (60 * 40 - 58 * 38)  # mitred: area by length, less what lies in the plate
    bore = 4 * 2 * math.pi * 10 - math.pi * (11**2 - 10**2)
    assert volume(m) == pytest.approx(before + border + bore, rel=1e-6)
    k = m.part.steps[-1].id
    assert any(f"{k}/0/side" in n for n in names(m))
    assert any(f"{k}/1/side" in n for n in names(m))


def test_a_guide_sizes_the_profile_and_a_bad_bend_says_where():
    m = Maker()
    path = m.sketch(line((0, 0), (0, 60)), XZ)
    guide = m.sketch(line((10, 0), (5, 60)), XZ)
    profile = m.sketch(circle(10.0))
    m.step("sweep", sketch=profile, path=path, keep="guided", guide=guide, guide_does="size")
    assert volume(m) == pytest.approx(math.pi * 20 * (100 + 50 + 25), rel=1e-3)
    m = Maker()
    s = Sketcher()
    s.arc(s.point(0, 4), s.point(0, 0), s.point(4, 4))
    k = m.step("sweep", sketch=m.sketch(circle(9.0), YZ), path=m.sketch(s, XZ))
    text = trouble(m).text
    assert "radius of 4 mm" in text
    assert "reaches 9 mm into the bend" in text
    assert any(w.startswith("point:") for w in m.build().steps[-1].error.where)
    m.do("edit_step", id=k, fields={"keep": "guided"})
    assert "choose the sketch of the guide" in trouble(m).text


# --- lofts


def cone_like(start: str, end: str, pull=1.0) -> Maker:
    m = Maker()
    a, b = m.sketch(circle(20.0), at(0)), m.sketch(circle(10.0), at(30))
    m.step("loft", sections=[a, b], start=start, end=end, start_pull=f"{pull}", end_pull=f"{pull}")
    return m


@pytest.mark.parametrize("pull", [0.5, 1.0, 1.5])
def test_ends_square_to_their_planes_give_the_hermite_profile(pull):
    """Radius is a cubic with flat ends: r = 20 - 10 (3t2 - 2t3); height follows its own cubic with
    the ends' slopes `pull` times the distance. Volume by exact integration of pi r2 dz."""
    m = cone_like("upright", "upright", pull)
    z = [0, pull * 10, 30 - pull * 10, 30]
    r = [20, 20, 10, 10]

    def bezier(p, t):
        u = 1 - t
        return p[0] * u**3 + 3 * p[1] * u * u * t + 3 * p[2] * u * t * t + p[3] * t**3

    def slope(p, t):
        u = 1 - t
        return 3 * ((p[1] - p[0]) * u * u + 2 * (p[2] - p[1]) * u * t + (p[3] - p[2]) * t * t)

    n = 400
    exact = sum(
        w * math.pi * bezier(r, t) ** 2 * slope(z, t)
        for k in range(n)
        for t, w in (((k + 0.5 - 0.5 / math.sqrt(3)) / n, 0.5 / n),
                     ((k + 0.5 + 0.5 / math.sqrt(3)) / n, 0.5 / n))
    )  # fmt: skip
    assert volume(m) == pytest.approx(exact, rel=1e-6)


def test_one_end_eased_and_what_cannot_be():
    m = cone_like("upright", "free")
    straight = math.pi * 10 * (400 + 200 + 100)
    assert volume(m) > straight
    k = m.part.steps[-1].id
    c = m.sketch(circle(5.0), at(60))
    m.do("move_step", id=c, to=2)
    m.do("edit_step", id=k, fields={"sections": ["s1", "s2", c]})
    assert "between two outlines" in trouble(m).text


def test_a_skin_follows_its_guides_and_a_miss_is_told_with_its_size():
    m = Maker()
    sections = [m.sketch(circle(r), at(z)) for r, z in ((20.0, 0), (12.0, 40), (18.0, 90))]
    guides = []
    for plane in (XZ, YZ):
        for side in (1, -1):
            s = Sketcher()
            through(s, [s.point(side * r, z) for r, z in ((20, 0), (12, 40), (18, 90))])
            guides.append(m.sketch(s, plane))
    k = m.step("loft", sections=sections, guides=guides)
    found = volume(m)
    assert 0.9 < found / (math.pi * (256 * 40 + 225 * 50)) < 1.1
    assert names(m) == {f"{k}/side", f"{k}/cap/start", f"{k}/cap/end"}
    bad = Sketcher()
    through(bad, [bad.point(20.5, 0), bad.point(12, 40), bad.point(18, 90)])
    wrong = m.sketch(bad, XZ)
    m.do("move_step", id=wrong, to=3)
    m.do("edit_step", id=k, fields={"guides": [wrong, *guides[1:]]})
    error = trouble(m)
    assert "misses section 1" in error.text
    assert "by 0.4" in error.text
    m.do("edit_step", id=k, fields={"guides": guides[:1]})
    assert "two guides or more" in trouble(m).text


def test_corners_are_joined_as_told():
    m = Maker()
    a, b = m.sketch(boxed(20, 20, (-10, -10))), m.sketch(boxed(20, 20, (-10, -10)), at(30))
    k = m.step("loft", sections=[a, b], ruled="ruled")
    assert volume(m) == pytest.approx(12000)
    m.do("edit_step", id=k, fields={"seams": [0, 1]})
    # A square turned by a right angle while it rises: ruled sides cut in.
    assert volume(m) == pytest.approx(12000 * 2 / 3, rel=1e-6)
    assert near((m.build().bodies[f"b_{k}"]["centre"][2],), (15,))

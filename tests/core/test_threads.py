"""Threads marked and modelled, against the closed form of the basic profile (ISO 68-1)."""

import math

import pytest
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_IN

from tests.core.parts import Maker, block, near
from tests.core.test_grow import trouble, volume
from vireo.core.kernel.thread import SHARP, Form, cutter, inner_form, outer_form
from vireo.core.part.threads import allowance, matching
from vireo.core.screws import SCREWS
from vireo.core.thread_classes import classes_of, sizes
from vireo.script.sketch import Sketch as Sketcher


def shaft(diameter="6 mm", height="20 mm", **more) -> Maker:
    m = Maker()
    m.step("primitive", form="cylinder", diameter=diameter, height=height, **more)
    return m


def wall(m: Maker, hollow=False):
    return m.pick("face", lambda f: f.kind == "cylinder" and f.hollow is hollow)


def rod_area(wide: float, narrow: float, pitch: float) -> float:
    """Mean cross-section of a rod with the 60 degree profile, worked by hand: flats at the
    crest (P/8) and the root, flanks at 30 degrees, (a2 + ab + b2)/3 over each."""
    lean = (wide - narrow) / math.sqrt(3)
    root = pitch - pitch / 8 - 2 * lean
    flank = (wide**2 + wide * narrow + narrow**2) / 3
    return math.pi * (root * narrow**2 + pitch / 8 * wide**2 + 2 * lean * flank) / pitch


def test_the_profile_is_that_of_the_standard():
    """M6: basic minor diameter 4.917, root flat P/4 and crest flat P/8 of the sharp triangle."""
    form = outer_form(6.0, 1.0, 0.0, False)
    assert 2 * form.narrow == pytest.approx(6 - 1.0825 * 1, abs=1e-3)
    heights = [h for _, h, _ in form.pieces()]
    assert heights[1] - heights[0] == pytest.approx(0.25)
    assert heights[3] - heights[2] == pytest.approx(0.125)
    assert heights[2] - heights[1] == pytest.approx(5 / 8 * SHARP / math.sqrt(3))
    # Fundamental deviations of class g in ISO 965-1: 26 um at P 1, 48 um at P 3.
    assert allowance(1.0) == pytest.approx(0.026)
    assert allowance(3.0) == pytest.approx(0.048)
    nut = inner_form(6.0, 5.0, 1.0, 0.1, False)
    assert (nut.wide, nut.narrow) == (pytest.approx(3.05), pytest.approx(2.5087, abs=1e-3))


@pytest.mark.parametrize(("name", "turns"), [("M1.6", 9.3), ("M6", 12), ("M20x1.5", 31.7)])
def test_a_modelled_thread_weighs_what_it_should(name, turns):
    screw = SCREWS[name]
    d, p = screw.diameter, screw.pitch
    length = turns * p
    m = shaft(f"{d} mm", f"{length + 2 * d} mm")
    faces = wall(m)
    m.step("thread", faces=faces, shown="modelled", size="screw", screw=name, reach="depth",
           length=f"{length} mm")  # fmt: skip
    wide = 0.5 * (d - allowance(p))
    rest = math.pi * d * d / 4 * 2 * d
    exact = rest + rod_area(wide, wide - 0.625 * SHARP * p, p) * length
    assert volume(m) == pytest.approx(exact, rel=2e-6)
    roles = {f.name for f in m.topology().faces}
    assert {"s2/crest", "s2/root", "s2/rise", "s2/fall", "s2/start"} - roles <= {
        "s2/start",
        "s2/end",
    }


def test_left_hand_threads_are_the_mirror_image():
    right, left = (cutter(Form(2.9, 2.4, 1.0, False, hand, 3.0), 5.0) for hand in (False, True))

    def holds(body, p):
        within = BRepClass3d_SolidClassifier(body.shape)
        within.Perform(gp_Pnt(*p), 1e-7)
        return within.State() == TopAbs_IN

    spread = [(2.65, 0.1 + 0.74 * k, 0.21 + 0.1874 * k) for k in range(24)]
    points = [(r * math.cos(a), r * math.sin(a), z) for r, a, z in spread]
    inside = [holds(right, p) for p in points]
    assert 5 < sum(inside) < 19
    assert inside == [holds(left, (x, -y, z)) for x, y, z in points]
    assert inside != [holds(left, p) for p in points]


def test_threads_of_bores_stop_at_their_bottom_and_leave_shoulders_alone():
    m = block(depth="20 mm")
    s = Sketcher()
    s.point(30, 20)
    hole = m.step("hole", sketch=m.sketch(s, {"base": "XY", "face": None,
                  "offset": {"formula": "20 mm"}}), size="screw", screw="M8", form="tapped",
                  reach="blind", depth="15 mm", thread="12 mm")  # fmt: skip
    plain = volume(m)
    assert plain == pytest.approx(48000 - math.pi / 4 * 6.8**2 * 15)
    (mark,) = m.build().marks[hole]
    assert (mark.text, mark.length) == ("M8", pytest.approx(12))
    m.do("edit_step", id=hole, fields={"shown": "modelled"})
    groove = rod_area(4.0, 3.405, 1.25) - math.pi * 3.4**2
    assert volume(m) == pytest.approx(plain - groove * 12, rel=1e-6)
    assert not m.build().marks
    # A shaft with a shoulder: the thread ends at it, whichever end it starts from.
    k = shaft()
    k.step("primitive", form="cylinder", diameter="12 mm", height="4 mm", result="add")
    k.step("thread", faces=wall_of(k, 3.0), shown="modelled")
    head = math.pi / 4 * 144 * 4
    wide = 0.5 * (6 - allowance(1.0))
    assert volume(k) == pytest.approx(
        head + rod_area(wide, wide - 0.625 * SHARP, 1.0) * 16, rel=1e-6
    )
    # The shoulder it stops at is left as it was: a whole ring, the thread's end beside it.
    (shoulder,) = [f for f in k.topology("b_s1").faces if f.name == "s2/top"]
    assert shoulder.area == pytest.approx(math.pi * (6**2 - 3**2))


def wall_of(m: Maker, radius: float):
    return m.pick("face", lambda f: f.kind == "cylinder" and near((f.radius,), (radius,)))


def test_sizes_are_told_from_the_face_and_refused_when_nothing_matches():
    assert matching(6.0, False)[0].screw.name == "M6"
    assert matching(6.8, True)[0].screw.name == "M8"
    assert matching(7.0, False) is None
    m = shaft("7 mm")
    t = m.step("thread", faces=wall(m))
    assert "no screw of the tables is 7 mm" in trouble(m).text
    m.do("edit_step", id=t, fields={"size": "screw", "screw": "M6"})
    assert "needs a shaft of 6 mm; this one is 7 mm" in trouble(m).text
    m.do("edit_step", id=t, fields={"screw": "M7"})
    assert "near it: M6" in trouble(m).text
    m.do("edit_step", id=t, fields={"screw": "M6", "size": "own", "pitch": "9 mm",
                                    "shown": "modelled"})  # fmt: skip
    error = trouble(m)
    assert "largest that works" in error.text
    m.do("edit_step", id=t, fields=error.offers[0].fields)
    assert not any(s.error for s in m.build().steps)
    m.do("edit_step", id=t, fields={"reach": "depth", "length": "30 mm"})
    assert "only 20 mm long" in trouble(m).text


def test_a_mark_goes_with_its_face():
    m = shaft()
    t = m.step("thread", faces=wall(m))
    assert m.build().marks[t][0].text == "M6"
    m.step("primitive", form="box", width="40 mm", depth="40 mm", height="40 mm", x="-20 mm",
           y="-20 mm", result="add")  # fmt: skip
    assert not m.build().marks


# --- holes on faces


def test_holes_on_flat_and_round_faces_go_in_square_to_them():
    m = shaft("40 mm", "30 mm")
    (face,) = wall(m)
    spot = {"id": "a", "face": face, "at": [{"formula": v} for v in ("50 mm", "0 mm", "15 mm")]}
    h = m.step("hole", at="faces", spots=[spot], bore="6 mm", reach="blind", depth="8 mm")
    floor = next(f for f in m.topology().faces if f.name == f"{h}/a/floor")
    assert floor.at == pytest.approx((12, 0, 15), abs=1e-6)
    m.do("edit_step", id=h, fields={"reach": "through"})
    bores = [f for f in m.topology().faces if f.name == f"{h}/a/wall"]
    assert bores
    assert bores[0].area == pytest.approx(math.pi * 6 * 40, rel=0.02)  # from skin to skin
    lost = {**spot, "at": [{"formula": "1 kg"}, {"formula": "0 mm"}, {"formula": "0 mm"}]}
    m.do("edit_step", id=h, fields={"spots": [lost]})
    assert "the place of a is" in trouble(m).text


def test_spot_faces_and_holes_up_to_a_face():
    m = block(depth="20 mm")
    top = m.pick("face", lambda f: f.kind == "plane" and f.direction[2] > 0.99)
    under = m.pick("face", lambda f: f.kind == "plane" and f.direction[2] < -0.99)
    spot = {"id": "a", "face": top[0], "at": [{"formula": v} for v in ("w/2", "20 mm", "20 mm")]}
    h = m.step("hole", at="faces", spots=[spot], size="screw", screw="M6", form="spotfaced",
               spot_depth="0.5 mm")  # fmt: skip
    ring = math.pi / 4 * (11**2 - 6.6**2) * 0.5
    assert volume(m) == pytest.approx(48000 - math.pi / 4 * 6.6**2 * 20 - ring)
    m.do("edit_step", id=h, fields={"form": "plain", "reach": "upto", "upto": under})
    assert volume(m) == pytest.approx(48000 - math.pi / 4 * 6.6**2 * 20)
    m.do("edit_parameter", name="w", formula="80 mm")
    bore = next(f for f in m.topology().faces if f.name == f"{h}/a/wall")
    assert bore.at == pytest.approx((40, 20, 10))
    side = m.pick("face", lambda f: f.kind == "plane" and f.direction[0] > 0.99)
    m.do("edit_step", id=h, fields={"upto": side})
    assert "never meets" in trouble(m).text


@pytest.mark.parametrize(
    ("screw", "grade", "major", "pitch", "minor"),
    [
        # ISO 965-2, tables of limits: M6, M10 in 6g and 6H; M8x1.
        ("M6", "6g", (5.794, 5.974), (5.212, 5.324), None),
        ("M6", "6H", None, (5.350, 5.500), (4.917, 5.153)),
        ("M10", "6g", (9.732, 9.968), (8.862, 8.994), None),
        ("M10", "6H", None, (9.026, 9.206), (8.376, 8.676)),
        ("M8x1", "6H", None, (7.350, 7.500), (6.917, 7.153)),
        # ASME B1.1, table 2: 1/4-20 and #10-32 in 2A, 2B, 3A, 3B (inches).
        ("1/4-20 UNC", "2A", (0.2408, 0.2489), (0.2127, 0.2164), None),
        ("1/4-20 UNC", "2B", None, (0.2175, 0.2224), (0.1960, 0.2070)),
        ("1/4-20 UNC", "3A", (0.2419, 0.2500), (0.2147, 0.2175), None),
        ("#10-32 UNF", "2A", (0.1831, 0.1891), (0.1658, 0.1688), None),
        ("#10-32 UNF", "2B", None, (0.1697, 0.1736), (0.1560, 0.1640)),
        ("#10-32 UNF", "3B", None, (0.1697, 0.1726), (0.1560, 0.1641)),
    ],
)
def test_classes_give_the_limits_of_the_standards(screw, grade, major, pitch, minor):
    found = sizes(grade, SCREWS[screw])
    # The tables round: ISO's tolerances to preferred numbers (up to 5 %), inches to the last place.
    unit, within = (25.4, 5e-4) if "UN" in screw else (1.0, 0.01)
    for said, wanted in ((found.major, major), (found.pitch, pitch), (found.minor, minor)):
        for value, exact in zip(said, wanted or (), strict=False):
            assert value / unit == pytest.approx(exact, abs=within), (screw, grade, said)
    assert grade in classes_of(SCREWS[screw], grade[-1] in "HGB")


def test_a_bore_says_what_it_was_taken_for_and_how_far_off():
    """0.159 in is the tapping drill of #10-32; it was taken for M5 in silence."""
    m = block(depth="20 mm")
    m.step("primitive", form="cylinder", diameter="0.159 in", height="20 mm", x="20 mm",
           y="20 mm", result="cut")  # fmt: skip
    k = m.step("thread", faces=wall(m, hollow=True))
    (mark,) = m.build().marks[k]
    assert mark.text == "#10-32 UNF"
    said = m.build().steps[-1].notes[0].text
    assert said.startswith("taken for #10-32 UNF by its tapping drill; near it: ")
    assert "M5" in said
    m.do("edit_step", id=k, fields={"grade": "1B"})
    assert "pitch Ø" in m.build().steps[-1].notes[-1].text
    m.do("edit_step", id=k, fields={"grade": "6H"})
    error = trouble(m)
    assert "class 6H is not for a bore with #10-32 UNF: take 1B, 2B, 3B" in error.text
    assert error.offers[0].fields == {"grade": "1B"}


def test_looser_classes_take_more_away():
    volumes = []
    for grade in ("3A", "2A", "1A"):
        m = shaft("0.19 in", "20 mm")
        m.step("thread", faces=wall(m), shown="modelled", size="screw", screw="#10-32 UNF",
               grade=grade, reach="depth", length="10 mm")  # fmt: skip
        volumes.append(volume(m))
    assert volumes == sorted(volumes, reverse=True)

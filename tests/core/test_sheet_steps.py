"""Operations on sheets: mitred corners, folds, sheets hung on other panels, mirrored, put together."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.core.test_panels import leg, plate, sheets
from vireo.core.curves import Arc2, Circle2, Ellipse2, Spline2
from vireo.core.geometry import Frame
from vireo.core.kernel.gate import checked
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.weave import woven
from vireo.core.panels import Motion2, Panel, Seg, Sheet
from vireo.core.panels.flat import blank
from vireo.core.panels.loops import area, inside, line, ring
from vireo.core.panels.places import places
from vireo.core.sheet.allowance import KFactor
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.clash import clashes
from vireo.core.sheet.combine import mirrored, rerooted, united
from vireo.core.sheet.corners import eased_corner
from vireo.core.sheet.flange import Flange, Run, flanged, named
from vireo.core.sheet.folding import Fold, folded
from vireo.core.sheet.profile import profile_runs
from vireo.core.trouble import BadInput

RULE = KFactor()


def within(sheet, stand, loops, points, hair):
    """Of points in space those inside a patch by more than a hair: on its surface told by its own frame."""
    seen = stand.local(points)
    flat = (seen[:, 2] > hair) & (seen[:, 2] < sheet.thickness - hair)
    return [
        p for p, (x, y, _) in zip(points[flat], seen[flat], strict=True) if inside((x, y), loops)
    ]


def met_by_points(sheet, dice):
    """Pairs of patches that points strewn in one and found in the other tell to run into each other."""
    at = places(sheet)
    every = {p.id: p.loops for p in sheet.panels.values()} | {
        b.id: b.loops for b in sheet.bends.values()
    }
    found = set()
    for id, loops in every.items():
        corners = np.array([p for lp in loops for s in lp for p in s.points()])
        low, high = corners.min(axis=0), corners.max(axis=0)
        strewn = [tuple(p) for p in dice.uniform(low, high, (400, 2)) if inside(tuple(p), loops)]
        h = dice.uniform(0.02, 0.98, len(strewn)) * sheet.thickness
        points = np.array([at[id].at(p, z) for p, z in zip(strewn, h, strict=True)]).reshape(-1, 3)
        found |= {
            frozenset((id, other)) for other, theirs in every.items()
            if other != id and within(sheet, at[other], theirs, points, 1e-6)
        }  # fmt: skip
    return found


@st.composite
def rims(draw):
    """A plate of three to six corners, some pushed in, with one profile on some of its edges."""
    n = draw(st.integers(3, 6))
    turns = [2 * math.pi * (k + draw(st.floats(-0.2, 0.2))) / n for k in range(n)]
    reach = [draw(st.floats(90, 140)) for _ in range(n)]
    if n > 4 and draw(st.booleans()):
        reach[2] = 35.0
    corners = [(r * math.cos(a), r * math.sin(a)) for r, a in zip(reach, turns, strict=True)]
    t = draw(st.sampled_from([0.8, 1.5, 3.0]))
    sheet = Sheet(t, "p", {"p": Panel("p", (ring(corners, [f"e{k}" for k in range(n)]),))})
    shape = draw(
        st.sampled_from([(90,), (45,), (120,), (-90,), (30, 60), (90, -90), (-60, 120), (150,)])
    )
    runs = tuple(
        Run(math.radians(a), draw(st.sampled_from([0.5, 2.0, 4.0])), (12.0, 12.0)) for a in shape
    )
    edges = draw(st.sets(st.integers(0, n - 1), min_size=2))
    position = draw(st.sampled_from(["inside", "outside", "beyond", "tangent"]))
    made = Flange(runs, position, gap=0.1)
    return flanged(sheet, "p", {(0, k): f"e{k}" for k in edges}, made, RULE, named("s3")), edges


@settings(max_examples=20)
@given(rims(), st.integers(0, 2**30))
def test_mitred_corners_never_run_into_each_other(rim, seed):
    """Sound, its volume that of its patches, and no place of a patch inside another."""
    sheet, edges = rim
    body = woven(sheet)
    checked("the sheet", body.shape)
    assert volume_of(body.shape) == pytest.approx(sheet.volume, rel=1e-7)
    assert len(set(body.names)) == len(body.names)
    assert {b.id.split("/")[2].split(".")[0] for b in sheet.bends.values()} == {
        f"e{k}" for k in edges
    }
    assert met_by_points(sheet, np.random.default_rng(seed)) == set()


@settings(max_examples=25)
@given(sheets(), st.integers(0, 2**30))
def test_where_a_sheet_runs_into_itself_it_is_found(sheet, seed):
    """Whatever points tell, the common solids of its patches tell too; of two they share more than rounding."""
    assume(all(b.radius > 0.0 for b in sheet.bends.values()))
    body = SheetBody(sheet, Frame(), 1.0, RULE, (0.0, 0.0), 0.1)
    found = {frozenset((c.a, c.b)): c for c in clashes(body)}
    joined = {frozenset((b.id, p)) for b in sheet.bends.values() for p in (b.parent, b.child)}
    assert met_by_points(sheet, np.random.default_rng(seed)) - joined <= set(found)
    at = places(sheet)
    for clash in found.values():
        seen = [at[id].local(np.array([clash.at]))[0][2] for id in (clash.a, clash.b)]
        assert all(-1e-6 < h < sheet.thickness + 1e-6 for h in seen)


@given(st.floats(30, 150), st.floats(0.0, 5.0), st.floats(0.05, 0.5))
def test_a_mitred_box_is_closed_to_its_gap(angle, r, gap):
    """Two walls of a square corner: their nearest places at the far edges are the gap apart, square to the
    plane they meet in, on the face that is nearer."""
    t = 1.5
    made = Flange((Run(math.radians(angle), r, (20.0, 20.0)),), "beyond", gap=gap)
    sheet = flanged(plate(t, 100, 80), "p", {(0, 0): "e0", (0, 1): "e1"}, made, RULE, named("s3"))
    at = places(sheet)
    ends = {}
    for edge in ("e0", "e1"):
        panel = sheet.panels[f"s3/panel/{edge}"]
        (loop,) = panel.loops
        # s runs from the end of an edge to its beginning: e0 ends where e1 begins.
        tip = {"e0": loop[3].a, "e1": loop[1].b}[edge]
        ends[edge] = [at[panel.id].at(tip, h) for h in (0.0, t)]
    # The corner is at (100, 0); the plane between the walls runs at 45 degrees through it.
    across = np.array([1.0, 1.0, 0.0]) / math.sqrt(2)
    off = {
        e: [abs((p - np.array([100.0, 0.0, 0.0])) @ across) for p in ps] for e, ps in ends.items()
    }
    for faces in off.values():
        assert min(faces) == pytest.approx(gap / 2, abs=1e-6)


@settings(max_examples=15)
@given(
    st.floats(-0.6, 0.6), st.floats(-25, 25), st.sampled_from([-120, -60, 40, 90, 180]),
    st.sampled_from([0.0, 0.5, 3.0]), st.sampled_from(["middle", "start", "end"]), st.booleans(),
)  # fmt: skip
def test_a_fold_keeps_the_blank(turn, off, angle, r, place, holed):
    """Through holes, round corners and a spline; flanges beyond the line go along."""
    bow = Spline2(2, (0.0, 0.0, 0.0, 1.0, 1.0, 1.0), ((100.0, 80.0), (50.0, 110.0), (0.0, 80.0)))
    around = (
        line((0, 0), (100, 0), "e0"),
        line((100, 0), (100, 80), "e1"),
        Seg(bow, "e2"),
        line((0, 80), (0, 0), "e3"),
    )
    holes = [
        Seg(Circle2((50.0, 40.0), 7.0), "h0", True),
        Seg(Ellipse2((20.0, 42.0), (8.0, 3.0), 3.0), "h1", True),
    ]
    loops = (around, *((h,) for h in holes if holed))
    sheet = Sheet(1.5, "p", {"p": Panel("p", loops)})
    sheet = leg(sheet, "p", "e0", "f", 15.0, math.radians(90), 2.0, RULE)
    before = blank(sheet)
    d = (math.cos(turn), math.sin(turn))
    p = (50.0 - d[1] * off, 40.0 + d[0] * off)
    fold = Fold(
        "s4/bend/1", "s4/panel/1", p, d, math.radians(angle), r if not holed else max(r, 0.1), place
    )
    try:
        made = folded(sheet, "p", fold, RULE)
    except BadInput as refused:
        # Where the flange is, at the lower edge.
        assume("another bend" not in str(refused))
        raise
    after = blank(made)
    assert after.area == pytest.approx(before.area, abs=1e-6)
    assert after.size == pytest.approx(before.size, abs=1e-6)
    for state in (None, dict.fromkeys(made.bends, (0.0, 0.0))):
        body = woven(made, state)
        checked("the sheet", body.shape)
    assert volume_of(body.shape) == pytest.approx(before.area * 1.5, rel=1e-7)


def test_folds_that_cannot_be_say_why():
    sheet = leg(plate(1.0, 60, 40), "p", "e1", "f", 20.0, 1.2, 2.0, RULE)
    for p, d, why in (
        ((0.0, 60.0), (1.0, 0.0), "both sides"),
        ((0.0, 20.0), (1.0, 0.0), "another bend"),
    ):
        with pytest.raises(BadInput, match=why):
            folded(sheet, "p", Fold("b", "q", p, d, 1.0, 1.0), RULE)


def stood(sheet, root):
    """The frame of a panel as the sheet stands."""
    at = places(sheet)[root]
    return (at.o, at.x, at.y, at.z)


@settings(max_examples=20)
@given(sheets(), st.data())
def test_a_sheet_hung_on_another_panel_is_the_same_in_its_place(sheet, data):
    root = data.draw(st.sampled_from(sorted(sheet.panels)))
    other = rerooted(sheet, root)
    assert other.root == root
    frame = stood(sheet, root)
    one, two = places(sheet), places(other, None, frame)
    for panel in sheet.panels:
        # A panel's own frame may lie elsewhere in it: its corners stand where they stood.
        for k in (0.0, sheet.thickness):
            was = [one[panel].at(s.a, k) for lp in sheet.panels[panel].loops for s in lp]
            now = [two[panel].at(s.a, k) for lp in other.panels[panel].loops for s in lp]
            assert np.allclose(was, now, atol=1e-8)
    body = woven(other, frame=frame)
    checked("the sheet", body.shape)
    assert volume_of(body.shape) == pytest.approx(sheet.volume, rel=1e-7)
    assert blank(other).area == pytest.approx(blank(sheet).area, abs=1e-6)


@settings(max_examples=20)
@given(sheets())
def test_the_mirror_image_is_where_a_mirror_puts_it(sheet):
    image = mirrored(sheet)
    one, two = places(sheet), places(image)
    for panel in sheet.panels.values():
        was = {
            tuple(np.round(one[panel.id].at(s.a, 0.0) * (-1, 1, 1), 6) + 0.0)
            for lp in panel.loops
            for s in lp
        }
        now = {
            tuple(np.round(two[panel.id].at(s.a, 0.0), 6) + 0.0)
            for lp in image.panels[panel.id].loops
            for s in lp
        }
        assert was == now
    checked("the sheet", woven(image).shape)
    assert image.volume == pytest.approx(sheet.volume)
    again = mirrored(image)
    assert blank(again).area == pytest.approx(blank(sheet).area)
    curves = [
        Seg(Arc2((1, 2), 3.0, 0.4, 2.0), "a"),
        Seg(Ellipse2((1, 2), (3.0, 1.0), 2.0, 0.3, 2.2), "e", True),
    ]
    for curve in curves:
        sheet = Sheet(1.0, "p", {"p": Panel("p", ((curve,),))})
        ((turned,),) = mirrored(sheet).panels["p"].loops
        for share in (0.0, 0.3, 1.0):
            x, y = curve.at(1.0 - share)
            assert turned.at(share) == pytest.approx((-x, y))


def test_two_halves_become_one():
    half = leg(plate(1.5, 60, 40), "p", "e1", "f", 20.0, math.pi / 2, 2.0, RULE)
    image = mirrored(half)
    whole = united(half, image, ("p", "p"), Motion2(), "s9")
    assert whole.volume == pytest.approx(2 * half.volume)
    body = woven(whole)
    checked("the sheet", body.shape)
    assert volume_of(body.shape) == pytest.approx(2 * half.volume, rel=1e-9)
    assert blank(whole).size[0] == pytest.approx(2 * blank(half).size[0], abs=1e-6)
    with pytest.raises(BadInput, match=r"1\.5 mm and one of 2 mm"):
        united(half, plate(2.0, 60, 40), ("p", "p"), Motion2(), "s9")
    with pytest.raises(BadInput, match="do not meet"):
        united(half, image, ("p", "p"), Motion2(x=-200.0), "s9")


@settings(max_examples=30)
@given(st.data(), st.floats(0.5, 8.0), st.sampled_from(["round", "bevel"]))
def test_eased_corners_take_what_a_corner_by_hand_does(data, size, form):
    """Convex ones lose r2 (tan(a/2) - a/2), concave ones gain it; a bevel half of its two sides by the sine."""
    n = data.draw(st.integers(3, 7))
    turns = [2 * math.pi * k / n for k in range(n)]
    reach = [data.draw(st.floats(40, 90)) for _ in range(n)]
    loop = ring([(r * math.cos(a), r * math.sin(a)) for r, a in zip(reach, turns, strict=True)],
                [f"e{k}" for k in range(n)])  # fmt: skip
    i = data.draw(st.integers(0, n - 1))
    u = np.subtract(loop[i].b, loop[i].a)
    v = np.subtract(loop[(i + 1) % n].b, loop[(i + 1) % n].a)
    turn = math.atan2(u[0] * v[1] - u[1] * v[0], u @ v)
    assume(abs(turn) > 0.05)
    a = abs(turn)
    if (size * math.tan(a / 2) if form == "round" else size) > min(
        np.hypot(*u), np.hypot(*v)
    ) - 1e-3:
        with pytest.raises(BadInput, match="takes"):
            eased_corner(loop, i, size, form, "new")
        return
    made = eased_corner(loop, i, size, form, "new")
    less = size**2 * (math.tan(a / 2) - a / 2) if form == "round" else 0.5 * size**2 * math.sin(a)
    assert area([made]) == pytest.approx(area([loop]) - math.copysign(less, turn))
    for one, two in itertools.pairwise((*made, made[0])):
        assert one.b == pytest.approx(two.a)
    assert sum(s.name == "new" for s in made) == 1


@settings(max_examples=15)
@given(
    st.lists(st.tuples(st.sampled_from([-110, -90, -45, 30, 60, 90, 100]), st.floats(14, 30)), min_size=1, max_size=3),
    st.booleans(), st.sampled_from([0.5, 2.0]), st.sets(st.integers(0, 3), min_size=1),
)  # fmt: skip
def test_a_profile_is_where_it_is_drawn(shape, top, r, edges):
    """The face it is drawn as passes through the middle of every line, square to the edge; corners are mitred."""
    t, turned = 1.5, 0.0
    at = np.array([0.0, 0.0])
    points = [tuple(at)]
    for turn, size in shape:
        turned += math.radians(turn)
        at = at + size * np.array([math.cos(turned), math.sin(turned)])
        points.append(tuple(at))
    assume(abs(turned) < math.radians(170))
    runs, back = profile_runs(points, top, r, t)
    assert back >= 0.0
    start = plate(t, 200, 160)
    made = flanged(
        start, "p", {(0, k): f"e{k}" for k in edges}, Flange(runs, back, gap=0.1), RULE, named("s3")
    )
    checked("the sheet", woven(made).shape)
    stands = places(made)
    for k in edges:
        seg = start.panels["p"].loops[0][k]
        along = np.array([*np.subtract(seg.b, seg.a), 0.0]) / seg.curve.length
        out = np.cross(along, [0.0, 0.0, 1.0])
        home = np.array([*seg.a, t if top else 0.0])
        for n, (a, b) in enumerate(itertools.pairwise(points)):
            middle = home + out * (a[0] + b[0]) / 2 + np.array([0.0, 0.0, (a[1] + b[1]) / 2])
            panel = stands[named("s3")(f"e{k}", n)[1]]
            _, y, h = panel.local(middle[None])[0]
            assert h == pytest.approx(t if top else 0.0, abs=1e-9)
            assert 0.0 < y < runs[n].length[0]


def test_profiles_that_cannot_be_say_why():
    for points, why in (
        ([(0, 0), (10, 0), (10, 20)], "goes on in the plane"), ([(0, 0), (0, 3)], "all bend"),
        ([(0, 0), (0, 20), (0, 5)], "lie on each other"), ([(0, 0), (10, 0)], "goes on in the plane"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=why):
            profile_runs([(float(x), float(y)) for x, y in points], False, 2.0, 1.5)
    runs, back = profile_runs([(9.0, 0.0), (9.0, 20.0)], False, 2.0, 1.5)
    with pytest.raises(BadInput, match="beyond the edge"):
        flanged(plate(1.5, 60, 40), "p", {(0, 0): "e0"}, Flange(runs, back), RULE, named("s3"))

"""Second witnesses: random Boolean trees against formulas of membership, and wrong solids that
each witness must refuse."""

import math
import random

import numpy as np
import pytest

from tests.core.parts import Maker
from tests.core.test_grow import trouble
from vireo.core.geometry import Frame
from vireo.core.kernel import witness
from vireo.core.kernel.boolean import Nothing, NothingLeft, combine
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.primitive import primitive
from vireo.core.kernel.shape import Body, compound_of, faces_of
from vireo.core.kernel.witness import Line, Lined, WitnessTrouble, inside
from vireo.core.triangles.meeting import meetings, welded

FORMS = {
    "box": {"width": 20.0, "depth": 16.0, "height": 12.0},
    "cylinder": {"diameter": 14.0, "height": 18.0},
    "cone": {"diameter": 18.0, "top": 6.0, "height": 14.0},
    "sphere": {"diameter": 17.0},
    "torus": {"diameter": 24.0, "tube": 7.0},
}


def is_in(form, s, p):
    """Membership by formula in the primitive's own coordinates, and how clear it is of the skin."""
    x, y, z = p
    r = math.hypot(x, y)
    if form == "box":
        d = min(x, s["width"] - x, y, s["depth"] - y, z, s["height"] - z)
    elif form == "cylinder":
        d = min(s["diameter"] / 2 - r, z, s["height"] - z)
    elif form == "cone":
        at = s["diameter"] / 2 + (s["top"] - s["diameter"]) / 2 * z / s["height"]
        d = min(at - r, z, s["height"] - z)
    elif form == "sphere":
        d = s["diameter"] / 2 - math.sqrt(x * x + y * y + z * z)
    else:
        d = s["tube"] / 2 - math.hypot(r - s["diameter"] / 2, z)
    return d > 0, abs(d)


def leaf(rng, n):
    form = rng.choice(list(FORMS))
    sizes = {k: v * rng.uniform(0.7, 1.3) for k, v in FORMS[form].items()}
    if rng.random() < 0.5:  # flush faces and common axes are where booleans go wrong
        origin, turn = tuple(rng.choice([-6.0, 0.0, 6.0]) for _ in range(3)), 0.0
        sizes = dict(FORMS[form])
    else:
        origin = tuple(rng.uniform(-8, 8) for _ in range(3))
        turn = rng.uniform(0, math.pi)
    c, s = math.cos(turn), math.sin(turn)
    frame = Frame(origin, (c, s, 0.0), (0.0, 0.0, 1.0))
    if rng.random() < 0.3:
        frame = Frame(origin, (0.0, c, s), (1.0, 0.0, 0.0))
    body = primitive(form, sizes, frame, f"s{n}")
    axes = np.array([frame.x, frame.y, frame.z])

    def member(p):
        return is_in(form, sizes, axes @ (p - np.array(origin)))

    return body, member


def tree(rng, n):
    body, member = leaf(rng, n)
    for k in range(rng.randint(1, 3)):
        operation = rng.choice(["add", "cut", "overlap"])
        tool, other = leaf(rng, f"{n}_{k}")
        try:
            body = combine(operation, body, [tool])
        except Nothing:
            if operation == "overlap":
                continue
            return body, member
        except WitnessTrouble:
            return None
        member = joined(operation, member, other)
    return body, member


def joined(operation, one, two):
    def member(p):
        (a, da), (b, db) = one(p), two(p)
        value = {"add": a or b, "cut": a and not b, "overlap": a and b}[operation]
        return value, min(da, db)

    return member


@pytest.mark.parametrize("seed", range(40))
def test_random_trees_have_the_members_their_formulas_say(seed):
    rng = random.Random(seed)
    made = tree(rng, "t")
    if made is None:
        pytest.skip("refused by a witness: told, not wrong")
    body, member = made
    lined = Lined([body.shape], {})
    asked = 0
    for _ in range(60):
        at = np.array([rng.uniform(-18, 18) for _ in range(3)])
        wanted, clear = member(at)
        if clear < 1e-3:
            continue
        way = np.array([rng.gauss(0, 1) for _ in range(3)])
        try:
            through = inside(lined.crossings(Line(at, way / np.linalg.norm(way))))
        except witness.Unclear:
            continue
        assert any(a < 0 < b for a, b in through) == wanted, (seed, at)
        assert witness._state(body.shape, at) == wanted
        asked += 1
    assert asked > 30


def test_few_trees_are_refused():
    """A witness that cried wolf would be as bad as none."""
    refused = sum(tree(random.Random(seed), "t") is None for seed in range(40))
    assert refused <= 2


def box(w, d, h, x=0.0, y=0.0, z=0.0, name="a"):
    return primitive("box", {"width": w, "depth": d, "height": h}, Frame((x, y, z)), name)


def together(*bodies) -> Body:
    shape = compound_of([b.shape for b in bodies])
    return Body(shape, tuple("" for _ in faces_of(shape)))


def test_membership_refuses_what_is_missing_and_what_is_left():
    plate, hole, other = box(40, 30, 10), box(6, 6, 10, 5, 5), box(6, 6, 10, 25, 15)
    one = combine("cut", plate, [hole])
    with pytest.raises(WitnessTrouble, match="near") as missed:
        witness.membership("cut", plate, [hole, other], one.shape, "the holes")
    x, y, z = (float(v) for v in missed.value.where[0].removeprefix("point:").split(","))
    assert 25 < x < 31
    assert 15 < y < 21
    assert 0 < z < 10
    with pytest.raises(WitnessTrouble, match="missing"):
        witness.membership("add", one, [hole], one.shape, "filling")
    witness.membership("cut", plate, [hole], one.shape, "the hole")


def test_skins_that_meet_themselves_are_refused():
    big, small = box(10, 10, 10), box(4, 4, 4, 3, 3, 3)
    through = box(4, 4, 12, 3, 3, 5)
    for bad in (together(big, through), together(big, small), together(big, box(10, 10, 10, 5))):
        with pytest.raises(WitnessTrouble, match="passes through itself"):
            witness.unmet(bad, "it")
    hollow = combine("cut", big, [small])
    for good in (big, hollow, together(big, box(4, 4, 4, 10)), together(big, box(4, 4, 4, 20))):
        witness.unmet(good, "it")


@pytest.mark.parametrize("seed", range(12))
def test_crossing_triangles_are_found_at_any_attitude(seed):
    """Two rings, linked or pierced by a known depth: found from a hundredth of the tube on."""
    rng = random.Random(seed)
    turn = [rng.uniform(0, math.pi) for _ in range(2)]
    c, s = math.cos(turn[0]), math.sin(turn[0])
    frame = Frame((rng.uniform(-50, 50), 0.0, 0.0), (c, s, 0.0), (0.0, 0.0, 1.0))
    ring = primitive("torus", {"diameter": 40.0, "tube": 6.0}, frame, "r")
    depth = rng.choice([-0.5, 0.3, 2.0])
    place = frame.out((20.0 + 5.0 - depth, 0.0, 0.0))
    pin = primitive("cylinder", {"diameter": 4.0, "height": 20.0}, Frame(
        (place[0], place[1], -10.0), frame.x, frame.z), "p")  # fmt: skip
    mesh = tessellate(together(ring, pin), 0.02)
    found = meetings(*welded(mesh.points, mesh.triangles))
    assert bool(found) == (depth > 0)
    for m in found:
        assert math.dist(m.at, place) < 6


def test_nothing_is_said_to_touch_only_when_it_does_not():
    ball = primitive("sphere", {"diameter": 20.0}, Frame(), "b")
    inner = primitive("sphere", {"diameter": 19.4}, Frame(), "i")
    half = combine("cut", ball, [box(40, 40, 40, -20, -20, 0)])
    shell = combine("cut", half, [inner])
    assert shell.shape is not half.shape
    with pytest.raises(NothingLeft):
        combine("cut", inner, [ball])
    with pytest.raises(Nothing):
        combine("cut", ball, [box(5, 5, 5, 30)])


def test_budgets_allow_what_geometry_does_and_no_more():
    witness.swept_budget("it", 10.0, [(100.0, 100.0, 0.1)])
    for wrong in (-10.0, 12.0, 8.0, 1800.0):
        with pytest.raises(WitnessTrouble, match="where its sizes allow"):
            witness.swept_budget("it", wrong, [(100.0, 100.0, 0.1)])


def test_a_coil_that_touches_itself_is_refused():
    m = Maker()
    m.step("pipe", along="helix", diameter="10 mm", pitch="9 mm", turns="2")
    assert "passes through itself" in trouble(m).text

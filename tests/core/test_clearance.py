"""Clearances on picked faces: the cases that went wrong, and offsets of random prismatic and
turned parts against closed forms."""

import itertools
import math
import random

import pytest

from tests.core.parts import Maker
from tests.core.test_grow import trouble, volume


def box(m, w, d, h, x=0.0, y=0.0, z=0.0, result="new"):
    sizes = {"width": w, "depth": d, "height": h, "x": x, "y": y, "z": z}
    return m.step(
        "primitive", form="box", result=result, **{k: f"{v!r} mm" for k, v in sizes.items()}
    )


def cylinder(m, d, h, x=0.0, y=0.0, z=0.0, result="new"):
    sizes = {"diameter": d, "height": h, "x": x, "y": y, "z": z}
    return m.step(
        "primitive", form="cylinder", result=result, **{k: f"{v!r} mm" for k, v in sizes.items()}
    )


def offset(m, test, by):
    return m.step("offset_faces", faces=m.pick("face", test), by=f"{by!r} mm")


def faces_called(m, test):
    return [f for f in m.topology().faces if test(f)]


def facing(axis, sign, at_):
    """A flat face that looks along an axis and stands at a place on it."""
    return lambda f: (
        f.kind == "plane" and f.direction[axis] * sign > 0.99 and abs(f.at[axis] - at_) < 1e-6
    )


def split_sphere() -> Maker:
    """A hollow ball cut apart beside its middle, with a slot through its wall."""
    m = Maker()
    m.step("primitive", form="sphere", diameter="25.4 mm")
    m.step("shell", open=[], wall="3 mm")
    m.step("split_body", by="XY", shift="-3.4 mm", keep="front")
    m.step(
        "primitive", form="cylinder", diameter="7.6 mm", height="30 mm", z="-15 mm",
        plane="XZ", result="cut",
    )  # fmt: skip
    return m


def test_a_slot_through_a_hollow_ball_keeps_its_cavity():
    """Offset by 0.1 filled cavity and slot at once: 2958.98 -> 4757.25 mm3, told as ok."""
    m = split_sphere()
    start = volume(m)
    walls = faces_called(m, lambda f: f.kind == "cylinder")
    area = sum(f.area for f in walls)
    offset(m, lambda f: f.kind == "cylinder", 0.1)
    now = sum(f.area for f in faces_called(m, lambda f: f.kind == "cylinder"))
    assert volume(m) - start == pytest.approx(0.1 * 0.5 * (area + now), rel=0.01)
    assert volume(m) == pytest.approx(exact_ball(3.7), rel=1e-4)


def exact_ball(r):
    """By slices across the slot's axis: ring of the ball above the cut, less the slot."""
    total, n = 0.0, 4000
    for k in range(n):
        y = -12.7 + 25.4 * (k + 0.5) / n
        total += (_slice(12.7, y, r) - _slice(9.7, y, r)) * 25.4 / n
    return total


def _slice(ball, y, r):
    """Area of a disc above z = -3.4 that lies outside a disc of radius r."""
    big = ball * ball - y * y
    if big <= 0:
        return 0.0
    big = math.sqrt(big)
    return _above(big, -3.4) - _above(min(big, r), -3.4)


def _above(r, low):
    """Area of a disc of radius r above a chord at height low <= 0."""
    if low <= -r:
        return math.pi * r * r
    a = math.acos(-low / r)
    return math.pi * r * r - (a - math.sin(a) * math.cos(a)) * r * r


@pytest.mark.parametrize("by", [-0.3, 0.3, -2.0])
@pytest.mark.parametrize(
    ("axis", "sign", "at_", "area"),
    [
        (0, 1, 50.0, 100),
        (0, -1, 30.0, 100),
        (1, 1, 5.0, 200),
        (1, -1, 15.0, 200),
        (2, 1, 10.0, 200),
    ],
)
def test_every_wall_of_a_pocket_moves_alone(axis, sign, at_, area, by):
    """The cases of the trial: each face of a plain pocket, in and out."""
    m = Maker()
    box(m, 60, 40, 20)
    box(m, 20, 10, 10, 30, 5, 10, "cut")
    start = volume(m)
    test = facing(axis, sign, at_) if axis != 0 else facing(0, sign, 30.0 if sign > 0 else 50.0)
    before = sorted(f.name for f in m.topology().faces)
    offset(m, test, by)
    assert volume(m) == pytest.approx(start + area * by, rel=1e-9)
    assert sorted(f.name for f in m.topology().faces) == before


def test_a_saw_slot_an_open_pocket_and_a_lug():
    bar = Maker()
    box(bar, 80, 10, 10)
    box(bar, 2, 10, 6, 39, 0, 4, "cut")
    start = volume(bar)
    offset(bar, facing(0, 1, 39.0), -0.3)
    assert volume(bar) == pytest.approx(start - 0.3 * 60)
    cup = Maker()
    cylinder(cup, 40, 30)
    box(cup, 30, 10, 12, 0, -5, 18, "cut")
    start = volume(cup)
    offset(cup, facing(1, -1, 5.0), -0.25)
    # The wall's far end lies on the round of the cup: an integral, not a product.
    side = lambda y: math.sqrt(400 - y * y)  # noqa: E731
    n = 2000
    grown = sum(side(5 + 0.25 * (k + 0.5) / n) for k in range(n)) * 0.25 / n * 12
    assert volume(cup) == pytest.approx(start - grown, rel=1e-6)
    post = Maker()
    cylinder(post, 20, 40)
    box(post, 16, 6, 10, 0, -3, 10, "add")
    for test, by, area in (
        (facing(0, 1, 16.0), 0.4, 60),
        (facing(2, 1, 20.0), -0.2, None),
    ):
        start = volume(post)
        offset(post, test, by)
        if area:
            assert volume(post) == pytest.approx(start + area * by)
        else:
            assert volume(post) < start


def pockets(rng):
    """A block with separate pockets and bosses: boxes known by their numbers."""
    m = Maker()
    box(m, 100, 80, 30)
    tools = []
    for i, j in itertools.product(range(3), range(2)):
        x, y = 5 + 32 * i, 5 + 38 * j
        w, d = rng.uniform(8, 22), rng.uniform(8, 28)
        up = rng.random() < 0.4
        h = rng.uniform(3, 10)
        box(m, w, d, h, x, y, 30 if up else 30 - h, "add" if up else "cut")
        tools.append((x, y, w, d, h, up))
    return m, tools


def prism_volume(tools, moves):
    total = 100 * 80 * 30
    for k, (_x, _y, w, d, h, up) in enumerate(tools):
        sizes = {"x": w, "y": d, "z": h}
        for axis, by in moves.get(k, []):
            # Outwards of the material: a pocket shrinks, a boss grows.
            sizes[axis] += by if up else -by
        v = sizes["x"] * sizes["y"] * sizes["z"]
        total += v if up else -v
    return total


@pytest.mark.parametrize("seed", range(6))
def test_random_prismatic_parts(seed):
    """Any number of walls and floors of pockets and bosses, in one step and one after the other."""
    rng = random.Random(seed)
    m, tools = pockets(rng)
    moves: dict[int, list] = {}
    for _ in range(2):
        by = rng.choice([-1, 1]) * rng.uniform(0.05, 0.8)
        tests = []
        for k, (x, y, w, d, h, up) in enumerate(tools):
            moved = dict.fromkeys("xyz", 0.0)
            for axis, b in moves.get(k, []):
                moved[axis] += b if up else -b
            if rng.random() < 0.7:
                # The wall at the low end of x stays where it is; the one at the high end moves.
                sign = 1 if up else -1
                if rng.random() < 0.5:
                    tests.append(facing(0, sign, x + w + moved["x"]))
                    moves.setdefault(k, []).append(("x", by))
                if rng.random() < 0.5:
                    tests.append(facing(1, sign, y + d + moved["y"]))
                    moves.setdefault(k, []).append(("y", by))
                if rng.random() < 0.5:
                    z = 30 + (h + moved["z"] if up else -h - moved["z"])
                    tests.append(facing(2, 1, z))
                    moves.setdefault(k, []).append(("z", by))
        if tests:
            offset(m, lambda f, tests=tests: any(t(f) for t in tests), by)
            assert volume(m) == pytest.approx(prism_volume(tools, moves), rel=1e-9)


@pytest.mark.parametrize("seed", range(6))
def test_random_turned_parts(seed):
    """Stepped shafts with a bore and a cone: lands and shoulders moved in and out."""
    rng = random.Random(100 + seed)
    m = Maker()
    radii = [rng.uniform(8, 20) for _ in range(4)]
    lengths = [rng.uniform(5, 15) for _ in range(4)]
    z = [0.0, *itertools.accumulate(lengths)]
    for k, (r, h) in enumerate(zip(radii, lengths, strict=True)):
        cylinder(m, 2 * r, h, z=z[k], result="new" if k == 0 else "add")
    bore = rng.uniform(2, 6)
    cylinder(m, 2 * bore, z[-1], result="cut")

    def exact():
        return sum(math.pi * (r * r - bore * bore) * h for r, h in zip(radii, lengths, strict=True))

    assert volume(m) == pytest.approx(exact())
    for _ in range(3):
        by = rng.choice([-1, 1]) * rng.uniform(0.05, 0.4)
        if rng.random() < 0.3:
            offset(m, lambda f: f.kind == "cylinder" and f.hollow, by)
            bore -= by
        else:
            chosen = [k for k in range(4) if rng.random() < 0.5] or [0]
            offset(
                m,
                lambda f, chosen=chosen: (
                    f.kind == "cylinder"
                    and not f.hollow
                    and any(abs(f.radius - radii[k]) < 1e-9 for k in chosen)
                ),
                by,
            )
            for k in chosen:
                radii[k] += by
        assert volume(m) == pytest.approx(exact(), rel=1e-9)


def drafted(m, slope):
    """A block with a pocket whose walls lean: neighbours that do not stand square."""
    box(m, 60, 40, 20)
    box(m, 20, 10, 10, 30, 5, 10, "cut")
    walls = m.pick(
        "face", lambda f: f.kind == "plane" and abs(f.direction[2]) < 0.1 and 29 < f.at[0] < 51
        and 4 < f.at[1] < 16,
    )  # fmt: skip
    assert len(walls) == 4
    m.step("draft", faces=walls, angle=f"{slope} deg", about="XY", height="10 mm")


@pytest.mark.parametrize("by", [-0.3, 0.2])
def test_a_leaning_wall_follows_its_leaning_neighbours(by):
    m = Maker()
    drafted(m, 5)
    before = volume(m)
    area = [f.area for f in m.topology().faces if f.kind == "plane"]
    wall = max(
        (f for f in m.topology().faces if 0 < abs(f.direction[2]) < 0.9), key=lambda f: f.at[0]
    )
    offset(m, lambda f: f.name == wall.name and f.at == wall.at, by)
    after = next(f for f in m.topology().faces if f.name == wall.name)
    # All faces stay flat, so the area runs as a parabola: Simpson's rule needs the middle.
    m.do("edit_step", id=m.part.steps[-1].id, fields={"by": f"{by / 2!r} mm"})
    middle = next(f for f in m.topology().faces if f.name == wall.name)
    m.do("edit_step", id=m.part.steps[-1].id, fields={"by": f"{by!r} mm"})
    swept = by * (wall.area + 4 * middle.area + after.area) / 6
    assert volume(m) - before == pytest.approx(swept, rel=1e-6)
    assert len([f for f in m.topology().faces if f.kind == "plane"]) == len(area)


def test_what_does_not_fit_is_said_soon():
    """A bore that would close up: told, with what would fit, within a few seconds."""
    m = Maker()
    box(m, 40, 40, 10)
    cylinder(m, 6, 10, 20, 20, result="cut")
    offset(m, lambda f: f.kind == "cylinder", 5.0)
    assert "the largest that works there is" in trouble(m).text

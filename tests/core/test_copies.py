"""Copies repeat what each step meant, per body, in order: against doing it by hand."""

import itertools
import math
import random

import pytest

from tests.core.parts import Maker
from tests.core.test_clearance import box, cylinder
from tests.core.test_grow import trouble, volume


def volumes(m):
    found = m.build()
    bad = next((s.error for s in found.steps if s.error), None)
    assert bad is None, bad
    return {id: b["volume"] for id, b in found.bodies.items()}


def notes(m):
    return [n.text for s in m.build().steps for n in s.notes]


def top_rim(z):
    return lambda e: e.kind == "circle" and abs(e.at[2] - z) < 1e-6


def test_a_cut_meant_for_one_body_stays_there():
    """Discs A and B beside each other: copies of a cut into A left B alone (was 25 761)."""
    m = Maker()
    a = cylinder(m, 60, 10)
    b = m.step("primitive", form="cylinder", diameter="60 mm", height="10 mm", x="50 mm",
               z="0 mm", result="new")  # fmt: skip
    hole = m.step("primitive", form="cylinder", diameter="8 mm", height="10 mm", x="22 mm",
                  result="cut", into=[f"b_{a}"])  # fmt: skip
    m.step("copies_circular", steps=[hole], count="6")
    found = volumes(m)
    assert found[f"b_{b}"] == pytest.approx(math.pi * 900 * 10)
    assert found[f"b_{a}"] == pytest.approx(math.pi * (900 - 6 * 16) * 10)


@pytest.mark.parametrize("n", [1, 2, 3, 5, 8, 12])
def test_pegs_on_one_body_and_pockets_in_another(n):
    """At eight there were seven pegs, five pockets and two stray bodies, told as ok."""
    m = Maker()
    lower = box(m, 200, 20, 10)
    upper = box(m, 200, 20, 10, 0, 0, 20)
    peg = m.step("primitive", form="cylinder", diameter="6 mm", height="5 mm", x="10 mm",
                 y="10 mm", z="10 mm", result="add", into=[f"b_{lower}"])  # fmt: skip
    pocket = m.step("primitive", form="cylinder", diameter="6.4 mm", height="5 mm", x="10 mm",
                    y="10 mm", z="20 mm", result="cut", into=[f"b_{upper}"])  # fmt: skip
    k = m.step("copies_linear", steps=[peg, pocket], count=str(n), spacing="15 mm")
    if n == 1:
        assert "no copy is left" in trouble(m).text
        return
    found = volumes(m)
    assert set(found) == {f"b_{lower}", f"b_{upper}"}
    assert found[f"b_{lower}"] == pytest.approx(40000 + n * math.pi * 9 * 5)
    assert found[f"b_{upper}"] == pytest.approx(40000 - n * math.pi * 3.2**2 * 5)
    assert notes(m) == []
    m.do("edit_step", id=k, fields={"count": "14", "spacing": "15 mm"})
    # Two of fourteen stand beyond the end, and are named.
    assert any("copies" in t or "copy" in t for t in notes(m))
    found = volumes(m)
    assert found[f"b_{lower}"] == pytest.approx(40000 + 13 * math.pi * 9 * 5)


def test_dependent_fillets_chamfers_drafts_and_offsets_come_along():
    m = Maker()
    base = box(m, 120, 40, 10)
    peg = cylinder(m, 12, 10, 15, 20, 10, "add")
    lean = m.step("draft", faces=m.pick("face", lambda f: f.kind == "cylinder"), angle="3 deg",
                  about="XY", height="10 mm")  # fmt: skip
    top = m.step("fillet", edges=m.pick("edge", top_rim(20)), radius="1 mm")
    bore = cylinder(m, 4, 10, 15, 20, 10, "cut")
    wide = m.step("offset_faces", faces=m.pick("face", lambda f: f.kind == "cylinder" and f.hollow),
                  by="-0.2 mm")  # fmt: skip
    rim = m.pick("edge", lambda e: e.kind == "circle" and abs(e.radius - 2.2) < 1e-6
                 and e.at[2] > 15)  # fmt: skip
    eased = m.step("chamfer", edges=rim, size="0.5 mm")
    before = volume(m)
    one = before - 120 * 40 * 10
    steps = [peg, lean, top, bore, wide, eased]
    m.step("copies_linear", steps=steps, count="4", spacing="28 mm")
    assert volume(m) == pytest.approx(120 * 40 * 10 + 4 * one, rel=1e-9)
    assert notes(m) == []
    assert base
    m.do("edit_step", id=top, fields={"radius": "2 mm"})
    smaller = volume(m)
    m.do("sleep_step", id=m.part.steps[-1].id, asleep=True)
    assert smaller - 48000 == pytest.approx(4 * (volume(m) - 48000), rel=1e-9)
    m.do("sleep_step", id=m.part.steps[-1].id, asleep=False)
    # In a mirror, too.
    m.step("mirror", steps=steps, plane="XZ")
    assert any("missing" in n for n in notes(m)) or trouble(m)


def test_a_body_made_by_a_step_is_copied_with_what_was_done_to_it():
    m = Maker()
    box(m, 200, 200, 10)
    pin = cylinder(m, 10, 30, 60, 0, 20, "new")
    slot = m.step("primitive", form="box", width="2 mm", depth="20 mm", height="4 mm", x="59 mm",
                  y="-10 mm", z="46 mm", result="cut", into=[f"b_{pin}"])  # fmt: skip
    tip = m.step("chamfer", edges=m.pick("edge", top_rim(20), f"b_{pin}"), size="1 mm")
    k = m.step("copies_circular", steps=[pin, slot, tip], count="5")
    found = volumes(m)
    own = {id: v for id, v in found.items() if id.startswith(f"b_{k}")}
    assert len(own) == 4
    for v in own.values():
        assert v == pytest.approx(found[f"b_{pin}"], rel=1e-9)
    assert found["b_s1"] == pytest.approx(400000)


def test_copies_of_copies_repeat_every_operation():
    m = Maker()
    box(m, 100, 100, 10)
    boss = cylinder(m, 8, 5, 10, 10, 10, "add")
    hole = cylinder(m, 3, 15, 10, 10, 0, "cut")
    row = m.step("copies_linear", steps=[boss, hole], count="3", spacing="15 mm")
    m.step("copies_linear", steps=[boss, hole, row], count="4", spacing="20 mm", way="Y")
    one = math.pi * 16 * 5 - math.pi * 2.25 * 15
    assert volume(m) == pytest.approx(100000 + 12 * one)


@pytest.mark.parametrize("seed", range(8))
def test_random_step_sets_against_doing_them_by_hand(seed):
    rng = random.Random(seed)
    m, byhand = Maker(), Maker()
    n, spacing = rng.randint(2, 6), rng.uniform(20, 30)
    for part in (m, byhand):
        box(part, 200, 40, 10)
        box(part, 200, 40, 10, 0, 60, 0)
    chosen = []
    for _ in range(rng.randint(1, 4)):
        on = rng.choice([0, 60])
        into = [f"b_s{1 if on == 0 else 2}"]
        d, h = rng.uniform(4, 14), rng.uniform(2, 9)
        x, y = rng.uniform(8, 12), on + rng.uniform(8, 32)
        cut = rng.random() < 0.5
        form = rng.choice(["cylinder", "box"])
        sizes = {"diameter": d} if form == "cylinder" else {"width": d, "depth": d * 0.7}

        def put(part, shift, form=form, sizes=sizes, h=h, x=x, y=y, cut=cut, into=into):
            return part.step(
                "primitive", form=form, height=f"{h + 1!r} mm", x=f"{x + shift!r} mm",
                y=f"{y!r} mm", z=f"{10 - h if cut else 9!r} mm", result="cut" if cut else "add",
                into=into, **{k: f"{v!r} mm" for k, v in sizes.items()},
            )  # fmt: skip

        chosen.append(put(m, 0.0))
        for k in range(n):
            put(byhand, k * spacing)
    m.step("copies_linear", steps=chosen, count=str(n), spacing=f"{spacing!r} mm")
    # By hand each step was done at all places before the next: so do copies.
    for (_, a), (_, b) in zip(volumes(m).items(), volumes(byhand).items(), strict=True):
        assert a == pytest.approx(b, rel=1e-7)


def test_only_what_touches_becomes_one():
    """A ring round a ball: boxes meet, nothing touches."""
    m = Maker()
    m.step("primitive", form="torus", diameter="80 mm", tube="10 mm")
    ball = m.step("primitive", form="sphere", diameter="8 mm", result="new")
    m.step("primitive", form="torus", diameter="90 mm", tube="4 mm", result="add")
    found = volumes(m)
    assert found[f"b_{ball}"] == pytest.approx(4 / 3 * math.pi * 64)
    assert len(found) == 2
    assert notes(m) == []
    # A bridge joins what it touches, and says so.
    m.step("primitive", form="cylinder", diameter="2 mm", height="90 mm", z="-45 mm", plane="YZ",
           result="add")  # fmt: skip
    assert len(volumes(m)) == 1
    assert any("makes one body of" in n for n in notes(m))


@pytest.mark.parametrize("operation", ["add", "cut"])
def test_order_of_copies_does_not_depend_on_bodies_elsewhere(operation):
    for extra in itertools.product([False, True], repeat=2):
        m = Maker()
        box(m, 100, 20, 10)
        if extra[0]:
            box(m, 100, 20, 10, 0, 0, 30)
        s = cylinder(m, 6, 8, 10, 10, 6, operation) if not extra[1] else m.step(
            "primitive", form="cylinder", diameter="6 mm", height="8 mm", x="10 mm", y="10 mm",
            z="6 mm", result=operation, into=["b_s1"])  # fmt: skip
        m.step("copies_linear", steps=[s], count="5", spacing="20 mm")
        change = 4 if operation == "add" else -4
        assert volumes(m)["b_s1"] == pytest.approx(20000 + 5 * change * math.pi * 9)

"""Sheets made round solids: lengths by hand, flat pieces in the faces they were made on, refused in words."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_sheet_parts import sheet_of, trouble
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.overlap import holds
from vireo.core.panels.loops import area
from vireo.core.samples.maker import Maker
from vireo.core.samples.ways import boxed
from vireo.core.samples.ways import line as drawn
from vireo.core.sheet.blanks import flattened
from vireo.core.sheet.clash import clashes


def block(w, d, h):
    m = Maker()
    m.step("primitive", width=f"{w} mm", depth=f"{d} mm", height=f"{h} mm", result="new")
    return m


def picked(m, *names):
    return [p for n in names for p in m.pick("face", lambda f, n=n: f.name == n)]


SIDES = ("s1/left", "s1/right", "s1/front", "s1/back")


@settings(max_examples=12, deadline=None)
@given(
    st.floats(40, 120), st.floats(40, 120), st.floats(15, 60), st.sampled_from([0.0, 1.0, 3.0]),
    st.sampled_from([0.8, 2.0]), st.booleans(),
)  # fmt: skip
def test_a_tray_and_a_ring_round_a_block_are_as_long_as_by_hand(w, d, h, r, t, inside):
    """A wall is as long as the face less its setback, the bend by the neutral line; on the faces, the inner radius
    is theirs."""
    bend = math.pi / 2 * (r + 0.44 * t)
    back = r + t if inside else r
    more = {"thickness": f"{t} mm", "radius": f"{r} mm", "side": "in" if inside else "out"}
    m = block(w, d, h)
    m.step("sheet_wrap", faces=picked(m, "s1/under", *SIDES), **more)
    assert trouble(m) == ""
    made = sheet_of(m)
    want = [w + 2 * h - 4 * back + 2 * bend, d + 2 * h - 4 * back + 2 * bend]
    assert sorted(flattened(made).size) == pytest.approx(sorted(want), abs=1e-3 if r == 0 else 1e-9)
    low, high = box_of(made.body().shape)
    off = 0.0 if inside else t
    assert (*low, *high) == pytest.approx((-off, -off, -off, w + off, d + off, h), abs=1e-6)
    m = block(w, d, h)
    m.step("sheet_wrap", faces=picked(m, *SIDES), **more)
    # Open at one corner, where both ends keep off it.
    end = (t if inside else 0.0) + 0.1
    ring = 2 * (w + d) - 6 * back + 3 * bend - 2 * end
    assert max(flattened(sheet_of(m)).size) == pytest.approx(ring, abs=1e-3 if r == 0 else 1e-9)


@pytest.mark.parametrize("draft", [-12, 15])
@pytest.mark.parametrize("side", ["in", "out"])
def test_flat_pieces_lie_in_the_leaning_faces_they_were_made_on(draft, side):
    m = Maker()
    m.step("extrude", sketch=m.sketch(boxed(80, 50)), depth="40 mm", draft=f"{draft} deg")
    solid = m.build().bodies
    names = [f.name for f in m.topology().faces]
    foot = "s2/cap/start" if draft < 0 else "s2/cap/end"
    m.step(
        "sheet_wrap",
        faces=picked(m, foot, *(n for n in names if "/side/" in n)),
        side=side,
        solid="kept",
    )
    assert trouble(m) == ""
    found = m.build()
    made = sheet_of(m, next(id for id in found.bodies if id not in solid))
    assert len(made.sheet.bends) == 4
    assert not list(clashes(made))
    body = found.state.bodies[next(iter(solid))].load()
    t = made.sheet.thickness
    for panel, place in made.places().items():
        if panel not in made.sheet.panels:
            continue
        loops = made.sheet.panels[panel].loops
        assert area(loops) > 0.0
        xs = np.array([p for s in loops[0] for p in (s.a, s.b)])
        middle = tuple(xs.mean(axis=0))
        at = [holds(body, place.at(middle, h)) for h in (-0.01, 0.5 * t, t + 0.01)]
        # Inside the faces the sheet lies in the solid up to them; on them it lies outside.
        assert at == ([True, True, False] if side == "in" else [True, False, False])


def test_where_it_is_open_is_chosen_and_what_cannot_be_is_said():
    m = block(80, 50, 30)
    edge = m.pick(
        "edge", lambda e: e.kind == "line" and abs(e.at[0]) < 1e-6 and abs(e.at[1]) < 1e-6
    )
    m.step("sheet_wrap", faces=picked(m, *SIDES), edges=edge)
    first = sheet_of(m)
    outer = {b.parent for b in first.sheet.bends.values()} | {
        b.child for b in first.sheet.bends.values()
    }
    joined = {
        frozenset((b.parent.split(".")[-1], b.child.split(".")[-1]))
        for b in first.sheet.bends.values()
    }
    assert len(outer) == 4
    assert frozenset(("left", "front")) not in joined
    m = block(80, 50, 30)
    m.step("sheet_wrap", faces=picked(m, "s1/left", "s1/right"))
    assert "share no straight edge" in trouble(m)
    m = block(80, 50, 5)
    m.step("sheet_wrap", faces=picked(m, "s1/under", *SIDES), radius="6 mm")
    assert "too small for the bends" in trouble(m)
    m = Maker()
    m.step("primitive", form="cylinder", diameter="30 mm", height="20 mm", result="new")
    wall = m.pick("face", lambda f: f.kind == "cylinder")
    m.step("sheet_wrap", faces=wall)
    assert "only flat faces" in trouble(m)


@settings(max_examples=10, deadline=None)
@given(
    st.floats(20, 60), st.floats(15, 50), st.integers(20, 140), st.sampled_from([0.5, 2.0]), st.booleans(),
    st.sampled_from(["ahead", "both", "behind"]),
)  # fmt: skip
def test_a_strip_is_as_long_as_its_lines_less_what_its_bend_takes(a, b, angle, r, swap, toward):
    """The drawn face is the outside where the strip turns to its material's side, else the inside."""
    t, turn = 1.5, math.radians(angle)
    m = Maker()
    far = (a + b * math.cos(turn), b * math.sin(turn))
    profile = m.sketch(drawn((0, 0), (a, 0), far))
    m.step("sheet_strip", sketch=profile, width="30 mm", radius=f"{r} mm", swap=swap, toward=toward)
    assert trouble(m) == ""
    made = sheet_of(m)
    side = (r if swap else r + t) * math.tan(turn / 2)
    long = a + b - 2 * side + turn * (r + 0.44 * t)
    assert sorted(flattened(made).size) == pytest.approx(sorted([30.0, long]), abs=1e-9)
    low, high = box_of(made.body().shape)
    at = {"ahead": 0.0, "both": -15.0, "behind": -30.0}[toward]
    assert (low[2], high[2]) == pytest.approx((at, at + 30.0), abs=1e-6)
    # Drawn is a face of it: on the first line it begins at y = 0, on the other side of which there is none.
    assert holds(made.body(), np.array([0.2 * a, -0.5 * t if swap else 0.5 * t, at + 15.0]))
    assert not holds(made.body(), np.array([0.2 * a, 0.5 * t if swap else -0.5 * t, at + 15.0]))

"""Hardware from standard tables: sizes of every standard against volumes worked out by hand."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.parts import Maker
from vireo.core.hardware.fastening import Bore, Wish, fitting, stacked
from vireo.core.hardware.kind import STANDARDS
from vireo.core.kernel.measure import box_of
from vireo.core.screws import SCREWS
from vireo.core.trouble import BadInput

#: Every other size of every standard, and the largest.
EVERY = [
    (s, size)
    for s in sorted(STANDARDS)
    for size in sorted({*list(STANDARDS[s].sizes)[::2], list(STANDARDS[s].sizes)[-1]})
]


def made(standard, size, length=None):
    m = Maker()
    fields = {"standard": standard, "size": size}
    if length:
        fields["length"] = f"{length!r} mm"
    m.step("hardware", **fields)
    built = m.build()
    (step,) = built.steps
    assert step.error is None, (standard, size, length, step.error)
    (held,) = built.state.bodies.values()
    return built, held.load()


def hexagon(s):
    return math.sqrt(3) / 2 * s * s


def disc(d):
    return math.pi / 4 * d * d


def cone(d1, d2, h):
    return math.pi / 12 * h * (d1 * d1 + d1 * d2 + d2 * d2)


def tipped(screw, length):
    """A shank with its chamfered tip."""
    c = 0.6134 * screw.pitch
    return disc(screw.diameter) * (length - c) + cone(screw.diameter - 2 * c, screw.diameter, c)


@pytest.mark.parametrize(("standard", "size"), EVERY)
def test_a_size_has_the_volume_and_the_box_of_its_table(standard, size):
    s = STANDARDS[standard]
    row = s.sizes[size]
    lengths = s.lengths(size)
    length = lengths[len(lengths) // 2] if lengths else 0.0
    built, body = made(standard, size, length)
    (low, high) = box_of(body.shape)
    volume = built.volume
    assert low[2] == pytest.approx(-length, abs=1e-5)
    assert high[2] == pytest.approx(s.height(size), abs=1e-5)
    inch = 25.4 if standard in ("ASME B18.3", "ASME B18.2.1") else 1.0
    if standard in ("ISO 4762", "ASME B18.3"):
        screw = SCREWS[size]
        dk, k, socket, t = row[0] * inch, s.height(size), row[-4] * inch, row[-3] * inch
        if standard == "ISO 4762":
            dk, k, socket, t = row[:4]
        v = screw.diameter / 10
        head = disc(dk) * (k - v) + cone(dk, dk - 2 * v, v) - hexagon(socket) * t
        assert volume == pytest.approx(tipped(screw, length) + head, rel=1e-6)
        assert high[0] - low[0] == pytest.approx(dk, abs=1e-4)
    elif standard in ("ISO 4017", "ASME B18.2.1"):
        across, k = row[0] * inch, row[1] * inch
        head = volume - tipped(SCREWS[size], length)
        # The chamfer takes the corners off: 3 % at the most.
        assert 0.97 < head / (hexagon(across) * k) < 1.0
        assert high[1] - low[1] == pytest.approx(across, abs=1e-4)
    elif s.role == "washer":
        assert volume == pytest.approx((disc(row[1]) - disc(row[0])) * row[2], rel=1e-6)
    elif s.role == "nut":
        whole = (hexagon(row[0]) - disc(SCREWS[size].diameter)) * row[1]
        assert 0.9 < volume / whole < 1.0
        assert high[1] - low[1] == pytest.approx(row[0], abs=1e-4)
    elif s.role == "pin":
        d, c = row[:2]
        inner = d - 2 * c * math.tan(math.radians(15))
        assert volume == pytest.approx(disc(d) * (length - 2 * c) + 2 * cone(inner, d, c), rel=1e-6)
    elif standard == "ISO 7045":
        dk, k = row[:2]
        head = volume - tipped(SCREWS[size], length)
        v = 0.35 * k
        plain = disc(dk) * (k - v) + cone(dk, dk - 2 * v, v)
        w, a = dk / 5, 0.56 * dk
        assert head == pytest.approx(plain - (2 * w * a - w * w) * 0.55 * k, rel=1e-6)
    else:
        _, h, d2, b = row
        outer, w = d2 / 2 + b, 0.15 * d2

        # The ring less what lies in the strip |y| < w of the half x > 0.
        def under(r):
            return w * math.sqrt(r * r - w * w) + r * r * math.asin(w / r)

        gap = under(outer) - under(d2 / 2)
        assert volume == pytest.approx((disc(2 * outer) - disc(d2) - gap) * h, rel=1e-6)
    assert built.volume > 0


def test_shortest_and_longest_are_made_and_others_refused_with_the_nearest():
    for name, s in STANDARDS.items():
        size = list(s.sizes)[len(s.sizes) // 2]
        lengths = s.lengths(size)
        if not lengths:
            continue
        assert list(lengths) == sorted(set(lengths))
        for length in (lengths[0], lengths[-1]):
            made(name, size, length)
        with pytest.raises(BadInput, match="is not made"):
            s.checked(size, lengths[-1] + 1000.0)
        m = Maker()
        m.step("hardware", standard=name, size=size, length=f"{lengths[0] + 0.37} mm")
        assert f"near it: {lengths[0]:g}" in m.build().steps[0].error.text
    with pytest.raises(BadInput, match="has no size M7"):
        STANDARDS["ISO 4762"].checked("M7", 20.0)
    assert STANDARDS["ISO 4762"].title("M6", 20.0) == "ISO 4762 M6 x 20"
    assert STANDARDS["ISO 7089"].title("M6", 0.0) == "ISO 7089 M6"


def test_a_screw_bears_its_thread_and_the_port_it_sits_by():
    built, body = made("ISO 4762", "M6", 45.0)
    (step,) = built.steps
    datum = step.products["datum"]
    assert (datum.form, datum.frame.origin, datum.frame.z) == ("port", (0, 0, 0), (0, 0, -1))
    ((mark,),) = built.marks.values()
    # Threaded over 2 d + 12 from the tip; the faces it lies on are there.
    assert mark.length == pytest.approx(24 - 0.6134)
    assert mark.frame.origin[2] == pytest.approx(-45 + 0.6134)
    assert set(mark.faces) <= set(body.names)
    assert "s1/seat" in body.names
    assert "s1/shank" in body.names


SCREWED = [(s, size) for s, k in STANDARDS.items() if k.role == "screw" for size in k.sizes]


@given(
    st.sampled_from(SCREWED), st.floats(0.5, 60), st.floats(0.3, 40), st.booleans(),
    st.integers(0, 2), st.booleans(),
)  # fmt: skip
@settings(max_examples=300, deadline=None)
def test_a_screw_fills_its_nut_or_its_thread_and_is_no_longer_than_it_need_be(
    screwed, grip, depth, washer, fit, tapped
):
    name, size = screwed
    standard, screw = STANDARDS[name], SCREWS[size]
    hole = screw.clear[fit]
    bores = [Bore(hole, 0.0, grip)]
    if tapped:
        bores.append(Bore(screw.drill, grip, grip + depth))
    found = stacked(Wish(name, size, washer=washer), bores, not tapped, hole)
    main = next(i for i in found.items if i.standard == name)
    made = standard.lengths(size)
    under = main.height
    far = [i for i in found.items if i.far]
    assert main.length in made
    assert found.grip == pytest.approx(grip)
    assert found.tapped == tapped
    if tapped:
        assert not far
        held = main.length - under - grip
        # A blind hole: it never reaches the bottom but for want of a shorter one, and no other length
        # that fits is held nearer to one and a half diameters.
        room = max(depth - screw.pitch, 0.0)
        if main.length > made[0]:
            assert held <= room + 1e-6
        for m in made:
            other = m - under - grip
            if other <= room + 1e-6 and held <= room + 1e-6:
                assert abs(held - 1.5 * screw.diameter) <= abs(other - 1.5 * screw.diameter) + 1e-6
        held = min(max(held, 0.0), depth)
        assert found.notes or held >= screw.diameter - 1e-6
        return
    nuts = [i for i in far if STANDARDS[i.standard].role == "nut"]
    if not nuts:
        assert "nothing holds it" in " ".join(found.notes)
        return
    (nut,) = nuts
    out = main.length - under - grip - nut.height - STANDARDS[nut.standard].height(size)
    shorter = [m for m in made if m < main.length]
    if main.length < made[-1]:
        assert out >= 2 * screw.pitch - 1e-6
    if out < -1e-6:
        assert "too short" in " ".join(found.notes)
    if shorter:
        assert out - (main.length - shorter[-1]) < 2 * screw.pitch


def test_the_size_is_read_off_the_hole():
    for size in STANDARDS["ISO 4762"].sizes:
        for hole in SCREWS[size].clear:
            assert size in fitting(STANDARDS["ISO 4762"], hole)
        medium = fitting(STANDARDS["ISO 4762"], SCREWS[size].clear[1])
        assert medium[0] == size
        assert size in fitting(STANDARDS["ISO 4762"], SCREWS[size].drill)
    assert fitting(STANDARDS["ISO 8734"], 6.0) == ["6"]
    assert fitting(STANDARDS["ISO 8734"], 6.4) == []
    with pytest.raises(BadInput, match="nearest is 6"):
        stacked(Wish("ISO 8734"), [Bore(6.4, 0.0, 10.0)], True, 6.4)

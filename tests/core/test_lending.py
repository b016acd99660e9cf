"""What a part takes from a neighbour: the same geometry elsewhere, and whether it is still the same."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_sharing import block, rod, turns
from vireo.core.assembly.pose import rotation_of
from vireo.core.geometry import Frame
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.lending import lent, same_shape, taken_up
from vireo.core.kernel.locate import length_of
from vireo.core.kernel.measure import area_of, volume_of
from vireo.core.kernel.primitive import primitive
from vireo.core.kernel.shape import Body

STILL = (np.eye(3), np.zeros(3))


def drilled(*at, diameter=6.0):
    """A plate of 80 x 80 x 5 mm about the origin with bores; its top is face `top`."""
    plate = block((-40, -40, 0), (40, 40, 5))
    body = combine(
        "cut", plate, [rod(x, y, -1, 6, diameter, f"s{k + 3}") for k, (x, y) in enumerate(at)]
    )
    return Body(body.shape, tuple(f"n{k}" for k in range(len(body.names)))), top_of(body)


def top_of(body):
    """The face at z = 5 with the bores in it."""
    found = max(range(len(body.faces)), key=lambda k: (area_of(body.faces[k]), body.names[k]))
    return found


def square(turn):
    """Four bores on a circle, turned by an angle in degrees."""
    angles = np.radians(turn + np.array([0, 90, 180, 270]))
    return [(20 * np.cos(a), 20 * np.sin(a)) for a in angles]


def face(body, index):
    taken = lent(body, ((index,), ()), (), STILL)
    return Body(taken.shape, ("top",))


@settings(max_examples=15, deadline=None)
@given(q=turns, p=st.tuples(*[st.floats(-400, 400)] * 3))
def test_what_is_lent_has_its_sizes_wherever_it_stands_and_carried_back_is_the_same(q, p):
    body, top = drilled((10, 5), (-20, 13))
    turn = rotation_of(np.array(q) / np.linalg.norm(q))
    there = lent(body, ((top,), ()), (), (turn, np.array(p)))
    assert area_of(there.faces[0]) == pytest.approx(area_of(body.faces[top]), rel=1e-9)
    back = lent(there, ((0,), ()), (), (turn.T, -turn.T @ np.array(p)))
    assert same_shape(back, lent(body, ((top,), ()), (), STILL))
    moved = lent(there, None, (), (np.eye(3), np.array([0.0, 0.0, 0.001])))
    assert not same_shape(there, moved)
    whole = lent(body, None, (), (turn, np.array(p)))
    # Every name is still that of its own face.
    names = [{n: area_of(f) for n, f in zip(b.names, b.faces, strict=True)} for b in (body, whole)]
    assert names[0] == pytest.approx(names[1], rel=1e-9)
    stored = taken_up(whole.to_bytes(), whole.names)
    assert same_shape(stored, whole)
    assert volume_of(whole.shape) == pytest.approx(volume_of(body.shape), rel=1e-9)
    edge = lent(body, ((), (0, 3)), ("a", "b"), (turn, np.array(p)))
    assert [length_of(e) for e in edge.edges] == pytest.approx(
        [length_of(body.edges[k]) for k in (0, 3)]
    )


@given(turn=st.floats(1.0, 89.0))
@settings(max_examples=12, deadline=None)
def test_a_pattern_turned_in_its_own_face_is_not_the_same(turn):
    """Area, middle and second moments of four bores on a circle stay: the bores do not."""
    one, other = (face(*drilled(*square(a))) for a in (0.0, turn))
    assert not same_shape(one, other)
    assert same_shape(one, face(*drilled(*square(0.0))))


@pytest.mark.parametrize("axis", [0, 1, 2])
def test_a_mirror_image_is_not_the_same(axis):
    """An L about its own middle, in planes of each kind."""
    x, z = [((0.0, 1.0, 0.0), (1.0, 0.0, 0.0)), ((0.0, 0.0, 1.0), (0.0, 1.0, 0.0)),
            ((1.0, 0.0, 0.0), (0.0, 0.0, 1.0))][axis]  # fmt: skip

    def wedge(ridge):
        sizes = {"width": 30.0, "depth": 20.0, "height": 20.0, "ridge": ridge}
        return primitive("wedge", sizes, Frame((0.0, 0.0, 0.0), x, z), "s1")

    body = wedge(10.0)
    whole = Body(body.shape, tuple(f"n{k}" for k in range(len(body.faces))))
    flip = np.eye(3)
    flip[axis, axis] = flip[(axis + 1) % 3, (axis + 1) % 3] = -1.0
    turned = lent(whole, None, (), (flip, np.zeros(3)))
    assert not same_shape(whole, turned)
    assert same_shape(whole, lent(turned, None, (), (flip, np.zeros(3))))

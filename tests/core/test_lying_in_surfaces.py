"""Faces that lie in the same surface at two poses: against points of the surfaces themselves."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from vireo.core.assembly.pose import Pose
from vireo.core.motion.surfaces import Surfaces
from vireo.core.naming.topology import FaceInfo

KINDS = ("plane", "cylinder", "cone", "sphere", "torus", "freeform")
unit = st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: np.linalg.norm(v) > 0.2)
place = st.tuples(*[st.floats(-80, 80)] * 3)


def turn(axis, angle):
    """A rotation about an axis (Rodrigues)."""
    x, y, z = np.array(axis) / np.linalg.norm(axis)
    k = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.eye(3) + np.sin(angle) * k + (1 - np.cos(angle)) * k @ k


def pose(rotation, p):
    matrix = np.eye(4)
    matrix[:3, :3], matrix[:3, 3] = rotation, p
    return Pose.of(matrix)


def off(kind, points, at, way):
    """How far points are off a surface of size 5 (a cone of 30 degrees from its apex, a ring of 12 and 5)."""
    d = points - at
    along = d @ way
    beside = np.linalg.norm(d - np.outer(along, way), axis=1)
    return {
        "plane": along, "cylinder": beside - 5, "sphere": np.linalg.norm(d, axis=1) - 5,
        "cone": beside - np.tan(np.pi / 6) * along, "torus": np.hypot(beside - 12, along) - 5,
        "freeform": beside - 5 - np.sin(along),
    }[kind]  # fmt: skip


def on(kind, at, way):
    """Points of that surface."""
    x = np.cross(way, (1, 0, 0) if abs(way[0]) < 0.7 else (0, 1, 0))
    x /= np.linalg.norm(x)
    y = np.cross(way, x)
    found = []
    for a in np.linspace(0.3, 6, 7):
        for s in (-0.7, 0.4, 2.1):
            ring = np.cos(a) * x + np.sin(a) * y
            found.append(at + {
                "plane": 9 * s * ring, "cylinder": 5 * ring + 9 * s * way,
                "sphere": 5 * (np.cos(s) * ring + np.sin(s) * way),
                "cone": (s + 1) * (np.tan(np.pi / 6) * ring + way),
                "torus": (12 + 5 * np.cos(s)) * ring + 5 * np.sin(s) * way,
                "freeform": (5 + np.sin(s)) * ring + s * way,
            }[kind])  # fmt: skip
    return np.array(found)


@given(
    st.lists(st.tuples(place, unit), min_size=6, max_size=6), st.integers(0, 5), unit, place, st.floats(0, 6),
    st.sampled_from([None, "about", "along", "across", "anyhow"]), st.floats(0.3, 3), st.floats(0.1, 30),
)  # fmt: skip
def test_a_surface_is_kept_where_its_points_stay_on_it(stood, mine, axis, p, angle, move, by, far):
    """One face of each kind, moved about, along, across the axis of one of them, or anyhow."""
    faces = [
        FaceInfo(kind, kind, 1.0, at, at, tuple(np.array(way) / np.linalg.norm(way)))
        for kind, (at, way) in zip(KINDS, stood, strict=True)
    ]
    one = pose(turn(axis, angle), np.array(p))
    own = faces[mine]
    way, at = one.rotation @ np.array(own.direction), one.rotation @ np.array(own.origin) + one.p
    beside = np.cross(way, (0.6, 0.64, 0.48))
    moves = {
        None: (np.eye(3), np.zeros(3)), "about": (turn(way, by), at - turn(way, by) @ at),
        "along": (np.eye(3), far * way), "across": (np.eye(3), far * beside),
        "anyhow": (turn((0.3, -0.5, 0.8), by), np.array((far, 1.0, -2.0))),
    }  # fmt: skip
    m, shift = moves[move]
    two = pose(m @ one.rotation, m @ one.p + shift)
    kept = Surfaces(faces).kept(one, two)
    for face, stays in zip(faces, kept, strict=True):
        was = (
            one.rotation @ np.array(face.origin) + one.p,
            one.rotation @ np.array(face.direction),
        )
        points = on(face.kind, *was) @ m.T + shift
        worst = np.abs(off(face.kind, points, *was)).max()
        if stays:
            assert worst < 1e-4, (face.kind, move, worst)
        elif face.kind != "freeform":
            assert worst > 1e-7, (face.kind, move, worst)

"""What is measured of a body, mapped on it or written of it does not depend on how it lies."""

from functools import lru_cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.core.gallery import GALLERY
from vireo.core.exchange.meshfile import read_mesh
from vireo.core.kernel.exchange import Placed, printed, write_step
from vireo.core.kernel.facets import closed, facet_body
from vireo.core.kernel.heal import diagnose
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import mass_properties, roughly, topology_of, volume_of
from vireo.core.kernel.place import located
from vireo.core.kernel.shape import Body, solids_of
from vireo.core.maps.kind import made
from vireo.core.printing import stl

#: Turned, moulded, printed, cast, swept, lofted: faces of every kind.
PARTS = [
    "turned_shaft",
    "lidded_box",
    "swept_handle",
    "lofted_hopper",
    "cast_housing",
    "threaded_knob",
]
AWAY = np.array([31.0, -17.0, 200.0])


@lru_cache
def upright(name: str) -> Body:
    maker = GALLERY[name]().maker
    found = maker.build()
    return maker.cache.body(next(iter(found.bodies.values()))["key"])


def turned(body: Body, rotation: np.ndarray) -> Body:
    return Body(located(body.shape, rotation, AWAY), body.names)


turns = st.integers(0, 2**20).map(lambda seed: Rotation.random(random_state=seed).as_matrix())


@pytest.mark.parametrize("name", PARTS)
@given(turn=turns)
@settings(max_examples=2, deadline=None)
def test_mass_and_faces(name, turn):
    body = upright(name)
    there = turned(body, turn)
    a, b = mass_properties(body), mass_properties(there)
    # Face by face comes out what the kernel finds over the whole.
    assert a.volume == pytest.approx(roughly(body.shape, 1e-7), rel=1e-6)
    assert (b.volume, b.area) == pytest.approx((a.volume, a.area), rel=1e-6)
    assert b.centre == pytest.approx(turn @ a.centre + AWAY, abs=1e-5)
    assert b.inertia == pytest.approx(turn @ a.inertia @ turn.T, abs=1e-5 * np.trace(a.inertia))
    faces = [[(f.kind, f.area) for f in topology_of(x).faces] for x in (body, there)]
    assert [k for k, _ in faces[0]] == [k for k, _ in faces[1]]
    assert [s for _, s in faces[0]] == pytest.approx([s for _, s in faces[1]], rel=1e-5)


@pytest.mark.parametrize("name", PARTS)
@given(turn=turns)
@settings(max_examples=1, deadline=None)
def test_the_thinnest_wall(name, turn):
    thin, there = (
        made("thickness", b, (0, 0, 1)) for b in (upright(name), turned(upright(name), turn))
    )
    assert there.places[0].value == pytest.approx(thin.places[0].value, rel=1e-3, abs=1e-4)


@pytest.mark.parametrize("name", PARTS)
@given(turn=turns)
@settings(max_examples=1, deadline=None)
def test_files_there_and_back(name, turn, tmp_path_factory):
    body = turned(upright(name), turn)
    path = tmp_path_factory.mktemp("files") / "x.step"
    write_step("x", [Placed("x", body, "#aaaaaa", np.eye(3), np.zeros(3))], str(path))
    shape = read_shape(path.read_bytes()).shape
    assert diagnose(shape) == []
    assert sum(volume_of(s) for s in solids_of(shape)) == pytest.approx(
        volume_of(body.shape), rel=1e-5
    )
    # As a mesh in four bytes a number: the body of its facets has the volume of its triangles.
    mesh = printed("x", "#aaaaaa", body, 0.5, 0.6)
    (back,) = read_mesh(stl([mesh], text=False))
    a, b, c = (mesh.points[mesh.triangles[:, k]] for k in range(3))
    volume = float(np.einsum("ij,ij->", a - AWAY, np.cross(b - AWAY, c - AWAY))) / 6
    assert volume_of(facet_body(closed(back, close=False), "s1").shape) == pytest.approx(
        volume, rel=1e-4
    )

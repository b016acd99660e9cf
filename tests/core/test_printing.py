"""Meshes for printers: read back by another library, laid, and looked over."""

import io
import math
import zipfile

import numpy as np
import pytest
from lib3mf import get_wrapper

from tests.core.parts import Maker, block
from tests.core.test_maps import tray
from vireo.core.exchange.meshfile import read_mesh
from vireo.core.kernel.exchange import printed
from vireo.core.kernel.measure import volume_of
from vireo.core.printing import lay, read_size, review, stl, threemf
from vireo.core.printing.review import thin_walls

BED = (220.0, 220.0, 250.0)
STEEP = math.radians(45)


def bodies(m: Maker, chord=0.02):
    found = m.build().bodies
    return [printed(b["name"], b["colour"], m.cache.body(b["key"]), chord) for b in found.values()]


def solid_volume(points, triangles) -> float:
    t = points[triangles]
    return float(np.einsum("ij,ij->", t[:, 0], np.cross(t[:, 1], t[:, 2])) / 6)


def pair() -> Maker:
    m = block(holes=((20.0, 20.0),))
    m.step("hole", sketch="s1", bore="16 mm")
    m.step("primitive", form="sphere", diameter="20 mm", x="120 mm", z="10 mm")
    m.do("set_body", body="b_s2", name="Plate & <bore>", colour="#aa3311")
    m.do("set_body", body="b_s4", name="Kügelchen", colour="#2266cc")
    return m


def test_3mf_is_read_by_the_consortiums_own_library():
    m = pair()
    data = threemf(bodies(m), "A title")
    assert data == threemf(bodies(m), "A title")  # the same bytes again
    wrapper = get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(data)
    assert reader.GetWarningCount() == 0
    found, objects = {}, model.GetMeshObjects()
    while objects.MoveNext():
        mesh = objects.GetCurrentMeshObject()
        assert mesh.IsManifoldAndOriented()
        points = np.array([v.Coordinates[:] for v in mesh.GetVertices()])
        triangles = np.array([t.Indices[:] for t in mesh.GetTriangleIndices()])
        found[mesh.GetName()] = solid_volume(points, triangles)
    exact = {b["name"]: b["volume"] for b in m.build().bodies.values()}
    assert set(found) == {"Plate & <bore>", "Kügelchen"} == set(exact)
    for name, v in exact.items():
        assert found[name] == pytest.approx(v, rel=5e-3)
    groups = model.GetBaseMaterialGroups()
    assert groups.MoveNext()
    group = groups.GetCurrentBaseMaterialGroup()
    tones = [group.GetDisplayColor(i) for i in group.GetAllPropertyIDs()]
    assert [(c.Red, c.Green, c.Blue) for c in tones] == [(0xAA, 0x33, 0x11), (0x22, 0x66, 0xCC)]
    # And by our own, as an import would.
    assert len(read_mesh(data)) == 2


@pytest.mark.parametrize("text", [False, True])
def test_stl_of_both_kinds_holds_the_solid(text):
    m = block(holes=((20.0, 20.0),))
    m.step("hole", sketch="s1", bore="16 mm")
    one = bodies(m, 0.01)
    (mesh,) = read_mesh(stl(one, text))
    exact = volume_of(m.body()[1].shape)
    assert solid_volume(mesh.points, mesh.corners) == pytest.approx(exact, rel=2e-4)


@pytest.mark.parametrize(
    "down", [(1.0, 0, 0), (0, -1.0, 0), (0, 0, 1.0), (0, 0, -1.0), (0.6, 0, 0.8)]
)
def test_a_face_lies_down_and_nothing_is_bent(down):
    one = bodies(block())
    laid = lay(one, down)
    assert laid.rotation @ np.array(down) == pytest.approx([0, 0, -1], abs=1e-12)
    assert np.linalg.det(laid.rotation) == pytest.approx(1)
    points = laid.bodies[0].points
    assert points[:, 2].min() == pytest.approx(0, abs=1e-9)
    assert np.ptp(points, axis=0)[:2].max() / 2 == pytest.approx(np.abs(points[:, :2]).max())
    assert solid_volume(points, laid.bodies[0].triangles) == pytest.approx(24000)


def table() -> Maker:
    """A plate of 40 x 40 x 5 on a leg of 10 x 10 x 20 in its middle."""
    m = Maker()
    m.step("primitive", width="10 mm", depth="10 mm", height="20 mm", x="15 mm", y="15 mm")
    m.step("primitive", width="40 mm", depth="40 mm", height="5 mm", z="20 mm", result="add")
    return m


def test_overhangs_rests_and_sizes_are_told():
    upright = review(lay(bodies(table()), None).bodies, BED, STEEP)
    assert upright.overhangs == pytest.approx(1600 - 100)
    assert upright.rests == pytest.approx(100)
    assert upright.volume == pytest.approx(2000 + 8000)
    assert any("overhangs with 1500 mm²" in t.text and t.at for t in upright.troubles)
    turned = review(lay(bodies(table()), (0, 0, 1.0)).bodies, BED, STEEP)
    assert (turned.overhangs, turned.rests) == (pytest.approx(0), pytest.approx(1600))
    assert turned.troubles == ()
    small = review(lay(bodies(table()), None).bodies, (30.0, 30.0, 250.0), STEEP)
    assert "40.0 mm in X against 30" in small.troubles[0].text
    assert read_size(bodies(table())) == pytest.approx((40, 40, 25))


def test_leaning_faces_count_by_their_angle():
    m = Maker()
    m.step("primitive", form="cone", diameter="10 mm", top="40 mm", height="15 mm")  # 45 degrees
    one = lay(bodies(m, 0.006), None).bodies
    assert review(one, BED, math.radians(46)).overhangs == pytest.approx(0)
    lateral = math.pi * (5 + 20) * math.hypot(15, 15)
    assert review(one, BED, math.radians(44)).overhangs == pytest.approx(lateral, rel=2e-3)


def test_a_mesh_that_is_not_closed_is_told():
    (one,) = bodies(block())
    broken = type(one)(one.name, one.colour, one.points, one.triangles[1:])
    assert any("is not closed: 3 edges" in t.text for t in review([broken], BED, STEEP).troubles)


def test_a_package_has_the_parts_the_specification_asks_for():
    with zipfile.ZipFile(io.BytesIO(threemf(bodies(block()), "x"))) as z:
        assert set(z.namelist()) == {"[Content_Types].xml", "_rels/.rels", "3D/3dmodel.model"}


def test_thin_walls_are_told_with_their_places_wherever_the_part_lies():
    m = tray(0.6, 1.2)
    _, body = m.body()
    (thin, *_) = found = thin_walls("Tray", body, 0.8)
    assert "Tray has a wall of 0.6 mm, below 0.8 mm" in thin.text
    assert min(abs(thin.at[0]), abs(thin.at[0] - 0.6)) < 1e-6
    assert all("0.6 mm" in t.text for t in found)
    assert thin_walls("Tray", body, 0.6) == []
    laid = lay(bodies(table()), (1.0, 0, 0))
    there = laid.there((1.0, 2.0, 3.0))
    assert laid.back(there) == pytest.approx((1.0, 2.0, 3.0))
    # What stood at the far end along X lies on the bed.
    assert laid.there((max(p[0] for b in bodies(table()) for p in b.points), 0, 0))[
        2
    ] == pytest.approx(0)

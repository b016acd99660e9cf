"""Files in and out, and refusing what cannot be used."""

import io
import json
import struct
import zipfile

import numpy as np
import pytest

from tests.core.parts import block
from vireo.core.documents import new_document
from vireo.core.documents.archive import read_archive, write_archive
from vireo.core.kernel.exchange import Placed, printed, write_step
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.mesh import _read_fast, _read_slow, tessellate
from vireo.core.kernel.shape import Body, solids_of
from vireo.core.printing import stl
from vireo.core.trouble import BadInput


def test_step_keeps_volume_and_names(tmp_path):
    m = block(holes=((10.0, 10.0),))
    m.step("hole", sketch="s1", bore="6 mm")
    body = m.body()[1]
    still = (np.eye(3), np.zeros(3))
    turn = np.array([[0.0, -1, 0], [1, 0, 0], [0, 0, 1]])
    parts = [
        Placed("Plättchen eins", body, "#b4bdb8", *still, prototype="Plättchen"),
        Placed(
            "Plättchen zwei", body, "#b4bdb8", turn, np.array([100.0, 0, 0]), prototype="Plättchen"
        ),
    ]
    path = tmp_path / "x.step"
    write_step("Gruppe", parts, str(path))
    found = solids_of(read_shape(path.read_bytes()).shape)
    assert [volume_of(b) for b in found] == pytest.approx([volume_of(body.shape)] * 2)
    text = path.read_text(errors="replace")
    assert "Gruppe" in text
    assert text.count("MANIFOLD_SOLID_BREP") == 1  # one prototype, two occurrences


def test_stl_volume_approaches_the_solid():
    m = block(holes=((20.0, 20.0),))
    m.step("hole", sketch="s1", bore="16 mm")
    body = m.body()[1]
    errors = []
    for chord in (0.5, 0.0074):
        data = stl([printed("x", "#aaaaaa", body, chord)], False)
        (count,) = struct.unpack("<I", data[80:84])
        assert len(data) == 84 + 50 * count
        record = np.frombuffer(
            data[84:], dtype=[("n", "<f4", 3), ("v", "<f4", (3, 3)), ("a", "<u2")]
        )
        v = record["v"].astype(float)
        volume = np.einsum("ij,ij->", v[:, 0], np.cross(v[:, 1], v[:, 2])) / 6
        errors.append(abs(volume - volume_of(body.shape)) / volume)
    assert errors[1] < 1e-4 < errors[0]
    with pytest.raises(BadInput, match=r"the finest is 0\.0073 mm"):
        printed("x", "#aaaaaa", body, 0.007)


def test_meshes_are_closed_and_look_outwards():
    body = block(holes=((20.0, 20.0),)).body()[1]
    mesh = tessellate(body)
    a, b, c = (mesh.points[mesh.triangles[:, k]] for k in range(3))
    flat = np.cross(b - a, c - a)
    assert np.einsum("ij,ij->", a, flat) / 6 == pytest.approx(24000, rel=1e-6)
    assert np.all(np.einsum("ij,ij->i", flat, mesh.normals[mesh.triangles[:, 0]]) > 0)
    assert mesh.face_starts[-1] == len(mesh.triangles)
    assert len(mesh.edge_starts) == 13


def test_fast_and_slow_mesh_reading_agree():
    from OCP.BRep import BRep_Tool
    from OCP.TopLoc import TopLoc_Location

    body = block().body()[1]
    tessellate(body)
    for face in body.faces:
        t = BRep_Tool.Triangulation_s(face, TopLoc_Location())
        for fast, slow in zip(_read_fast(t), _read_slow(t), strict=True):
            np.testing.assert_allclose(fast, slow, atol=1e-6)


def test_bodies_survive_bytes_with_their_names():
    body = block().body()[1]
    again = Body.from_bytes(body.to_bytes(), body.names)
    assert again.names == body.names
    with pytest.raises(ValueError, match="do not match"):
        Body.from_bytes(body.to_bytes(), body.names[:-1])


def archive(**changes):
    documents = [("d1", block().part), ("d2", new_document("study", "S", part="d1"))]
    return write_archive("P", {"materials": []}, documents, [])


def test_project_zip_is_identical_after_a_round_trip():
    data = archive()
    name, settings, documents, files, _ = read_archive(data)
    assert write_archive(name, settings, list(documents.items()), files) == data


def _zip(files):
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as z:
        for name, content in files.items():
            z.writestr(name, content)
    return stream.getvalue()


PROJECT = {"format": 1, "name": "x", "documents": ["d1"], "files": {}}


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"nothing", "not a project zip"),
        (_zip({"a.txt": "b"}), "lacks project.json"),
        (_zip({"project.json": "{"}), "not readable JSON"),
        (_zip({"project.json": json.dumps({"format": 99})}), "no project of a format"),
        (
            _zip({"project.json": json.dumps({**PROJECT, "documents": ["../../etc"]})}),
            "not allowed",
        ),
        (
            _zip({"project.json": json.dumps(PROJECT), "documents/d1.json": "[" * 5000}),
            "not readable JSON",
        ),
        (
            _zip({"project.json": json.dumps(PROJECT), "documents/d1.json": '{"kind":"part"}'}),
            "cannot be read",
        ),
        (_zip({"project.json": b" " * 40_000_000}), "far more than it holds"),
    ],
)
def test_zips_that_are_no_project_are_refused(data, says):
    with pytest.raises(BadInput, match=says):
        read_archive(data)

"""Files brought in: every format, faults found where they are, mended at a told cost."""

import io
import math
import re
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.BinTools import BinTools
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex, BRepBuilderAPI_Transform
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Pnt, gp_Trsf, gp_Vec
from OCP.IGESControl import IGESControl_Controller, IGESControl_Writer
from OCP.STEPControl import STEPControl_Reader
from OCP.TopAbs import TopAbs_SHELL
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS
from scipy.spatial.transform import Rotation

from tests.core.parts import Maker, block
from tests.core.test_grow import trouble, volume
from vireo.core.exchange.coarse import farthest
from vireo.core.exchange.meshfile import Triangles, read_mesh
from vireo.core.kernel import facets
from vireo.core.kernel.exchange import Placed, printed, write_step
from vireo.core.kernel.facets import closed, facet_body
from vireo.core.kernel.intake import form_of, read_shape
from vireo.core.kernel.measure import area_centre, area_of, distance_between, volume_of
from vireo.core.kernel.shape import Body, compound_of, faces_of, solids_of
from vireo.core.printing import Printed
from vireo.core.printing import stl as write_stl
from vireo.core.steps import imported
from vireo.core.trouble import BadInput


def bored():
    m = block(holes=((20.0, 20.0),))
    m.step("hole", sketch="s1", bore="16 mm")
    return m.body()[1]


EXACT = 24000 - math.pi * 64 * 10


def as_step(body: Body, tmp_path) -> bytes:
    path = tmp_path / "x.step"
    write_step("x", [Placed("x", body, "#aaaaaa", np.eye(3), np.zeros(3))], str(path))
    return path.read_bytes()


def as_iges(body: Body, tmp_path, solid: bool) -> bytes:
    IGESControl_Controller.Init_s()
    writer = IGESControl_Writer("MM", int(solid))
    writer.AddShape(body.shape)
    writer.ComputeModel()
    writer.Write(str(tmp_path / "x.igs"), False)
    return (tmp_path / "x.igs").read_bytes()


def as_brep(shape, tmp_path) -> bytes:
    BRepTools.Write_s(shape, str(tmp_path / "x.brep"))
    return (tmp_path / "x.brep").read_bytes()


def as_binary_brep(shape) -> bytes:
    out = io.BytesIO()
    BinTools.Write_s(shape, out)
    return out.getvalue()


def brought(data: bytes, **fields) -> Maker:
    m = Maker()
    m.builder.blob = {"f": data}.__getitem__
    m.step("import", file="f", source="x", form=form_of(data), **fields)
    return m


def test_every_format_gives_the_same_solid(tmp_path):
    body = bored()
    files = [
        as_step(body, tmp_path), as_iges(body, tmp_path, True), as_iges(body, tmp_path, False),
        as_brep(body.shape, tmp_path), as_binary_brep(body.shape),
    ]  # fmt: skip
    assert [form_of(d) for d in files] == ["step", "iges", "iges", "brep", "brep"]
    for data in files:
        m = brought(data)
        assert volume(m) == pytest.approx(EXACT, rel=5e-6)  # IGES keeps circles as splines
        assert m.body()[1].names[0] == "s1/solid0/face0"


@pytest.mark.parametrize(
    "data",
    [b"", b"hello", b"ISO-10303-21;\nHEADER;\n", b"\x00" * 5000,
     b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=NONSENSE(\x01);\nENDSEC;\nEND-ISO-10303-21;\n",
     b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n",
     b" " * 72 + b"S      1\n" + b"x" * 80, b"DBRep_DrawableShape\n\nCASCADE Topology V3\n"],
)  # fmt: skip
def test_files_that_are_no_usable_shape_are_refused(data):
    with pytest.raises(BadInput):
        read_shape(data)


@pytest.mark.parametrize("share", [0.1, 0.5, 0.9, 0.99])
def test_files_cut_short_are_refused(tmp_path, share):
    body = bored()
    for whole in (
        as_step(body, tmp_path),
        as_iges(body, tmp_path, True),
        as_brep(body.shape, tmp_path),
        as_binary_brep(body.shape),
    ):
        with pytest.raises(BadInput):
            read_shape(whole[: int(share * len(whole))])


def loosened(body: Body, by: float, leave_out: int | None = None):
    """The faces of a body as separate sheets, each moved a little its own way."""
    faces = []
    for i, face in enumerate(body.faces):
        move = gp_Trsf()
        move.SetTranslation(gp_Vec(by * (i % 2), by * (i % 3 == 1), by * (i % 5 == 3)))
        if i != leave_out:
            faces.append(TopoDS.Face(BRepBuilderAPI_Transform(face, move, True, False).Shape()))
    return compound_of(faces)


def test_gaps_are_told_with_place_and_width_and_mended_for_a_price(tmp_path):
    by = 0.004
    m = brought(as_brep(loosened(block().body()[1], by), tmp_path))
    error = trouble(m)
    assert "a gap of" in error.text
    assert len(error.lines) >= 2
    widest = max(
        min(math.dist(p, q) for other in error.lines if other is not line for q in other)
        for line in error.lines
        for p in line[:1]
    )
    assert widest < 2 * by
    m.do("edit_step", id="s1", fields=error.offers[0].fields)
    assert volume(m) == pytest.approx(24000, rel=1e-3)
    note = m.build().steps[0].notes[0].text
    assert "gaps closed" in note
    assert "edges now lie within 0.00" in note
    m.do("edit_step", id="s1", fields={"within": "0.0001 mm"})
    assert "within 0.0001 mm it still has" in trouble(m).text


def test_a_missing_face_shows_the_edges_round_the_hole(tmp_path):
    m = brought(as_brep(loosened(block().body()[1], 0.0, leave_out=2), tmp_path))
    error = trouble(m)
    assert "a loose edge" in error.text
    assert len(error.lines) == 4


# --- meshes


def cube(n=1, size=10.0, skip=()):
    """Triangles of a cube with n x n squares a side, outside looking out."""
    t = np.linspace(0, size, n + 1)
    found = []
    for axis in range(3):
        for end in (0.0, size):
            for i in range(n):
                for j in range(n):
                    q = [(t[i], t[j]), (t[i + 1], t[j]), (t[i + 1], t[j + 1]), (t[i], t[j + 1])]
                    p = np.array([np.insert(np.array(c), axis, end) for c in q])
                    if (axis == 1) == (end > 0):
                        p = p[::-1]
                    found += [p[[0, 1, 2]], p[[0, 2, 3]]]
    return np.array([tri for k, tri in enumerate(found) if k not in skip])


def stl(tri, text=False) -> bytes:
    if text:
        words = ["solid x"]
        for t in tri:
            words.append("facet normal 0 0 0\nouter loop")
            words += [f"vertex {p[0]} {p[1]} {p[2]}" for p in t] + ["endloop\nendfacet"]
        return "\n".join([*words, "endsolid x"]).encode()
    record = np.zeros(len(tri), dtype=[("n", "<f4", 3), ("v", "<f4", (3, 3)), ("a", "<u2")])
    record["v"] = tri
    return b" " * 80 + len(tri).to_bytes(4, "little") + record.tobytes()


@pytest.mark.parametrize("text", [False, True])
def test_a_mesh_becomes_a_body_with_flat_faces_that_can_be_cut(text):
    m = brought(stl(cube(4), text), unit="cm")
    assert volume(m) == pytest.approx(1e6)
    assert len(m.topology().faces) == 6
    m.step("primitive", form="cylinder", diameter="20 mm", height="100 mm", x="50 mm", y="50 mm",
           result="cut")  # fmt: skip
    assert volume(m) == pytest.approx(1e6 - math.pi * 100 * 100)


def test_a_mesh_of_our_own_comes_back():
    body = bored()
    m = brought(write_stl([printed("x", "#aaaaaa", body, 0.02)], False))
    facets = len(m.topology().faces) - 6
    r2 = 64 * math.sin(2 * math.pi / facets) * facets / 2  # a bore of so many flats, inscribed
    assert volume(m) == pytest.approx(24000 - r2 * 10, rel=1e-5)


@pytest.mark.parametrize(
    ("form", "flats"), [("box", 6), ("wedge", 6), ("cylinder", 2), ("cone", 2), ("torus", 0)]
)
@given(seed=st.integers(0, 2**16))
@settings(max_examples=3, deadline=None)
def test_meshes_are_bodies_however_they_lie(form, flats, seed):
    """Turned and rounded to the four bytes of STL, no corner lies on its planes any more."""
    m = Maker()
    m.step("primitive", form=form)
    of = printed("x", "#aaaaaa", m.body()[1], 0.5, 0.6)
    turn = Rotation.random(random_state=seed).as_matrix()
    points = (of.points @ turn.T + [120.0, -40, 33]).astype(np.float32).astype(float)
    body = facet_body(closed(Triangles(points, of.triangles), close=False), "s1")
    a, b, c = (points[of.triangles[:, k]] for k in range(3))
    volume = float(np.einsum("ij,ij->", a, np.cross(b, c))) / 6
    assert volume_of(body.shape) == pytest.approx(volume, rel=1e-5)
    # Flat faces of the part are one face each again.
    many = [f for f in body.faces if len(Body(f, ("",)).edges) > 4 or flats == 6]
    assert len(many) == flats


def bumpy_ball(n: int, r: float = 50.0) -> Triangles:
    """A closed mesh of about 2 n² triangles, no two of them in one plane."""
    t, p = np.meshgrid(np.pi * np.arange(1, n) / n, 2 * np.pi * np.arange(n) / n, indexing="ij")
    k = r * (1 + 0.1 * np.sin(5 * p) * np.sin(3 * t))
    ring = np.stack([k * np.sin(t) * np.cos(p), k * np.sin(t) * np.sin(p), r * np.cos(t)], axis=-1)
    points = np.vstack([ring.reshape(-1, 3), [[0, 0, r], [0, 0, -r]]])
    i, j = (x.ravel() for x in np.meshgrid(np.arange(n - 2), np.arange(n), indexing="ij"))
    k = (j + 1) % n
    up, down = len(points) - 2, len(points) - 1
    j0 = np.arange(n)
    j1 = (j0 + 1) % n
    last = (n - 2) * n
    corners = np.vstack([
        np.stack([i * n + j, (i + 1) * n + j, (i + 1) * n + k], axis=1),
        np.stack([i * n + j, (i + 1) * n + k, i * n + k], axis=1),
        np.stack([np.full(n, up), j0, j1], axis=1),
        np.stack([np.full(n, down), last + j1, last + j0], axis=1),
    ])  # fmt: skip
    return Triangles(points, corners)


def test_a_mesh_that_is_too_fine_is_made_coarser_at_a_told_cost(monkeypatch):
    for room in (facets, imported):
        monkeypatch.setattr(room, "MOST_FACES", 600)
    ball = bumpy_ball(36)
    m = brought(write_stl([Printed("ball", "#aaaaaa", ball.points, ball.corners)], text=False))
    said = trouble(m)
    assert "up to 600 are made into a body" in said.text
    (offer,) = said.offers
    m.do("edit_step", id="s1", fields=offer.fields)
    body = m.body()[1]
    assert 400 < len(body.names) <= 600
    (note,) = m.build().steps[0].notes
    told = float(re.search(r"at most (.+) mm", note.text)[1])
    assert told < 1.0
    corners = [BRepBuilderAPI_MakeVertex(gp_Pnt(*p)).Vertex() for p in ball.points[::37].tolist()]
    assert max(distance_between(body.shape, v)[0] for v in corners) <= told * 1.01
    # So few that nothing of it is left to speak of is still a solid, or told.
    m.do("edit_step", id="s1", fields={"most": "4"})
    report = m.build().steps[0]
    assert report.error or report.notes


@given(st.integers(0, 10_000))
@settings(max_examples=30, deadline=None)
def test_the_farthest_of_points_from_a_mesh_is_found(seed):
    random = np.random.default_rng(seed)
    ball = bumpy_ball(int(random.integers(4, 12)))
    points = ball.points[random.integers(0, len(ball.points), 9)] * random.uniform(0.8, 1.2, (9, 1))
    body = facet_body(ball, "s1").shape
    corners = [BRepBuilderAPI_MakeVertex(gp_Pnt(*p)).Vertex() for p in points.tolist()]
    shell = TopExp_Explorer(body, TopAbs_SHELL).Current()
    kernel = max(distance_between(shell, v)[0] for v in corners)
    assert farthest(points, ball) == pytest.approx(kernel, abs=1e-6)


def test_holes_in_a_mesh_are_shown_and_closed_flat():
    m = brought(stl(cube(2, skip=(0, 1, 30))))
    error = trouble(m)
    assert "2 holes" in error.text
    assert len(error.lines) == 2
    m.do("edit_step", id="s1", fields=error.offers[0].fields)
    assert volume(m) == pytest.approx(1000)


CORE = 'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"'


def threemf(model: str) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as z:
        z.writestr("3D/3dmodel.model", model)
    return stream.getvalue()


def model(unit="inch", transform="1 0 0 0 1 0 0 0 1 0 0 0", extra="") -> str:
    tri = cube(1, 1.0).reshape(-1, 3)
    points = "".join(f'<vertex x="{p[0]}" y="{p[1]}" z="{p[2]}"/>' for p in tri)
    faces = "".join(
        f'<triangle v1="{3 * k}" v2="{3 * k + 1}" v3="{3 * k + 2}"/>' for k in range(12)
    )
    return (
        f'<?xml version="1.0"?>{extra}<model unit="{unit}" {CORE}><resources><object id="1" '
        f'type="model"><mesh><vertices>{points}</vertices><triangles>{faces}</triangles></mesh>'
        f'</object></resources><build><item objectid="1"/><item objectid="1" '
        f'transform="{transform}"/></build></model>'
    )


def test_3mf_keeps_units_and_placements():
    m = brought(threemf(model(transform="0 1 0 -1 0 0 0 0 1 5 0 0")))
    found = m.build().bodies
    assert [b["volume"] for b in found.values()] == pytest.approx([25.4**3] * 2)
    assert found["b_s1_1"]["centre"] == pytest.approx([4.5 * 25.4, 12.7, 12.7])


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (threemf("<model"), "not readable XML"),
        (threemf(model(extra='<!DOCTYPE x [<!ENTITY a "b">]>')), "entities"),
        (threemf(model(unit="furlong")), "furlong"),
        (threemf(model(transform="1 2")), "placement"),
        (stl(cube())[:-10], "neither"),
        (stl(np.full((1, 3, 3), np.nan)), "no numbers"),
        (stl(np.zeros((0, 3, 3))), "no triangle"),
        (b"solid x\nfacet normal 0 0 0\nouter loop\nvertex 1 2\n", "cut short"),
    ],
)
def test_meshes_that_cannot_be_used_are_refused(data, says):
    with pytest.raises(BadInput, match=says):
        read_mesh(data)


def dressed_file(tmp_path) -> bytes:
    """Two equal hubs, one turned, with a painted face, and a lid."""
    hub, lid = Maker(), Maker()
    hub.step("primitive", width="30 mm", depth="20 mm", height="10 mm")
    lid.step("primitive", form="cylinder", diameter="40 mm", height="5 mm")
    body = hub.body()[1]
    top = body.names.index("s1/top")
    turned = np.array([[0.0, -1, 0], [1, 0, 0], [0, 0, 1]])
    parts = [
        Placed("Hub a", body, "#aa3311", np.eye(3), np.zeros(3), "Hub", {top: "#20c040"}),
        Placed("Hub b", body, "#aa3311", turned, np.array([0, 100.0, 0]), "Hub", {top: "#20c040"}),
        Placed("Lid", lid.body()[1], "#113399", np.eye(3), np.array([0, 0, 50.0]), "Lid, öffnet"),
    ]
    write_step("Roaster", parts, str(tmp_path / "whole.step"))
    return (tmp_path / "whole.step").read_bytes()


def test_names_and_colours_of_a_step_file_come_with_it(tmp_path):
    m = brought(dressed_file(tmp_path))
    found = m.build()
    told = [(b["name"], b["colour"]) for b in found.bodies.values()]
    assert told == [("Hub", "#aa3311"), ("Hub 2", "#aa3311"), ("Lid, öffnet", "#113399")]
    for id in list(found.bodies)[:2]:
        faces = found.state.products["dress"][id].faces
        (painted,) = faces
        (face,) = m.pick("face", lambda f, n=painted: f.name == n, id)
        assert faces[painted] == "#20c040"
        assert face["witness"]["at"][2] == pytest.approx(10)
    # What is said by hand goes before, and all of it can be left.
    m.do("set_body", body="b_s1", name="Left hub", colour="#000000")
    look = m.build().bodies["b_s1"]
    assert (look["name"], look["colour"]) == ("Left hub", "#000000")
    m.do("set_body", body="b_s1", name=None, colour=None)
    m.do("edit_step", id="s1", fields={"dressed": False})
    plain = m.build()
    assert not plain.state.products.get("dress")
    assert "Hub" not in {b["name"] for b in plain.bodies.values()}


def test_dressing_changes_no_name_of_a_face(tmp_path):
    """Files are read in the order the plain reader has: names of faces lean on it."""
    data = dressed_file(tmp_path)
    reader = STEPControl_Reader()
    reader.ReadStream("x", io.BytesIO(data))
    reader.TransferRoots()
    plain = [f for s in solids_of(reader.OneShape()) for f in faces_of(s)]
    ours = [f for s in solids_of(read_shape(data).shape) for f in faces_of(s)]
    assert len(plain) == len(ours) == 15
    for a, b in zip(plain, ours, strict=True):
        assert (area_of(a), *area_centre(a)) == pytest.approx((area_of(b), *area_centre(b)))


@pytest.mark.parametrize(
    "named", ["SOLID", "COMPOUND12", "Open CASCADE STEP translator 7.9 1", "=>[0:1:1:2]", "-"]
)
def test_names_that_writers_make_up_are_no_names(tmp_path, named):
    m = Maker()
    m.step("primitive")
    write_step(
        named,
        [Placed(named, m.body()[1], "#aabbcc", np.eye(3), np.zeros(3))],
        str(tmp_path / "x.step"),
    )
    back = brought((tmp_path / "x.step").read_bytes())
    (body,) = back.build().bodies.values()
    assert (body["name"], body["colour"]) == (back.part.steps[0].name, "#aabbcc")

"""STEP files out: shared by content, named and coloured, read back before they are handed over."""

import numpy as np
import pytest

from tests.core.parts import Maker
from tests.core.test_clearance import box
from vireo.core.geometry import Frame
from vireo.core.kernel import exchange
from vireo.core.kernel.exchange import Placed, write_step
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.place import located
from vireo.core.kernel.primitive import primitive
from vireo.core.kernel.shape import Body, solids_of
from vireo.core.kernel.transform import settled


def cube(size, name="b") -> Body:
    return primitive("box", {"width": size, "depth": size, "height": size}, Frame(), name)


def placed(name, body, x=0.0, colour="#aa3311", prototype="", paints=None, key=""):
    return Placed(name, body, colour, np.eye(3), np.array([x, 0.0, 0.0]), prototype,
                  paints or {}, key)  # fmt: skip


def read(path):
    found = read_shape(path.read_bytes())
    return sorted(volume_of(s) for s in solids_of(found.shape)), found.dresses


def test_like_named_bodies_stay_what_they_are(tmp_path):
    """Two bodies of one name came out as the first: 8000 came back as 1000."""
    path = tmp_path / "a.step"
    parts = [placed("Part", cube(10.0)), placed("Part", cube(20.0), 40),
             placed("Part 3", cube(30.0), 90, prototype="Part")]  # fmt: skip
    write_step("Whole", parts, str(path))
    volumes, _ = read(path)
    assert volumes == pytest.approx([1000, 8000, 27000])


def test_equal_bodies_are_stored_once_and_differing_paint_keeps_them_apart(tmp_path):
    path = tmp_path / "a.step"
    one = cube(10.0)
    write_step("W", [placed(f"P{k}", one, 20 * k, prototype="Cube") for k in range(8)], str(path))
    text = path.read_text()
    assert text.count("MANIFOLD_SOLID_BREP") == 1
    assert len(read(path)[0]) == 8
    parts = [placed("P0", one, prototype="Cube"),
             placed("P1", one, 20, prototype="Cube", paints={0: "#00ff00"})]  # fmt: skip
    write_step("W", parts, str(path))
    assert path.read_text().count("MANIFOLD_SOLID_BREP") == 2


def test_a_body_with_a_location_of_its_own_is_painted_and_named(tmp_path):
    """Bodies out of an assembly file: painted ones could not be written at all."""
    path = tmp_path / "a.step"
    shape = located(cube(10.0).shape, np.eye(3), np.array([5.0, 6.0, 7.0]))
    body = Body(shape, cube(10.0).names)
    write_step("One", [placed("Kept", body, paints={2: "#20c040"})], str(path))
    volumes, dresses = read(path)
    assert volumes == pytest.approx([1000])
    assert dresses[0].name == "Kept"
    assert dresses[0].faces[2] == "#20c040"
    assert settled(body).shape.Location().IsIdentity()


def test_imported_assemblies_go_out_again_with_looks(tmp_path):
    path = tmp_path / "a.step"
    parts = [placed(f"Pin {k}", cube(4.0), 10.0 * k, prototype="Pin", paints={1: "#1144cc"})
             for k in range(3)]  # fmt: skip
    write_step("Row", parts, str(path))
    m = Maker()
    m.builder.blob = lambda id: path.read_bytes()
    m.step("import", file="f", source="a.step")
    found = m.build()
    assert [s.error for s in found.steps] == [None]
    again = [
        Placed(found.dresses[id].name or "?", m.cache.body(b["key"]), b["colour"], np.eye(3),
               np.zeros(3), paints=found.paints[id], key=b["key"])
        for id, b in found.bodies.items()
    ]  # fmt: skip
    write_step("Again", again, str(tmp_path / "b.step"))
    volumes, dresses = read(tmp_path / "b.step")
    assert volumes == pytest.approx([64, 64, 64])
    assert [d.colour for d in dresses] == ["#aa3311"] * 3
    assert all("#1144cc" in d.faces.values() for d in dresses)


def test_a_file_that_does_not_come_back_is_not_handed_over(tmp_path, monkeypatch):
    wrong = read_shape  # what a writer that loses a solid would give
    path = tmp_path / "a.step"
    write_step("W", [placed("A", cube(10.0))], str(path))
    lost = wrong(path.read_bytes())
    monkeypatch.setattr(exchange, "read_shape", lambda data: lost)
    with pytest.raises(KernelTrouble, match="1 solids where 2 went in"):
        write_step("W", [placed("A", cube(10.0)), placed("B", cube(20.0), 50)],
                   str(tmp_path / "b.step"))  # fmt: skip
    with pytest.raises(KernelTrouble, match="mm³ where one of"):
        write_step("W", [placed("A", cube(20.0))], str(tmp_path / "b.step"))


def test_bodies_taken_from_another_part_keep_name_colour_and_paint():
    source, taker = Maker(), Maker()
    b = box(source, 10, 10, 10)
    source.do("set_body", body=f"b_{b}", name="Lid", colour="#123456")
    faces = source.pick("face", lambda f: f.direction[2] > 0.9)
    source.do("paint_faces", picks=faces, colour="#ff8800")
    taker.builder.other = lambda id: source.build()
    t = taker.step("taken", document="d0", which=f"b_{b}")
    found = taker.build()
    body = found.bodies[f"b_{t}"]
    assert (body["name"], body["colour"]) == ("Lid", "#123456")
    assert list(found.paints[f"b_{t}"].values()) == ["#ff8800"]

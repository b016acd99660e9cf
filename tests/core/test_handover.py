"""STEP files out: shared by content, named and coloured, read back before they are handed over."""

import json
import re
import tempfile
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.parts import Maker
from tests.core.test_clearance import box
from vireo.core.exchange.steptree import step_tree
from vireo.core.geometry import Frame
from vireo.core.kernel import exchange
from vireo.core.kernel.exchange import Placed, unmatched, write_step
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.glb import glb_bodies, write_glb
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import box_of, volume_of
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


def spot(x, y=0.0, z=0.0, turn=0.0):
    c, s = np.cos(turn), np.sin(turn)
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]]), np.array([x, y, z], float)


def machine(at=0.0, turn=0.0):
    """Two equal doors, each a frame with two equal pins, and a pin by itself; all carried along."""
    frame, pin = cube(10.0), cube(2.0)
    base = spot(at, 0.0, 0.0, turn)

    def carried(r, p):
        return base[0] @ r, base[0] @ p + base[1]

    parts = []
    for k in range(2):
        door = spot(40.0 * k, 5.0, 0.0, 0.7 * k)
        for c, (body, place) in enumerate(
            ((frame, spot(0)), (pin, spot(12)), (pin, spot(12, 6, 1, 0.3)))
        ):
            r, p = carried(door[0] @ place[0], door[0] @ place[1] + door[1])
            path = (f"c{k}", f"c{10 + c}")
            names = ("Door" if k == 0 else "Door · 2", "Frame" if c == 0 else "Pin")
            parts.append(Placed(" / ".join(names), body, "#aa3311", r, p, "", {}, "", path, names))
    r, p = carried(*spot(-20))
    parts.append(Placed("Pin", pin, "#aa3311", r, p, "", {}, "", ("c9",), ("Pin",)))
    return parts


@pytest.mark.parametrize("schema", ["AP214", "AP242"])
def test_an_assembly_goes_out_as_it_is_built_equal_ones_once(tmp_path, schema):
    path = tmp_path / "a.step"
    write_step("Whole", machine(), str(path), schema)
    text = path.read_text()
    volumes, _ = read(path)
    assert volumes == pytest.approx([8.0] * 5 + [1000.0] * 2)
    # Two doors and a pin in the whole, three in the one door that is stored.
    assert text.count("NEXT_ASSEMBLY_USAGE_OCCURRENCE") == 3 + 3
    assert text.count("MANIFOLD_SOLID_BREP") == 2
    assert len(re.findall(r"=\s*PRODUCT\('Door'", text)) == 1
    assert ("AP242" in text.upper()) == (schema == "AP242")
    # Everything stands where it stood: the box of each solid, against the corners by hand.
    boxes = sorted(
        tuple(np.round(box_of(s), 5).ravel())
        for s in solids_of(read_shape(path.read_bytes()).shape)
    )
    meant = []
    for part in machine():
        size = round(volume_of(part.body.shape) ** (1 / 3), 6)
        corners = np.array([[x, y, z] for x in (0, size) for y in (0, size) for z in (0, size)])
        stood = corners @ part.rotation.T + part.position
        meant.append(tuple(np.round([stood.min(axis=0), stood.max(axis=0)], 5).ravel()))
    assert np.array(boxes) == pytest.approx(np.array(sorted(meant)), abs=2e-5)


@given(st.floats(-300, 300), st.floats(-3, 3))
@settings(max_examples=8, deadline=None)
def test_triangles_go_out_in_their_places_with_names_and_shared_meshes(at, turn):
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.glb"
        parts = machine(at, turn)
        write_glb("Whole", parts, str(path), 0.05)
        data = path.read_bytes()
    shown = glb_bodies(data)
    sizes = [volume_of(p.body.shape) ** (1 / 3) for p in parts]
    middles = [
        p.rotation @ np.full(3, a / 2) + p.position for p, a in zip(parts, sizes, strict=True)
    ]
    meant = np.column_stack([middles, np.sqrt(3) * np.array(sizes)])
    assert len(shown) == 7
    assert unmatched(shown, meant, 1e-3) is None
    tree = json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])
    # Of seven meshes only two sets of points are stored.
    assert len({p["attributes"]["POSITION"] for m in tree["meshes"] for p in m["primitives"]}) == 2
    assert sum(n.get("name") == "Pin" for n in tree["nodes"]) >= 3
    (colour,) = {
        tuple(np.round(m["pbrMetallicRoughness"]["baseColorFactor"], 3)) for m in tree["materials"]
    }
    # sRGB #aa3311 in linear light, as the format asks.
    linear = [((v / 255 + 0.055) / 1.055) ** 2.4 for v in (0xAA, 0x33, 0x11)]
    assert colour[:3] == pytest.approx(linear, abs=2e-3)


def test_a_file_with_a_body_in_another_place_is_not_handed_over(tmp_path, monkeypatch):
    """Numbers and volumes are right, one body stands a millimetre off, or is turned: both are seen."""
    right = exchange.location
    for off in (
        lambda r, p: (r, np.add(p, (0.0, 0.0, 1.0)) if p[0] > 11 else p),
        lambda r, p: (r @ spot(0, turn=0.3)[0], p),
    ):
        monkeypatch.setattr(exchange, "location", lambda r, p, off=off: right(*off(r, p)))
        with pytest.raises(KernelTrouble, match="in another place"):
            write_step("Whole", machine(), str(tmp_path / "a.step"))
        with pytest.raises(KernelTrouble, match="in another place"):
            write_glb("Whole", machine(), str(tmp_path / "a.glb"), 0.05)


@given(st.lists(st.tuples(*[st.floats(-9, 9)] * 3), min_size=1, max_size=9), st.randoms())
@settings(max_examples=60, deadline=None)
def test_rows_are_matched_each_once(rows, random):
    wanted = np.array(rows)
    shuffled = wanted.copy()
    random.shuffle(order := list(range(len(rows))))
    assert unmatched(shuffled[order], wanted, 1e-6) is None
    shuffled[0] += 50.0
    assert unmatched(shuffled[order], wanted, 1e-6) is not None


def test_a_body_turned_about_its_own_middle_is_seen(tmp_path, monkeypatch):
    bar = primitive("box", {"width": 40.0, "depth": 6.0, "height": 6.0}, Frame(), "b")
    part = placed("Bar", bar, 5.0, prototype="Bar")
    right = exchange.location

    def turned(r, p):
        quarter = spot(0, turn=np.pi / 2)[0]
        middle = np.array([20.0, 3.0, 3.0])
        return right(r @ quarter, p + r @ (middle - quarter @ middle))

    write_step("Whole", [part, placed("Other", cube(3.0), -9)], str(tmp_path / "a.step"))
    monkeypatch.setattr(exchange, "location", turned)
    with pytest.raises(KernelTrouble, match="in another place"):
        write_step("Whole", [part, placed("Other", cube(3.0), -9)], str(tmp_path / "a.step"))


#: Letters that the text of a STEP file spells in its own way, and what looks like its spelling.
ODD = st.lists(
    st.sampled_from(["'", "\\", ",", ")", "(", ";", "a", " ", "é", "日", "😀", "\\X2\\00E8\\X0\\", "\\S\\b",
                     "#1=PRODUCT('x')", "/*", "日本" * 20, "plate" * 9]),
    min_size=1, max_size=9,
).map("".join)  # fmt: skip


@settings(max_examples=25, deadline=None)
@given(titles=st.tuples(ODD, ODD))
def test_names_come_back_letter_by_letter(titles):
    """What two readers find in the file: the kernel, and the scan of its text."""
    titles = [f"x{i} {t}" for i, t in enumerate(titles)]
    parts = [
        Placed(t, cube(10.0 + i), "", np.eye(3), np.array([40.0 * i, 0, 0]), path=(f"c{i}",), titles=(t,))
        for i, t in enumerate(titles)
    ]  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        write_step("whole", parts, str(Path(folder) / "a.step"))
        data = (Path(folder) / "a.step").read_bytes()
    wanted = [" ".join(t.split())[:80].rstrip() for t in titles]
    assert sorted(d.name.rstrip() for d in read_shape(data).dresses) == sorted(wanted)
    assert sorted(r.name.rstrip() for r in step_tree(data).rows()[1:]) == sorted(wanted)

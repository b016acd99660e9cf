"""What sketches take from elsewhere: cuts, silhouettes, axes, crossings, sketches, layouts."""

import io
import itertools
import math

import ezdxf
import pytest

from tests.core.parts import Maker, block, near
from vireo.core.curves import Arc2, Line2, Spline2
from vireo.core.declared.fields import Brought
from vireo.core.geometry import Frame
from vireo.core.kernel.grow import cylinder
from vireo.core.kernel.outline import cut, recognised, shadow, silhouette
from vireo.core.part.links.layout import chain_of, item_of, sheet_of
from vireo.core.part.products.sketch import SKETCHES
from vireo.core.sketch.exchange.sheet import difference
from vireo.core.trouble import BadInput, NotAllowed
from vireo.script.sketch import Sketch as Sketcher

XY = {"base": "XY", "face": None}


def take(m: Maker, *links, plane=XY, drawing=None, underlays=()) -> str:
    """A sketch with links, numbered x1, x2 ..."""
    brought = [{"id": f"x{k + 1}", **link} for k, link in enumerate(links)]
    return m.step(
        "sketch", plane=plane, brought=brought, drawing=drawing or {}, underlays=list(underlays)
    )


def sketched(m: Maker, id: str):
    found = next(s for s in m.build().steps if s.id == id)
    assert found.error is None, found.error
    return found.made(SKETCHES)


def bored() -> Maker:
    m = block(holes=((20.0, 20.0),))
    m.step("hole", sketch="s1", bore="16 mm")
    return m


def body_of(m: Maker) -> str:
    return next(iter(m.build().bodies))


def test_the_cut_of_a_body_is_as_wide_as_the_body_and_follows_it():
    m = bored()
    # Across the bore: two rectangles, 12 x 10 and (w - 28) x 10.
    plane = {"base": "XZ", "face": None, "offset": {"formula": "-20 mm"}}
    s = take(m, {"way": "cut", "body": body_of(m)}, plane=plane)
    e = m.step("extrude", sketch=s, depth="1 mm")
    assert m.build().bodies[f"b_{e}"]["volume"] == pytest.approx((12 + 32) * 10)
    m.do("edit_parameter", name="w", formula="80 mm")
    assert m.build().bodies[f"b_{e}"]["volume"] == pytest.approx((12 + 52) * 10)
    m.do("edit_step", id=s, fields={"plane": {**plane, "offset": {"formula": "90 mm"}}})
    error = next(x for x in m.build().steps if x.id == s).error
    assert error.code == "lost_pick"
    assert "does not cut" in error.text
    assert error.offers[-1].fields == {"brought": []}


def test_one_face_is_cut_alone():
    m = bored()
    (wall,) = m.pick("face", lambda f: f.kind == "cylinder")
    (curve,) = (
        c for _, c in sketched(m, take(m, {"way": "cut", "pick": wall},
                                       plane={**XY, "offset": {"formula": "4 mm"}})).curves
    )  # fmt: skip
    assert (curve.centre, curve.radius) == (pytest.approx((20, 20)), pytest.approx(8))


@pytest.mark.parametrize("lean", [0.0, 0.5, 1.0])
def test_the_shadow_of_a_leaning_cylinder_has_its_closed_form(lean):
    """Radius r, length h, axis leaning by a: area 2 r h sin a + pi r^2 cos a."""
    r, h = 5.0, 12.0
    body = cylinder((0, 0, 0), (math.sin(lean), 0, math.cos(lean)), r, h, ("wall", "end", "foot"))
    pieces = [c for _, _, c in shadow(body, Frame())]
    fine = [p for c in pieces for p in c.points(0.001)]
    width = max(p[0] for p in fine) - min(p[0] for p in fine)
    assert width == pytest.approx(h * math.sin(lean) + 2 * r * math.cos(lean), rel=1e-5)
    # Green's theorem over the pieces, each run the way round its middle.
    area = sum(abs(_swept(c, (h / 2 * math.sin(lean), 0.0))) for c in pieces)
    exact = 2 * r * h * math.sin(lean) + math.pi * r * r * math.cos(lean)
    assert area == pytest.approx(exact, rel=1e-5)


def _swept(curve, about) -> float:
    points = curve.points(0.001)
    return 0.5 * sum(
        (a[0] - about[0]) * (b[1] - about[1]) - (b[0] - about[0]) * (a[1] - about[1])
        for a, b in itertools.pairwise(points)
    )


def test_a_shadow_keeps_openings_and_joins_pieces():
    m = bored()
    s = take(m, {"way": "silhouette", "body": body_of(m)})
    curves = [c for _, c in sketched(m, s).curves]
    assert sorted(c.form for c in curves) == ["circle", "line", "line", "line", "line"]
    e = m.step("extrude", sketch=s, depth="1 mm")
    volume = m.build().bodies[f"b_{e}"]["volume"]
    assert volume == pytest.approx(60 * 40 - math.pi * 64)


def test_a_face_turns_away_along_two_lines():
    m = bored()
    (wall,) = m.pick("face", lambda f: f.kind == "cylinder")
    s = take(m, {"way": "silhouette", "pick": wall}, plane={"base": "XZ", "face": None})
    lines = [c for _, c in sketched(m, s).curves]
    assert sorted(c.a[0] for c in lines) == pytest.approx([12, 28])
    assert all(c.length == pytest.approx(10) for c in lines)
    flat = m.pick("face", lambda f: f.kind == "plane")[:1]
    lost = take(m, {"way": "silhouette", "pick": flat[0]})
    assert "turn away" in next(x for x in m.build().steps if x.id == lost).error.text
    assert silhouette(m.body()[1].faces[0], Frame()) == []


def test_axes_and_centres():
    m = bored()
    (wall,) = m.pick("face", lambda f: f.kind == "cylinder")
    rim = m.pick("edge", lambda e: e.kind == "circle" and e.at[2] > 5)[0]
    upright = sketched(m, take(m, {"way": "axis", "pick": wall}))
    assert list(upright.points.values()) == [pytest.approx((20, 20))]
    assert list(sketched(m, take(m, {"way": "axis", "pick": rim})).points.values()) == [
        pytest.approx((20, 20))
    ]
    beside = take(m, {"way": "axis", "pick": wall}, plane={"base": "XZ", "face": None})
    assert sketched(m, beside).curves == ()  # it only helps
    with pytest.raises(BadInput, match="one place"):
        Brought.model_validate({"id": "x1"})
    bad = take(m, {"way": "melted", "pick": wall})
    assert (
        "known: axis, cut, seen, silhouette"
        in next(x for x in m.build().steps if x.id == bad).error.text
    )


def test_points_where_edges_go_through_the_plane():
    m = bored()
    upright = m.pick("edge", lambda e: near(e.at, (60, 40, 5)))[0]
    rim = m.pick("edge", lambda e: e.kind == "circle" and e.at[2] > 5)[0]
    plane = {**XY, "offset": {"formula": "3 mm"}}
    s = take(m, {"way": "crossing", "pick": upright}, plane=plane)
    assert list(sketched(m, s).points.values()) == [pytest.approx((60, 40))]
    across = {"base": "YZ", "face": None, "offset": {"formula": "24 mm"}}
    s = take(m, {"way": "crossing", "pick": rim}, plane=across)
    half = math.sqrt(64 - 16)
    assert sorted(p[0] for p in sketched(m, s).points.values()) == pytest.approx(
        [20 - half, 20 + half]
    )


def test_another_sketch_is_taken_whole_or_in_part_and_follows():
    m = Maker()
    m.do("add_parameter", name="r", formula="6 mm")
    first = Sketcher()
    c = first.circle(first.point(10, 0), 6.0)
    l = first.line(first.point(0, 5), first.point(30, 5))
    first.put("radius", c, formula="r")
    one = m.sketch(first)
    whole = take(m, {"sketch": one}, plane={**XY, "offset": {"formula": "9 mm"}})
    part = take(m, {"sketch": one, "curves": [l]})
    tilted = take(m, {"way": "crossing", "sketch": one}, plane={"base": "YZ", "face": None,
                                                               "offset": {"formula": "8 mm"}})  # fmt: skip
    assert [c.form for _, c in sketched(m, part).curves] == ["line"]
    m.do("edit_parameter", name="r", formula="7 mm")
    assert max(c.radius for _, c in sketched(m, whole).curves if c.form == "circle") == 7.0
    ys = sorted(p[0] for p in sketched(m, tilted).points.values())
    assert ys == pytest.approx([-math.sqrt(45), 5, math.sqrt(45)])
    # It may not go before what it takes from, and says what is gone.
    m.do("edit_step", id=one, fields={"drawing": {}})
    error = next(x for x in m.build().steps if x.id == part).error
    assert "is gone" in error.text


def test_a_plane_through_an_edge_at_an_angle():
    m = block()
    m.do("add_parameter", name="lean", formula="30 deg")
    (edge,) = m.pick("edge", lambda e: near(e.at, (30, 0, 10)))
    plane = {"base": "XY", "face": None, "edge": edge, "angle": {"formula": "lean"}}
    frame = sketched(m, take(m, plane=plane)).frame
    assert abs(frame.x[0]) == pytest.approx(1.0)
    assert frame.z[2] == pytest.approx(math.cos(math.radians(30)))
    assert abs(frame.z[1]) == pytest.approx(0.5)
    assert (frame.origin[1], frame.origin[2]) == pytest.approx((0, 10))
    m.do("rename_parameter", name="lean", new="tilt")
    assert m.part.steps[-1].fields["plane"]["angle"]["formula"] == "tilt"
    (rise,) = m.pick("edge", lambda e: near(e.at, (60, 40, 5)))
    take(m, plane={**plane, "edge": rise, "angle": {"formula": "tilt"}})
    assert "upright" in m.build().steps[-1].error.text


def test_freeform_pieces_that_are_lines_or_circles_are_called_so():
    straight = Spline2(3, (0,) * 4 + (1,) * 4, ((0, 0), (1, 2), (2, 4), (4, 8)))
    assert isinstance(recognised(straight), Line2)
    w = math.sqrt(0.5)
    quarter = Spline2(2, (0, 0, 0, 1, 1, 1), ((5, 0), (5, 5), (0, 5)), (1.0, w, 1.0))
    found = recognised(quarter)
    assert isinstance(found, Arc2)
    assert found.length == pytest.approx(2.5 * math.pi)
    bent = Spline2(2, (0, 0, 0, 1, 1, 1), ((5, 0), (5, 5), (0, 5)))
    assert recognised(bent) is bent


def test_a_cone_is_cut_in_its_conic():
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone

    from vireo.core.kernel.shape import Body

    cone = Body(BRepPrimAPI_MakeCone(10.0, 4.0, 12.0).Shape(), ("wall", "top", "foot"))
    z = (math.sin(0.3), 0.0, math.cos(0.3))
    frame = Frame((0, 0, 6), (z[2], 0.0, -z[0]), z)
    found = cut(cone, frame)
    assert {i for i, _ in found} == {0}
    for x, y in (p for _, c in found for p in c.points(0.05)):
        at = frame.out((x, y))
        assert math.hypot(at[0], at[1]) == pytest.approx(10 - at[2] / 2, abs=1e-5)


# --- layouts lying under a sketch


def layout(fill) -> bytes:
    document = ezdxf.new("R2010", units=ezdxf.units.MM)
    fill(document.modelspace())
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def square(space, size=20.0, bore=4.0, extra=False):
    c = [(0, 0), (size, 0), (size, size), (0, size)]
    for a, b in zip(c, c[1:] + c[:1], strict=True):
        space.add_line(a, b, dxfattribs={"layer": "cut"})
    space.add_circle((size / 2, size / 2), bore, dxfattribs={"layer": "holes"})
    space.add_spline([(40, 0), (45, 5), (50, 0)], dxfattribs={"layer": "grip"})
    if extra:
        space.add_circle((-30, 0), 1.0)


def with_layout(data: bytes, **how):
    """A part whose sketch takes the closed loop and the bore of a layout."""
    m = Maker()
    files = {"f1": data}
    m.builder.blob = files.__getitem__
    sheet = sheet_of(data)
    outline = next(i for i in sheet.items if i.layer == "cut")
    keys = [*chain_of(sheet, outline.key), next(i.key for i in sheet.items if i.layer == "holes")]
    items = [item_of(sheet.by_key[k]).model_dump(mode="json") for k in keys]
    under = {"id": "u1", "file": "f1", "source": "sheet.dxf", **how}
    s = take(m, {"layout": {"underlay": "u1", "items": items}}, underlays=[under])
    return m, files, s


def test_a_layout_is_placed_turned_scaled_and_built_on():
    m, _, s = with_layout(layout(square), at=[100.0, 50.0], turn=30.0, scale=2.0)
    e = m.step("extrude", sketch=s, depth="1 mm")
    assert m.build().bodies[f"b_{e}"]["volume"] == pytest.approx(40 * 40 - math.pi * 64)
    bore = next(c for _, c in sketched(m, s).curves if c.form == "circle")
    turn = math.radians(30)
    x = 100 + 2 * (10 * math.cos(turn) - 10 * math.sin(turn))
    assert bore.centre[0] == pytest.approx(x)


def test_a_newer_file_is_followed_and_what_is_lost_says_so():
    old = layout(square)
    m, files, s = with_layout(old)
    files["f2"] = layout(lambda space: square(space, size=26.0, extra=True))
    found = difference(sheet_of(old), sheet_of(files["f2"]))
    assert len(found.changed) == 5
    assert len(found.same) == 1  # the grip stayed
    assert len(found.new) == 1
    assert found.gone == ()
    assert not found.guessed
    m.do("edit_step", id=s, fields={"underlays": [{"id": "u1", "file": "f2"}]})
    e = m.step("extrude", sketch=s, depth="1 mm")
    assert m.build().bodies[f"b_{e}"]["volume"] == pytest.approx(26 * 26 - math.pi * 16)
    files["f3"] = layout(lambda space: space.add_circle((12, 11), 4.5,
                                                        dxfattribs={"layer": "holes"}))  # fmt: skip
    m.do("edit_step", id=s, fields={"underlays": [{"id": "u1", "file": "f3"}]})
    error = next(x for x in m.build().steps if x.id == s).error
    assert error.code == "lost_pick"
    assert "layer cut" in error.text
    labels = [o.label for o in error.offers]
    assert labels[-1] == "Leave it out"
    assert "Leave this curve out" in labels


def test_ids_written_anew_do_not_mislead():
    """A program that writes all ids anew: the keys of the rest cannot be believed."""

    def shuffled(space):
        space.add_circle((-60, 0), 9.0)
        space.add_circle((-60, 30), 9.0)
        square(space, bore=4.4)

    old, new = sheet_of(layout(square)), sheet_of(layout(shuffled))
    found = difference(old, new)
    assert len(found.same) == 5
    bore = next(i.key for i in old.items if i.layer == "holes")
    now = new.by_key[found.follow(bore)]
    assert now.curve.radius == pytest.approx(4.4)
    assert bore in found.guessed


# --- planes


def test_planes_are_made_from_faces_edges_and_corners_and_sketched_on():
    m = block()
    m.do("add_parameter", name="gap", formula="15 mm")
    (top,) = m.pick("face", lambda f: f.kind == "plane" and f.direction[2] > 0.99)
    p = m.step("plane", base="face", face=[top], by="gap")
    s = m.step("sketch", plane={"base": None, "plane": p}, drawing=boxed().drawing)
    e = m.step("extrude", sketch=s, depth="5 mm")
    top_of = max(v.at[2] for v in m.topology(f"b_{e}").vertices)
    assert top_of == pytest.approx(10 + 15 + 5)
    m.do("edit_parameter", name="gap", formula="20 mm")
    assert max(v.at[2] for v in m.topology(f"b_{e}").vertices) == pytest.approx(35)
    # Midway between the two ends, whichever way they look.
    ends = m.pick("face", lambda f: f.kind == "plane" and abs(f.direction[0]) > 0.99, "b_s2")
    q = m.step("plane", form="midway", between=ends)
    assert sketched(m, q).frame.origin[0] == pytest.approx(30)
    right = [
        ends[0],
        *m.pick("face", lambda f: f.kind == "plane" and f.direction[1] < -0.99, "b_s2"),
    ]
    m.do("edit_step", id=q, fields={"between": right})
    frame = sketched(m, q).frame
    assert abs(frame.z[0]) == pytest.approx(math.sqrt(0.5))
    names = [("s2/cap/end", "s2/side/l5", "s2/side/l8"), ("s2/cap/end", "s2/side/l5", "s2/side/l6"),
             ("s2/cap/start", "s2/side/l6", "s2/side/l7")]  # fmt: skip
    corners = [{"body": "b_s2", "kind": "vertex", "name": list(n)} for n in names]
    k = m.step("plane", form="points", through=corners)
    z = sketched(m, k).frame.z
    # Through (0,0,10), (60,0,10), (60,40,0): leaning about X by 10 in 40.
    assert (z[0], abs(z[1] / z[2])) == pytest.approx((0, 0.25))
    m.do("edit_step", id=k, fields={"through": corners[:2]})
    assert "three corners" in m.build().steps[-1].error.text
    with pytest.raises(NotAllowed):
        m.do("move_step", id=p, to=6)


def boxed() -> Sketcher:
    s = Sketcher()
    s.box(0, 0, 10, 10)
    return s

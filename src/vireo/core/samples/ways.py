"""A part to try steps on, and one or more ways to use each kind of step on it."""

from __future__ import annotations

import itertools
from functools import lru_cache
from typing import Any

from vireo.core.naming import make_pick
from vireo.core.part.cache import Cache
from vireo.core.samples.maker import Maker
from vireo.script.sketch import Sketch

XZ = {"base": "XZ", "face": None}
CACHE = Cache()


def boxed(w: float = 20.0, h: float = 10.0, at: tuple[float, float] = (0.0, 0.0)) -> Sketch:
    """A level rectangle from its lower left corner."""
    s = Sketch()
    s.box(at[0], at[1], at[0] + w, at[1] + h)
    return s


def circle(r: float, x: float = 0.0, y: float = 0.0) -> Sketch:
    s = Sketch()
    s.circle(s.point(x, y), r)
    return s


def line(*points: tuple[float, float]) -> Sketch:
    """Straight lines from point to point."""
    s = Sketch()
    p = [s.point(*q) for q in points]
    for a, b in itertools.pairwise(p):
        s.line(a, b)
    return s


def spots(*places: tuple[float, float]) -> Sketch:
    """Loose points."""
    s = Sketch()
    for p in places:
        s.point(*p)
    return s


def at(z: float) -> dict[str, Any]:
    return {"base": "XY", "face": None, "offset": {"formula": f"{z} mm"}}


def ground(cache: Cache | None = None) -> Maker:
    """A block with a bore, a disc and a tray with a post beside it, sketches of all sorts."""
    m = Maker(cache or CACHE)
    m.step("primitive", width="60 mm", depth="40 mm", height="20 mm")  # s1
    m.step("primitive", form="cylinder", diameter="8 mm", height="20 mm", x="15 mm", y="20 mm",
           result="cut")  # s2  # fmt: skip
    m.step("primitive", form="cylinder", diameter="20 mm", height="10 mm", x="100 mm")  # s3
    m.sketch(boxed(10, 8, (35, 15)), at(20))  # s4
    m.sketch(line((0, 0), (0, 50)), XZ)  # s5
    m.sketch(circle(6.0), at(40))  # s6
    m.sketch(circle(9.0), at(60))  # s7
    m.sketch(line((10, 10), (50, 10)), at(30))  # s8
    points = circle(1.0, 200, 0)
    points.point(40, 20)
    points.point(50, 30)
    m.sketch(points, at(20))  # s9
    m.step("set", picks=faces(m, "s1/top"))  # s10
    m.step("sketch", drawing=boxed(40, 30, (5, 5)).drawing, plane=at(20))  # s11
    m.sketch(line((-5, 10), (65, 10)), at(30))  # s12
    tray = {"width": "40 mm", "depth": "30 mm", "height": "15 mm", "y": "-60 mm"}
    m.step("primitive", result="new", **tray)  # s13
    m.step("primitive", width="34 mm", depth="24 mm", height="12 mm", x="3 mm", y="-57 mm",
           z="3 mm", result="cut", into=["b_s13"])  # s14  # fmt: skip
    m.sketch(line((10, -45), (30, -45)), at(12))  # s15
    m.step("primitive", form="cylinder", diameter="12 mm", height="20 mm", x="40 mm", y="-45 mm",
           result="new")  # s16  # fmt: skip
    m.sketch(boxed(60, 40, (200, 0)))  # s17
    m.step("sheet_plate", sketch="s17", thickness="1.5 mm", radius="2 mm")  # s18
    m.sketch(line((235, -10), (235, 60)))  # s19
    m.sketch(circle(5.0, 250, 20))  # s20
    m.sketch(boxed(40, 30, (200, 100)))  # s21
    m.step("sheet_plate", sketch="s21", thickness="1.5 mm", radius="2 mm")  # s22
    m.step("sheet_flange", edges=long_edge(m, "s22"), length="15 mm")  # s23
    m.step("sheet_unfold", into=["b_s22"])  # s24
    m.step("sheet_flange", edges=long_edge(m, "s22", -1), length="15 mm")  # s25
    m.sketch(line((0, 0), (0, 20), (10, 20)), {"base": "YZ", "face": None})  # s26
    m.step(
        "primitive", width="50 mm", depth="30 mm", height="2 mm", x="300 mm", result="new"
    )  # s27
    m.sketch(spots((215, 20), (245, 20)))  # s28
    m.sketch(line((212, 20), (248, 20)))  # s29
    m.sketch(boxed(14, 14, (223, 13)))  # s30
    return m


def long_edge(m: Maker, plate: str, way: int = 1) -> list[dict[str, Any]]:
    """The lower edge of a plate, or with -1 the upper one, at its top."""
    body = f"b_{plate}"
    t = m.topology(body)
    low = min(
        (i for i, e in enumerate(t.edges) if f"{plate}/top" in t.edge_name(i)),
        key=lambda i: way * t.edges[i].at[1],
    )
    return [make_pick(t, body, "edge", low).model_dump(mode="json")]


def faces(m: Maker, *names: str, body: str = "b_s1") -> list[dict[str, Any]]:
    t = m.topology(body)
    return [
        make_pick(t, body, "face", i).model_dump(mode="json")
        for n in names
        for i, f in enumerate(t.faces)
        if f.name == n
    ]


def edges(m: Maker, *names: str, body: str = "b_s1") -> list[dict[str, Any]]:
    t = m.topology(body)
    return [
        make_pick(t, body, "edge", i).model_dump(mode="json")
        for i in range(len(t.edges))
        if t.edge_name(i) == tuple(sorted(names))
    ]


@lru_cache
def ways() -> dict[str, list[dict[str, Any]]]:
    """Fields that build, one or more ways for every kind."""
    m = ground()
    top, front = faces(m, "s1/top"), faces(m, "s1/front")
    rim = edges(m, "s1/top", "s1/front")
    wall = faces(m, "s3/wall", body="b_s3")
    disc_rim = edges(m, "s3/top", "s3/wall", body="b_s3")
    spot = {"id": "a", "face": top[0], "at": [{"formula": v} for v in ("40 mm", "20 mm", "20 mm")]}
    copied = {"steps": ["s2"]}
    sheet = long_edge(m, "s18")
    block = faces(m, "s13/under", "s13/left", "s13/right", body="b_s13")
    corner = m.pick(
        "edge", lambda e: abs(e.at[2] - 0.75) < 1e-6 and e.length < 2 and e.at[1] > 30, "b_s18"
    )
    return {
        "extrude": [{"sketch": "s4", "result": "add"}, {"sketch": "s4", "reach": "two", "draft": "3 deg"},
                    {"sketch": "s8", "profile": "wall"}],
        "revolve": [{"sketch": "s4", "axis": "y_axis"}, {"sketch": "s4", "reach": "one", "angle": "90 deg"}],
        "sweep": [{"sketch": "s6", "path": "s5"}, {"sketch": "s6", "path": "s5", "twist": "30 deg"}],
        "pipe": [{"path": "s5"}, {"along": "helix", "hollow": "hollow", "wall": "1 mm", "turns": "1"}],
        "loft": [{"sections": ["s6", "s7"]}, {"sections": ["s6", "s7"], "start": "upright"}],
        "rib": [{"sketch": "s15", "grows": "across", "flip": True, "into": ["b_s13"]}],
        "hardware": [
            {}, {"standard": "ISO 4032", "size": "M8"}, {"standard": "ISO 4017", "length": "30 mm"},
            {"standard": "DIN 471", "size": "20"},
        ],
        "primitive": [{}, {"form": "cone"}, {"form": "torus"}, {"form": "wedge"}, {"form": "sphere"}],
        "hole": [{"sketch": "s9"}, {"at": "faces", "spots": [spot], "form": "counterbored"},
                 {"sketch": "s9", "form": "countersunk"}, {"sketch": "s9", "form": "tapered"},
                 {"sketch": "s9", "form": "tapped", "size": "screw", "reach": "blind", "bottom": "point"}],
        "thread": [{"faces": wall, "size": "own", "pitch": "1.5 mm", "shown": "marked"}],
        "fillet": [{"edges": rim}, {"edges": rim, "form": "varying"},
                   {"edges": rim, "more": [{"picks": edges(m, "s1/under", "s1/front"), "size": {"formula": "1 mm"}}]}],
        "chamfer": [{"edges": rim}, {"edges": rim, "form": "two"}, {"edges": rim, "form": "angle"}],
        "shell": [{"open": top, "wall": "2 mm"}, {"wall": "2 mm", "bodies": ["b_s1"]}],
        "draft": [{"faces": front, "about": "XY"}, {"by": "line", "edges": rim, "both": True}],
        "offset_faces": [{"faces": top, "by": "1 mm"}],
        "delete_faces": [{"faces": faces(m, "s2/wall")}],
        "move_faces": [{"faces": top, "z": "2 mm"}],
        "replace_face": [{"face": top, "onto": "XY", "shift": "25 mm"}],
        "split_faces": [{"faces": top, "by": "sketch", "sketch": "s12"}],
        "thicken": [{"faces": top}],
        "emboss": [{"sketch": "s4", "face": top}],
        "combine": [{"operation": "add", "target": ["b_s13"], "tools": ["b_s16"]}],
        "split_body": [{"by": "YZ", "shift": "30 mm", "bodies": ["b_s1"]}],
        "copies_linear": [{**copied, "spacing": "12 mm"}],
        "copies_circular": [{**copied, "count": "2", "angle": "20 deg"}],
        "copies_points": [{**copied, "sketch": "s9"}],
        "copies_fill": [{**copied, "sketch": "s11"}],
        "copies_curve": [{**copied, "path": "s8"}, {"what": "bodies", "bodies": ["b_s3"], "path": "s8"}],
        "mirror": [{"what": "bodies", "bodies": ["b_s3"]}],
        "move_body": [{"bodies": ["b_s3"], "x": "5 mm", "angle": "30 deg"}],
        "scale_body": [{"bodies": ["b_s3"], "factor": "1.5"}, {"bodies": ["b_s3"], "how": "each", "x": "2"}],
        "align_body": [{"what": faces(m, "s3/top", body="b_s3"), "to": top}],
        "plane": [{"by": "5 mm"}, {"form": "turned", "face": top, "edge": rim, "angle": "30 deg"}],
        "axis": [{"form": "along", "of": wall}],
        "point": [{"form": "at"}, {"form": "at", "of": disc_rim}],
        "frame": [{"at": disc_rim}],
        "port": [{"at": disc_rim}],
        "measured": [{"picks": [*top, *faces(m, "s1/under")]}, {"picks": rim, "what": "length"}],
        "sheet_plate": [{"sketch": "s4"}, {"sketch": "s4", "lengths": "din", "side": "down"}],
        "sheet_flange": [{"edges": sheet}, {"edges": sheet, "width": "centred", "angle": "120 deg"},
                         {"edges": sheet, "bends": "own", "flip": True, "position": "beyond"}],
        "sheet_strip": [{"sketch": "s26"}, {"sketch": "s26", "swap": True, "toward": "both", "relief": "round"}],
        "sheet_profile": [{"edges": sheet, "sketch": "s26"}],
        "sheet_hem": [{"edges": sheet}, {"edges": sheet, "form": "teardrop"},
                      {"edges": sheet, "form": "rolled", "length": "1 mm"}],
        "sheet_fold": [{"sketch": "s19", "into": ["b_s18"]}],
        "sheet_joggle": [{"sketch": "s19", "into": ["b_s18"]}],
        "sheet_cut": [{"sketch": "s20", "into": ["b_s18"]}, {"sketch": "s20", "way": "through", "into": ["b_s18"]}],
        "sheet_corner": [{"edges": corner}, {"edges": corner, "form": "bevel", "size": "4 mm"}],
        "sheet_unfold": [{"into": ["b_s22"], "bends": []}],
        "sheet_refold": [{"into": ["b_s22"]}],
        "sheet_of": [{"bodies": ["b_s27"]}, {"bodies": ["b_s27"], "lengths": "din"}],
        "sheet_dimple": [{"sketch": "s28", "width": "14 mm", "height": "2 mm"},
                         {"sketch": "s28", "width": "14 mm", "shape": "flat", "radius": "0.5 mm", "flip": True}],
        "sheet_bead": [{"sketch": "s29"}, {"sketch": "s29", "shape": "ridge", "ends": "slit", "radius": "1 mm"}],
        "sheet_louvre": [{"sketch": "s29"}, {"sketch": "s29", "other": True, "width": "12 mm"}],
        "sheet_collar": [{"sketch": "s28", "height": "2 mm"}],
        "sheet_form": [{"sketch": "s30"}, {"sketch": "s30", "height": "2 mm", "radius": "0.5 mm", "crown": "0.5 mm"}],
        "sheet_wrap": [{"faces": block}, {"faces": block, "side": "out", "solid": "kept", "lengths": "din"}],
        "sheet_join": [{"what": "image", "bodies": ["b_s18"], "plane": "XZ"}],
        "set": [{"by": "round", "of": "edge", "radius": "4 mm"}],
    }  # fmt: skip

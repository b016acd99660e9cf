"""Sheet metal of the roaster: the chute under the discharge door, a guard that joggles round the foot of a bearing
block, a hood with louvres over the drum."""

from __future__ import annotations

from vireo.core.naming.grammar import body_name
from vireo.demo.making import PartScript, Script
from vireo.script.sketch import Sketch as Sketcher

_GROUND = {"base": "XY", "face": None}
_FRONT = {"base": "XZ", "face": None}


def _rectangle(x0: str, x1: str, y1: str, stands: tuple[float, float, float]) -> Sketcher:
    """From the x axis up, between two distances from the y axis."""
    s = Sketcher()
    a, b, h = stands
    corners = [((a, 0.0), x0, "0"), ((b, 0.0), x1, "0"), ((b, h), x1, y1), ((a, h), x0, y1)]
    points = []
    for at, x, y in corners:
        points.append(s.point(*at))
        s.at(points[-1], x, y)
    for k in range(4):
        s.line(points[k], points[(k + 1) % 4])
    return s


def chute(script: Script) -> PartScript:
    """A floor between two walls with returns, a back to screw it on by, a lip to pour over."""
    part = script.part("Chute", "1.4301")
    part.parameter("floor_w", "90 mm", note="between the walls, outside")
    part.parameter("floor_l", "140 mm")
    part.parameter("wall_h", "32 mm", limits={"kind": "range", "least": "20 mm", "most": "60 mm"})
    part.parameter("sheet", "1 mm", limits={"kind": "list", "values": ["0.8 mm", "1 mm", "1.5 mm"]})
    floor = _rectangle("floor_w/2", "floor_w/2", "floor_l", (-45.0, 45.0, 140.0))
    outline = part.add("sketch", "Floor outline", plane=_GROUND, drawing=floor.drawing)
    body = body_name(
        part.add("sheet_plate", "Floor", sketch=outline, thickness="sheet", radius="1 mm", k="0.42",
                 relief_width="sheet", relief_depth="0.5 mm")
    )  # fmt: skip
    p = Sketcher()
    drawn = [((45.0, 0.0), "floor_w/2", "0"), ((45.0, 32.0), "floor_w/2", "wall_h"),
             ((55.0, 32.0), "floor_w/2 + 10 mm", "wall_h")]  # fmt: skip
    points = []
    for at, across, up in drawn:
        points.append(p.point(*at))
        p.at(points[-1], across, up)
    p.line(points[0], points[1])
    p.line(points[1], points[2])
    profile = part.add("sketch", "Wall profile", plane=_FRONT, drawing=p.drawing)
    sides = [part.edge(body, (x, 70.0, 1.0), "line") for x in (-45.0, 45.0)]
    part.add("sheet_profile", "Walls", edges=sides, sketch=profile)
    back = [part.edge(body, (0.0, 140.0, 1.0), "line")]
    part.add("sheet_flange", "Back", edges=back, length="wall_h - 4 mm")
    lip = [part.edge(body, (0.0, 0.0, 0.0), "line")]
    part.add(
        "sheet_flange", "Pouring lip", edges=lip, length="14 mm", angle="40 deg", position="beyond"
    )
    end = part.edge(body, (0.0, -11.0, -9.0), "line")
    part.add("sheet_hem", "Safe edge", edges=[end], form="closed", length="5 mm", flip=True)
    h = Sketcher()
    for x in (-30.0, 30.0):
        place = h.point(x, 18.0)
        h.at(place, "30 mm", "wall_h/2 + 2 mm")
        h.put("diameter", h.circle(place, 2.75), formula="5.5 mm")
    holes = part.add("sketch", "Screw holes", plane=_FRONT, drawing=h.drawing)
    part.add("sheet_cut", "Screws", sketch=holes)
    return part


def bearing_guard(script: Script) -> PartScript:
    """Half of it drawn, put together with its mirror image."""
    part = script.part("Bearing guard", "S235")
    part.parameter("foot_h", "14 mm", note="of the bearing block it steps over")
    part.parameter("clear", "1.5 mm", note="air between the two")
    half = _rectangle("0", "96 mm", "34 mm", (0.0, 96.0, 34.0))
    outline = part.add("sketch", "Half of the strap", plane=_GROUND, drawing=half.drawing)
    body = body_name(
        part.add("sheet_plate", "Strap", sketch=outline, thickness="1.5 mm", radius="2 mm")
    )
    s = Sketcher()
    ends = [s.point(56.0, 39.0), s.point(56.0, -5.0)]
    for point, y in zip(ends, ("39 mm", "5 mm"), strict=True):
        s.at(point, "56 mm", y)
    s.line(ends[0], ends[1])
    line = part.add("sketch", "Joggle line", plane=_GROUND, drawing=s.drawing)
    part.add(
        "sheet_joggle", "Step down", sketch=line, height="foot_h + clear", angle="75 deg", flip=True
    )
    h = Sketcher()
    place = h.point(78.0, 17.0)
    h.at(place, "78 mm", "17 mm")
    h.put("diameter", h.circle(place, 3.3), formula="6.6 mm")
    holes = part.add("sketch", "Screw hole", plane=_GROUND, drawing=h.drawing)
    part.add("sheet_cut", "Screw", sketch=holes)
    wall = [part.edge(body, (25.0, 34.0, 1.5), "line")]
    part.add("sheet_flange", "Splash wall", edges=wall, length="22 mm", width="ends", start="0 mm", end="4 mm",
             swap=True)  # fmt: skip
    part.add("sheet_join", "Other half", plane="YZ")
    return part


def hood(script: Script) -> PartScript:
    """A lid with four walls, safe edges at the foot, louvres in the sides, beads and a pressed seat in the lid."""
    part = script.part("Vented hood", "1.4301")
    part.parameter("across", "154 mm", note="over the drum, with 1.5 mm air all round")
    part.parameter("along", "88 mm")
    part.parameter("high", "118 mm", limits={"kind": "range", "least": "100 mm", "most": "160 mm"})
    part.parameter("sheet", "1 mm", limits={"kind": "list", "values": ["0.8 mm", "1 mm", "1.5 mm"]})
    lid = Sketcher()
    at = [(-77.0, -44.0), (77.0, -44.0), (77.0, 44.0), (-77.0, 44.0)]
    corners = [lid.point(*p) for p in at]
    for p in corners:
        lid.at(p, "across/2", "along/2")
    for k in range(4):
        lid.line(corners[k], corners[(k + 1) % 4])
    outline = part.add("sketch", "Lid outline", plane=_GROUND, drawing=lid.drawing)
    body = body_name(
        part.add("sheet_plate", "Lid", sketch=outline, thickness="sheet", radius="1 mm", k="0.42")
    )
    edges = [(0.0, -44.0), (0.0, 44.0), (-77.0, 0.0), (77.0, 0.0)]
    rim = [part.edge(body, (x, y, 0.0), "line") for x, y in edges]
    part.add("sheet_flange", "Walls", edges=rim, length="high")
    # The inner edges at the feet of the walls.
    feet = [part.edge(body, (x, 43.0 * y, -117.0), "line") for x, y in ((0.0, -1.0), (0.0, 1.0))]
    part.add("sheet_hem", "Safe edges", edges=feet, form="closed", length="6 mm")
    v = Sketcher()
    for k in range(4):
        ends = [v.point(x, -40.0 - 18.0 * k) for x in (-24.0, 24.0)]
        for p in ends:
            v.at(p, "24 mm", f"40 mm + {18 * k} mm")
        v.line(ends[0], ends[1])
    slits = part.add(
        "sketch",
        "Slits",
        plane={"base": "YZ", "offset": {"formula": "across/2"}, "face": None},
        drawing=v.drawing,
    )
    part.add("sheet_louvre", "Louvres", sketch=slits, width="9 mm", height="4 mm", radius="1 mm")
    b = Sketcher()
    for x in (-50.0, 50.0):
        ends = [b.point(x, y) for y in (-24.0, 24.0)]
        for p in ends:
            b.at(p, "50 mm", "24 mm")
        b.line(ends[0], ends[1])
    paths = part.add("sketch", "Bead lines", plane=_GROUND, drawing=b.drawing)
    part.add("sheet_bead", "Stiffeners", sketch=paths, width="10 mm", height="2 mm", radius="1 mm")
    c = Sketcher()
    place = c.point(0.0, 0.0)
    c.at(place, "0 mm", "0 mm")
    c.put("diameter", c.circle(place, 16.0), formula="32 mm")
    seat = part.add("sketch", "Seat outline", plane=_GROUND, drawing=c.drawing)
    part.add(
        "sheet_form", "Seat of the throat", sketch=seat, height="2 mm", radius="1 mm", crown="1 mm", flip=True
    )  # fmt: skip
    return part

"""Base plate, two bearing blocks from one part, shaft, discharge door with lever, checks; hub,
throat and knob beside them.

All sizes and names are invented here. Everything is made by the commands a person's clicks
send.
"""

from __future__ import annotations

from typing import Protocol

from vireo.core.naming.grammar import body_name
from vireo.demo.families import angle, motor_bracket
from vireo.demo.fittings import air_knob, drum_hub, hopper_throat
from vireo.demo.machine import machine
from vireo.demo.making import AssemblyScript, DocumentScript, PartScript, Script
from vireo.demo.sheets import bearing_guard, chute, hood
from vireo.script.sketch import Sketch as Sketcher
from vireo.store import Store
from vireo.work.builds import Builds

NAME = "Coffee roaster"
RIGHT = {"base": "YZ", "face": None}
FRONT = {"base": "XZ", "face": None}
GROUND = {"base": "XY", "face": None}


class Services(Protocol):
    """What the demo needs of the running application."""

    store: Store
    builds: Builds


def make_demo(services: Services) -> str | None:
    """Add the demo project unless a project of that name is there. Returns its id."""
    if any(p["name"] == NAME for p in services.store.projects()):
        return None
    project = services.store.create_project(NAME)
    script = Script(services.store, services.builds, project)
    plate, block, shaft = base_plate(script), bearing_block(script), drum_shaft(script)
    frame, door, lever = door_frame(script), discharge_door(script), door_lever(script)
    roaster(script, plate, block, shaft, frame, door, lever)
    lever_study(script, lever)
    hub, throat, knob = drum_hub(script), hopper_throat(script), air_knob(script)
    machine(script, {
        "plate": plate, "block": block, "shaft": shaft, "frame": frame, "door": door,
        "lever": lever, "hub": hub, "throat": throat, "knob": knob,
    })  # fmt: skip
    motor_bracket(script)
    angle(script)
    chute(script)
    bearing_guard(script)
    hood(script)
    return project


def on_face(part: PartScript, body: str, near: tuple[float, float, float]) -> dict[str, object]:
    return {"base": None, "face": part.face(body, near, "plane")}


def base_plate(script: Script) -> PartScript:
    part = script.part("Base plate", "6061-T6")
    part.parameter("length", "240 mm", note="along the blocks' feet")
    part.parameter("width", "200 mm", note="along the drum")
    part.parameter("thick", "10 mm", limits={"kind": "list", "values": ["8 mm", "10 mm", "12 mm"]})
    part.parameter("pitch", "120 mm", note="between the bearing blocks")
    s = Sketcher()
    corners = s.box(-120, -100, 120, 100)
    s.put("distance_x", corners[0], "origin", formula="length/2")
    s.put("distance_y", corners[0], "origin", formula="width/2")
    s.put("distance_x", corners[0], corners[2], formula="length")
    s.put("distance_y", corners[0], corners[2], formula="width")
    outline = part.add("sketch", "Outline", plane=GROUND, drawing=s.drawing)
    body = body_name(part.add("extrude", "Plate", sketch=outline, depth="thick"))
    h = Sketcher()
    for x in (-36.0, 36.0):
        for y in (-60.0, 60.0):
            h.at(h.point(x, y), "36 mm", "pitch/2")
    top = on_face(part, body, (0, 0, 10))
    holes = part.add("sketch", "Block holes", plane=top, drawing=h.drawing)
    part.add("hole", "Block threads", sketch=holes, bore="5 mm")
    f = Sketcher()
    for x in (-30.0, 30.0):
        f.at(f.point(x, -86), "30 mm", "pitch/2 + 26 mm")
    holes = part.add("sketch", "Frame holes", plane=top, drawing=f.drawing)
    part.add("hole", "Frame screws", sketch=holes, bore="5.5 mm")
    uprights = [part.edge(body, (x, y, 5), "line") for x in (-120, 120) for y in (-100, 100)]
    part.add("fillet", "Round corners", edges=uprights, radius="12 mm")
    part.add("chamfer", "Ease the top", edges=[part.edge(body, (0, -100, 10), "line")], size="1 mm")
    return part


def bearing_block(script: Script) -> PartScript:
    part = script.part("Bearing block", "S235")
    part.parameter(
        "shaft_d", "26 mm", limits={"kind": "list", "values": ["20 mm", "26 mm", "32 mm"]},
        note="drum shaft",
    )  # fmt: skip
    part.parameter("wall", "shaft_d * 0.42", limits={"kind": "range", "least": "8 mm"})
    part.parameter(
        "seat_h", "40 mm", limits={"kind": "range", "least": "30 mm", "most": "wall*6"},
        note="axis above the plate",
    )  # fmt: skip
    part.parameter("reach", "96 mm if shaft_d > 20 mm else 82 mm", note="length of the foot")
    part.parameter("depth", "34 mm")
    s = Sketcher()
    points = [
        (-48, 0), (48, 0), (48, 14), (24, 14), (24, 40), (-24, 40), (-24, 14), (-48, 14),
    ]  # fmt: skip
    ids = [s.point(*p) for p in points]
    for i in (0, 1, 2, 3, 5, 6, 7):
        side = s.line(ids[i], ids[(i + 1) % 8])
        s.put("horizontal" if points[i][1] == points[(i + 1) % 8][1] else "vertical", side)
    centre = s.point(0, 40)
    s.arc(centre, ids[4], ids[5])
    s.at(centre, "0", "seat_h")
    s.put("horizontal", centre, ids[4])
    s.put("horizontal", centre, ids[5])
    s.put("distance_x", centre, ids[4], formula="shaft_d/2 + wall")
    s.put("distance_x", "origin", ids[1], formula="reach/2")
    s.put("distance_y", "origin", ids[2], formula="14 mm")
    s.put("on_curve", ids[1], "x_axis")
    s.put("symmetric", ids[0], ids[1], "y_axis")
    s.put("horizontal", ids[3], ids[6])
    outline = part.add("sketch", "Outline", plane=FRONT, drawing=s.drawing)
    body = body_name(part.add("extrude", "Body", sketch=outline, reach="symmetric", depth="depth"))
    feet = [part.edge(body, (x, y, 7), "line") for x in (-48, 48) for y in (-17, 17)]
    part.add("fillet", "Round foot", edges=feet, radius="6 mm")
    c = Sketcher()
    c.at(c.point(0, 40), "0", "seat_h")
    seat = part.add(
        "sketch", "Seat centre", plane=on_face(part, body, (0, -17, 25)), drawing=c.drawing
    )
    part.add(
        "hole", "Bearing seat", sketch=seat, form="counterbored", bore="shaft_d + 0.05 mm",
        recess="shaft_d + 8 mm", recess_depth="6 mm",
    )  # fmt: skip
    h = Sketcher()
    for x in (-36.0, 36.0):
        h.at(h.point(x, 0), "reach/2 - 12 mm", "0")
    foot = on_face(part, body, (40, 0, 14))
    holes = part.add("sketch", "Hole centres", plane=foot, drawing=h.drawing)
    part.add("hole", "Foot holes", sketch=holes, bore="6.6 mm")
    rims = [part.edge(body, (0, y, 66), "circle") for y in (-17, 17)]
    part.add("chamfer", "Ease edges", edges=rims, size="0.5 mm")
    part.do("add_check", kind="mass", name="Block stays light", limit="800 g")
    bore = part.face(body, (0, 5, 40), "cylinder")
    crown = part.face(body, (0, 0, 64), "cylinder")
    part.do(
        "add_check", kind="distance", name="Wall over the seat", relation="at_least", limit="8 mm",
        fields={"picks": [bore, crown]},
    )  # fmt: skip
    part.do(
        "add_check", kind="wall", name="Walls can be milled", relation="at_least", limit="4 mm",
        note="thinner ones sing on the mill",
    )  # fmt: skip
    part.do("add_check", kind="hole_count", name="Two foot screws", relation="at_least", limit="2",
            fields={"diameter": "6.6 mm"})  # fmt: skip
    part.do("add_check", kind="size", name="Fits the base plate", limit="100 mm", fields={"axis": "x"},
            severity="should", note="the plate is 200 mm wide, and two stand on it")  # fmt: skip
    return part


def drum_shaft(script: Script) -> PartScript:
    part = script.part("Drum shaft", "1.4301")
    part.parameter("shaft_d", "26 mm")
    part.parameter("length", "160 mm")
    s = Sketcher()
    rim = s.circle("origin", 13)
    s.put("diameter", rim, formula="shaft_d")
    section = part.add("sketch", "Section", plane=FRONT, drawing=s.drawing)
    body = body_name(part.add("extrude", "Bar", sketch=section, reach="symmetric", depth="length"))
    ends = [part.edge(body, (0, y, 0), "circle") for y in (-80, 80)]
    part.add("chamfer", "Ease ends", edges=ends, size="1.5 mm")
    return part


def door_frame(script: Script) -> PartScript:
    part = script.part("Door frame", "S235")
    part.parameter("pin_d", "8 mm", note="hinge pin")
    part.parameter("stop_out", "58 mm", note="how far the stop lug reaches out")
    s = Sketcher()
    outer = s.box(-50, 0, 50, 80)
    s.put("symmetric", outer[0], outer[1], "y_axis")
    s.put("on_curve", outer[0], "x_axis")
    s.put("distance_x", outer[0], outer[1], formula="100 mm")
    s.put("distance_y", outer[0], outer[3], formula="80 mm")
    inner = s.box(-35, 15, 35, 64)
    s.put("symmetric", inner[0], inner[1], "y_axis")
    s.put("distance_x", inner[0], inner[1], formula="70 mm")
    s.put("distance_y", "origin", inner[0], formula="15 mm")
    s.put("distance_y", inner[0], inner[3], formula="49 mm")
    outline = part.add("sketch", "Opening", plane=FRONT, drawing=s.drawing)
    body = body_name(part.add("extrude", "Frame", sketch=outline, depth="8 mm"))
    e = Sketcher()
    ear = e.box(-28, 62, -8, 80)
    e.at(ear[0], "28 mm", "62 mm")
    e.at(ear[2], "8 mm", "80 mm")
    profile = part.add("sketch", "Ear", plane=RIGHT, drawing=e.drawing)
    part.add("extrude", "Ears", sketch=profile, reach="symmetric", depth="100 mm", result="add")
    g = Sketcher()
    gap = g.box(-38, 60, 38, 82)
    g.put("symmetric", gap[0], gap[1], "y_axis")
    g.put("distance_x", gap[0], gap[1], formula="76 mm")
    g.put("distance_y", "origin", gap[0], formula="60 mm")
    g.put("distance_y", gap[0], gap[3], formula="22 mm")
    front = on_face(part, body, (0, -28, 71))
    between = part.add("sketch", "Between the ears", plane=front, drawing=g.drawing)
    part.add("extrude", "Split ears", sketch=between, depth="20 mm", flip=True, result="cut")
    b = Sketcher()
    pin = b.point(-18, 71)
    b.at(pin, "18 mm", "71 mm")
    b.put("diameter", b.circle(pin, 4), formula="pin_d")
    bore = part.add("sketch", "Hinge line", plane=RIGHT, drawing=b.drawing)
    part.add("extrude", "Hinge bores", sketch=bore, reach="through", result="cut")
    t = Sketcher()
    corners = [(38, 79), (50, 79), (50, 86), (58, 86), (58, 96), (38, 96)]
    ids = t.polygon([(float(x), float(z)) for x, z in corners])
    t.at(ids[0], "38 mm", "79 mm")
    t.at(ids[2], "50 mm", "86 mm")
    t.at(ids[4], "stop_out", "96 mm")
    stop = part.add("sketch", "Stop", plane=FRONT, drawing=t.drawing)
    part.add("extrude", "Stop lug", sketch=stop, depth="30 mm", result="add")
    h = Sketcher()
    for x in (-30.0, 30.0):
        h.at(h.point(x, 4), "30 mm", "4 mm")
    under = on_face(part, body, (0, -4, 0))
    holes = part.add("sketch", "Screw holes", plane=under, drawing=h.drawing)
    part.add("hole", "Threads", sketch=holes, bore="4.2 mm", reach="blind", depth="11 mm")
    return part


def discharge_door(script: Script) -> PartScript:
    part = script.part("Discharge door", "1.4301")
    part.parameter("pin_d", "7.9 mm")
    s = Sketcher()
    leaf = s.box(-34, -64, 34, 0)
    s.put("symmetric", leaf[0], leaf[1], "y_axis")
    s.put("distance_x", leaf[0], leaf[1], formula="68 mm")
    s.put("on_curve", leaf[2], "x_axis")
    s.put("distance_y", leaf[0], leaf[3], formula="64 mm")
    outline = part.add("sketch", "Leaf", plane=FRONT, drawing=s.drawing)
    part.add("extrude", "Door leaf", sketch=outline, reach="symmetric", depth="4 mm")
    b = Sketcher()
    b.put("diameter", b.circle("origin", 8), formula="16 mm")
    barrel = part.add("sketch", "Barrel section", plane=RIGHT, drawing=b.drawing)
    part.add("extrude", "Barrel", sketch=barrel, reach="symmetric", depth="72 mm", result="add")
    p = Sketcher()
    p.put("diameter", p.circle("origin", 3.95), formula="pin_d")
    pin = part.add("sketch", "Pin section", plane=RIGHT, drawing=p.drawing)
    part.add("extrude", "Pin", sketch=pin, reach="symmetric", depth="104 mm", result="add")
    return part


def door_lever(script: Script) -> PartScript:
    part = script.part("Door lever", "5754")
    part.parameter("thick", "3 mm", limits={"kind": "range", "least": "2 mm", "most": "8 mm"},
                   note="sheet the lever is cut from")  # fmt: skip
    part.parameter("reach", "90 mm", note="hinge to grip")
    part.parameter("hub_d", "20 mm")
    part.parameter("tip_d", "14 mm")
    s = Sketcher()
    tip = s.point(-90, 0)
    s.at(tip, "reach", "0")
    hub_top, hub_low = s.point(-0.333, 9.99), s.point(-0.333, -9.99)
    tip_top, tip_low = s.point(-90.233, 6.99), s.point(-90.233, -6.99)
    hub = s.arc("origin", hub_low, hub_top)
    end = s.arc(tip, tip_top, tip_low)
    upper, lower = s.line(hub_top, tip_top), s.line(tip_low, hub_low)
    s.put("diameter", hub, formula="hub_d")
    s.put("diameter", end, formula="tip_d")
    for line in (upper, lower):
        s.put("tangent", line, hub)
        s.put("tangent", line, end)
    s.put("diameter", s.circle("origin", 4), formula="8 mm")
    s.put("diameter", s.circle(tip, 2.5), formula="5 mm")
    outline = part.add("sketch", "Lever outline", plane=RIGHT, drawing=s.drawing)
    part.add("extrude", "Lever", sketch=outline, depth="thick")
    return part


def roaster(
    script: Script, plate: PartScript, block: PartScript, shaft: PartScript, frame: PartScript,
    door: PartScript, lever: PartScript,
) -> AssemblyScript:  # fmt: skip
    a = script.assembly("Roaster corner")
    base = a.place(plate, "Base plate")
    plate_body, block_body = _body(plate), _body(block)
    foot = block.edge(block_body, (36, 0, 0), "circle")
    blocks = []
    for name, y in (("front", -60.0), ("rear", 60.0)):
        placed = {"placement": {"p": [0, y, 10]}}
        c = a.place(block, f"Bearing block {name}", **placed)
        hole = plate.edge(plate_body, (36, y, 10), "circle")
        a.join("fixed", f"Block {name} on plate", (base, hole), (c, foot))
        blocks.append(c)
    bar = a.place(shaft, "Drum shaft", placement={"p": [0, 0, 50]})
    seat = block.edge(block_body, (0, 17, 40), "circle")
    end = shaft.edge(_body(shaft), (0, 80, 0), "circle")
    a.join("revolute", "Shaft turns", (blocks[1], seat), (bar, end), flip=True, offset="3 mm")
    hold = a.place(frame, "Door frame", placement={"p": [0, -82, 10]})
    a.join(
        "fixed", "Frame on plate", (base, plate.edge(plate_body, (30, -86, 10), "circle")),
        (hold, frame.edge(_body(frame), (30, -4, 0), "circle")),
    )  # fmt: skip
    leaf = a.place(door, "Discharge door", placement={"p": [0, -100, 81]})
    hinge = a.join(
        "revolute", "Door hinge",
        (hold, frame.edge(_body(frame), (38, -18, 71), "circle")),
        (leaf, door.edge(_body(door), (36, 0, 0), "circle")),
        offset="2 mm", least="-5 deg", most="80 deg", value="0 deg",
    )  # fmt: skip
    arm = a.place(lever, "Door lever", placement={"p": [51, -100, 81]})
    a.join(
        "fixed", "Lever on pin", (leaf, door.edge(_body(door), (52, 0, 0), "circle")),
        (arm, lever.edge(_body(lever), (0, 0, 0), "circle")), offset="-1 mm",
    )  # fmt: skip
    tip = lever.edge(_body(lever), (0, -90, 0), "circle")
    a.do(
        "keep_run", name="Open the door", duration="2 s", frames=80,
        drivers=[{"joint": hinge, "law": "go_to", "value": "75 deg"}],
        watched=[{"a": arm, "b": hold}],
        traced=[{"name": "Grip", "at": {"component": arm, "pick": tip}}],
    )  # fmt: skip
    a.do("add_check", kind="interference", name="Nothing overlaps", limit="0 mm**3")
    a.do("add_check", kind="mass", name="One can carry it", limit="5 kg")
    return a


def _body(part: PartScript) -> str:
    found: str = part.build()["bodies"][0]["id"]
    return found


def lever_study(script: Script, lever: PartScript) -> DocumentScript:
    study = script.study("Lever strength", lever)
    body = _body(lever)
    study.parameter("hand", "60 N", note="a firm pull on the grip")
    hub = lever.face(body, (0, 0, 0), "cylinder")
    grip = lever.face(body, (0, -90, 0), "cylinder")
    study.do("add_support", name="On the pin", faces=[hub])
    study.do("add_load", kind="force", name="Pull", faces=[grip], size="hand",
             direction=[0.0, 0.0, -1.0])  # fmt: skip
    study.do(
        "add_check", kind="safety", name="Lever does not yield", relation="at_least", limit="2"
    )
    return study

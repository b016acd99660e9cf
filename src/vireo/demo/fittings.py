"""The roaster's small parts: a printed knob with its thread, the drum's hub, the hopper's throat."""

from __future__ import annotations

from vireo.core.naming.grammar import body_name
from vireo.demo.making import PartScript, Script
from vireo.script.sketch import Sketch as Sketcher

FRONT = {"base": "XZ", "face": None}
GROUND = {"base": "XY", "face": None}


def _lying(height: str) -> dict[str, object]:
    return {**GROUND, "offset": {"formula": height}}


def air_knob(script: Script) -> PartScript:
    """Turned outline, scallops to grip, a thread loose enough to print, its word sunk on top."""
    part = script.part("Air knob", "PETG")
    part.parameter("knob_d", "36 mm", limits={"kind": "range", "least": "26 mm", "most": "60 mm"})
    part.parameter("knob_h", "20 mm", note="above the panel")
    part.parameter("grips", "8", note="scallops round it")
    part.parameter("play", "0.25 mm", note="thread looser by this when printed")
    s = Sketcher()
    foot, rim, _, top = s.polygon([(0, 0), (18, 0), (18, 20), (0, 20)])
    s.put("coincident", foot, "origin")
    s.put("distance_x", foot, rim, formula="knob_d/2")
    s.put("distance_y", foot, top, formula="knob_h")
    outline = part.add("sketch", "Outline", plane=FRONT, drawing=s.drawing)
    body = body_name(part.add("revolve", "Turned body", sketch=outline, axis="y_axis"))
    shoulder = [part.edge(body, (0, 0, 20), "circle")]
    part.add("fillet", "Soft shoulder", edges=shoulder, radius="4 mm")
    grip = part.add(
        "primitive", "Grip", form="cylinder", diameter="9 mm", height="knob_h",
        x="knob_d/2 + 2.5 mm", result="cut",
    )  # fmt: skip
    part.add("copies_circular", "Grips all round", steps=[grip], count="grips")
    t = Sketcher()
    start, end = t.point(-5.5, -2.2), t.point(5.5, -2.2)
    word = t.add("text", start=start, end=end, text="AIR", height=4.5)
    t.put("text_height", word, formula="4.5 mm")
    t.put("horizontal", start, end)
    t.at(start, "5.5 mm", "2.2 mm")
    lettering = part.add("sketch", "Word", plane=_lying("knob_h"), drawing=t.drawing)
    face = part.face(body, (0, 0, 20), "plane")
    part.add("emboss", "Word on top", sketch=lettering, face=[face], way="sink", height="0.6 mm")
    under = part.face(body, (0, 0, 0), "plane")
    middle = {"id": "m", "face": under, "at": [{"formula": "0 mm"}] * 3}
    part.add(
        "hole", "Thread for the spindle", at="faces", spots=[middle], size="screw", screw="M6",
        form="tapped", reach="blind", depth="14 mm", thread="11 mm", shown="modelled", loose="play",
    )  # fmt: skip
    return part


def drum_hub(script: Script) -> PartScript:
    """Carries the drum's end plate on the shaft: seat, keyway, clamp screw, bolt circle."""
    part = script.part("Drum hub", "S355")
    part.parameter(
        "shaft_d", "26 mm", limits={"kind": "list", "values": ["20 mm", "26 mm", "32 mm"]}
    )
    part.parameter("flange_d", "shaft_d + 64 mm")
    part.parameter("bolts", "6", note="to the drum's end plate")
    part.parameter("hub_l", "28 mm")
    s = Sketcher()
    p = s.polygon([(13, 0), (45, 0), (45, 8), (22, 8), (22, 28), (13, 28)])
    s.put("on_curve", p[0], "x_axis")
    s.put("distance_x", "origin", p[0], formula="shaft_d/2")
    s.put("distance_x", "origin", p[1], formula="flange_d/2")
    s.put("distance_x", "origin", p[3], formula="shaft_d/2 + 9 mm")
    s.put("distance_y", p[1], p[2], formula="8 mm")
    s.put("distance_y", "origin", p[4], formula="hub_l")
    outline = part.add("sketch", "Half section", plane=FRONT, drawing=s.drawing)
    body = body_name(part.add("revolve", "Turned", sketch=outline, axis="y_axis"))
    root = [part.edge(body, (0, 0, 8), "circle")]
    part.add("fillet", "Root", edges=root, radius="3 mm")
    part.add(
        "primitive", "Keyway", form="box", width="8 mm", depth="shaft_d/2 + 3.3 mm", height="hub_l",
        x="-4 mm", result="cut",
    )  # fmt: skip
    h = Sketcher()
    h.at(h.point(36, 0), "flange_d/2 - 9 mm", "0")
    spot = part.add("sketch", "Bolt place", plane=_lying("8 mm"), drawing=h.drawing)
    bolt = part.add("hole", "Bolt hole", sketch=spot, size="screw", screw="M6", flip=True)
    part.add("copies_circular", "Bolt circle", steps=[bolt], count="bolts")
    wall = part.face(body, (0, 0, 19.5), "cylinder")
    place = [{"formula": v} for v in ("0 mm", "-(shaft_d/2 + 9 mm)", "hub_l - 9 mm")]
    part.add(
        "hole", "Clamp screw", at="faces", spots=[{"id": "c", "face": wall, "at": place}],
        size="screw", screw="M5", form="tapped", reach="blind", depth="10 mm", thread="9 mm",
    )  # fmt: skip
    rims = [part.edge(body, (0, 0, z), "circle") for z in (0.0, 28.0)]
    part.add("chamfer", "Ease rims", edges=rims, size="0.8 mm")
    return part


def hopper_throat(script: Script) -> PartScript:
    """From the hopper's square mouth to the round drum inlet, hollow, with a flange."""
    part = script.part("Hopper throat", "1.4301")
    part.parameter("mouth", "110 mm", note="square, at the hopper")
    part.parameter("inlet_d", "52 mm", note="round, at the drum")
    part.parameter("fall", "80 mm")
    part.parameter("wall", "1.5 mm")
    skins = []
    for name, round_, square in (
        ("outside", "inlet_d", "mouth"), ("inside", "inlet_d - 2*wall", "mouth - 2*wall"),
    ):  # fmt: skip
        low, high = Sketcher(), Sketcher()
        low.put("diameter", low.circle("origin", 26), formula=round_)
        p = high.box(-55, -55, 55, 55)
        high.put("symmetric", p[0], p[2], "origin")
        high.put("distance_x", p[0], p[1], formula=square)
        high.put("distance_y", p[0], p[3], formula=square)
        skins.append(
            [
                part.add("sketch", f"Inlet {name}", plane=GROUND, drawing=low.drawing),
                part.add("sketch", f"Mouth {name}", plane=_lying("fall"), drawing=high.drawing),
            ]
        )
    part.add("loft", "Throat", sections=skins[0])
    part.add("loft", "Hollow", sections=skins[1], result="cut")
    f = Sketcher()
    for half, size in ((55.0, "mouth - 2*wall"), (67.0, "mouth + 24 mm")):
        q = f.box(-half, -half, half, half)
        f.put("symmetric", q[0], q[2], "origin")
        f.put("distance_x", q[0], q[1], formula=size)
        f.put("distance_y", q[0], q[3], formula=size)
    rim = part.add("sketch", "Flange outline", plane=_lying("fall"), drawing=f.drawing)
    part.add("extrude", "Flange", sketch=rim, depth="2 mm", flip=True, result="add")
    h = Sketcher()
    for y in (-40.0, 40.0):
        h.at(h.point(61, y), "mouth/2 + 6 mm", "mouth/2 - 15 mm")
    place = part.add("sketch", "Screw places", plane=_lying("fall"), drawing=h.drawing)
    screw = part.add("hole", "Side screws", sketch=place, size="screw", screw="M4")
    part.add("copies_circular", "Flange screws", steps=[screw], count="4")
    return part

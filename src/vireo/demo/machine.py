"""The tabletop roaster put together: drum on its shaft in raised blocks, housing, hopper throat, door
unit, knob, feet, and the fasteners by the holes they go into. About seventy components."""

from __future__ import annotations

from collections.abc import Mapping

from vireo.core.documents.frames import JointEnd
from vireo.core.hardware.fastening import Wish
from vireo.core.naming.grammar import body_name
from vireo.demo.making import AssemblyScript, PartScript, Script
from vireo.script.sketch import Sketch as Sketcher
from vireo.store.store import new_id
from vireo.work.fastening import put_in
from vireo.work.inplace import as_assembly, begun, taken

GROUND = {"base": "XY", "face": None}
_BODY = body_name("s1")


def _foot(script: Script) -> PartScript:
    part = script.part("Foot", "PETG")
    s = Sketcher()
    s.put("diameter", s.circle("origin", 12.0), formula="24 mm")
    outline = part.add("sketch", "Outline", plane=GROUND, drawing=s.drawing)
    part.add("extrude", "Foot", sketch=outline, depth="12 mm")
    return part


def _sized(part: PartScript) -> None:
    """The outer diameter of the drum, the same in all that has to do with it: the largest is too large."""
    part.parameter("drum_d", "116 mm", note="drum, outside",
                   limits={"kind": "list", "values": ["108 mm", "116 mm", "127 mm"]})  # fmt: skip


def _drum_tube(script: Script) -> PartScript:
    """The drum's wall, with vanes outside that sweep the chaff out of the housing."""
    part = script.part("Drum tube", "1.4301")
    _sized(part)
    s = Sketcher()
    s.put("diameter", s.circle("origin", 58.0), formula="drum_d")
    s.put("diameter", s.circle("origin", 55.0), formula="drum_d - 6 mm")
    outline = part.add("sketch", "Outline", plane=GROUND, drawing=s.drawing)
    part.add("extrude", "Drum tube", sketch=outline, depth="50 mm")
    vane = part.add("primitive", "Vane", form="box", width="8 mm", depth="3 mm", height="48 mm",
                    x="drum_d/2 - 2 mm", y="-1.5 mm", z="1 mm", result="add")  # fmt: skip
    part.add("copies_circular", "Vanes", steps=[vane], count="4")
    return part


def _drum_end(script: Script) -> PartScript:
    part = script.part("Drum end", "1.4301")
    _sized(part)
    s = Sketcher()
    s.put("diameter", s.circle("origin", 55.0), formula="drum_d - 6 mm")
    s.put("diameter", s.circle("origin", 26.0), formula="52 mm")
    outline = part.add("sketch", "Outline", plane=GROUND, drawing=s.drawing)
    part.add("extrude", "Drum end", sketch=outline, depth="4 mm")
    bore = part.add("primitive", "Bolt hole", form="cylinder", diameter="6.6 mm", height="4 mm",
                    x="36 mm", result="cut")  # fmt: skip
    part.add("copies_circular", "Bolt circle", steps=[bore], count="6")
    return part


def _bush(script: Script) -> PartScript:
    """Keeps the chaff out of the seat of the shaft: pressed into the block's recess."""
    part = script.part("Seal bush", "brass")
    part.parameter("fit", "0.02 mm", note="wider than its seat by this")
    s = Sketcher()
    s.put("diameter", s.circle("origin", 17.01), formula="34 mm + fit")
    s.put("diameter", s.circle("origin", 13.2), formula="26.4 mm")
    outline = part.add("sketch", "Outline", plane=GROUND, drawing=s.drawing)
    part.add("extrude", "Bush", sketch=outline, depth="6 mm")
    return part


def _pedestal(script: Script) -> PartScript:
    """Raises a bearing block above the plate."""
    part = script.part("Pedestal", "6061-T6")
    part.parameter("lift", "30 mm", note="plate to the block's foot")
    part.add("primitive", "Bar", form="box", width="96 mm", depth="34 mm", height="lift",
             x="-48 mm", y="-17 mm")  # fmt: skip
    for n, x in enumerate((-36, 36)):
        part.add("primitive", f"Screw hole {n + 1}", form="cylinder", diameter="6.6 mm",
                 height="lift", x=f"{x} mm", result="cut")  # fmt: skip
    return part


def _housing(script: Script) -> PartScript:
    """A plain hood for now: open below, windows for the shaft, a hole for the throat."""
    part = script.part("Housing", "1.4301")
    part.parameter("sheet", "2 mm")
    part.add("primitive", "Hood", form="box", width="150 mm", depth="84 mm", height="140 mm",
             x="-75 mm", y="-42 mm")  # fmt: skip
    part.add("primitive", "Hollow", form="box", width="150 mm - 2*sheet", depth="84 mm - 2*sheet",
             height="140 mm - sheet", x="sheet - 75 mm", y="sheet - 42 mm", result="cut")  # fmt: skip
    part.add("primitive", "Windows", form="cylinder", diameter="60 mm", height="100 mm", plane="XZ",
             y="70 mm", z="-50 mm", result="cut")  # fmt: skip
    part.add("primitive", "Throat hole", form="cylinder", diameter="54 mm", height="20 mm",
             z="125 mm", result="cut")  # fmt: skip
    return part


def _rim(script: Script) -> PartScript:
    """Holds the hopper on the throat's flange."""
    part = script.part("Hopper rim", "1.4301")
    part.add("primitive", "Plate", form="box", width="134 mm", depth="134 mm", height="3 mm",
             x="-67 mm", y="-67 mm")  # fmt: skip
    part.add("primitive", "Mouth", form="box", width="107 mm", depth="107 mm", height="3 mm",
             x="-53.5 mm", y="-53.5 mm", result="cut")  # fmt: skip
    holes = [
        part.add("primitive", f"Screw hole {n + 1}", form="cylinder", diameter="4.5 mm",
                 height="3 mm", x="61 mm", y=f"{y} mm", result="cut")
        for n, y in enumerate((-40, 40))
    ]  # fmt: skip
    part.add("copies_circular", "All round", steps=holes, count="4")
    return part


def _fasten(a: AssemblyScript, end: dict[str, object], wish: Wish) -> None:
    """Put hardware into a hole of an assembly, and into all alike."""
    store, builds = a.script.store, a.script.builds
    found = put_in(store, builds, a.record, end, wish, True, lambda: new_id("d"))
    for id, document in found.fresh.items():
        store.create_document(a.script.project, document, id)
    for command in found.commands:
        fields = {k: v for k, v in command.items() if k != "do"}
        a.do(str(command["do"]), **fields)


def _drum(script: Script, hub: PartScript) -> AssemblyScript:
    """Tube, two end plates, a hub bolted into each."""
    tube, end = _drum_tube(script), _drum_end(script)
    a = script.assembly("Drum")
    body = body_name("s2")
    base = a.place(tube, "Drum tube", anchored=True)
    for side, z in (("front", 0.0), ("rear", 50.0)):
        plate = a.place(end, f"End {side}")
        a.join(
            "fixed", f"End {side} in tube", (base, tube.edge(body, (0, 0, z), "circle", 55.0)),
            (plate, end.edge(body, (0, 0, 4), "circle", 55.0)), flip=True,
        )  # fmt: skip
        seat = a.place(hub, f"Hub {side}")
        a.join(
            "fixed", f"Hub {side} on end", (plate, end.edge(body, (36, 0, 4), "circle")),
            (seat, hub.edge(_made(hub), (36, 0, 8), "circle")),
        )  # fmt: skip
        _fasten(
            a, {"component": seat, "pick": hub.edge(_made(hub), (36, 0, 0), "circle")},
            Wish("ISO 4762", washer=False),
        )  # fmt: skip
    _in_sizes(a, tube, end)
    return a


def _in_sizes(drum: AssemblyScript, tube: PartScript, end: PartScript) -> None:
    """The drum in three sizes: rows of tube and end plate, and of the drum that is made of them."""
    rows: dict[str, dict[str, str]] = {}
    for part in (tube, end):
        column = (
            part.do("add_column", drives="parameter", of={"name": "drum_d"}).document.columns[0].id
        )
        for size in (108, 127):
            made = part.do(
                "add_variant", name=f"Drum {size}", cells={column: {"formula": f"{size} mm"}}
            )
            rows.setdefault(part.id, {})[f"Drum {size}"] = made.document.variants[-1].id
    columns: dict[str, str] = {}
    for name, id in drum.components.items():
        if name == "Drum tube" or name.startswith("End"):
            made = drum.do("add_column", drives="member", of={"component": id})
            columns[made.document.columns[-1].id] = (tube if name == "Drum tube" else end).id
    for name in ("Drum 108", "Drum 127"):
        drum.do("add_variant", name=name, cells={
            c: {"variant": rows[part][name]} for c, part in columns.items()
        })  # fmt: skip


def _made(part: PartScript) -> str:
    found: str = part.build()["bodies"][0]["id"]
    return found


def _door_unit(
    script: Script, frame: PartScript, door: PartScript, lever: PartScript, knob: PartScript
) -> AssemblyScript:
    a = script.assembly("Door unit")
    hold = a.place(frame, "Door frame", anchored=True)
    leaf = a.place(door, "Discharge door", placement={"p": [0, -18, 71]})
    a.join(
        "revolute", "Hinge", (hold, frame.edge(_made(frame), (38, -18, 71), "circle")),
        (leaf, door.edge(_made(door), (36, 0, 0), "circle")),
        offset="2 mm", least="-5 deg", most="80 deg", value="0 deg",
    )  # fmt: skip
    arm = a.place(lever, "Door lever", placement={"p": [51, -18, 71]})
    a.join(
        "fixed", "Lever on pin", (leaf, door.edge(_made(door), (52, 0, 0), "circle")),
        (arm, lever.edge(_made(lever), (0, 0, 0), "circle")), offset="-1 mm",
    )  # fmt: skip
    grip = a.place(knob, "Grip knob")
    a.join(
        "revolute", "Knob turns", (arm, lever.edge(_made(lever), (3, -90, 0), "circle")),
        (grip, knob.edge(_made(knob), (0, 0, 0), "circle")),
    )  # fmt: skip
    return a


def machine(script: Script, parts: Mapping[str, PartScript]) -> AssemblyScript:
    """The whole roaster of the parts there are and some plain ones of its own."""
    plate, block, shaft = parts["plate"], parts["block"], parts["shaft"]
    drum = _drum(script, parts["hub"])
    unit = _door_unit(script, parts["frame"], parts["door"], parts["lever"], parts["knob"])
    raised, hood, rim = _pedestal(script), _housing(script), _rim(script)
    foot = _foot(script)
    a = script.assembly("Tabletop roaster")
    plate_body, block_body = _made(plate), _made(block)
    base = a.place(plate, "Base plate")
    blocks = []
    for name, y in (("front", -60.0), ("rear", 60.0)):
        under = a.place(raised, f"Pedestal {name}", placement={"p": [0, y, 10]})
        a.join(
            "fixed", f"Pedestal {name} on plate",
            (base, plate.edge(plate_body, (36, y, 10), "circle")),
            (under, raised.edge(_BODY, (36, 0, 0), "circle")),
        )  # fmt: skip
        c = a.place(block, f"Bearing block {name}", placement={"p": [0, y, 40]})
        a.join(
            "fixed", f"Block {name} on pedestal",
            (under, raised.edge(_BODY, (36, 0, 30), "circle")),
            (c, block.edge(block_body, (36, 0, 0), "circle")),
        )  # fmt: skip
        blocks.append(c)
    bar = a.place(shaft, "Drum shaft", placement={"p": [0, 0, 80]})
    end = shaft.edge(_made(shaft), (0, 80, 0), "circle")
    spin = a.join(
        "revolute", "Shaft turns", (blocks[1], block.edge(block_body, (0, 17, 40), "circle")),
        (bar, end), flip=True, offset="3 mm",
    )  # fmt: skip
    turning = a.place(drum, "Drum", placement={"p": [0, 0, 80]})
    tube = _inner_edge(a, drum, "Drum tube", body_name("s2"), (0, 0, 50), 58.0)
    a.do(
        "add_joint", kind="fixed", name="Drum on shaft", a={"component": bar, "pick": end},
        b={"component": turning, **tube}, flip=True, offset="-55 mm",
    )  # fmt: skip
    cover = a.place(hood, "Housing", placement={"p": [0, 0, 10]}, anchored=True)
    throat, throat_body = parts["throat"], _made(parts["throat"])
    inlet = a.place(throat, "Hopper throat", placement={"p": [0, 0, 150]})
    a.join(
        "fixed", "Throat on housing", (cover, hood.edge(_BODY, (0, 0, 140), "circle")),
        (inlet, throat.edge(throat_body, (0, 0, 0), "circle", 26.0)),
    )  # fmt: skip
    top = a.place(rim, "Hopper rim", placement={"p": [0, 0, 230]})
    a.join(
        "fixed", "Rim on throat", (inlet, throat.edge(throat_body, (61, 40, 80), "circle")),
        (top, rim.edge(_BODY, (61, 40, 0), "circle")),
    )  # fmt: skip
    front = a.place(unit, "Door unit", placement={"p": [0, -82, 10]}, moving=True)
    frame = _inner_edge(a, unit, "Door frame", _made(parts["frame"]), (30, -4, 0), None)
    a.do(
        "add_joint", kind="fixed", name="Door unit on plate",
        a={"component": base, "pick": plate.edge(plate_body, (30, -86, 10), "circle")},
        b={"component": front, **frame},
    )  # fmt: skip
    stand = a.place(foot, "Foot", placement={"p": [108, -88, -12]})
    corner = plate.edge(plate_body, (108, -88, 0), "circle")
    a.join("fixed", "Foot under plate", (base, corner),
           (stand, foot.edge(body_name("s2"), (0, 0, 12), "circle")))  # fmt: skip
    a.do("add_copies", kind="following", components=[stand], name="Feet",
         of={"component": base, "pick": corner})  # fmt: skip
    for c in blocks:
        _fasten(a, {"component": c, "pick": block.edge(block_body, (36, 0, 14), "circle")}, Wish())
    _fasten(
        a, {"component": base, "pick": plate.edge(plate_body, (30, -86, 0), "circle")},
        Wish(washer=False),
    )  # fmt: skip
    _fasten(
        a, {"component": top, "pick": rim.edge(_BODY, (61, 40, 3), "circle")}, Wish(washer=False)
    )
    _shield(a, cover, hood)
    a.do(
        "keep_share", name="For the foundry",
        rules=[
            {"by": "name", "what": "Drum*", "level": "box"},
            {"by": "pick", "components": [front], "level": "exact"},
        ],
    )  # fmt: skip
    a.do(
        "keep_run", name="Turn the drum", duration="2 s", frames=60,
        drivers=[{"joint": spin, "law": "speed", "value": "60 rpm", "over": "0.8 s"}],
        watched=[{"a": turning, "b": cover}],
    )  # fmt: skip
    bush = _bush(script)
    seal = a.place(bush, "Seal bush", placement={"p": [0, -77, 80]})
    a.join(
        "fixed", "Bush in its seat", (blocks[0], block.edge(block_body, (0, -17, 40), "circle", 17.0)),
        (seal, bush.edge(body_name("s2"), (0, 0, 0), "circle", 17.01)), flip=True,
    )  # fmt: skip
    a.do("mark_meant", a=blocks[0], b=seal, reason="pressed in", depth="0.015 mm")
    a.do("add_check", kind="mass", name="Two can carry it", limit="20 kg")
    return a


def _shield(a: AssemblyScript, cover: str, hood: PartScript) -> None:
    """A heat shield made in place: the side of the housing as it stands, given a thickness."""
    store, builds = a.script.store, a.script.builds
    side = hood.face(_BODY, (75.0, 0.0, 70.0), "plane")
    made = new_id("d")
    part, commands = begun(
        builds,
        a.record,
        "Heat shield",
        JointEnd.model_validate({"component": cover, "pick": side}),
        False,
        made,
    )
    store.create_document(a.script.project, part, made)
    for command in commands:
        a.do(str(command["do"]), **{k: v for k, v in command.items() if k != "do"})
    component = next(c.id for c in as_assembly(a.record).components if c.document == made)
    wish = {"component": cover, "path": [], "solid": _BODY, "picks": [side]}
    (found,) = taken(builds, store, a.record, component, [wish])
    shield = PartScript(a.script, made)
    shield.do("set_material", material="1.4301")
    shield.add(
        "neighbours", "Side of the housing", document=a.id, component=component,
        taken=[{**found, "number": 0}],
    )  # fmt: skip
    face = shield.face(body_name("s1"), (0.0, 0.0, 0.0))
    shield.add("thicken", "Sheet", faces=[face], thickness="1.5 mm")


def _inner_edge(
    a: AssemblyScript, inner: AssemblyScript, name: str, body: str,
    near: tuple[float, float, float], radius: float | None,
) -> dict[str, object]:  # fmt: skip
    """An edge of a part inside an assembly, as an end of a joint: the path to it, and the pick."""
    id = inner.components[name]
    document = inner.record.document
    part = PartScript(a.script, next(c.document for c in document.components if c.id == id))  # type: ignore[attr-defined]
    return {"path": [id], "pick": part.edge(body, near, "circle", radius)}

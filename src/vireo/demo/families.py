"""Families: the motor's bracket with its mountings, and angles in two dozen sizes."""

from __future__ import annotations

from typing import Any

from vireo.demo.making import PartScript, Script


def _column(part: PartScript, drives: str, option: str | None = None, **of: str) -> str:
    record = part.do("add_column", drives=drives, of=of, option=option)
    return record.document.columns[-1].id


def _option(part: PartScript, name: str, **more: Any) -> str:
    return part.do("add_option", name=name, **more).document.options[-1].id


def motor_bracket(script: Script) -> PartScript:
    """Holds the drum's motor: on a foot, by its upright or on a rail, for three motors, with or without
    a hole for the cable, as deep as asked for."""
    part = script.part("Motor bracket", "6061-T6")
    part.parameter("motor_d", "34 mm", note="collar of the motor")
    part.parameter("wide", "motor_d + 26 mm")
    part.parameter("deep", "50 mm", limits={"kind": "range", "least": "40 mm", "most": "80 mm"})
    part.parameter("tall", "motor_d + 28 mm")
    part.parameter("plate", "6 mm")
    part.do("set_property", name="Part number", value="MB-34")
    foot = part.add(
        "primitive", "Foot", form="box", width="wide", depth="deep", height="plate", x="-wide/2"
    )
    part.add(
        "primitive",
        "Upright",
        form="box",
        width="wide",
        depth="plate",
        height="tall",
        x="-wide/2",
        result="add",
    )
    body = f"b_{foot}"
    part.add("primitive", "Motor seat", form="cylinder", diameter="motor_d", height="plate + 2 mm", plane="XZ",
             y="tall - motor_d/2 - 10 mm", z="-plate - 1 mm", result="cut")  # fmt: skip
    part.add("fillet", "Root", edges=[part.edge(body, (0, 6, 6), "line")], radius="5 mm")
    screws = [
        part.add("primitive", f"Foot hole {n}", form="cylinder", diameter="5.5 mm", height="plate",
                 x=f"{sign}(wide/2 - 9 mm)", y="deep - 10 mm", result="cut")
        for n, sign in ((1, "-"), (2, ""))
    ]  # fmt: skip
    flange = [
        part.add("primitive", f"Flange hole {n}", form="cylinder", diameter="4.5 mm", height="plate + 2 mm",
                 plane="XZ", x=f"{sign}(wide/2 - 6 mm)", y="tall - 6 mm", z="-plate - 1 mm", result="cut")
        for n, sign in ((1, "-"), (2, ""))
    ]  # fmt: skip
    slot = part.add("primitive", "Rail slot", form="box", width="8 mm", depth="deep - plate - 24 mm", height="plate",
                    x="-4 mm", y="plate + 12 mm", result="cut")  # fmt: skip
    cable = part.add("primitive", "Cable hole", form="cylinder", diameter="8 mm", height="plate",
                     x="wide/2 - 12 mm", y="plate + 11 mm", result="cut")  # fmt: skip
    low = [part.edge(body, (x, 50, 3), "line") for x in (-30, 30)]
    high = [part.edge(body, (x, 3, 62), "line") for x in (-30, 30)]
    eased = part.add("fillet", "Eased corners", edges=low, radius="4 mm")
    for step in (*flange, slot, cable):
        part.do("sleep_step", id=step, asleep=True)

    mounting = _option(part, "Mounting", values=["foot", "flange", "rail"])
    asleep = {
        s: _column(part, "asleep", mounting, group="steps", id=s) for s in (*screws, *flange, slot)
    }
    edges = _column(part, "field", mounting, step=eased, field="edges")
    colour = _column(part, "look", mounting, body=body, what="colour")
    part.do("set_option_cells", id=mounting, value="flange", cells={
        **{asleep[s]: True for s in screws}, **{asleep[s]: False for s in flange}, edges: high,
        colour: "#7d9bb5"})  # fmt: skip
    part.do("set_option_cells", id=mounting, value="rail", cells={
        **{asleep[s]: True for s in screws}, asleep[slot]: False, edges: [*low, *high],
        colour: "#b59a6a"})  # fmt: skip
    side = _option(part, "Cable side", values=["right", "left"])
    where = _column(part, "field", side, step=cable, field="x")
    part.do("set_option_cells", id=side, value="left", cells={where: {"formula": "12 mm - wide/2"}})
    wired = _option(part, "Cable", kind="yes_no")
    sleeps = _column(part, "asleep", wired, group="steps", id=cable)
    part.do("set_option_cells", id=wired, value="yes", cells={sleeps: False})
    reach = _option(part, "Reach", kind="number", default="50 mm", least="40 mm", most="80 mm")
    _column(part, "parameter", reach, name="deep")

    size, number = (
        _column(part, "parameter", name="motor_d"),
        _column(part, "property", name="Part number"),
    )
    for d in (28, 42):
        part.do("add_variant", name=f"Motor {d}", cells={
            size: {"formula": f"{d} mm"}, number: f"MB-{d}"})  # fmt: skip
    part.do("add_check", kind="mass", name="Bracket stays light", limit="130 g")
    return part


def angle(script: Script) -> PartScript:
    """A plain angle in 24 sizes, its holes as many as its length takes."""
    part = script.part("Angle", "S235")
    part.parameter("leg", "40 mm")
    part.parameter("long", "60 mm")
    part.parameter("sheet", "4 mm")
    part.parameter("holes", "round(long / 30 mm)")
    foot = part.add("primitive", "Leg", form="box", width="long", depth="leg", height="sheet")
    part.add(
        "primitive", "Back", form="box", width="long", depth="sheet", height="leg", result="add"
    )
    body = f"b_{foot}"
    part.add("fillet", "Root", edges=[part.edge(body, (30, 4, 4), "line")], radius="sheet")
    part.add("fillet", "Outside", edges=[part.edge(body, (30, 0, 0), "line")], radius="2*sheet")
    bore = part.add("primitive", "Hole", form="cylinder", diameter="6.6 mm", height="sheet",
                    x="long/holes/2", y="leg - 12 mm", result="cut")  # fmt: skip
    part.add("copies_linear", "Holes in a row", steps=[bore], count="holes", spacing="long/holes")
    columns = [_column(part, "parameter", name=n) for n in ("leg", "long", "sheet")]
    for leg, sheet in ((30, 3), (40, 4), (50, 5), (60, 6)):
        for long in (60, 90, 120, 150, 180, 240):
            part.do("add_variant", name=f"{leg} x {long}", cells={
                c: {"formula": f"{v} mm"} for c, v in zip(columns, (leg, long, sheet), strict=True)})  # fmt: skip
    return part

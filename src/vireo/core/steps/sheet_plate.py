"""Plate: regions of a sketch made a sheet, or joined to one that lies in the same plane."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame
from vireo.core.kernel.profile import outline_of
from vireo.core.kernel.region import combined, loops_of
from vireo.core.naming.grammar import body_name
from vireo.core.panels.loops import Loop, outers
from vireo.core.panels.model import Panel, Sheet
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import changed, handed
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.sheet.allowance import Din6935, KFactor, Rule, table_read
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.flange import NO_RELIEF, Relief
from vireo.core.sheet.planes import panel_in_plane

_NEW = {"result": ["new"]}


class PlateFields(f.StepFields):
    sketch: str = f.sketch()
    regions: tuple[f.RegionPick, ...] = f.regions("sketch")
    result: Literal["new", "join"] = f.choice(
        "Result", "new", {"new": "New sheet", "join": "Join a sheet"}
    )
    into: tuple[str, ...] = f.bodies("Into", when={"result": ["join"]})
    stock: str = f.stock("Rules", ("thickness", "radius", "lengths", "k", "table", "relief", "relief_width",
                                   "relief_depth", "gap"), when=_NEW)  # fmt: skip
    thickness: Formula = f.length("Thickness", "1.5 mm", above=0, key="t", when=_NEW)
    side: Literal["up", "down", "middle"] = f.choice(
        "Material", "up", {"up": "Above the sketch", "down": "Below", "middle": "Both sides"}, when=_NEW
    )  # fmt: skip
    radius: Formula = f.length("Bend radius", "1.5 mm", least=0, key="r", when=_NEW)
    lengths: Literal["k", "din", "table"] = f.choice(
        "Flat length by", "k", {"k": "K-factor", "din": "DIN 6935", "table": "Table"}, when=_NEW
    )
    k: Formula = f.quantity(
        "number", "K-factor", "0.44", least=0, most=1, when={"result": ["new"], "lengths": ["k"]}
    )
    table: str = f.csv(
        "Bend table", "thickness, radius, angle, value, kind (allowance, deduction or K)",
        when={"result": ["new"], "lengths": ["table"]},
    )  # fmt: skip
    relief: Literal["square", "round", "none"] = f.choice(
        "Relief", "square", {"square": "Square", "round": "Round", "none": "None"}, when=_NEW
    )
    relief_width: Formula = f.length(
        "Relief width", "1.5 mm", above=0, when={"result": ["new"], "relief": ["square", "round"]}
    )
    relief_depth: Formula = f.length(
        "Beyond the bend", "1 mm", least=0, when={"result": ["new"], "relief": ["square", "round"]}
    )
    gap: Formula = f.length("Gap of mitred corners", "0.2 mm", above=0, when=_NEW)
    rolled: Literal["any", "said"] = f.choice(
        "Grain", "any", {"any": "Any way", "said": "At an angle"}, when=_NEW
    )
    grain: Formula = f.quantity(
        "angle", "From x of the sketch", "0 deg", least=-180, most=180,
        when={"result": ["new"], "rolled": ["said"]},
    )  # fmt: skip


@register
class Plate(StepKind[PlateFields]):
    kind = "sheet_plate"
    label = "Plate"
    group = "Sheet"
    icon = "plate"
    order = 10
    line = "Make regions of a sketch a sheet of one thickness, or join them to a sheet in its plane"
    Fields = PlateFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
"""
    deciding = ("thickness",)

    def build(self, fields: PlateFields, ctx: Context) -> Outcome:
        parts = self._loops(fields, ctx)
        if fields.result == "join":
            return self._joined(fields, ctx, parts)
        t = ctx.value("thickness")
        frame = ctx.sketch(fields.sketch).frame
        low = {"up": 0.0, "down": -t, "middle": -0.5 * t}[fields.side]
        frame = Frame(frame.out((0.0, 0.0, low)), frame.x, frame.z)
        relief = NO_RELIEF
        if fields.relief != "none":
            relief = Relief(
                ctx.value("relief_width"), ctx.value("relief_depth"), fields.relief == "round"
            )
        made = {}
        for n, loops in enumerate(parts):
            panel = ctx.step if n == 0 else f"{ctx.step}/{n + 1}"
            sheet = Sheet(t, panel, {panel: Panel(panel, loops)})
            made[body_name(ctx.step, *([n + 1] if n else []))] = SheetBody(
                sheet, frame, ctx.value("radius"), _rule(fields, ctx), relief, ctx.value("gap"), (),
                ctx.value("grain") if fields.rolled == "said" else None,
            )  # fmt: skip
        return handed(ctx, made)

    def _loops(self, fields: PlateFields, ctx: Context) -> list[tuple[Loop, ...]]:
        """What hangs together of the regions, each as loops in the sketch's plane."""
        chosen = ctx.regions(fields.sketch, fields.regions, "regions")
        outline = outline_of(ctx.arrangement(fields.sketch), chosen)
        return [tuple(loops_of(face, outline.roles, ctx.step)) for face in outline.faces]

    def _joined(self, fields: PlateFields, ctx: Context, parts: list[tuple[Loop, ...]]) -> Outcome:
        ids = list(fields.into) or ctx.sheet_ids()
        if len(ids) != 1:
            raise StepTrouble(
                "choose the one sheet it is joined to" if ids else "there is no sheet to join it to yet",
                [f"step:{ctx.step}", "field:into"],
            )  # fmt: skip
        frame = ctx.sketch(fields.sketch).frame
        body = ctx.sheet(ids[0])
        place = panel_in_plane(body, frame, [lp for part in parts for lp in part])
        if place is None:
            raise StepTrouble(
                "the sketch lies in no plane of the sheet: draw it on the top or the bottom of a flat piece",
                [f"step:{fields.sketch}"],
            )
        panel, carried = place
        loops = body.sheet.panels[panel].loops
        for part in parts:
            # Walls are told from those of the sheet by the step.
            mine = [
                tuple(replace(s, name=f"{ctx.step}.{s.name}") for s in lp) for lp in carried(part)
            ]
            joined = combined("fuse", loops, mine, ctx.step)
            if outers(joined) > outers(loops):
                raise StepTrouble(
                    "a region does not touch the sheet along an edge", [f"step:{fields.sketch}"]
                )
            loops = joined
        made = body.with_(body.sheet.with_(replace(body.sheet.panels[panel], loops=loops)))
        return handed(ctx, {ids[0]: made}, changed(body, made))


def _rule(fields: PlateFields, ctx: Context) -> Rule:
    if fields.lengths == "table":
        return table_read(fields.table)
    return Din6935() if fields.lengths == "din" else KFactor(k=ctx.value("k"))

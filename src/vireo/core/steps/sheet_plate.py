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
from vireo.core.part.ruling import rule_fields, ruled
from vireo.core.part.sheeting import changed, handed
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.planes import panel_in_plane

_NEW = {"result": ["new"]}
_RULES = rule_fields(_NEW)


class PlateFields(f.StepFields):
    sketch: str = f.sketch()
    regions: tuple[f.RegionPick, ...] = f.regions("sketch")
    result: Literal["new", "join"] = f.choice(
        "Result", "new", {"new": "New sheet", "join": "Join a sheet"}
    )
    into: tuple[str, ...] = f.bodies("Into", when={"result": ["join"]})
    stock: str = _RULES["stock"]
    thickness: Formula = _RULES["thickness"]
    side: Literal["up", "down", "middle"] = f.choice(
        "Material", "up", {"up": "Above the sketch", "down": "Below", "middle": "Both sides"}, when=_NEW
    )  # fmt: skip
    radius: Formula = _RULES["radius"]
    lengths: Literal["k", "din", "table"] = _RULES["lengths"]
    k: Formula = _RULES["k"]
    table: str = _RULES["table"]
    relief: Literal["square", "round", "none"] = _RULES["relief"]
    relief_width: Formula = _RULES["relief_width"]
    relief_depth: Formula = _RULES["relief_depth"]
    gap: Formula = _RULES["gap"]
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
        by = ruled(fields, ctx)
        t = by.thickness
        frame = ctx.sketch(fields.sketch).frame
        low = {"up": 0.0, "down": -t, "middle": -0.5 * t}[fields.side]
        frame = Frame(frame.out((0.0, 0.0, low)), frame.x, frame.z)
        made = {}
        for n, loops in enumerate(parts):
            panel = ctx.step if n == 0 else f"{ctx.step}/{n + 1}"
            sheet = Sheet(t, panel, {panel: Panel(panel, loops)})
            made[body_name(ctx.step, *([n + 1] if n else []))] = SheetBody(
                sheet, frame, by.radius, by.rule, by.relief, by.gap, (),
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

"""Bent strip: a drawn profile of lines made a sheet of a width, standing by itself."""

from __future__ import annotations

from typing import Literal

import numpy as np

from vireo.core.curves import Line2
from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, triple
from vireo.core.naming.grammar import body_name
from vireo.core.panels.loops import ring
from vireo.core.panels.model import Panel, Sheet
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.profile import curves_of
from vireo.core.part.ruling import RuledFields, ruled
from vireo.core.part.sheeting import handed
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.flange import Flange, Reach, flanged, named
from vireo.core.sheet.profile import chained, profile_runs


class _Drawn(f.StepFields):
    sketch: str = f.sketch("Profile")
    chains: tuple[str, ...] = f.curves("sketch", "Lines")
    width: Formula = f.length("Width", "40 mm", above=0)
    toward: Literal["ahead", "both", "behind"] = f.choice(
        "Towards",
        "ahead",
        {"ahead": "Above the sketch", "both": "Both sides", "behind": "Below it"},
    )
    swap: bool = f.toggle("Material on the other side of the lines")


class StripFields(RuledFields, _Drawn):
    """The profile first, then what it is made by."""


@register
class Strip(StepKind[StripFields]):
    kind = "sheet_strip"
    label = "Bent strip"
    group = "Sheet"
    icon = "profileFlange"
    order = 15
    line = "Make a drawn profile of straight lines a bent sheet of a width, standing by itself"
    Fields = StripFields
    example = """
p = Sketch()
a, b, c, d = p.point(100, 0), p.point(140, 0), p.point(140, 30), p.point(160, 30)
p.line(a, b)
p.line(b, c)
p.line(c, d)
part.sheet_strip("Bracket", sketch=part.sketch(drawing=p, plane="XZ"), width=50, radius=2)
"""
    deciding = ("width",)

    def build(self, fields: StripFields, ctx: Context) -> Outcome:
        by = ruled(fields, ctx)
        curves = [c for _, c in curves_of(fields.sketch, fields.chains, ctx, "profile")]
        lines = [c for c in curves if isinstance(c, Line2)]
        if len(lines) < len(curves):
            raise StepTrouble(
                "the profile is drawn of straight lines: its corners get the bend radius by themselves",
                [f"step:{fields.sketch}"],
            )
        first = lines[0]
        points = chained(lines, first.a)
        frame = ctx.sketch(fields.sketch).frame
        a, b = (np.array(frame.out(p)) for p in points[:2])
        long = float(np.linalg.norm(b - a))
        u, along = (b - a) / long, np.array(frame.z)
        along = -along if fields.swap else along
        # The flat piece on the first line: x along the width, y along the line, its bottom drawn.
        up = np.cross(along, u)
        wide = ctx.value("width")
        low = {"ahead": 0.0, "both": -0.5 * wide, "behind": -wide}[fields.toward]
        if fields.swap:
            low = -low - wide
        seen = []
        for p in points[1:]:
            v = np.array(frame.out(p)) - b
            seen.append((float(v @ u), float(v @ up)))
        root = ctx.step
        corners = [(low, 0.0), (low + wide, 0.0), (low + wide, long), (low, long)]
        sheet = Sheet(
            by.thickness, root, {root: Panel(root, (ring(corners, ["start", "s0", "end", "s1"]),))}
        )
        if len(seen) > 1:
            runs, back = profile_runs(seen, False, by.radius, by.thickness)
            flange = Flange(runs, back, Reach(), by.relief, by.gap)
            sheet = flanged(sheet, root, {(0, 2): "end"}, flange, by.rule, named(ctx.step))
        stand = Frame(triple(a), triple(along), triple(up))
        made = SheetBody(sheet, stand, by.radius, by.rule, by.relief, by.gap)
        return handed(ctx, {body_name(ctx.step): made}, {*sheet.panels, *sheet.bends})

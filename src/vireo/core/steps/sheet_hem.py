"""Hem: edges of a sheet turned back: closed, open, teardrop, rolled."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import on_edges
from vireo.core.quantity import Formula
from vireo.core.sheet.flange import Flange, Reach
from vireo.core.sheet.hem import hem


class HemFields(f.StepFields):
    edges: tuple[Pick, ...] = f.picks(
        "Edges", "edge", "Click long edges of the sheet; it is turned to the side you click"
    )
    form: Literal["closed", "open", "teardrop", "rolled"] = f.choice(
        "Form", "closed",
        {"closed": "Closed", "open": "Open", "teardrop": "Teardrop", "rolled": "Rolled"},
    )  # fmt: skip
    length: Formula = f.length("Length", "8 mm", above=0)
    gap: Formula = f.length("Gap", "1 mm", above=0, when={"form": ["open", "teardrop"]})
    radius: Formula = f.length(
        "Inner radius", "2 mm", above=0, key="r", when={"form": ["teardrop", "rolled"]}
    )
    turn: Formula = f.quantity(
        "angle", "Turned by", "270 deg", above=90, most=350, when={"form": ["rolled"]}
    )
    flip: bool = f.toggle("Other way")
    position: Literal["inside", "beyond"] = f.choice(
        "Bend", "inside", {"inside": "Within the edge", "beyond": "Beyond the edge"}
    )


@register
class Hem(StepKind[HemFields]):
    kind = "sheet_hem"
    label = "Hem"
    group = "Sheet"
    icon = "hem"
    order = 40
    line = "Turn edges of a sheet back on themselves: closed, open, teardrop or rolled"
    Fields = HemFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
sheet = part.bodies[1]
part.sheet_hem("Hem", edges=[sheet.edge_at(130, 0, 1.5)], form="open", length=8, gap=1)
"""
    deciding = ("length",)

    def build(self, fields: HemFields, ctx: Context) -> Outcome:
        def wanted(t: float, gap: float) -> Flange:
            needs = {
                "gap": fields.form in ("open", "teardrop"),
                "radius": fields.form in ("teardrop", "rolled"),
            }
            run = hem(
                fields.form, ctx.value("length"), ctx.value("radius") if needs["radius"] else 0.0,
                ctx.value("gap") if needs["gap"] else 0.0,
                ctx.value("turn") if fields.form == "rolled" else 0.0, t,
            )  # fmt: skip
            return Flange((run,), fields.position, Reach(), gap=gap)

        return on_edges(ctx, fields.edges, "edges", fields.flip, wanted)

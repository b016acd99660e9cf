"""Flange: walls bent up along straight edges of a sheet, corners between them mitred."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.naming import Pick
from vireo.core.panels.loops import SAME
from vireo.core.panels.places import Place
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import Wall, changed, handed, together, walls_of
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.sheet.allowance import KFactor
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.flange import Flange, Reach, Run, flanged, flat_length, named

_OWN = {"bends": ["own"]}


class FlangeFields(f.StepFields):
    edges: tuple[Pick, ...] = f.picks(
        "Edges", "edge", "Click long edges of the sheet; the side you click it rises to"
    )
    reach: Literal["length", "face"] = f.choice(
        "Up to", "length", {"length": "A length", "face": "A face"}
    )
    length: Formula = f.length("Length", "20 mm", above=0, when={"reach": ["length"]})
    measure: Literal["outer", "inner", "flat"] = f.choice(
        "Measured", "outer",
        {"outer": "Outside", "inner": "Inside", "flat": "From the bend"}, when={"reach": ["length"]},
    )  # fmt: skip
    upto: tuple[Pick, ...] = f.picks(
        "Up to", "face", "Click the flat face it goes up to", when={"reach": ["face"]}
    )
    short: Formula = f.length("Stop short by", "0 mm", when={"reach": ["face"]})
    angle: Formula = f.quantity("angle", "Angle", "90 deg", above=0, most=180)
    flip: bool = f.toggle("Other way")
    position: Literal["inside", "outside", "beyond", "tangent"] = f.choice(
        "Bend", "inside",
        {"inside": "Material inside", "outside": "Material outside", "beyond": "Beyond the edge",
         "tangent": "Tangent to the edge"},
    )  # fmt: skip
    width: Literal["full", "centred", "ends"] = f.choice(
        "Width", "full", {"full": "Full", "centred": "Centred", "ends": "Off the ends"}
    )
    wide: Formula = f.length("Wide", "20 mm", above=0, when={"width": ["centred"]})
    start: Formula = f.length("Off the start", "5 mm", least=0, when={"width": ["ends"]})
    end: Formula = f.length("Off the end", "5 mm", least=0, when={"width": ["ends"]})
    swap: bool = f.toggle("Start at the other end", when={"width": ["ends"]})
    bends: Literal["sheet", "own"] = f.choice(
        "Bends", "sheet", {"sheet": "As the sheet", "own": "Of its own"}
    )
    radius: Formula = f.length("Bend radius", "2 mm", least=0, key="r", when=_OWN)
    k: Formula = f.quantity("number", "K-factor", "0.44", least=0, most=1, when=_OWN)
    gap: Formula = f.length("Gap of mitred corners", "0.2 mm", above=0, when=_OWN)


@register
class SheetFlange(StepKind[FlangeFields]):
    kind = "sheet_flange"
    label = "Flange"
    group = "Sheet"
    icon = "flange"
    order = 20
    line = "Bend walls up along straight edges of a sheet; corners between them are mitred"
    Fields = FlangeFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
sheet = part.bodies[1]
part.sheet_flange("Wall", edges=[sheet.edge_at(130, 0, 1.5)], length=20)
"""
    deciding = ("length", "angle")

    def build(self, fields: FlangeFields, ctx: Context) -> Outcome:
        made, new = {}, set()
        for id, (sheet, walls) in walls_of(ctx, fields.edges, "edges").items():
            found = sheet
            for group in together(walls):
                found = self._flanged(fields, ctx, found, group)
            made[id] = found
            new |= changed(sheet, found)
        return handed(ctx, made, new)

    def _flanged(
        self, fields: FlangeFields, ctx: Context, sheet: SheetBody, walls: Sequence[Wall]
    ) -> SheetBody:
        """The sheet with flanges on edges of one panel that rise to one side."""
        own = fields.bends == "own"
        t = sheet.sheet.thickness
        radius = ctx.value("radius") if own else sheet.radius
        rule = KFactor(k=ctx.value("k")) if own else sheet.rule
        angle = ctx.value("angle")
        up = walls[0].up != fields.flip
        turn = angle if up else -angle
        spots = {w.spot: w.key for w in walls}

        def on(length: tuple[float, float], at: dict[tuple[int, int], str]) -> SheetBody:
            flange = Flange(
                (Run(turn, radius, length),), fields.position, self._reach(fields, ctx), sheet.relief,
                ctx.value("gap") if own else sheet.gap,
            )  # fmt: skip
            return sheet.with_(
                flanged(sheet.sheet, walls[0].panel, at, flange, rule, named(ctx.step))
            )

        if fields.reach == "length":
            far = flat_length(ctx.value("length"), fields.measure, turn, radius, t)
            return on((far, far), spots)
        if len(fields.upto) != 1:
            raise StepTrouble("pick the one flat face it goes up to", ["field:upto"])
        if len(spots) > 1:
            raise StepTrouble("up to a face goes one edge at a time", ["field:edges"])
        # As long as it takes: where its end comes to lie tells how long it is to be.
        tried = on((1.0, 1.0), spots)
        panel = named(ctx.step)(walls[0].key, 0)[1]
        loop = tried.sheet.panels[panel].loops[0]
        ends = (loop[3].b[0], loop[1].a[0])
        return on(self._up_to(fields, ctx, tried.places()[panel], ends, t), spots)

    def _reach(self, fields: FlangeFields, ctx: Context) -> Reach:
        if fields.width == "centred":
            return Reach(width=ctx.value("wide"))
        if fields.width == "ends":
            low, high = ctx.value("start"), ctx.value("end")
            return Reach(high, low) if fields.swap else Reach(low, high)
        return Reach()

    def _up_to(
        self, fields: FlangeFields, ctx: Context, at: Place, ends: tuple[float, float], t: float
    ) -> tuple[float, float]:
        """How long the flat piece is at its two ends, on whichever face of the sheet meets first."""
        pick = fields.upto[0]
        index, topology = ctx.find(pick, "upto", fields.upto)
        face = topology.faces[index]
        if face.kind != "plane" or face.direction is None:
            raise StepTrouble("it can go up to a flat face", ["field:upto"])
        normal, origin = np.array(face.direction), np.array(face.origin)
        along = float(normal @ at.y)
        if abs(along) < 1e-6:
            raise StepTrouble("the flange runs along that face and never meets it", ["field:upto"])
        short = ctx.value("short")
        found = [
            min(float((origin - at.at((s, 0.0), h)) @ normal) / along for h in (0.0, t)) - short / abs(along)
            for s in ends
        ]  # fmt: skip
        if min(found) <= SAME:
            raise StepTrouble(
                "that face lies behind where the flange begins: bend it the other way, or pick another face",
                ["field:upto"],
            )
        # Told at the ends of the outline, wanted at those of the joint.
        return found[0], found[1]

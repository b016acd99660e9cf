"""Rib: a wall along sketched curves that grows until the body stops it."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.ribbing import ribbed
from vireo.core.kernel.shape import Body
from vireo.core.kernel.wall import chains_of
from vireo.core.part.context import Context
from vireo.core.part.fitting import fitted
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class RibFields(f.StepFields):
    sketch: str = f.sketch("Curves")
    chains: tuple[str, ...] = f.curves("sketch", "Along")
    thickness: Formula = f.length("Thickness", "2 mm", above=0, key="t")
    grows: Literal["across", "within"] = f.choice(
        "Grows", "within", {"within": "In the sketch's plane", "across": "Square to the sketch"}
    )
    flip: bool = f.toggle("Other way")
    into: tuple[str, ...] = f.bodies("Onto")


@register
class Rib(StepKind[RibFields]):
    kind = "rib"
    label = "Rib"
    group = "Grow"
    icon = "rib"
    order = 45
    line = "A wall along open curves, run on and down until the body stops it"
    Fields = RibFields
    example = """
tray = part.shell("Tray", open=[top], wall=3)
s = Sketch()
s.line(s.point(10, 20), s.point(50, 20))
plane = {"base": "XY", "offset": {"formula": "15 mm"}}
rib = part.rib("Rib", sketch=part.sketch(drawing=s, plane=plane), thickness=2, grows="across", flip=True)
"""
    deciding = ("thickness",)

    def build(self, fields: RibFields, ctx: Context) -> Outcome:
        data = ctx.sketch(fields.sketch)
        curves = dict(data.curves)
        wanted = [(c, curves[c]) for c in fields.chains if c in curves] or list(data.curves)
        if not wanted:
            raise StepTrouble(f"the sketch {data.name} has no curves", [f"step:{fields.sketch}"])
        ids = ctx.chosen(fields.into, "put a rib onto")
        if len(ids) != 1:
            raise StepTrouble("choose the one body the rib goes onto", ["field:into"])
        body = ctx.body(ids[0])
        runs = chains_of(wanted)

        def attempt(t: float) -> Body:
            return ribbed(
                body, runs, data.frame, t, fields.grows == "across", fields.flip, ctx.step
            )

        try:
            made = attempt(ctx.value("thickness"))
        except KernelTrouble as error:
            if "reaches out" in error.text:
                raise StepTrouble(error.text, [f"step:{ctx.step}"]) from error
            made = fitted(attempt, ctx.value("thickness"), "thickness", "a rib of")
        return Outcome(bodies={ids[0]: made})

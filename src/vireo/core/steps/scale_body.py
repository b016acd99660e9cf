"""Scale bodies, evenly or per axis: shrinkage, for instance."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.measure import mass_properties
from vireo.core.kernel.transform import stretched
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula

_EVEN, _EACH = {"how": ["even"]}, {"how": ["each"]}


class ScaleFields(f.StepFields):
    bodies: tuple[str, ...] = f.bodies("Bodies")
    how: Literal["even", "each"] = f.choice("Factors", "even", {"even": "One", "each": "Per axis"})
    factor: Formula = f.quantity(
        "number", "Factor", "1.005", above=0, most=1000, when=_EVEN, key="×"
    )
    x: Formula = f.quantity("number", "X", "1", above=0, most=1000, when=_EACH)
    y: Formula = f.quantity("number", "Y", "1", above=0, most=1000, when=_EACH)
    z: Formula = f.quantity("number", "Z", "1", above=0, most=1000, when=_EACH)
    about: Literal["origin", "centre"] = f.choice(
        "About", "origin", {"origin": "Origin", "centre": "Centre of gravity"}
    )


@register
class ScaleBody(StepKind[ScaleFields]):
    kind = "scale_body"
    forms = ("solid", "surface")
    label = "Scale bodies"
    group = "Copy"
    icon = "scale"
    order = 70
    line = "Larger or smaller, evenly or per axis: shrinkage, for instance"
    Fields = ScaleFields
    example = """
shrunk = part.scale_body("For shrinkage", bodies=[body.id], factor=1.012)
"""
    deciding = ("factor",)

    def build(self, fields: ScaleFields, ctx: Context) -> Outcome:
        even = fields.how == "even"
        factors = [ctx.value("factor")] * 3 if even else [ctx.value(k) for k in ("x", "y", "z")]
        if all(abs(k - 1.0) < 1e-12 for k in factors):
            raise StepTrouble("a factor of one changes nothing")
        ids = ctx.chosen(fields.bodies, "scale")
        outcome = Outcome()
        for id in ids:
            body = ctx.body(id)
            at = mass_properties(body).centre if fields.about == "centre" else (0.0, 0.0, 0.0)
            outcome.bodies[id] = stretched(body, at, factors)
        return outcome

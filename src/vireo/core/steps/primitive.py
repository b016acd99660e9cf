"""Plain solids without a sketch."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import BASE_PLANES, Frame
from vireo.core.kernel.primitive import primitive
from vireo.core.part.context import Context
from vireo.core.part.merge import delivered
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula

_BOXED = {"form": ["box", "wedge"]}
_ROUND = {"form": ["cylinder", "cone", "sphere", "torus"]}
_TALL = {"form": ["box", "wedge", "cylinder", "cone"]}
_ON = {"plane": ["XY", "XZ", "YZ"]}


class PrimitiveFields(f.StepFields):
    form: Literal["box", "cylinder", "cone", "sphere", "torus", "wedge"] = f.choice(
        "Form", "box",
        {"box": "Box", "cylinder": "Cylinder", "cone": "Cone", "sphere": "Sphere",
         "torus": "Ring", "wedge": "Wedge"},
    )  # fmt: skip
    width: Formula = f.length("Width", "40 mm", above=0, when=_BOXED)
    depth: Formula = f.length("Depth", "30 mm", above=0, when=_BOXED)
    diameter: Formula = f.length("Diameter", "30 mm", above=0, when=_ROUND, key="Ø")
    top: Formula = f.length("Diameter on top", "10 mm", least=0, when={"form": ["cone"]})
    tube: Formula = f.length("Tube diameter", "8 mm", above=0, when={"form": ["torus"]})
    height: Formula = f.length("Height", "20 mm", above=0, when=_TALL)
    ridge: Formula = f.length("Width on top", "10 mm", least=0, when={"form": ["wedge"]})
    plane: Literal["XY", "XZ", "YZ"] = f.choice(
        "Stands on", "XY", {"XY": "XY", "XZ": "XZ", "YZ": "YZ"}
    )
    x: Formula = f.length("Across", "0 mm")
    y: Formula = f.length("Along", "0 mm")
    z: Formula = f.length("Up", "0 mm")
    result: f.Result = f.result()
    into: tuple[str, ...] = f.into()


@register
class Primitive(StepKind[PrimitiveFields]):
    kind = "primitive"
    label = "Plain solid"
    group = "Grow"
    icon = "box"
    order = 50
    line = "Box, cylinder, cone, sphere, ring or wedge, without a sketch"
    Fields = PrimitiveFields
    example = """
pin = part.primitive("Pin", form="cylinder", diameter=8, height=30, x=15, y=20, result="add")
"""
    copyable = True

    def build(self, fields: PrimitiveFields, ctx: Context) -> Outcome:
        names = ("width", "depth", "diameter", "top", "tube", "height", "ridge")
        sizes = {n: ctx.value(n) for n in names if ctx.has(n)}
        if fields.form == "cone" and abs(sizes["top"] - sizes["diameter"]) < 1e-9:
            raise StepTrouble("a cone as wide on top as below is a cylinder: take that form")
        if fields.form == "torus" and sizes["tube"] >= sizes["diameter"]:
            raise StepTrouble(
                f"the tube (Ø {sizes['tube']:g} mm) must be thinner than the ring "
                f"(Ø {sizes['diameter']:g} mm)", ["field:tube"],
            )  # fmt: skip
        base = BASE_PLANES[fields.plane]
        at = base.out((ctx.value("x"), ctx.value("y"), ctx.value("z")))
        tool = primitive(fields.form, sizes, Frame(at, base.x, base.z), ctx.step)
        return delivered(ctx, fields, tool, f"this {fields.form}")

    def caption(self, fields: PrimitiveFields) -> str:
        return {"torus": "ring"}.get(fields.form, fields.form)

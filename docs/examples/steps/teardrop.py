"""Teardrop bore: a level bore with a roof at 45 degrees, printed without supports."""

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import BASE_PLANES, Frame
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.primitive import primitive
from vireo.core.part.context import Context
from vireo.core.part.merge import merge
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class TeardropFields(f.StepFields):
    along: Literal["X", "Y"] = f.choice("Along", "X", {"X": "X", "Y": "Y"})
    bore: Formula = f.length("Bore", "8 mm", above=0, key="Ø")
    length: Formula = f.length("Length", "50 mm", above=0)
    x: Formula = f.length("X", "0 mm")
    y: Formula = f.length("Y", "0 mm")
    z: Formula = f.length("Z", "10 mm")
    into: tuple[str, ...] = f.bodies("Into")


@register
class Teardrop(StepKind[TeardropFields]):
    kind = "teardrop"
    label = "Teardrop bore"
    group = "Cut"
    icon = "hole"
    line = "A level bore with a roof at 45 degrees, printed without supports"
    Fields = TeardropFields
    deciding = ("bore",)
    copyable = True

    def build(self, fields: TeardropFields, ctx: Context) -> Outcome:
        r, length = ctx.value("bore") / 2, ctx.value("length")
        if length < r:
            raise StepTrouble("a bore shorter than its radius has no roof", ["field:length"])
        at = (ctx.value("x"), ctx.value("y"), ctx.value("z"))
        plane = BASE_PLANES["YZ" if fields.along == "X" else "XZ"]
        frame = Frame(at, plane.x, plane.z)
        round_ = primitive("cylinder", {"diameter": 2 * r, "height": length}, frame, ctx.step)
        # A square standing on its corner touches the circle at 45 degrees on both sides.
        turned = (plane.x[0] * 0.5**0.5, plane.x[1] * 0.5**0.5, 0.5**0.5)
        roof = primitive(
            "box", {"width": r, "depth": r, "height": length}, Frame(at, turned, plane.z),
            f"{ctx.step}/roof",
        )  # fmt: skip
        tool = combine("add", round_, [roof], "the teardrop")
        return merge(ctx, "cut", tool, fields.into, "this teardrop bore")

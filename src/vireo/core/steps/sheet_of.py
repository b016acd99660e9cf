"""Sheet from solid: a bent solid, imported or modelled, read as the sheet it is."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import handed
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.sheet.allowance import Din6935, KFactor
from vireo.core.sheet.reading import sheet_read


class SheetOfFields(f.StepFields):
    bodies: tuple[str, ...] = f.bodies("Solid")
    top: tuple[Pick, ...] = f.picks(
        "Top",
        "face",
        "Click the flat face that is to be the top; none takes the largest",
        free=True,
    )
    rings: Literal["refuse", "rip"] = f.choice(
        "Closed rings", "refuse", {"refuse": "Are refused", "rip": "Ripped at a bend"}
    )
    lengths: Literal["k", "din"] = f.choice(
        "Flat length by", "k", {"k": "K-factor", "din": "DIN 6935"}
    )
    k: Formula = f.quantity("number", "K-factor", "0.44", least=0, most=1, when={"lengths": ["k"]})
    gap: Formula = f.length("Gap of mitred corners", "0.2 mm", above=0)


@register
class SheetOf(StepKind[SheetOfFields]):
    kind = "sheet_of"
    label = "Sheet from solid"
    group = "Sheet"
    icon = "sheet"
    order = 110
    line = (
        "Read a bent solid, imported or modelled, as the sheet it is: it has a blank from there on"
    )
    Fields = SheetOfFields
    example = """
part.primitive("Plate", width=50, depth=30, height=2, x=100, result="new")
part.sheet_of("As a sheet", bodies=[part.bodies[1].id])
"""

    def build(self, fields: SheetOfFields, ctx: Context) -> Outcome:
        ids = list(fields.bodies) or sorted({p.body for p in fields.top})
        if not ids:
            ids = [id for id in ctx.body_ids() if id not in ctx.sheet_ids()]
        if len(ids) != 1:
            raise StepTrouble(
                "choose the one solid that is read" if ids else "there is no solid to read yet",
                ["field:bodies"],
            )
        (id,) = ids
        root = None
        if fields.top:
            root, _ = ctx.find(fields.top[0], "top", fields.top)
        rule = Din6935() if fields.lengths == "din" else KFactor(k=ctx.value("k"))
        made = sheet_read(
            ctx.body(id), rule, ctx.step, ctx.value("gap"), root, fields.rings == "rip"
        )
        return handed(ctx, {id: made})

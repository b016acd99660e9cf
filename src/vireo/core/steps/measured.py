"""Measured number: a size read off the model, with a name that later formulas use."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame
from vireo.core.kernel.measure import place_of
from vireo.core.measure import Reading, readings
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import DIMENSIONS, Quantity
from vireo.core.trouble import Offer

#: What can be read, in the words of the readings.
WORDS = {
    "least": "Least distance", "centres": "Between centres", "axes": "Between axes",
    "planes": "Square to a plane", "angle": "Angle", "along_x": "Along X", "along_y": "Along Y",
    "along_z": "Along Z", "length": "Length", "diameter": "Diameter", "radius": "Radius",
    "area": "Area", "perimeter": "Perimeter", "areas": "Areas together",
    "lengths": "Lengths together", "extent_x": "Extent X", "extent_y": "Extent Y",
    "extent_z": "Extent Z",
}  # fmt: skip


class MeasuredFields(f.StepFields):
    name: str = f.name("Name", "gap")
    picks: tuple[Pick, ...] = f.picks("Of", "any", "Click what is measured")
    what: str = f.choice("Reads", "least", WORDS)


@register
class Measured(StepKind[MeasuredFields]):
    kind = "measured"
    label = "Measured number"
    group = "Refer"
    icon = "ruler"
    order = 70
    line = "A distance, angle, length or area of the model, by a name later formulas use"
    Fields = MeasuredFields
    example = """
gap = part.measured("Height", name="tall", picks=[top, body.face_at(30, 20, 0)])
part.primitive("Post", width=10, depth=10, height="tall * 2")
"""
    version = 2

    def build(self, fields: MeasuredFields, ctx: Context) -> Outcome:
        things = []
        for pick in fields.picks:
            index, _ = ctx.find(pick, "picks", fields.picks)
            things.append(place_of(ctx.seen(pick.body), pick.kind, index))
        found = {r.key: r for r in readings(things, Frame()) if r.key in WORDS}
        if fields.what not in found:
            offers = [Offer(label=WORDS[k], fields={"what": k}) for k in list(found)[:4]]
            raise StepTrouble(
                f"what is picked has no {WORDS.get(fields.what, fields.what).lower()}",
                ["field:what"], offers,
            )  # fmt: skip
        return Outcome(numbers={fields.name: _quantity(found[fields.what])})

    def caption(self, fields: MeasuredFields) -> str:
        return fields.name


def _quantity(reading: Reading) -> Quantity:
    return Quantity(reading.value, DIMENSIONS[reading.dimension])

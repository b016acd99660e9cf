"""Overlap volume of an assembly, but for what is meant."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.quantity.units import VOLUME


@register
class InterferenceCheck(CheckKind):
    """Its field ``positions`` names positions kept by name, ``variants`` rows of its variants: it is
    looked in all of these."""

    kind, label = "interference", "Interference"
    documents = ("assembly",)
    cost = 2
    dimension = VOLUME
    limit = "0 mm**3"
    line = "Volume in which components overlap, but for what is meant and for drawn threads"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        positions = check.fields.get("positions") or ()
        variants = check.fields.get("variants") or ()
        asked = {"positions": list(positions)} if positions else {}
        found = ask.job("interference", asked | ({"variants": list(variants)} if variants else {}))
        left = len(found["left"])
        if left:
            told = "a body here is a surface" if left == 1 else f"{left} bodies here are surfaces"
            raise CheckTrouble(
                f"overlaps are looked for in solids only, and {told}: thicken what has to be clear, "
                "or leave it out of the assembly"
            )
        faults = [r for r in found["rows"] if r["fault"]]
        untold = next((r for r in faults if r["class"] == "untold"), None)
        if untold is not None:
            raise CheckTrouble(
                f"whether {untold['name_a']} and {untold['name_b']} overlap could not be told: the "
                "geometry kernel ended over them"
            )
        return Quantity(sum(r["volume"] for r in faults), VOLUME)

"""Mass of a part or an assembly, or of some of its components."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.quantity.units import MASS


@register
class MassCheck(CheckKind):
    """Its field ``components`` names components, or copies, of an assembly: only these are weighed."""

    kind, label = "mass", "Mass"
    documents = ("part", "assembly")
    dimension, unit, cost = MASS, "g", 0
    limit = "500 g"
    line = "Mass of everything, or of the chosen components, from volumes and materials"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        built, chosen = ask.built(), check.fields.get("components") or []
        if not chosen:
            return Quantity(built["mass"] * 1e-3, MASS)
        leaves = built.get("leaves", [])
        gone = set(chosen) - {leaf["component"] for leaf in leaves}
        if gone:
            one = "a component it weighs is" if len(gone) == 1 else f"{len(gone)} components are"
            raise CheckTrouble(f"{one} no longer there: add the check again with those there are")
        return Quantity(sum(x["mass"] for x in leaves if x["component"] in chosen) * 1e-3, MASS)

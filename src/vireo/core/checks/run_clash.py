"""How deep components come into each other over a run, but for what is meant."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, ran, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class RunClashCheck(CheckKind):
    """Its field ``run`` names a run."""

    kind, label = "run_clash", "Clash in a run"
    documents = ("assembly",)
    cost = 2
    dimension, unit = LENGTH, "mm"
    asks = ("run",)
    limit = "0 mm"
    line = "How deep components come into each other all through a run, but for what is meant"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        found = ran(check, ask)
        if not found["looked"]:
            raise CheckTrouble("its run does not look for clashes: switch that on in the run")
        if found["left"]:
            raise CheckTrouble(
                f"clashes are looked for in solids only, and {found['left'][0]} is a surface: thicken "
                "what has to be clear, or leave it out of the assembly"
            )
        # What clashes by less than can be measured clashes all the same.
        return Quantity(max((max(c["depth"], 1e-6) for c in found["clashes"]), default=0.0), LENGTH)

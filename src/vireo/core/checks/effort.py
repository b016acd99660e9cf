"""The most that the drive of a joint has to give over a run."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, ran, register
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.quantity.shown import PLAIN, Units, shown_in
from vireo.core.quantity.units import ENERGY, FORCE


@register
class EffortCheck(CheckKind):
    """Its fields ``run``, ``joint`` and ``coordinate`` name a run and what is driven in it."""

    kind, label = "effort", "Drive effort"
    documents = ("assembly",)
    cost = 2
    dimension = ENERGY
    asks = ("run", "coordinate")
    limit = "1 N*m"
    line = "Most torque or force the drive of a joint has to give in a run"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        found = ran(check, ask)
        joint, coordinate = (check.fields.get(k) for k in ("joint", "coordinate"))
        wanted = f"effort:{joint}:{coordinate}"
        series = next((s for s in found["series"] if s["id"] == wanted), None)
        if series is None:
            why = "" if found["weighed"] else ", and reckons no forces"
            raise CheckTrouble(f"its run does not drive this joint{why}")
        most = max(abs(v) for v in series["values"])
        # Told in N m or N.
        return (
            Quantity(most * 1e6, ENERGY) if series["unit"] == "N·m" else Quantity(most * 1e3, FORCE)
        )

    def shown(self, value: Quantity, units: Units = PLAIN) -> str:
        if value.dimension == FORCE:
            return shown_in(value, units)
        return f"{value.value / 1e6:.4g} N·m"

"""How many holes."""

from typing import Any

from vireo.core.checks.kind import Ask, CheckTrouble, GaugeCheck, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, NUMBER, FormulaError, evaluate


@register
class HoleCountCheck(GaugeCheck):
    """Its field ``diameter`` (a formula, may be empty) says which holes count."""

    kind, label = "hole_count", "Hole count"
    dimension = NUMBER
    asks = ("diameter",)
    relation, limit = "at_least", "4"
    line = (
        "How many round holes there are, of one diameter or of any; a counterbored one counts once"
    )
    gauge = "holes"

    def asked(self, check: Check, ask: Ask) -> dict[str, Any]:
        typed = str(check.fields.get("diameter") or "").strip()
        if not typed:
            return {}
        try:
            wide = evaluate(typed, ask.values)
            if wide.dimension == NUMBER:
                wide = evaluate(f"({typed})*(1 mm)", ask.values)
        except FormulaError as error:
            raise CheckTrouble(f"its diameter {error.text}") from error
        if wide.dimension != LENGTH:
            raise CheckTrouble(f"its diameter “{typed}” is {wide.dimension.name}, no length")
        return {"diameter": wide.value}

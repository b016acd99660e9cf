"""How many holes."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, NUMBER, FormulaError, Quantity, evaluate


@register
class HoleCountCheck(CheckKind):
    """Its field ``diameter`` (a formula, may be empty) says which holes count."""

    kind, label = "hole_count", "Hole count"
    documents = ("part",)
    dimension = NUMBER
    asks = ("diameter",)
    relation, limit = "at_least", "4"
    line = (
        "How many round holes there are, of one diameter or of any; a counterbored one counts once"
    )

    def measure(self, check: Check, ask: Ask) -> Quantity:
        typed = str(check.fields.get("diameter") or "").strip()
        found = ask.task("gauge", {"gauge": "holes", "asked": self._asked(typed, ask)})
        return Quantity(found or 0.0, NUMBER)

    def _asked(self, typed: str, ask: Ask) -> dict[str, float]:
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

"""The value of a parameter."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import NUMBER, Quantity


@register
class ParameterCheck(CheckKind):
    """Its field ``parameter`` names one; it is measured in whatever that is."""

    kind, label = "parameter", "Parameter"
    documents = ("part", "assembly", "study")
    dimension, cost = NUMBER, 0
    asks = ("parameter",)
    limit = "100 mm"
    line = "What a parameter comes to"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        name = check.fields.get("parameter")
        if not name:
            raise CheckTrouble("this check looks at a parameter: add it again and choose one")
        found = ask.values.get(name)
        if found is None:
            raise CheckTrouble(f"there is no parameter {name} with a value")
        return found

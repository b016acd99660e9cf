"""How far two picks are apart where a joint goes no further."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class OpeningCheck(CheckKind):
    """Its fields ``joint`` and ``coordinate`` name what is moved, ``side`` (``up`` or ``back``) which way."""

    kind, label = "opening", "Opening"
    documents = ("assembly",)
    dimension, unit = LENGTH, "mm"
    picks = 2
    asks = ("coordinate", "side")
    relation, limit = "at_least", "50 mm"
    line = "How far two faces, edges or corners are apart where a joint goes no further"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        joint, coordinate = check.fields.get("joint"), check.fields.get("coordinate")
        if not joint:
            raise CheckTrouble("this check looks at a joint: add it again and choose one")
        asked = {"joint": joint, "coordinate": coordinate, "picks": self.taken(check)}
        end = ask.job("reach", asked)["ends"][0 if check.fields.get("side") == "back" else 1]
        return Quantity(end["between"], LENGTH)

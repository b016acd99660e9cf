"""How many faults of one list there are in how an assembly is put together."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import NUMBER, Quantity


@register
class LooseEndsCheck(CheckKind):
    """Its field ``list`` names a list of faults."""

    kind, label = "loose_ends", "Loose ends"
    documents = ("assembly",)
    cost = 2
    dimension = NUMBER
    asks = ("list",)
    limit = "0"
    line = "How many holes are out of line or empty, components loose, doubled or inside others"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        found = ask.job("survey")
        lists = {each["kind"]: each["rows"] for each in found["lists"]}
        rows = lists.get(check.fields.get("list"))
        if rows is None:
            raise CheckTrouble(
                "this check looks at a list of loose ends: add it again and choose one"
            )
        if found["left"]:
            raise CheckTrouble(
                f"loose ends are looked for in solids only, and {found['left'][0]} is a surface: "
                "thicken it, or leave it out of the assembly"
            )
        return Quantity(float(len(rows)), NUMBER)

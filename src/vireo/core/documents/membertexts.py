"""What stands in the cells of the table of variants, as it is read and typed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass

from vireo.core.documents.base import Amount, Cell, Choice, Document
from vireo.core.documents.driver import Driven
from vireo.core.documents.members import Owned, applied, driven, owned, values_of
from vireo.core.quantity import FormulaError, Quantity, evaluate, names_in
from vireo.core.quantity.shown import shown_in

#: Up to so many rows have their formulas worked out.
WORKED_OUT = 300


@dataclass(frozen=True)
class Heading:
    """A column with what it drives; None where that is gone."""

    owner: Owned
    driven: Driven | None


def headings(document: Document) -> list[Heading]:
    return [Heading(o, driven(document, o.column)) for o in owned(document)]


#: What a member of another document is called.
Called = Callable[[Owned, Choice], str]


def text_of(cell: Cell, heading: Heading, called: Called) -> str:
    """A cell as it is read, and as it could be typed."""
    if isinstance(cell, Amount):
        return cell.formula
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, tuple):
        return f"{len(cell)} picked"
    if isinstance(cell, Choice):
        return called(heading.owner, cell)
    words = heading.driven.words if heading.driven else {}
    return words.get(cell, cell)


def worked_out(
    document: Document, choices: Mapping[str, Choice]
) -> Callable[[str, Cell], str | None]:
    """Tells what a formula of a member (by its key) comes to, in the document's units; None for what is
    no formula, or tells nothing its text does not."""
    known: dict[str, Mapping[str, Quantity]] = {}

    def value(key: str, cell: Cell) -> str | None:
        if not isinstance(cell, Amount) or len(choices) > WORKED_OUT:
            return None
        with suppress(FormulaError):
            if not names_in(cell.formula):
                return None
            if key not in known:
                known[key] = values_of(applied(document, choices[key]))
            return shown_in(evaluate(cell.formula, known[key]), document.units)
        return None

    return value

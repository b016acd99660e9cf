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


class WorkedOut:
    """What formulas of members (by their keys) come to; nothing of too many members."""

    def __init__(self, document: Document, choices: Mapping[str, Choice]) -> None:
        self._document, self._choices = document, choices
        self._known: dict[str, Mapping[str, Quantity]] = {}

    def quantity(self, key: str, cell: Cell) -> Quantity | None:
        """None for what is no number, or comes to none."""
        if not isinstance(cell, Amount) or len(self._choices) > WORKED_OUT:
            return None
        with suppress(FormulaError):
            return evaluate(cell.formula, self._values(key) if names_in(cell.formula) else {})
        return None

    def shown(self, key: str, cell: Cell) -> str | None:
        """In the document's units; None for what tells nothing its text does not."""
        with suppress(FormulaError):
            if isinstance(cell, Amount) and names_in(cell.formula):
                found = self.quantity(key, cell)
                return None if found is None else shown_in(found, self._document.units)
        return None

    def _values(self, key: str) -> Mapping[str, Quantity]:
        if key not in self._known:
            self._known[key] = values_of(applied(self._document, self._choices[key]))
        return self._known[key]

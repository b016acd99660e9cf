"""Where parameters are used: every formula in a document, renamed in or looked through. Which texts
are formulas is said by their types (`quantity.marked`)."""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass
from typing import TypeVar

from pydantic import BaseModel

from vireo.core.documents.base import Document
from vireo.core.documents.kind import kind_of
from vireo.core.quantity import FormulaError, formulas_in, names_in, rename_in, with_formulas

D = TypeVar("D", bound=Document)


@dataclass(frozen=True)
class Use:
    """Something of a document whose formulas name a parameter."""

    kind: str
    id: str
    name: str


def uses(document: Document) -> dict[str, list[Use]]:
    """For every parameter of a document what its formulas stand in, in document order."""
    known = {p.name for p in document.parameters}
    found: dict[str, list[Use]] = {name: [] for name in known}

    def note(model: BaseModel, use: Use, but: Iterable[str] = ()) -> None:
        for name in sorted(_named(model) & known - {*but}):
            found[name].append(use)

    for p in document.parameters:
        note(p, Use("parameter", p.name, p.name), [p.name])
    groups = kind_of(document).groups
    for group in groups:
        for item in getattr(document, group.name):
            note(item, Use(group.word, item.id, getattr(item, "name", group.word)))
    # What is left is said of the document itself.
    rest = document.model_copy(update={"parameters": (), **{g.name: () for g in groups}})
    note(rest, Use(document.kind, document.kind, document.name))
    return found


def renamed(document: D, old: str, new: str) -> D:
    """The document with a parameter's name replaced in every formula; words and names that merely
    look like one are left alone."""

    def change(text: str) -> str:
        try:
            return rename_in(text, old, new) if old in names_in(text) else text
        except FormulaError:
            return text

    return with_formulas(document, change)


def _named(model: BaseModel) -> set[str]:
    """All names that the formulas in something use."""
    found: set[str] = set()
    for formula in formulas_in(model):
        with suppress(FormulaError):
            found |= names_in(formula)
    return found

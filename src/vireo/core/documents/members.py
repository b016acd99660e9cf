"""Members of a document: what it is as each of its variants with its options chosen.

A document is stored as the member it stands as (`active`), so that all that looks at one sees a plain
document. What a driver is where nothing else is said stands in its column (`base`), what it is in a
variant or for a value of an option in a cell there; an edit of a driven thing goes into the cell of
what is active (`settled`).
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, TypeVar

from pydantic import ValidationError

from vireo.core.documents.base import (
    Amount,
    Cell,
    Choice,
    Column,
    Document,
    Option,
    OptionValue,
    Variant,
)
from vireo.core.documents.driver import DRIVERS, Driven, put, swapped
from vireo.core.quantity import (
    FormulaError,
    Quantity,
    evaluate,
    evaluate_parameters,
    names_in,
)
from vireo.core.quantity.units import format_quantity
from vireo.core.trouble import BadInput, Trouble, first_said

D = TypeVar("D", bound=Document)
AS_DRAWN = "As drawn"
#: At most so many members are proved in one go.
MOST = 2000


@dataclass(frozen=True)
class Owned:
    """A column and the option it belongs to; None for the table of variants."""

    column: Column
    option: Option | None = None


def owned(document: Document) -> list[Owned]:
    """All columns of a document, each with whom it belongs to."""
    options = {o.id: o for o in document.options}
    return [Owned(c, options.get(c.option or "")) for c in document.columns]


def driven(document: Document, column: Column) -> Driven | None:
    """What a column drives; None where that is gone."""
    return DRIVERS.called(column.drives).driven(document, column.of)


def variant_of(document: Document, id: str | None) -> Variant | None:
    return next((v for v in document.variants if v.id == id), None) if id else None


def value_of(option: Option, text: str) -> OptionValue | None:
    """The value of an option that is called so, or was before."""
    meant = text.strip().casefold()
    now = (v for v in option.values if v.name.casefold() == meant)
    before = (v for v in option.values if meant in map(str.casefold, v.was))
    return next(now, None) or next(before, None)


def chosen_of(option: Option, choice: Choice) -> str:
    """What is chosen of an option: the name of a value, or a formula."""
    text = choice.options.get(option.id, option.default)
    value = value_of(option, text)
    return value.name if value is not None else text


def said(document: Document, owner: Owned, choice: Choice) -> Cell:
    """What a column is set to in a member."""
    column, option = owner.column, owner.option
    if option is None:
        variant = variant_of(document, choice.variant)
        return variant.cells.get(column.id, column.base) if variant else column.base
    text = chosen_of(option, choice)
    if option.kind == "number":
        return Amount(formula=text)
    value = value_of(option, text)
    return value.cells.get(column.id, column.base) if value else column.base


def checked(document: Document, choice: Choice) -> Choice:
    """A choice without what is as it is by itself. Raises BadInput for a variant, an option or a value
    that is not there, with what there is."""
    if choice.variant is not None and variant_of(document, choice.variant) is None:
        names = ", ".join(v.name for v in document.variants[:12]) or "none"
        raise BadInput(f"{document.name} has no such variant; there is {names}")
    options = {o.id: o for o in document.options}
    kept: dict[str, str] = {}
    for id, text in choice.options.items():
        option = options.get(id)
        if option is None:
            raise BadInput(f"{document.name} has no such option")
        told = value_checked(document, option, text)
        if told != option.default:
            kept[id] = told
    return Choice(variant=choice.variant, options=kept)


def value_checked(document: Document, option: Option, text: str) -> str:
    """A value of an option as it is called. Raises BadInput for one it does not have."""
    if option.kind != "number":
        value = value_of(option, text)
        if value is not None:
            return value.name
        raise BadInput(
            f"{option.name} is one of {', '.join(v.name for v in option.values)}, not “{text}”"
        )
    # It is chosen in assemblies too, where the names of this document are not known.
    found = _number(text, {}, option)
    usual = _number(option.default, {}, option)
    if found.dimension != usual.dimension:
        raise BadInput(
            f"{option.name} is {a_kind(usual.dimension.name)}; {text.strip()} is "
            f"{a_kind(found.dimension.name)}"
        )
    values = values_of(document)
    for formula, sign, word in ((option.least, 1.0, "least"), (option.most, -1.0, "most")):
        if formula is None:
            continue
        limit = _number(formula, values, option)
        if limit.dimension != usual.dimension:
            raise BadInput(
                f"{option.name} is {a_kind(usual.dimension.name)}; its {word}, {formula}, is "
                f"{a_kind(limit.dimension.name)}"
            )
        if sign * (limit.value - found.value) > 1e-9 * max(1.0, abs(limit.value)):
            raise BadInput(f"{option.name} is at {word} {formula}, not {text.strip()}")
    return text.strip()


def _number(text: str, values: Mapping[str, Quantity], option: Option) -> Quantity:
    try:
        return evaluate(text, values)
    except FormulaError as error:
        why = "" if values else "; it takes a number with its unit, such as 40 mm"
        raise BadInput(f"{option.name}: {error}{why}") from error


def a_kind(word: str) -> str:
    """What messages call a number of a dimension.

    >>> a_kind("angle"), a_kind("number")
    ('an angle', 'a plain number')
    """
    if word == "number":
        return "a plain number"
    return f"{'an' if word[0] in 'aeiou' else 'a'} {word}"


def values_of(document: Document) -> dict[str, Quantity]:
    found = evaluate_parameters(document.parameters)
    return {n: e.value for n, e in found.items() if e.value is not None}


def applied(document: D, choice: Choice) -> D:
    """The document as one of its members. Raises BadInput for a member it does not have."""
    choice = checked(document, choice)
    for owner in owned(document):
        column = owner.column
        driver = DRIVERS.called(column.drives)
        if driver.driven(document, column.of) is None:
            continue
        cell = said(document, owner, choice)
        if driver.read(document, column.of) != cell:
            document = written(document, column, cell)
    if document.active == choice:
        return document
    made: D = put(document, active=choice)
    return made


def written(document: D, column: Column, cell: Cell) -> D:
    """The document with what a column drives set. Raises BadInput with what it is for what it does
    not take."""
    driver = DRIVERS.called(column.drives)
    found = driver.driven(document, column.of)
    name = found.name if found else column.id
    try:
        made: D = driver.write(document, column.of, cell)
    except ValidationError as error:
        raise BadInput(f"{name}: {first_said(error)[1]}") from error
    except Trouble as trouble:
        raise BadInput(f"{name}: {trouble.report().text}") from trouble
    return made


def settled(document: D) -> D:
    """The document after an edit, with what its drivers are set to now kept for the member that is
    active; columns of what is gone go with it."""
    if not document.columns:
        return document
    changes: dict[str, Cell] = {}
    gone: set[str] = set()
    for owner in owned(document):
        column = owner.column
        driver = DRIVERS.called(column.drives)
        if driver.driven(document, column.of) is None:
            gone.add(column.id)
        elif (now := driver.read(document, column.of)) != said(document, owner, document.active):
            changes[column.id] = now
    for owner in owned(document):
        if owner.column.id in changes:
            document = kept(document, owner, changes[owner.column.id])
    return without_columns(document, gone) if gone else document


def kept(document: D, owner: Owned, cell: Cell) -> D:
    """The document with a cell of the active member (or what is as drawn) changed."""
    column, option = owner.column, owner.option
    if option is None:
        variant = variant_of(document, document.active.variant)
        if variant is not None:
            row = put(variant, cells={**variant.cells, column.id: cell})
            changed: D = put(document, variants=swapped(document.variants, variant, row))
            return changed
        columns = tuple(put(c, base=cell) if c.id == column.id else c for c in document.columns)
        made: D = put(document, columns=columns)
        return made
    # Kept for the value that is chosen now, or as what is chosen now.
    option = next(o for o in document.options if o.id == option.id)
    text = chosen_of(option, document.active)
    if option.kind == "number":
        formula = value_checked(
            document, option, cell.formula if isinstance(cell, Amount) else text
        )
        active = Choice(
            variant=document.active.variant,
            options={**document.active.options, option.id: formula},
        )
        moved: D = put(document, active=active)
        return applied(moved, active)
    values = tuple(
        put(v, cells={**v.cells, column.id: cell}) if v.name == text else v for v in option.values
    )
    other = put(option, values=values)
    kept_so: D = put(document, options=swapped(document.options, option, other))
    return kept_so


def without_columns(document: D, ids: set[str]) -> D:
    """The document without some columns and their cells; it stays as it stands."""

    def rest(cells: Mapping[str, Cell]) -> dict[str, Cell]:
        return {k: c for k, c in cells.items() if k not in ids}

    made: D = put(
        document,
        columns=tuple(c for c in document.columns if c.id not in ids),
        variants=tuple(put(v, cells=rest(v.cells)) for v in document.variants),
        options=tuple(
            put(o, values=tuple(put(v, cells=rest(v.cells)) for v in o.values))
            for o in document.options
        ),
    )
    return made


def called(document: Document, choice: Choice) -> str:
    """A member's name: of its variant, then what is chosen of the options.

    >>> from vireo.core.documents import new_document
    >>> called(new_document("part", "Peg"), Choice())
    'As drawn'
    """
    variant = variant_of(document, choice.variant)
    told = document.options or choice.revision is not None
    words = [variant.name] if variant else [] if told else [AS_DRAWN]
    for option in document.options:
        text = chosen_of(option, choice)
        if option.kind == "yes_no":
            words += [option.name] if text == "yes" else []
        else:
            words.append(text)
    if choice.revision is not None:
        words.append(f"r {choice.revision}")
    return " · ".join(words) or AS_DRAWN


def rows(document: Document) -> list[Choice]:
    """Each row of the table with the options as they are by themselves, what is as drawn first."""
    return [Choice(), *(Choice(variant=v.id) for v in document.variants)]


def combinations(document: Document, variants: list[str | None]) -> Iterator[Choice]:
    """Every combination of some variants with the values of the options; a number is tried at its
    least, its default and its most."""
    tried = [dict.fromkeys(_tried(document, o)) for o in document.options]
    for variant, *texts in itertools.product(variants, *tried):
        options = {o.id: str(t) for o, t in zip(document.options, texts, strict=True)}
        yield checked(document, Choice(variant=variant, options=options))


def _tried(document: Document, option: Option) -> list[str]:
    if option.kind != "number":
        return [v.name for v in option.values]
    values = values_of(document)
    return [
        format_quantity(_number(t, values, option), digits=9) if names_in(t) else t
        for t in (option.least, option.default, option.most)
        if t
    ]


def pairs(document: Document, variants: list[str | None]) -> list[Choice]:
    """Few combinations in which any two choices of two different options (the variants are one) meet
    at least once: the next one is that which meets most pairs not met yet (Cohen et al. 1997, greedy)."""
    names: list[str] = ["", *(o.id for o in document.options)]
    sets: list[list[Any]] = [list(variants), *(_tried(document, o) for o in document.options)]
    wanted = {
        (i, x, j, y)
        for (i, a), (j, b) in itertools.combinations(enumerate(sets), 2)
        for x in a
        for y in b
    }
    if not wanted:
        return [Choice(variant=v) for v in variants]
    found: list[Choice] = []
    while wanted:
        # Begun with a pair that is wanted, so that each row meets one at least.
        i, x, j, y = min(wanted, key=repr)
        row: dict[int, Any] = {i: x, j: y}
        for k, values in enumerate(sets):
            if k not in row:
                row[k] = max(values, key=lambda v: _met(wanted, row, k, v))
        wanted -= {(i, row[i], j, row[j]) for i, j in itertools.combinations(range(len(sets)), 2)}
        options = {names[k]: str(row[k]) for k in range(1, len(sets))}
        found.append(checked(document, Choice(variant=row[0], options=options)))
    return found


def _met(wanted: set[tuple[int, Any, int, Any]], row: Mapping[int, Any], k: int, v: Any) -> int:
    """How many wanted pairs a value meets with what stands in a row already."""
    return sum(
        ((i, x, k, v) if i < k else (k, v, i, x)) in wanted for i, x in row.items() if i != k
    )


__all__ = [
    "AS_DRAWN", "MOST", "Owned", "a_kind", "applied", "called", "checked", "chosen_of", "combinations", "driven",
    "kept", "owned", "pairs", "rows", "said", "settled", "value_checked", "values_of", "variant_of",
    "without_columns", "written",
]  # fmt: skip

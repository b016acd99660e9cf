"""Commands on variants and options: the same for every kind of document."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

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
from vireo.core.documents.commands.base import (
    Command,
    command,
    place,
    replaced,
    update,
    without,
)
from vireo.core.documents.driver import DRIVERS, swapped
from vireo.core.documents.kind import kind_of
from vireo.core.documents.members import (
    AS_DRAWN,
    Owned,
    a_kind,
    applied,
    called,
    driven,
    owned,
    value_checked,
    value_of,
    values_of,
    without_columns,
    written,
)
from vireo.core.quantity import FormulaError, evaluate, evaluate_parameters, names_in
from vireo.core.trouble import BadInput, NotAllowed

#: What is typed into a cell, or set; null takes the cell out, so that it is as drawn.
Typed = Cell | None
TypedCells = dict[str, Typed]


class MemberCommand(Command):
    of_members: ClassVar[bool] = True


def _owner(document: Document, id: str) -> Owned:
    for owner in owned(document):
        if owner.column.id == id:
            return owner
    raise NotAllowed(f"there is no column {id} in this document")


def read_cell(document: Document, column: Column, typed: Cell) -> Cell:
    """What was typed as a cell keeps it: tried on the document, and read off there. Raises BadInput for
    what the driver does not take, a number of another kind among it."""
    found = driven(document, column)
    if found is None:
        raise NotAllowed(f"what column {column.id} drives is no longer there")
    if found.cell == "number":
        text = typed.formula if isinstance(typed, Amount) else str(typed)
        _of_kind(document, found.name, found.dimension, text)
        typed = Amount(formula=text.strip())
    elif found.cell == "flag" and not isinstance(typed, bool):
        typed = _flag(found.name, str(typed))
    elif found.cell == "choice":
        typed = _word(found.name, found.words, str(typed))
    elif found.cell in ("text", "material", "colour") and not isinstance(typed, str):
        raise BadInput(f"{found.name} takes a text")
    elif found.cell == "picks" and not (isinstance(typed, tuple) and typed):
        raise BadInput(f"{found.name} takes what is picked in the picture, one thing at least")
    elif found.cell == "member" and not isinstance(typed, Choice):
        raise BadInput(f"{found.name} takes a member of that document")
    made = written(document, column, typed)
    cell: Cell = DRIVERS.called(column.drives).read(made, column.of)
    return cell


def _of_kind(document: Document, name: str, dimension: str | None, text: str) -> None:
    if not text.strip():
        raise BadInput(f"{name}: an empty cell is as drawn; take the value out instead")
    try:
        value = evaluate(text, values_of(document))
    except FormulaError as error:
        raise BadInput(f"{name}: {error}") from error
    if dimension is not None and value.dimension.name != dimension:
        raise BadInput(
            f"{name} takes {a_kind(dimension)}; {text.strip()} is {a_kind(value.dimension.name)}"
        )


def _flag(name: str, text: str) -> bool:
    words = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}
    if text.strip().lower() not in words:
        raise BadInput(f"{name} is yes or no, not “{text}”")
    return words[text.strip().lower()]


def _word(name: str, words: Any, text: str) -> str:
    for value, label in words.items():
        if text.strip().casefold() in (value.casefold(), label.casefold()):
            return str(value)
    raise BadInput(f"{name} is one of {', '.join(words.values())}, not “{text}”")


def _name(name: str, taken: list[str], what: str) -> str:
    """A name for one more of them. Raises BadInput for none or one that is taken."""
    name = " ".join(name.split())
    if not name:
        raise BadInput(f"{what} needs a name")
    if name.casefold() in {t.casefold() for t in taken}:
        raise BadInput(f"there already is {what} called {name}")
    return name


def _table(document: Document, option: str | None = None) -> list[Column]:
    """The columns of the table of variants, or of an option."""
    return [c for c in document.columns if c.option == option]


def _cells(document: Document, columns: list[Column], typed: TypedCells) -> dict[str, Cell]:
    """Cells as they are kept. Raises BadInput for one that cannot be."""
    known = {c.id: c for c in columns}
    found = {}
    for id, value in typed.items():
        if id not in known:
            raise NotAllowed(f"there is no column {id} here")
        if value is not None:
            found[id] = read_cell(document, known[id], value)
    return found


def _standing(document: Document, choice: Choice, cells: Mapping[str, Cell | None]) -> None:
    """That parameters with new cells come to something in a member. Raises BadInput with why not: formulas
    in a circle, that no cell shows by itself."""
    names = {
        c.of["name"]
        for c in document.columns
        if c.drives == "parameter" and isinstance(cell := cells.get(c.id), Amount)
        and names_in(cell.formula)
    }  # fmt: skip
    if not names:
        return
    found = evaluate_parameters(applied(document, choice).parameters)
    for name in sorted(names):
        trouble = found[name].trouble
        if found[name].value is None and trouble is not None:
            raise BadInput(f"{called(document, choice)}: {trouble.text}", trouble.where)


@command
class AddColumn(MemberCommand):
    """Have something of the document differ between its variants, or between the values of an option.
    It stays as it is now wherever nothing else is said."""

    do: Literal["add_column"] = "add_column"
    drives: str
    of: dict[str, str] = Field(default_factory=dict, max_length=4)
    option: str | None = None
    base: Cell | None = None

    def apply(self, document: Document) -> Document:
        driver = DRIVERS.called(self.drives)
        if driver.on and kind_of(document).kind not in driver.on:
            raise NotAllowed(f"that cannot differ in {kind_of(document).article}")
        if set(self.of) != set(driver.of):
            raise BadInput(f"a {self.drives} column needs {', '.join(driver.of) or 'nothing more'}")
        found = driver.driven(document, self.of)
        if found is None:
            raise NotAllowed("that is not there, or cannot differ between variants")
        for owner in owned(document):
            if (owner.column.drives, owner.column.of) == (self.drives, self.of):
                whose = f"the option {owner.option.name}" if owner.option else "the variants"
                raise NotAllowed(f"{found.name} is driven by {whose} already", [found.where])
        number = document.last_id + 1
        column = Column(
            id=f"y{number}", drives=self.drives, of=self.of, base=driver.read(document, self.of),
            option=self.option,
        )  # fmt: skip
        if self.base is not None:
            base = read_cell(document, column, self.base)
            column = update(column, base=base)
        if self.option is not None:
            option = document.options[place(document.options, self.option, "option")]
            if option.kind == "number":
                if found.cell != "number":
                    raise BadInput(f"{option.name} is a number; {found.name} is none")
                _of_kind(document, found.name, found.dimension, option.default)
        document = update(document, columns=(*document.columns, column), last_id=number)
        return applied(document, document.active)

    def label(self) -> str:
        return "add a column to the variants"


@command
class RemoveColumn(MemberCommand):
    """Let something go: it is the same in all members, as it stands now."""

    do: Literal["remove_column"] = "remove_column"
    id: str

    def apply(self, document: Document) -> Document:
        _owner(document, self.id)
        return without_columns(document, {self.id})

    def label(self) -> str:
        return "let a column go"


@command
class AddVariant(MemberCommand):
    """A row: like another (`like`), with cells of its own."""

    do: Literal["add_variant"] = "add_variant"
    name: str
    cells: TypedCells = Field(default_factory=dict, max_length=500)
    like: str | None = None

    def apply(self, document: Document) -> Document:
        name = _name(self.name, [AS_DRAWN, *(v.name for v in document.variants)], "a variant")
        cells: dict[str, Cell] = {}
        if self.like is not None:
            cells = dict(document.variants[place(document.variants, self.like, "variant")].cells)
        cells |= _cells(document, _table(document), self.cells)
        number = document.last_id + 1
        made = Variant(id=f"v{number}", name=name, cells=cells)
        document = update(document, variants=(*document.variants, made), last_id=number)
        _standing(document, Choice(variant=made.id), cells)
        return document

    def label(self) -> str:
        return f"add variant {self.name}"


@command
class EditVariant(MemberCommand):
    """Changes the name of a variant, or where it stands in the table."""

    do: Literal["edit_variant"] = "edit_variant"
    id: str
    name: str | None = None
    to: int | None = Field(default=None, ge=0, le=10_000)

    def apply(self, document: Document) -> Document:
        index = place(document.variants, self.id, "variant")
        row = document.variants[index]
        if self.name is not None:
            others = [v.name for v in document.variants if v.id != self.id]
            row = update(row, name=_name(self.name, [AS_DRAWN, *others], "a variant"))
        items = list(without(document.variants, index))
        items.insert(min(index if self.to is None else self.to, len(items)), row)
        return update(document, variants=tuple(items))

    def label(self) -> str:
        return "change a variant"


@command
class SetCells(MemberCommand):
    """Changes cells of a variant (null: as drawn again), or, without an `id`, what is as drawn: of the
    columns of the table and of options alike."""

    do: Literal["set_cells"] = "set_cells"
    id: str | None = None
    cells: TypedCells = Field(min_length=1, max_length=500)

    def apply(self, document: Document) -> Document:
        if self.id is None:
            cells = _cells(document, list(document.columns), self.cells)
            if any(c is None for c in self.cells.values()):
                raise BadInput("what is as drawn has a value in each column")
            columns = tuple(
                update(c, base=cells[c.id]) if c.id in cells else c for c in document.columns
            )
            document = update(document, columns=columns)
            _standing(document, Choice(), cells)
        else:
            cells = _cells(document, _table(document), self.cells)
            index = place(document.variants, self.id, "variant")
            row = document.variants[index]
            rest = {k: c for k, c in row.cells.items() if k not in self.cells}
            row = update(row, cells={**rest, **cells})
            document = update(document, variants=replaced(document.variants, index, row))
            _standing(document, Choice(variant=self.id), cells)
        return applied(document, document.active)

    def label(self) -> str:
        return "change the variants"


class PutRow(BaseModel):
    """A row by its name, with cells as `set_cells` takes them."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    name: str
    cells: TypedCells = Field(default_factory=dict, max_length=500)


@command
class PutRows(MemberCommand):
    """Many rows at once, by name: those that are there get cells changed, others are added; what is as
    drawn goes by that name."""

    do: Literal["put_rows"] = "put_rows"
    rows: tuple[PutRow, ...] = Field(min_length=1, max_length=2001)

    def apply(self, document: Document) -> Document:
        table = _table(document)
        found = {v.name.casefold(): v for v in document.variants}
        number = document.last_id
        bases: dict[str, Cell] = {}
        for row in self.rows:
            cells = _cells(document, table, row.cells)
            emptied = {k for k, c in row.cells.items() if c is None}
            name = " ".join(row.name.split())
            if name.casefold() == AS_DRAWN.casefold():
                if emptied:
                    raise BadInput("what is as drawn has a value in each column")
                bases |= cells
                continue
            known = found.get(name.casefold())
            if known is None:
                number += 1
                known = Variant(id=f"v{number}", name=_name(name, [], "a variant"))
            kept_cells = {k: c for k, c in known.cells.items() if k not in emptied}
            found[name.casefold()] = update(known, cells={**kept_cells, **cells})
        columns = tuple(
            update(c, base=bases[c.id]) if c.id in bases else c for c in document.columns
        )
        document = update(document, columns=columns, variants=tuple(found.values()), last_id=number)
        _standing(document, Choice(), bases)
        for row in self.rows:
            if (variant := found.get(" ".join(row.name.split()).casefold())) is not None:
                _standing(document, Choice(variant=variant.id), variant.cells)
        return applied(document, document.active)

    def label(self) -> str:
        return f"take {len(self.rows)} rows in"


@command
class RemoveVariant(MemberCommand):
    do: Literal["remove_variant"] = "remove_variant"
    id: str

    def apply(self, document: Document) -> Document:
        index = place(document.variants, self.id, "variant")
        rest = without(document.variants, index)
        if document.active.variant == self.id:
            document = applied(document, update(document.active, variant=None))
        return update(document, variants=rest)

    def label(self) -> str:
        return "remove a variant"


@command
class Choose(MemberCommand):
    """Have the document stand as one of its members."""

    do: Literal["choose"] = "choose"
    variant: str | None = None
    options: dict[str, Annotated[str, Field(max_length=500)]] = Field(
        default_factory=dict, max_length=100
    )

    def apply(self, document: Document) -> Document:
        return applied(document, Choice(variant=self.variant, options=self.options))

    def label(self) -> str:
        return "switch to another variant"


@command
class AddOption(MemberCommand):
    """A choice beside the table: a list of values, yes or no, or a number in a range."""

    do: Literal["add_option"] = "add_option"
    name: str
    kind: Literal["list", "yes_no", "number"] = "list"
    values: tuple[str, ...] = Field(default=(), max_length=200)
    default: str | None = None
    least: str | None = None
    most: str | None = None

    def apply(self, document: Document) -> Document:
        name = _name(self.name, [o.name for o in document.options], "an option")
        values = ("no", "yes") if self.kind == "yes_no" else self.values
        if self.kind == "list" and not values:
            raise BadInput(f"{name} needs a value at least")
        named: list[str] = []
        for value in values if self.kind != "number" else ():
            named.append(_name(value, named, "a value"))
        default = self.default or (named[0] if named else "")
        number = document.last_id + 1
        option = Option(
            id=f"o{number}", name=name, kind=self.kind, default=default or "-",
            values=tuple(OptionValue(name=n) for n in named), least=self.least, most=self.most,
        )  # fmt: skip
        if self.kind == "number" and not default:
            raise BadInput(f"{name} needs a number to begin with")
        option = update(option, default=value_checked(document, option, default))
        return update(document, options=(*document.options, option), last_id=number)

    def label(self) -> str:
        return f"add option {self.name}"


@command
class EditOption(MemberCommand):
    """Changes an option: its name, what it is by itself, the range of a number, the values of a list
    (by name: those that stay keep their cells), their names (`renames`, from what they are called now)."""

    do: Literal["edit_option"] = "edit_option"
    id: str
    name: str | None = None
    default: str | None = None
    least: str | None = None
    most: str | None = None
    values: tuple[str, ...] | None = Field(default=None, max_length=200)
    renames: dict[str, str] = Field(default={}, max_length=200)
    #: What values were called before, too.
    was: dict[str, tuple[str, ...]] = Field(default={}, max_length=200)

    def apply(self, document: Document) -> Document:
        index = place(document.options, self.id, "option")
        option = document.options[index]
        for value, name in self.renames.items():
            option = _renamed(document, option, value, name)
        for value, names in self.was.items():
            option = _called_before(option, value, names)
        if self.name is not None:
            others = [o.name for o in document.options if o.id != self.id]
            option = update(option, name=_name(self.name, others, "an option"))
        for bound in ("least", "most"):
            if bound in self.model_fields_set:
                option = update(option, **{bound: getattr(self, bound)})
        if self.values is not None:
            if option.kind != "list":
                raise NotAllowed(f"{option.name} is no list of values")
            known = {v.name: v for v in option.values}
            named: list[str] = []
            for value in self.values:
                named.append(_name(value, named, "a value"))
                _not_before(option, named[-1], named[-1])
            if not named:
                raise BadInput(f"{option.name} needs a value at least")
            option = update(option, values=tuple(known.get(n, OptionValue(name=n)) for n in named))
            if option.default not in named:
                option = update(option, default=named[0])
        if self.default is not None:
            option = update(option, default=self.default)
        option = update(option, default=value_checked(document, option, option.default))
        for column in _table(document, option.id) if option.kind == "number" else ():
            found = driven(document, column)
            if found is not None:
                _of_kind(document, found.name, found.dimension, option.default)
        document = update(document, options=replaced(document.options, index, option))
        return applied(document, _possible(document, document.active))

    def label(self) -> str:
        return "change an option"


def _renamed(document: Document, option: Option, value: str, name: str) -> Option:
    """An option with one of its values called otherwise: choices of it by the name before stay good."""
    if option.kind != "list":
        raise NotAllowed(f"{option.name} is no list of values")
    old = value_checked(document, option, value)
    new = _name(name, [v.name for v in option.values if v.name != old], "a value")
    _not_before(option, new, old)
    found = next(v for v in option.values if v.name == old)
    was = tuple(w for w in (*found.was, old) if w.casefold() != new.casefold())
    values = swapped(option.values, found, update(found, name=new, was=was))
    return update(option, values=values, default=new if option.default == old else option.default)


def _called_before(option: Option, value: str, names: tuple[str, ...]) -> Option:
    """An option with one of its values known by other names, too."""
    found = next((v for v in option.values if v.name == value), None)
    if found is None:
        raise BadInput(f"{option.name} has no value {value}")
    for name in names:
        _not_before(option, name, value)
    return update(option, values=swapped(option.values, found, update(found, was=names)))


def _not_before(option: Option, name: str, mine: str) -> None:
    """That no other value was called so before: who chose it by that would get this one."""
    before = value_of(option, name)
    if before is not None and before.name.casefold() not in (name.casefold(), mine.casefold()):
        raise BadInput(
            f"{name} is what {before.name} was called before, and may be chosen elsewhere by that; "
            "take another name"
        )


def _possible(document: Document, choice: Choice) -> Choice:
    """A choice without values its options no longer have."""
    options = {}
    for option in document.options:
        text = choice.options.get(option.id)
        if text is None:
            continue
        try:
            options[option.id] = value_checked(document, option, text)
        except BadInput:
            continue
    return Choice(variant=choice.variant, options=options)


@command
class SetOptionCells(MemberCommand):
    """Changes what columns of an option are for one of its values; null is as drawn."""

    do: Literal["set_option_cells"] = "set_option_cells"
    id: str
    value: str
    cells: TypedCells = Field(min_length=1, max_length=100)

    def apply(self, document: Document) -> Document:
        index = place(document.options, self.id, "option")
        option = document.options[index]
        if option.kind == "number":
            raise NotAllowed(f"{option.name} sets all it drives to its number")
        name = value_checked(document, option, self.value)
        cells = _cells(document, _table(document, option.id), self.cells)
        values = tuple(
            update(v, cells={**{k: c for k, c in v.cells.items() if k not in self.cells}, **cells})
            if v.name == name
            else v
            for v in option.values
        )
        changed = update(option, values=values)
        document = update(document, options=replaced(document.options, index, changed))
        _standing(document, Choice(options={option.id: name}), cells)
        return applied(document, document.active)

    def label(self) -> str:
        return "change an option"


@command
class RemoveOption(MemberCommand):
    """Takes an option away; what it drove stays as it stands."""

    do: Literal["remove_option"] = "remove_option"
    id: str

    def apply(self, document: Document) -> Document:
        index = place(document.options, self.id, "option")
        options = {k: v for k, v in document.active.options.items() if k != self.id}
        active = update(document.active, options=options)
        ids = {c.id for c in document.columns if c.option == self.id}
        document = without_columns(document, ids)
        return update(document, options=without(document.options, index), active=active)

    def label(self) -> str:
        return "remove an option"

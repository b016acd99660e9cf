"""Commands on names, parameters and checks: the same for every kind of document."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from vireo.core.documents.base import Check, Document
from vireo.core.documents.commands.base import (
    Command,
    RemoveItem,
    command,
    edited,
    replaced,
    update,
    without,
)
from vireo.core.documents.uses import renamed, uses
from vireo.core.quantity import Limits, Parameter
from vireo.core.quantity.formula import reserved
from vireo.core.quantity.shown import Units
from vireo.core.quantity.tables import limits_of
from vireo.core.trouble import NotAllowed


@command
class RenameDocument(Command):
    do: Literal["rename_document"] = "rename_document"
    name: str

    def apply(self, document: Document) -> Document:
        return update(document, name=self.name.strip())


@command
class SkipIds(Command):
    """Has the next thing made be numbered after `to`: scripts give things the ids they had."""

    do: Literal["skip_ids"] = "skip_ids"
    to: int = Field(ge=0, le=10_000_000)

    def apply(self, document: Document) -> Document:
        if self.to < document.last_id:
            raise NotAllowed(f"ids up to {document.last_id} have been given already")
        return update(document, last_id=self.to)


def _index(document: Document, name: str) -> int:
    for index, p in enumerate(document.parameters):
        if p.name == name:
            return index
    raise NotAllowed(f"there is no parameter called {name}")


def free_parameter(document: Document, name: str) -> None:
    why = reserved(name)
    if why:
        raise NotAllowed(f"“{name}” cannot name a parameter: {why}")
    if any(p.name == name for p in document.parameters):
        raise NotAllowed(f"there already is a parameter called {name}")
    if name in document.numbers:
        raise NotAllowed(f"what is weighed is called {name} already")


#: Limits as people type them: ``20 mm, 26 mm`` or ``8 mm … wall*4``; empty takes them off.
TypedLimits = Annotated[str, Field(max_length=2000)]


def _read(limits: Limits | str | None) -> Limits | None:
    return limits_of(limits) if isinstance(limits, str) else limits


@command
class AddParameter(Command):
    do: Literal["add_parameter"] = "add_parameter"
    name: str
    formula: str
    unit: str | None = None
    note: str = ""
    group: str = ""
    limits: Limits | TypedLimits | None = None

    def apply(self, document: Document) -> Document:
        free_parameter(document, self.name)
        new = Parameter(
            name=self.name, formula=self.formula, unit=self.unit, note=self.note,
            group=self.group, limits=_read(self.limits),
        )  # fmt: skip
        return update(document, parameters=(*document.parameters, new))

    def label(self) -> str:
        return f"add parameter {self.name}"


@command
class EditParameter(Command):
    """Only the fields given change; `limits` null takes the limits off."""

    do: Literal["edit_parameter"] = "edit_parameter"
    name: str
    formula: str | None = None
    unit: str | None = None
    note: str | None = None
    group: str | None = None
    limits: Limits | TypedLimits | None = None

    def apply(self, document: Document) -> Document:
        index = _index(document, self.name)
        changes = {k: getattr(self, k) for k in self.model_fields_set if k not in ("do", "name")}
        if "limits" in changes:
            changes["limits"] = _read(self.limits)
        changed = update(document.parameters[index], **changes)
        return update(document, parameters=replaced(document.parameters, index, changed))

    def label(self) -> str:
        return f"{self.name} = {self.formula}" if self.formula else f"change {self.name}"


@command
class RenameParameter(Command):
    do: Literal["rename_parameter"] = "rename_parameter"
    name: str
    new: str

    def apply(self, document: Document) -> Document:
        index = _index(document, self.name)
        free_parameter(document, self.new)
        changed = update(document.parameters[index], name=self.new)
        columns = tuple(
            update(c, of={"name": self.new})
            if c.drives == "parameter" and c.of["name"] == self.name
            else c
            for c in document.columns
        )
        parameters = replaced(document.parameters, index, changed)
        document = update(document, parameters=parameters, columns=columns)
        return update(renamed(document, self.name, self.new))

    def label(self) -> str:
        return f"rename {self.name} to {self.new}"


@command
class RemoveParameter(Command):
    do: Literal["remove_parameter"] = "remove_parameter"
    name: str

    def apply(self, document: Document) -> Document:
        index = _index(document, self.name)
        if any(c.drives == "parameter" and c.of["name"] == self.name for c in document.columns):
            raise NotAllowed(
                f"{self.name} differs between variants; let its column go first",
                [f"parameter:{self.name}"],
            )
        users = [u.name for u in uses(document).get(self.name, ())]
        if users:
            raise NotAllowed(
                f"{self.name} is used by {', '.join(users[:8])}; change those first",
                [f"parameter:{self.name}"],
            )
        return update(document, parameters=without(document.parameters, index))

    def label(self) -> str:
        return f"remove parameter {self.name}"


@command
class MoveParameter(Command):
    """Puts a parameter at an index of the list."""

    do: Literal["move_parameter"] = "move_parameter"
    name: str
    to: int

    def apply(self, document: Document) -> Document:
        index = _index(document, self.name)
        rest = list(without(document.parameters, index))
        rest.insert(min(max(self.to, 0), len(rest)), document.parameters[index])
        return update(document, parameters=tuple(rest))

    def label(self) -> str:
        return f"move {self.name}"


@command
class SetUnits(Command):
    """What the document shows and reads; nothing stored changes."""

    do: Literal["set_units"] = "set_units"
    units: Units

    def apply(self, document: Document) -> Document:
        return update(document, units=self.units)

    def label(self) -> str:
        return f"show {self.units.length} and {self.units.mass}"


@command
class AddCheck(Command):
    do: Literal["add_check"] = "add_check"
    kind: str
    name: str
    fields: dict[str, Any] = Field(default_factory=dict)
    relation: Literal["at_most", "at_least"] = "at_most"
    limit: str
    severity: Literal["must", "should"] = "must"
    note: str = Field(default="", max_length=500)

    def apply(self, document: Document) -> Document:
        number = document.last_id + 1
        new = Check(
            id=f"k{number}", kind=self.kind, name=self.name, fields=self.fields,
            relation=self.relation, limit=self.limit, severity=self.severity, note=self.note,
        )  # fmt: skip
        return update(document, checks=(*document.checks, new), last_id=number)

    def label(self) -> str:
        return f"add check {self.name}"


@command
class EditCheck(Command):
    do: Literal["edit_check"] = "edit_check"
    id: str
    name: str | None = None
    fields: dict[str, Any] | None = None
    relation: Literal["at_most", "at_least"] | None = None
    limit: str | None = None
    severity: Literal["must", "should"] | None = None
    note: str | None = Field(default=None, max_length=500)

    def apply(self, document: Document) -> Document:
        return edited(document, "checks", self.id, "check", self.given("id"))


@command
class RemoveCheck(RemoveItem):
    group, what = "checks", "check"
    do: Literal["remove_check"] = "remove_check"

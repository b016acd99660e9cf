"""Commands on names, parameters and checks: the same for every kind of document."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from vireo.core.documents.commands.base import (
    Command,
    Model,
    RemoveItem,
    command,
    edited,
    replaced,
    update,
    without,
)
from vireo.core.documents.model import Check
from vireo.core.quantity import FormulaError, Limits, Parameter, names_in, rename_in
from vireo.core.quantity.formula import reserved
from vireo.core.trouble import NotAllowed


@command
class RenameDocument(Command):
    do: Literal["rename_document"] = "rename_document"
    name: str

    def apply(self, document: Model) -> Model:
        return update(document, name=self.name.strip())


def _index(document: Model, name: str) -> int:
    for index, p in enumerate(document.parameters):
        if p.name == name:
            return index
    raise NotAllowed(f"there is no parameter called {name}")


def _free_name(document: Model, name: str) -> None:
    why = reserved(name)
    if why:
        raise NotAllowed(f"“{name}” cannot name a parameter: {why}")
    if any(p.name == name for p in document.parameters):
        raise NotAllowed(f"there already is a parameter called {name}")


def renamed(data: Any, old: str, new: str) -> Any:
    """The same JSON with a parameter's name replaced in everything that is a formula.

    Formulas are strings that parse as one and use the name; names of things are left alone.
    """
    if isinstance(data, dict):
        return {k: _renamed_value(k, v, old, new) for k, v in data.items()}
    if isinstance(data, list):
        return [renamed(v, old, new) for v in data]
    return data


_NOT_FORMULAS = frozenset({"id", "name", "kind", "type", "note", "unit", "document", "part", "do",
                           "sketch", "material", "body", "tag", "component", "on", "base"})  # fmt: skip


#: Here ids stand everywhere and may look like formulas: only ``formula`` keys hold one.
_BY_KEY = frozenset({"drawing", "plane", "brought"})


def _renamed_by_key(data: Any, old: str, new: str) -> Any:
    if isinstance(data, dict):
        return {
            k: _renamed_formula(v, old, new) if k == "formula" and isinstance(v, str)
            else _renamed_by_key(v, old, new)
            for k, v in data.items()
        }  # fmt: skip
    if isinstance(data, list):
        return [_renamed_by_key(v, old, new) for v in data]
    return data


def _renamed_value(key: str, value: Any, old: str, new: str) -> Any:
    if key in _NOT_FORMULAS:
        return value
    if key in _BY_KEY:
        return _renamed_by_key(value, old, new)
    if isinstance(value, str):
        return _renamed_formula(value, old, new)
    if isinstance(value, list):
        return [
            _renamed_formula(v, old, new) if isinstance(v, str) and key == "values"
            else renamed(v, old, new)
            for v in value
        ]  # fmt: skip
    return renamed(value, old, new)


def _renamed_formula(text: str, old: str, new: str) -> str:
    try:
        return rename_in(text, old, new) if old in names_in(text) else text
    except FormulaError:
        return text


def _uses(data: Any, name: str) -> bool:
    return bool(renamed(data, name, name + "_") != data)


@command
class AddParameter(Command):
    do: Literal["add_parameter"] = "add_parameter"
    name: str
    formula: str
    unit: str | None = None
    note: str = ""
    limits: Limits | None = None

    def apply(self, document: Model) -> Model:
        _free_name(document, self.name)
        new = Parameter(
            name=self.name, formula=self.formula, unit=self.unit, note=self.note, limits=self.limits
        )
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
    limits: Limits | None = None

    def apply(self, document: Model) -> Model:
        index = _index(document, self.name)
        changes = {k: getattr(self, k) for k in self.model_fields_set if k not in ("do", "name")}
        changed = update(document.parameters[index], **changes)
        return update(document, parameters=replaced(document.parameters, index, changed))

    def label(self) -> str:
        return f"change {self.name}"


@command
class RenameParameter(Command):
    do: Literal["rename_parameter"] = "rename_parameter"
    name: str
    new: str

    def apply(self, document: Model) -> Model:
        index = _index(document, self.name)
        _free_name(document, self.new)
        changed = update(document.parameters[index], name=self.new)
        document = update(document, parameters=replaced(document.parameters, index, changed))
        data = renamed(document.model_dump(mode="json"), self.name, self.new)
        return type(document).model_validate(data)

    def label(self) -> str:
        return f"rename {self.name} to {self.new}"


@command
class RemoveParameter(Command):
    do: Literal["remove_parameter"] = "remove_parameter"
    name: str

    def apply(self, document: Model) -> Model:
        index = _index(document, self.name)
        data = document.model_dump(mode="json")
        users = [
            p["name"] for p in data["parameters"] if p["name"] != self.name and _uses(p, self.name)
        ]
        for group in ("steps", "components", "joints", "supports", "loads", "checks"):
            users += [x["name"] for x in data.get(group, []) if _uses(x, self.name)]
        if users:
            raise NotAllowed(
                f"{self.name} is used by {', '.join(users[:8])}; change those first",
                [f"parameter:{self.name}"],
            )
        return update(document, parameters=without(document.parameters, index))

    def label(self) -> str:
        return f"remove parameter {self.name}"


@command
class AddCheck(Command):
    do: Literal["add_check"] = "add_check"
    kind: str
    name: str
    fields: dict[str, Any] = Field(default_factory=dict)
    relation: Literal["at_most", "at_least"] = "at_most"
    limit: str

    def apply(self, document: Model) -> Model:
        number = document.last_id + 1
        new = Check(
            id=f"k{number}", kind=self.kind, name=self.name, fields=self.fields,
            relation=self.relation, limit=self.limit,
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

    def apply(self, document: Model) -> Model:
        return edited(document, "checks", self.id, "check", self.given("id"))


@command
class RemoveCheck(RemoveItem):
    group, what = "checks", "check"
    do: Literal["remove_check"] = "remove_check"

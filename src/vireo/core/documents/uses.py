"""Where parameters are used: every formula in a document, renamed in or looked through."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

from vireo.core.documents.model import Assembly, Part, Study
from vireo.core.quantity import FormulaError, names_in, rename_in


@dataclass(frozen=True)
class Use:
    """Something of a document whose formulas name a parameter."""

    kind: str
    id: str
    name: str


_GROUPS = {
    "steps": "step", "components": "component", "joints": "joint", "supports": "support",
    "loads": "load", "checks": "check",
}  # fmt: skip

_NOT_FORMULAS = frozenset({"id", "name", "kind", "type", "note", "group", "unit", "document",
                           "part", "do", "sketch", "material", "body", "tag", "component", "on",
                           "base"})  # fmt: skip

#: Here ids stand everywhere and may look like formulas: only ``formula`` keys hold one.
_BY_KEY = frozenset({"drawing", "plane", "brought"})

Change = Callable[[str], str]


def uses(document: Part | Assembly | Study) -> dict[str, list[Use]]:
    """For every parameter of a document what its formulas stand in, in document order."""
    known = {p.name for p in document.parameters}
    found: dict[str, list[Use]] = {name: [] for name in known}
    data = document.model_dump(mode="json")
    for p in data["parameters"]:
        for name in sorted(_named({k: p[k] for k in ("formula", "limits")}) & known - {p["name"]}):
            found[name].append(Use("parameter", p["name"], p["name"]))
    for group, kind in _GROUPS.items():
        for item in data.get(group, []):
            for name in sorted(_named(item) & known):
                found[name].append(Use(kind, item["id"], item["name"]))
    return found


def renamed(data: Any, old: str, new: str) -> Any:
    """The same JSON with a parameter's name replaced in everything that is a formula.

    Formulas are strings that parse as one and use the name; names of things are left alone.
    """

    def change(text: str) -> str:
        try:
            return rename_in(text, old, new) if old in names_in(text) else text
        except FormulaError:
            return text

    return _changed(data, change)


def _named(data: Any) -> set[str]:
    """All names that formulas in some JSON use."""
    found: set[str] = set()

    def note(text: str) -> str:
        with suppress(FormulaError):
            found.update(names_in(text))
        return text

    _changed(data, note)
    return found


def _changed(data: Any, change: Change) -> Any:
    if isinstance(data, dict):
        return {k: _value(k, v, change) for k, v in data.items()}
    if isinstance(data, list):
        return [_changed(v, change) for v in data]
    return data


def _value(key: str, value: Any, change: Change) -> Any:
    if key in _NOT_FORMULAS:
        return value
    if key in _BY_KEY:
        return _by_key(value, change)
    if isinstance(value, str):
        return change(value)
    if isinstance(value, list) and key == "values":
        return [change(v) if isinstance(v, str) else _changed(v, change) for v in value]
    return _changed(value, change)


def _by_key(data: Any, change: Change) -> Any:
    if isinstance(data, dict):
        return {
            k: change(v) if k == "formula" and isinstance(v, str) else _by_key(v, change)
            for k, v in data.items()
        }
    if isinstance(data, list):
        return [_by_key(v, change) for v in data]
    return data

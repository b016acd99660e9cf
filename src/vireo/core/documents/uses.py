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

#: What holds a formula in the items of each group; steps by the declaration of their kind, and
#: everywhere else what is called ``formula``. A word of a choice or a name may look like one.
_FORMULAS: dict[str, frozenset[str]] = {
    "parameters": frozenset({"formula", "limits"}),
    "joints": frozenset({"offset", "least", "most", "value"}),
    "loads": frozenset({"size"}),
    "checks": frozenset({"limit"}),
}
_OF_DOCUMENT = frozenset({"mesh_size"})

Change = Callable[[str], str]


def uses(document: Part | Assembly | Study) -> dict[str, list[Use]]:
    """For every parameter of a document what its formulas stand in, in document order."""
    known = {p.name for p in document.parameters}
    found: dict[str, list[Use]] = {name: [] for name in known}
    data = document.model_dump(mode="json")
    for p in data["parameters"]:
        for name in sorted(_named("parameters", p) & known - {p["name"]}):
            found[name].append(Use("parameter", p["name"], p["name"]))
    for group, kind in _GROUPS.items():
        for item in data.get(group, []):
            for name in sorted(_named(group, item) & known):
                found[name].append(Use(kind, item["id"], item["name"]))
    return found


def renamed(data: dict[str, Any], old: str, new: str) -> dict[str, Any]:
    """The same document's JSON with a parameter's name replaced in every formula; words and names
    that merely look like one are left alone."""

    def change(text: str) -> str:
        try:
            return rename_in(text, old, new) if old in names_in(text) else text
        except FormulaError:
            return text

    made = {
        key: [_changed(key, item, change) for item in value] if isinstance(value, list) else value
        for key, value in data.items()
    }
    return made | {key: change(data[key]) for key in _OF_DOCUMENT if isinstance(data.get(key), str)}


def _named(group: str, item: dict[str, Any]) -> set[str]:
    """All names that the formulas of an item use."""
    found: set[str] = set()

    def note(text: str) -> str:
        with suppress(FormulaError):
            found.update(names_in(text))
        return text

    _changed(group, item, note)
    return found


def _changed(group: str, item: Any, change: Change) -> Any:
    if not isinstance(item, dict):
        return item
    own = _FORMULAS.get(group, frozenset())
    made = {}
    for key, value in item.items():
        if group == "steps" and key == "fields":
            made[key] = _fields(item["kind"], value, change)
        elif key in own:
            made[key] = _all(value, change)
        else:
            made[key] = _by_key(value, change)
    return made


def _fields(kind: str, fields: dict[str, Any], change: Change) -> dict[str, Any]:
    """Of a step: what its kind declares as a quantity, and what is called ``formula``."""
    from vireo.core.part.kind import all_kinds

    known = {k.kind: k for k in all_kinds()}
    quantities = set()
    if kind in known:
        for name, spec in known[kind].Fields.model_fields.items():
            extra: Any = spec.json_schema_extra or {}
            if extra.get("vireo", {}).get("type") == "quantity":
                quantities.add(name)
    return {
        name: _all(value, change) if name in quantities else _by_key(value, change)
        for name, value in fields.items()
    }


def _all(data: Any, change: Change) -> Any:
    """Every string in what holds nothing but formulas, but for the word that tells its kind."""
    if isinstance(data, str):
        return change(data)
    if isinstance(data, dict):
        return {k: v if k == "kind" else _all(v, change) for k, v in data.items()}
    return [_all(v, change) for v in data] if isinstance(data, list) else data


def _by_key(data: Any, change: Change) -> Any:
    if isinstance(data, dict):
        return {
            k: change(v) if k == "formula" and isinstance(v, str) else _by_key(v, change)
            for k, v in data.items()
        }
    if isinstance(data, list):
        return [_by_key(v, change) for v in data]
    return data

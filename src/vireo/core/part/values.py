"""What the fields of a step come to: values of formulas within their limits, names they use."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from vireo.core.part.context import StepTrouble
from vireo.core.part.kind import StepKind
from vireo.core.quantity import (
    DIMENSIONS,
    FormulaError,
    Quantity,
    evaluate,
    format_quantity,
    names_in,
)

#: The smallest size a body may have (mm): what lies nearer the kernel takes for one place.
LEAST = 1e-4
#: Limits are met within this.
_HAIR = 1e-9


def field_values(fields: Any, names: Mapping[str, Quantity]) -> dict[str, float]:
    """Values of a step's quantity fields in mm, rad or plain, those in use only.

    Raises StepTrouble naming the field for a formula that has no value or breaks a limit.
    """
    values = {}
    for name, spec in type(fields).model_fields.items():
        extra: Any = spec.json_schema_extra or {}
        meta = extra.get("vireo", {})
        if meta.get("type") != "quantity" or not in_use(meta, fields):
            continue
        formula = getattr(fields, name)
        where = [f"field:{name}"]
        try:
            found = evaluate(formula, names)
        except FormulaError as error:
            raise StepTrouble(f"{meta['label']}: {error.text}", where) from error
        wanted = DIMENSIONS[meta["dimension"]]
        if found.dimension != wanted:
            raise StepTrouble(
                f"{meta['label']} is {wanted.name}, but “{formula}” is {found.dimension.name}",
                where,
            )
        values[name] = found.working
        # Limits of angles are declared in degrees.
        angle = found.dimension == DIMENSIONS["angle"]
        number = math.degrees(found.working) if angle else found.working
        unit = {"length": " mm", "angle": " deg"}.get(meta["dimension"], "")
        if (
            meta["dimension"] == "length"
            and 0 in (meta.get("above"), meta.get("least"))
            and 0 < number < LEAST
        ):
            raise StepTrouble(
                f"{meta['label']} must be at least {LEAST:g} mm, the least that is built, not "
                f"{format_quantity(found)}",
                where,
            )
        for limit, broken, said in (
            ("above", lambda has, least: not has > least, "more than"),
            ("least", lambda has, least: has < least - _HAIR, "at least"),
            ("most", lambda has, most: has > most + _HAIR, "at most"),
        ):
            bound = meta.get(limit)
            if bound is not None and broken(number, bound):
                raise StepTrouble(
                    f"{meta['label']} must be {said} {bound:g}{unit if bound else ''}, not "
                    f"{format_quantity(found)}",
                    where,
                )
    return values


def dimensions(kind: StepKind[Any]) -> dict[str, str]:
    """Which dimension each quantity field of a kind has."""
    found = {}
    for name, spec in kind.Fields.model_fields.items():
        extra: Any = spec.json_schema_extra or {}
        if "dimension" in (meta := extra.get("vireo", {})):
            found[name] = meta["dimension"]
    return found


def in_use(meta: Mapping[str, Any], fields: Any) -> bool:
    """Whether a field's `when` condition holds; ``!word`` holds for all but that word."""
    when = meta.get("when") or {}
    return all(_holds(getattr(fields, other), allowed) for other, allowed in when.items())


def _holds(value: Any, allowed: list[str]) -> bool:
    barred = [a[1:] for a in allowed if a.startswith("!")]
    return value not in barred if barred else value in allowed


def names_used(fields: Any, names: Mapping[str, Quantity]) -> dict[str, Quantity]:
    used: set[str] = set()
    for formula in _formulas(fields.model_dump(mode="json")):
        try:
            used |= names_in(formula)
        except FormulaError:
            continue
    return {n: names[n] for n in sorted(used) if n in names}


def _formulas(data: Any) -> set[str]:
    """All formulas inside drawings and the like, wherever a key is called ``formula``."""
    if isinstance(data, dict):
        own = {data["formula"]} if isinstance(data.get("formula"), str) else set()
        return own.union(*(_formulas(v) for v in data.values()))
    if isinstance(data, list | tuple):
        return set().union(*(_formulas(v) for v in data)) if data else set()
    return set()


def plain_fields(fields: Any) -> dict[str, Any]:
    """Fields that are no formulas: those enter the key by value."""
    found = {}
    for name, spec in type(fields).model_fields.items():
        extra: Any = spec.json_schema_extra or {}
        if extra.get("vireo", {}).get("type") != "quantity":
            value = getattr(fields, name)
            found[name] = (
                value.model_dump(mode="json") if hasattr(value, "model_dump") else _plain(value)
            )
    return found


def _plain(value: Any) -> Any:
    if isinstance(value, tuple | list):
        return [_plain(v) for v in value]
    return value.model_dump(mode="json") if hasattr(value, "model_dump") else value

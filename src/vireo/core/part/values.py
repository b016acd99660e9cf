"""What the fields of a step come to: values of formulas within their limits, names they use."""

from __future__ import annotations

import math
from collections.abc import Mapping
from contextlib import suppress
from typing import Any

from vireo.core.declared.fields import told_of
from vireo.core.declared.step import StepKind
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import (
    DIMENSIONS,
    FormulaError,
    Quantity,
    evaluate,
    format_quantity,
    formulas_in,
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
    for name, meta in told_of(type(fields)).items():
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
    told = told_of(kind.Fields)
    return {name: meta["dimension"] for name, meta in told.items() if "dimension" in meta}


def in_use(meta: Mapping[str, Any], fields: Any) -> bool:
    """Whether a field's `when` condition holds; ``!word`` holds for all but that word."""
    when = meta.get("when") or {}
    return all(_holds(getattr(fields, other), allowed) for other, allowed in when.items())


def _holds(value: Any, allowed: list[str]) -> bool:
    barred = [a[1:] for a in allowed if a.startswith("!")]
    return value not in barred if barred else value in allowed


def names_used(fields: Any, names: Mapping[str, Quantity]) -> dict[str, Quantity]:
    """What the formulas inside drawings and the like name; quantities of the step itself enter
    by their values."""
    used: set[str] = set()
    for formula in formulas_in(fields, quantities(type(fields))):
        with suppress(FormulaError):
            used |= names_in(formula)
    return {n: names[n] for n in sorted(used) if n in names}


def quantities(model: type[Any]) -> list[str]:
    """The fields of a step that are formulas of one dimension themselves."""
    return [n for n, meta in told_of(model).items() if meta.get("type") == "quantity"]


def plain_fields(fields: Any) -> dict[str, Any]:
    """Fields that are no formulas: those enter the key by value."""
    found = {}
    for name, meta in told_of(type(fields)).items():
        if meta.get("type") != "quantity":
            value = getattr(fields, name)
            found[name] = (
                value.model_dump(mode="json") if hasattr(value, "model_dump") else _plain(value)
            )
    return found


def _plain(value: Any) -> Any:
    if isinstance(value, tuple | list):
        return [_plain(v) for v in value]
    return value.model_dump(mode="json") if hasattr(value, "model_dump") else value

"""The contract of a check kind, and judging a value against its limit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from vireo.core.documents.model import Check
from vireo.core.quantity import Dimension, FormulaError, Quantity, evaluate
from vireo.core.quantity.shown import PLAIN, Units, shown_in
from vireo.core.trouble import Trouble


class CheckTrouble(Trouble):
    code = "check"


@dataclass(frozen=True)
class CheckKind:
    """`documents` it works on, the dimension of its value, how many picks it takes, and the
    job that answers it (None when the build already does)."""

    kind: str
    label: str
    documents: tuple[str, ...]
    dimension: Dimension
    unit: str
    picks: int = 0
    job: str | None = None
    relation: str = "at_most"
    limit: str = ""
    line: str = ""


CHECK_KINDS: dict[str, CheckKind] = {}


def add(kind: CheckKind) -> None:
    CHECK_KINDS[kind.kind] = kind


def judge(
    check: Check, value: Quantity, names: dict[str, Quantity], units: Units = PLAIN
) -> dict[str, Any]:
    """State ``holds`` or ``fails`` with what was found and what was allowed."""
    kind = CHECK_KINDS[check.kind]
    try:
        limit = evaluate(check.limit, names)
    except FormulaError as error:
        raise CheckTrouble(f"{check.name}: its limit {error.text}") from error
    if limit.dimension != kind.dimension:
        raise CheckTrouble(
            f"{check.name}: its limit “{check.limit}” is {limit.dimension.name}, "
            f"but it measures {kind.dimension.name}"
        )
    slack = 1e-9 * max(abs(limit.value), abs(value.value))
    good = (
        value.value <= limit.value + slack
        if check.relation == "at_most"
        else value.value >= limit.value - slack
    )
    return {
        "state": "holds" if good else "fails",
        "shown": shown_in(value, units),
        "limit": shown_in(limit, units),
    }

"""By what a step makes a sheet: thickness, radius, lengths in the flat, reliefs, gaps."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, Protocol

from vireo.core.declared import fields as f
from vireo.core.part.context import Context
from vireo.core.quantity import Formula
from vireo.core.sheet.allowance import Din6935, KFactor, Rule, table_read
from vireo.core.sheet.flange import NO_RELIEF, Relief

#: Fields that rules from the library set.
SETS = (
    "thickness",
    "radius",
    "lengths",
    "k",
    "table",
    "relief",
    "relief_width",
    "relief_depth",
    "gap",
)


def rule_fields(when: dict[str, list[str]] | None = None) -> dict[str, Any]:
    """The fields of rules by name, shown for some values of others only."""
    square = {**(when or {}), "relief": ["square", "round"]}
    return {
        "stock": f.stock("Rules", SETS, when=when),
        "thickness": f.length("Thickness", "1.5 mm", above=0, key="t", when=when),
        "radius": f.length("Bend radius", "1.5 mm", least=0, key="r", when=when),
        "lengths": f.choice(
            "Flat length by", "k", {"k": "K-factor", "din": "DIN 6935", "table": "Table"}, when=when
        ),
        "k": f.quantity(
            "number", "K-factor", "0.44", least=0, most=1, when={**(when or {}), "lengths": ["k"]}
        ),
        "table": f.csv(
            "Bend table", "thickness, radius, angle, value, kind (allowance, deduction or K)",
            when={**(when or {}), "lengths": ["table"]},
        ),
        "relief": f.choice(
            "Relief", "square", {"square": "Square", "round": "Round", "none": "None"}, when=when
        ),
        "relief_width": f.length("Relief width", "1.5 mm", above=0, when=square),
        "relief_depth": f.length("Beyond the bend", "1 mm", least=0, when=square),
        "gap": f.length("Gap of mitred corners", "0.2 mm", above=0, when=when),
    }  # fmt: skip


_ALWAYS = rule_fields()


class RuledFields(f.StepFields):
    """Of steps that make a sheet anew."""

    stock: str = _ALWAYS["stock"]
    thickness: Formula = _ALWAYS["thickness"]
    radius: Formula = _ALWAYS["radius"]
    lengths: Literal["k", "din", "table"] = _ALWAYS["lengths"]
    k: Formula = _ALWAYS["k"]
    table: str = _ALWAYS["table"]
    relief: Literal["square", "round", "none"] = _ALWAYS["relief"]
    relief_width: Formula = _ALWAYS["relief_width"]
    relief_depth: Formula = _ALWAYS["relief_depth"]
    gap: Formula = _ALWAYS["gap"]


class Says(Protocol):
    """Fields that say how lengths come out and what reliefs are like."""

    @property
    def lengths(self) -> str: ...
    @property
    def table(self) -> str: ...
    @property
    def relief(self) -> str: ...


@dataclass(frozen=True)
class Ruled:
    """What a sheet is made by; lengths in mm."""

    thickness: float
    radius: float
    rule: Rule
    relief: Relief
    gap: float


def ruled(fields: Says, ctx: Context) -> Ruled:
    """What the fields of a step say. Raises BadInput for a table that cannot be read."""
    rule: Rule
    if fields.lengths == "table":
        rule = table_read(fields.table)
    else:
        rule = Din6935() if fields.lengths == "din" else KFactor(k=ctx.value("k"))
    relief = NO_RELIEF
    if fields.relief != "none":
        relief = Relief(
            ctx.value("relief_width"), ctx.value("relief_depth"), fields.relief == "round"
        )
    return Ruled(ctx.value("thickness"), ctx.value("radius"), rule, relief, ctx.value("gap"))

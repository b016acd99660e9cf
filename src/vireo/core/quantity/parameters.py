"""Named numbers: dependency order, values, limits. Knows formulas, not documents."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.quantity.formula import FormulaError, evaluate, names_in
from vireo.core.quantity.marked import Formula
from vireo.core.quantity.units import UNITS, Quantity, format_quantity
from vireo.core.trouble import Offer, Report


class ListLimits(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: Literal["list"] = "list"
    values: tuple[Formula, ...] = Field(min_length=1, max_length=200)


class RangeLimits(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: Literal["range"] = "range"
    least: Formula | None = None
    most: Formula | None = None


Limits = Annotated[ListLimits | RangeLimits, Field(discriminator="kind")]


class Parameter(BaseModel):
    """A named number of a document. `unit` is only how it is shown."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    name: str = Field(max_length=40)
    formula: Formula
    unit: str | None = None
    note: str = Field(default="", max_length=500)
    #: Heading it stands under in the table.
    group: str = Field(default="", max_length=40)
    limits: Limits | None = None


@dataclass(frozen=True)
class Evaluated:
    """What became of one parameter: a value, or a trouble, or both when a limit is broken."""

    name: str
    value: Quantity | None
    trouble: Report | None = None
    uses: tuple[str, ...] = ()

    @property
    def broken_limit(self) -> bool:
        return self.trouble is not None and self.trouble.code == "limit"


def _report(name: str, code: str, text: str, offers: Sequence[Offer] = ()) -> Report:
    where = [f"parameter:{name}"]
    return Report(code=code, text=f"{name}: {text}", where=where, offers=list(offers))


def _instead(p: Parameter, formula: str, value: Quantity) -> Offer:
    """A value that is allowed, to be taken with one click: as its limit has it."""
    put = {"do": "edit_parameter", "name": p.name, "formula": formula}
    return Offer(label=f"Use {format_quantity(value, p.unit)}", commands=[put])


def _loops(uses: Mapping[str, set[str]]) -> dict[str, list[str]]:
    """For every name on a loop, that loop in order, beginning and ending with the name."""
    loops: dict[str, list[str]] = {}
    for start in uses:
        stack: list[tuple[str, list[str]]] = [(start, [start])]
        seen: set[str] = set()
        while stack:
            name, path = stack.pop()
            for after in sorted(uses.get(name, ())):
                if after == start:
                    loops[start] = [*path, start]
                    stack.clear()
                    break
                if after in uses and after not in seen:
                    seen.add(after)
                    stack.append((after, [*path, after]))
    return loops


def evaluate_parameters(
    parameters: Sequence[Parameter],
    given: Mapping[str, Quantity] | None = None,
    later: Iterable[str] = (),
) -> dict[str, Evaluated]:
    """Values of all parameters, each with what is wrong with it. `given` are numbers known besides;
    `later` are names of those that are known only once all else is there.

    Order of the list does not matter; loops, unknown names, unit errors and broken limits
    are reported per parameter and leave the others alone. The same list is evaluated once.
    """
    return dict(
        _evaluated(tuple(parameters), tuple(sorted((given or {}).items())), frozenset(later))
    )


@lru_cache(maxsize=256)
def _evaluated(
    parameters: tuple[Parameter, ...],
    given: tuple[tuple[str, Quantity], ...],
    later: frozenset[str],
) -> dict[str, Evaluated]:
    by_name = {p.name: p for p in parameters}
    uses: dict[str, set[str]] = {}
    for p in parameters:
        try:
            uses[p.name] = names_in(p.formula)
        except FormulaError:
            uses[p.name] = set()
    loops = _loops(uses)
    done: dict[str, Evaluated] = {}
    values: dict[str, Quantity] = dict(given)

    def settle(p: Parameter) -> None:
        needed = tuple(sorted(uses[p.name]))
        if p.name in loops:
            path = " → ".join(loops[p.name])
            done[p.name] = Evaluated(
                p.name, None, _report(p.name, "loop", f"it depends on itself: {path}"), needed
            )
            return
        for name in needed:
            if name in by_name and name not in done:
                settle(by_name[name])
        for name in needed:
            if name in by_name and done[name].value is None:
                text = f"it needs {name}, which has no value"
                done[p.name] = Evaluated(p.name, None, _report(p.name, "needs", text), needed)
                return
        if wanted := later & set(needed):
            text = (
                f"it needs {', '.join(sorted(wanted))}, which is weighed once everything stands and has "
                "no value here"
            )
            done[p.name] = Evaluated(p.name, None, _report(p.name, "later", text), needed)
            return
        try:
            value = evaluate(p.formula, {n: values[n] for n in values})
        except FormulaError as error:
            done[p.name] = Evaluated(p.name, None, _report(p.name, "formula", error.text), needed)
            return
        trouble = None
        if p.unit is not None:
            if p.unit not in UNITS:
                trouble = _report(p.name, "unit", f"there is no unit called {p.unit}")
            elif UNITS[p.unit][1] != value.dimension:
                text = f"{value.dimension.name} cannot be shown in {p.unit}"
                trouble = _report(p.name, "unit", text)
        values[p.name] = value
        done[p.name] = Evaluated(p.name, value, trouble, needed)

    for p in parameters:
        if p.name not in done:
            settle(p)
    for p in parameters:
        state = done[p.name]
        if state.value is not None and state.trouble is None and p.limits is not None:
            trouble = _against_limits(p, state.value, values)
            if trouble is not None:
                done[p.name] = Evaluated(p.name, state.value, trouble, state.uses)
    return {p.name: done[p.name] for p in parameters}


def _against_limits(p: Parameter, value: Quantity, values: Mapping[str, Quantity]) -> Report | None:
    shown = format_quantity(value, p.unit)
    limits = p.limits

    def end(formula: str) -> Quantity:
        found = evaluate(formula, values)
        if found.dimension != value.dimension:
            raise FormulaError(
                f"its limit “{formula}” is {found.dimension.name}, not {value.dimension.name}"
            )
        return found

    tolerance = 1e-9 * max(1.0, abs(value.value))
    try:
        if isinstance(limits, ListLimits):
            allowed = [end(f) for f in limits.values]
            if any(abs(a.value - value.value) <= tolerance for a in allowed):
                return None
            options = ", ".join(format_quantity(a, p.unit) for a in allowed)
            near = sorted(
                zip(limits.values, allowed, strict=True),
                key=lambda x: abs(x[1].value - value.value),
            )[:2]
            offers = [_instead(p, f, v) for f, v in sorted(near, key=lambda x: x[1].value)]
            return _report(p.name, "limit", f"{shown} is not one of {options}", offers)
        assert isinstance(limits, RangeLimits)
        least = end(limits.least) if limits.least else None
        most = end(limits.most) if limits.most else None
        if least is not None and value.value < least.value - tolerance:
            text = f"{shown} is below its least value {format_quantity(least, p.unit)}"
            offer = _instead(p, limits.least or "", least)
            return _report(p.name, "limit", text + _named(limits.least), [offer])
        if most is not None and value.value > most.value + tolerance:
            text = f"{shown} is above its largest value {format_quantity(most, p.unit)}"
            offer = _instead(p, limits.most or "", most)
            return _report(p.name, "limit", text + _named(limits.most), [offer])
        return None
    except FormulaError as error:
        return _report(p.name, "limit_formula", error.text)


def _named(formula: str | None) -> str:
    """Say the rule when the limit is a formula, so that nobody has to remember it."""
    return f" ({formula})" if formula and names_in(formula) else ""

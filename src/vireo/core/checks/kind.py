"""The contract of a kind of check and the registry they enter by being read; judging a value
against its limit."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar, Protocol, TypeVar

from vireo.core.documents import Check
from vireo.core.quantity import Dimension, FormulaError, Quantity, evaluate
from vireo.core.quantity.shown import PLAIN, Units, shown_in
from vireo.core.registry import Registry
from vireo.core.trouble import Trouble


class CheckTrouble(Trouble):
    code = "check"


class Ask(Protocol):
    """What a check may ask for about the document it belongs to, as it stands."""

    @property
    def values(self) -> Mapping[str, Quantity]:
        """Its parameters that have values, by name."""
        ...

    def built(self) -> dict[str, Any]:
        """Its build as the screen gets it."""
        ...

    def task(self, name: str, more: dict[str, Any]) -> Any:
        """What a task finds; it is handed the ``kind`` of the build and its ``request``."""
        ...

    def job(self, kind: str, options: dict[str, Any] | None = None) -> dict[str, Any]:
        """What a job finds, as it is told now. It is started when nobody has asked the same before; the check is
        asked again when it is done."""
        ...


class CheckKind:
    """Subclass, set the class attributes, write `measure`, decorate with `register`."""

    #: Stored in documents; never changes once released.
    kind: ClassVar[str]
    label: ClassVar[str]
    #: Kinds of document it is offered for.
    documents: ClassVar[tuple[str, ...]]
    #: What it measures, and the unit a plain limit is in.
    dimension: ClassVar[Dimension]
    unit: ClassVar[str] = ""
    #: How many picks it takes.
    picks: ClassVar[int] = 0
    #: What else is chosen for it, each told by fields of its own (`ASKS`).
    asks: ClassVar[tuple[str, ...]] = ()
    #: What it takes to measure: 0 what the build tells, 1 a look at it, 2 a run of its own. Checks are
    #: run cheapest first.
    cost: ClassVar[int] = 1
    #: What is offered first.
    relation: ClassVar[str] = "at_most"
    limit: ClassVar[str] = ""
    line: ClassVar[str] = ""

    def measure(self, check: Check, ask: Ask) -> Quantity:
        """The value that is held to the limit. Raises Trouble when it cannot be measured."""
        raise NotImplementedError

    def shown(self, value: Quantity, units: Units = PLAIN) -> str:
        """A value, or its limit, as it is read."""
        return shown_in(value, units)

    def axis(self, check: Check) -> int:
        """Which axis it looks along: 0, 1 or 2. Raises CheckTrouble when none is chosen."""
        chosen = check.fields.get("axis")
        if chosen not in ("x", "y", "z"):
            raise CheckTrouble("this check looks along an axis: add it again and choose x, y or z")
        return "xyz".index(chosen)

    def taken(self, check: Check) -> list[dict[str, Any]]:
        """Its picks. Raises CheckTrouble when they are not as many as it takes."""
        found: list[dict[str, Any]] = check.fields.get("picks", [])
        if len(found) != self.picks:
            raise CheckTrouble(f"this check needs {self.picks} picks")
        return found


class GaugeCheck(CheckKind):
    """What a gauge (`core.measure.gauge`) reads of the bodies of a part; set `gauge`, and `none`: what is
    told where it reads nothing (empty: that counts as 0)."""

    documents = ("part",)
    gauge: ClassVar[str]
    none: ClassVar[str] = ""

    def asked(self, check: Check, ask: Ask) -> dict[str, Any]:
        """What the gauge is asked with."""
        return {}

    def measure(self, check: Check, ask: Ask) -> Quantity:
        found = ask.task("gauge", {"gauge": self.gauge, "asked": self.asked(check, ask)})
        if found is None and self.none:
            raise CheckTrouble(self.none)
        return Quantity(found or 0.0, self.dimension)


#: What may be chosen for a check besides picks and a limit, with the fields it is told by: a run; a
#: coordinate of a joint; which way that goes; a list of faults; an axis; a parameter by name; a port of the
#: part; a diameter as typed; whether sharp edges count.
ASKS: Mapping[str, tuple[str, ...]] = {
    "run": ("run",), "coordinate": ("joint", "coordinate"), "side": ("side",), "list": ("list",),
    "axis": ("axis",), "parameter": ("parameter",), "port": ("port",), "diameter": ("diameter",),
    "edges": ("edges",),
}  # fmt: skip

CHECK_KINDS: Registry[CheckKind] = Registry("check", "vireo.core.checks")
K = TypeVar("K", bound="type[CheckKind]")


def register(cls: K) -> K:
    CHECK_KINDS.add(cls.kind, cls())
    return cls


def ran(check: Check, ask: Ask) -> dict[str, Any]:
    """What the run of a check found, as it is told now. Raises CheckTrouble where it names none, or one
    that did not go to its end."""
    run = check.fields.get("run")
    if not run:
        raise CheckTrouble("this check looks at a run: add it again and choose one")
    found = ask.job("run", {"run": run})
    if found["stuck"] is not None:
        raise CheckTrouble(f"the run cannot go on from {found['stuck']:.3g} s")
    if found["limit"] is not None:
        limit = found["limit"]
        raise CheckTrouble(f"the run ends at {limit['at']:.3g} s: {limit['name']} is at its limit")
    return found


def reached(check: Check, ask: Ask, **more: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    """How far the joint of a check goes, as it is told now, and its end to the side it looks at. Raises
    CheckTrouble where it names no joint."""
    joint, coordinate = check.fields.get("joint"), check.fields.get("coordinate")
    if not joint:
        raise CheckTrouble("this check looks at a joint: add it again and choose one")
    found = ask.job("reach", {"joint": joint, "coordinate": coordinate, **more})
    return found, found["ends"][0 if check.fields.get("side") == "back" else 1]


def judge(
    check: Check, value: Quantity, names: Mapping[str, Quantity], units: Units = PLAIN
) -> dict[str, Any]:
    """State ``holds`` or ``fails`` with what was found and what was allowed, as read and as numbers in the
    base units of formulas."""
    kind = CHECK_KINDS[check.kind]
    try:
        limit = evaluate(check.limit, names)
        if limit.dimension.plain and not value.dimension.plain and kind.unit:
            limit = evaluate(f"({check.limit})*(1 {kind.unit})", names)
    except FormulaError as error:
        raise CheckTrouble(f"{check.name}: its limit {error.text}") from error
    if limit.dimension != value.dimension:
        raise CheckTrouble(
            f"{check.name}: its limit “{check.limit}” is {limit.dimension.name}, "
            f"but it measures {value.dimension.name}"
        )
    slack = 1e-9 * max(abs(limit.value), abs(value.value))
    good = (
        value.value <= limit.value + slack
        if check.relation == "at_most"
        else value.value >= limit.value - slack
    )
    return {
        "state": "holds" if good else "fails",
        "shown": kind.shown(value, units),
        "limit": kind.shown(limit, units),
        "value": value.value,
        "bound": limit.value,
    }

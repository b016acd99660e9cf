"""Values of parameters sought with which a quantity is what it should be, or as small or large as it can be
while all that must hold does: bounded, and proposed, never put in."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from typing import Any, Literal

import numpy as np
from pydantic import Field
from scipy.optimize import NonlinearConstraint, brentq, minimize

from vireo.core.documents import Document, load_document
from vireo.core.documents.kind import Around
from vireo.core.documents.members import values_of
from vireo.core.quantity import FormulaError, evaluate
from vireo.core.quantity.units import LENGTH, MASS, VOLUME
from vireo.core.trouble import BadInput
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.varying import (
    Range,
    Span,
    decides,
    gathered,
    looked_at,
    measured,
    names_put_in,
    span_of,
)
from vireo.work.worker import Bench

#: How many combinations of values of lists are gone through.
MOST_LISTED = 24
#: What a value that is to be reached may be off, as a share of it.
_REACHED = 1e-4
_ALWAYS = {"mass": (MASS, 1e3), "volume": (VOLUME, 1.0)} | {
    f"size_{a}": (LENGTH, 1.0) for a in "xyz"
}


class SeekOptions(Options):
    """`of` is ``mass``, ``volume``, ``size_x`` (…y, …z) or the id of a check, `value` what is to be reached.
    With `hold` everything that must hold does. At most so many `tries` are built."""

    of: str = Field(max_length=24)
    aim: Literal["reach", "least", "most"]
    value: str = Field(default="", max_length=500)
    ranges: tuple[Range, ...] = Field(min_length=1, max_length=6)
    hold: bool = True
    tries: int = Field(default=60, ge=8, le=400)


def gather(document: Document, around: Around, options: SeekOptions) -> Json:
    names = [r.name for r in options.ranges]
    if len(set(names)) < len(names):
        raise BadInput("a parameter is named twice")
    check = next((c for c in document.checks if c.id == options.of), None)
    if check is None and options.of not in _ALWAYS:
        raise BadInput("what is sought is mass, volume, a size, or what a check measures")
    spans = [span_of(document, r) for r in options.ranges]
    if math.prod(len(s.steps) or 1 for s in spans) > MOST_LISTED:
        raise BadInput(f"the lists make more than {MOST_LISTED} combinations: narrow a range")
    return {
        **gathered(document, around), "goal": _goal(document, options),
        "must": [c.id for c in document.checks if c.severity == "must" and c.id != options.of],
    }  # fmt: skip


def _goal(document: Document, options: SeekOptions) -> float | None:
    """What is to be reached, as rows tell it (g, or base units of formulas)."""
    if options.aim != "reach":
        return None
    try:
        value = evaluate(options.value, values_of(document))
    except FormulaError as error:
        raise BadInput(f"the value to reach {error.text}") from error
    if options.of not in _ALWAYS:
        return value.value
    dimension, size = _ALWAYS[options.of]
    if value.dimension != dimension:
        raise BadInput(f"the value to reach is {value.dimension.name}, not {dimension.name}")
    return value.value * size


def reads(request: Json, options: SeekOptions) -> Any:
    return decides(request, request["goal"], request["must"])


def told(result: Json, telling: Telling) -> Json:
    rows = [r for r in (result.get("start"), result.get("found")) if r is not None]
    named = names_put_in(rows, telling.document)
    return {**result, "start": named[0], "found": named[1] if len(named) > 1 else None}


@job("seek", ("part", "assembly"), SeekOptions, reads=reads, told=told, gather=gather)
def seek(bench: Bench, request: Json, options: SeekOptions) -> dict[str, Any]:
    """The document as it is (``start``), and with what was ``found`` (None where nothing does), the commands
    that would put that in, how many were tried, and why it is not more. Powell's derivative-free method with
    constraints by linear models (COBYQA, SciPy) within the ranges, for each combination of what is a list."""
    bench.bring(request)
    return Seeking(bench, request, options).run()


class _Spent(Exception):
    """As many were tried as may be."""


class _Hole(Exception):
    """Something on the way does not build."""


class Seeking:
    def __init__(self, bench: Bench, request: Json, options: SeekOptions) -> None:
        self.bench, self.request, self.options = bench, request, options
        self.document = load_document(request["document"])
        self.spans = [span_of(self.document, r) for r in options.ranges]
        self.rows: dict[tuple[float, ...], Json] = {}
        self.start: Json = {}

    def run(self) -> dict[str, Any]:
        self.start = self._look({})
        if measured(self.start, self.options.of) is None and self.start["state"] == "ok":
            raise BadInput("what is sought takes a run of its own, or is not told here")
        free = [s for s in self.spans if not s.steps]
        listed = [s for s in self.spans if s.steps]
        combinations = list(itertools.product(*(s.steps for s in listed)))
        budget = max(4, self.options.tries // len(combinations))
        for combination in combinations:
            fixed = dict(zip((s.name for s in listed), combination, strict=True))
            if free:
                self._along(free, fixed, budget)
            else:
                self._at([], [], fixed)
        best = min(self.rows.items(), key=lambda item: self._rank(item[1]), default=None)
        found = self._rounded(best[0]) if best is not None else None
        good = found is not None and self._feasible(found) and self._hits(found)
        commands = [
            {"do": "edit_parameter", "name": n, "formula": f} for n, f in found["set"].items()
        ] if good and found is not None else []  # fmt: skip
        return {
            "start": self.start, "found": found if good else None, "commands": commands,
            "tried": len(self.rows) + 1, "why": "" if good else self._why(found),
        }  # fmt: skip

    def _along(self, free: Sequence[Span], fixed: Mapping[str, float], budget: int) -> None:
        """Look along what can be any number, from where it is now and, with room, from the middle."""
        now = [(s.like.value - s.least) / (s.most - s.least) for s in free]
        starts = [np.clip(now, 0.0, 1.0), np.full(len(free), 0.5)]
        goal: float | None = self.request["goal"]
        end = len(self.rows) + budget
        seen: list[tuple[Any, Json]] = []

        def look(x: Any) -> Json:
            if len(self.rows) >= end:
                raise _Spent
            at = np.clip(x, 0.0, 1.0)
            seen.append((at, self._at(free, at, fixed)))
            return seen[-1][1]

        with suppress(_Spent):
            if goal is not None:
                # One number is met by one parameter as soon as it lies between two that were tried.
                for x in (starts[0], np.zeros(len(free)), np.ones(len(free))):
                    look(x)
                self._between(goal, seen, look)
            for start in starts:
                if goal is not None and any(self._feasible(r) and self._hits(r) for _, r in seen):
                    break
                left = end - len(self.rows)
                how: Any = {
                    "method": "COBYQA", "bounds": [(0.0, 1.0)] * len(free),
                    "constraints": self._held(look),
                    "options": {
                        "maxfev": max(left // 2, 1), "initial_tr_radius": 0.25, "final_tr_radius": 1e-6,
                    },
                }  # fmt: skip
                small: Any = lambda x: self._smooth(look(x))  # noqa: E731
                minimize(small, start, **how)
                if goal is not None:
                    self._between(goal, seen, look)

    def _between(
        self, goal: float, seen: Sequence[tuple[Any, Json]], look: Callable[[Any], Json]
    ) -> None:
        """Where the goal lies between two that were tried, on the line between them: by Brent's method. Those
        where all that must hold does first, then the nearest to each other."""
        told = [
            (x, r, value - goal)
            for x, r in seen
            if (value := measured(r, self.options.of)) is not None
        ]
        pairs = [(a, b) for a in told if a[2] <= 0.0 for b in told if b[2] >= 0.0]
        if not pairs:
            return
        low, high = min(pairs, key=lambda p: (
            sum(not self._feasible(r) for _, r, _ in p), p[1][2] - p[0][2], float(np.linalg.norm(p[1][0] - p[0][0])),
        ))  # fmt: skip

        def off(t: float) -> float:
            value = measured(look(low[0] + t * (high[0] - low[0])), self.options.of)
            if value is None:
                raise _Hole
            return value - goal

        with suppress(_Hole):
            brentq(off, 0.0, 1.0, xtol=1e-9, rtol=1e-9, maxiter=40, disp=False)

    def _held(self, look: Callable[[Any], Json]) -> list[NonlinearConstraint]:
        """What must hold, for the method."""
        if not self.must:
            return []
        return [NonlinearConstraint(lambda x: np.array(self._slack(look(x))), 0.0, np.inf)]

    def _smooth(self, row: Json) -> float:
        """The objective for a method that models it by parabolas: distances by their square."""
        value = self._objective(row)
        return value**2 if self.request["goal"] is not None and value < 1e3 else value

    @property
    def must(self) -> list[str]:
        found: list[str] = self.request["must"]
        return found if self.options.hold else []

    def _at(self, free: Sequence[Span], x: Any, fixed: Mapping[str, float]) -> Json:
        values = dict(fixed)
        values |= {
            s.name: s.least + float(t) * (s.most - s.least) for s, t in zip(free, x, strict=True)
        }
        key = tuple(round(values[s.name], 12) for s in self.spans)
        if key not in self.rows:
            row = self._look({s.name: s.formula(values[s.name]) for s in self.spans})
            self.rows[key] = row
            self.bench.report({
                "share": min(0.99, len(self.rows) / self.options.tries),
                "stage": f"{len(self.rows)} tried", "partial": {"tried": len(self.rows), "start": self.start},
            })  # fmt: skip
        return self.rows[key]

    def _look(self, values: Mapping[str, str]) -> Json:
        row = looked_at(self.bench, self.document, self.request, values)
        for name in row.pop("kept", ()):
            self.bench.report({"kept": name})
        return row

    def _scale(self) -> float:
        here = measured(self.start, self.options.of)
        goal = self.request["goal"]
        return abs(goal if goal else here or 0.0) or 1.0

    def _objective(self, row: Json) -> float:
        """What is made small: 0 where a value is reached; large where nothing builds."""
        value = measured(row, self.options.of)
        if value is None:
            return 1e3
        goal: float | None = self.request["goal"]
        if goal is not None:
            return abs(value - goal) / self._scale()
        return (value if self.options.aim == "least" else -value) / self._scale()

    def _slack(self, row: Json) -> list[float]:
        """By how much each of what must hold does, as a share of its limit; less than nothing where it does
        not."""
        found = []
        for id in self.must:
            check = next((c for c in row["checks"] if c["id"] == id), None)
            if check is None or check.get("value") is None:
                found.append(
                    0.0 if row["state"] == "ok" and check and check["state"] == "open" else -1.0
                )
                continue
            room = check["bound"] - check["value"]
            relation = self._relation(id)
            size = abs(check["bound"]) or 1.0
            found.append((room if relation == "at_most" else -room) / size)
        return found

    def _relation(self, id: str) -> str:
        return next(c.relation for c in self.document.checks if c.id == id)

    def _feasible(self, row: Json) -> bool:
        if row["state"] != "ok":
            return False
        told = {c["id"]: c["state"] for c in row["checks"]}
        return all(told.get(id) in ("holds", "open") for id in self.must)

    def _hits(self, row: Json) -> bool:
        return self.request["goal"] is None or self._objective(row) <= _REACHED

    def _rank(self, row: Json) -> tuple[bool, float]:
        return not self._feasible(row), self._objective(row)

    def _rounded(self, key: tuple[float, ...]) -> Json:
        """The best with values one would type, where that is as good."""
        exact = self.rows[key]
        for digits in (3, 4, 5):
            values = {}
            for span, value in zip(self.spans, key, strict=True):
                if span.steps:
                    values[span.name] = span.formula(value)
                    continue
                unit = 10.0 ** math.floor(math.log10(span.most - span.least)) / 10 ** (digits - 1)
                values[span.name] = span.formula(round(value / unit) * unit)
            row = self._look(values)
            worse = self._objective(row) - self._objective(exact)
            if self._feasible(row) and self._hits(row) and worse <= 10.0 ** (1 - digits):
                return row
        return exact

    def _why(self, best: Json | None) -> str:
        if best is None or best["state"] != "ok":
            return "nothing of that builds within the ranges"
        if not self._feasible(best):
            wrong = next(c for c in self.document.checks if c.id in self.must and c.id in {
                x["id"] for x in best["checks"] if x["state"] not in ("holds", "open")})  # fmt: skip
            return f"in {len(self.rows)} tries within the ranges {wrong.name} never held"
        nearest = measured(best, self.options.of)
        return f"in {len(self.rows)} tries within the ranges it came no nearer than {nearest:.6g}"

"""Building a part: every step in order, only those run whose inputs changed."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Iterator, Mapping
from functools import partial
from typing import Any

from pydantic import ValidationError

from vireo.core.declared.step import StepKind, kind_called
from vireo.core.digest import digest
from vireo.core.documents.kinds.part import Part, Step
from vireo.core.kernel.shape import KERNEL_VERSION, Body
from vireo.core.material import PLAIN, Material
from vireo.core.naming.grammar import all_parts
from vireo.core.part.cache import Cache, Gone
from vireo.core.part.context import Context
from vireo.core.part.datum import Dressed, Mark
from vireo.core.part.fitting import Search, searching
from vireo.core.part.paints import painted_faces
from vireo.core.part.picking import repicked
from vireo.core.part.products.dress import DRESSES
from vireo.core.part.products.kind import all_products
from vireo.core.part.products.marks import MARKS
from vireo.core.part.products.numbers import NUMBERS
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.products.sheets import SHEETS
from vireo.core.part.report import PartBuild, StepReport
from vireo.core.part.sets import expanded
from vireo.core.part.state import Again, OtherBody, Repick, State
from vireo.core.part.values import dimensions, field_values, names_used, plain_fields
from vireo.core.quantity import (
    Evaluated,
    Quantity,
    evaluate_parameters,
)
from vireo.core.trouble import Report, Trouble, first_said

BUILD_VERSION = 6

#: Tools are drawn as thin as this.
_SEEN_THROUGH = 0.3

_LOG = logging.getLogger(__name__)


def _misses(step: Step, mass: float, volume: float) -> bool:
    """Whether a step ends up more than half a thousandth off what it should."""
    pairs = ((step.target, mass), (step.target_volume, volume))
    return any(t is not None and abs(found - t) > 5e-4 * t for t, found in pairs)


class Builder:
    """Builds parts over one cache. `doomed` maps step keys to why they must not be tried, `other`
    builds another part by its document's id; without `search` sizes that do not fit are told
    without what would fit."""

    def __init__(
        self,
        cache: Cache,
        *,
        blob: Callable[[str], bytes] | None = None,
        doomed: Mapping[str, str] | None = None,
        on_step: Callable[[int, str, str], None] | None = None,
        other: Callable[[str], PartBuild] | None = None,
        search: bool = True,
        on_search: Callable[[str], None] | None = None,
    ) -> None:
        self.cache = cache
        self.search = search
        self.on_search = on_search
        self.other = other
        self._others: dict[str, PartBuild] = {}
        self.blob = blob
        self.doomed = doomed or {}
        self.on_step = on_step

    def _other(self, document: str) -> dict[str, OtherBody] | str:
        """The bodies of another part as it stands, or why there are none."""
        if self.other is None:
            return "no other document can be reached here"
        if document not in self._others:
            try:
                self._others[document] = self.other(document)
            except Trouble as trouble:
                return trouble.text
        found = self._others[document]
        broken = next((s.error.text for s in found.steps if s.error), None)
        bodies = {id: OtherBody(held, found.dresses[id]) for id, held in found.state.bodies.items()}
        return bodies or (broken or "it has no body yet")

    def build(
        self, part: Part, materials: Mapping[str, Material], upto: int | None = None
    ) -> PartBuild:
        """Build up to the marker, or up to `upto` steps when that is given.

        `materials` are those of the part and of bodies with one of their own, by id.
        """
        try:
            return self._build(part, materials, upto, trust=True)
        except Gone:
            return self._build(part, materials, upto, trust=False)

    def _build(
        self, part: Part, materials: Mapping[str, Material], upto: int | None, trust: bool
    ) -> PartBuild:
        parameters = evaluate_parameters(part.parameters)
        names = {n: e.value for n, e in parameters.items() if e.value is not None}

        def is_tool(body: str) -> bool:
            said = part.look(body).tool
            return state.of(DRESSES).get(body, Dressed()).tool if said is None else said

        def made_of(body: str) -> str:
            """The material of a body: its own, that of what it was taken from, else the part's."""
            dress = state.of(DRESSES).get(body, Dressed())
            return part.look(body).material or dress.material or part.material

        def weight(body: str) -> float:
            """Grams: its own mass, else volume by the density of its material; nothing for a tool."""
            if is_tool(body):
                return 0.0
            look, dress = part.look(body), state.of(DRESSES).get(body, Dressed())
            if look.mass is not None:
                return look.mass
            if dress.mass is not None and look.material is None:
                return dress.mass
            material = materials.get(made_of(body))
            volume: float = state.bodies[body].told["volume"]
            return volume * (material.density if material else 0.0) * 1e-6

        state = State(other=self._other, weigh=weight)
        reports: list[StepReport] = []
        end = upto if upto is not None else part.marker
        volume, mass, missed = 0.0, 0.0, False
        for index, step in enumerate(part.steps):
            report = StepReport(step.id, "ok")
            reports.append(report)
            if end is not None and index >= end:
                report.status = "waiting"
                continue
            if step.asleep:
                report.status = "asleep"
                state.failed[step.id] = f"{step.name} (asleep)"
                report.volume, report.mass = volume, mass
                continue
            started = time.perf_counter()
            state.titles[step.id] = (step.kind, step.name)
            sheets = SHEETS.all_current(state)
            self._step(index, step, state, names, report, trust)
            _tell_ended(part, sheets, state, report)
            for name, value in (report.made(NUMBERS) or {}).items():
                if name in names:
                    text = f"there is a number {name} already: give this one another name"
                    _fail(report, state, step, Report(code="step", text=text, where=["field:name"]))
                else:
                    names[name] = value
            report.seconds = time.perf_counter() - started
            volume = sum(h.told["volume"] for b, h in state.bodies.items() if not is_tool(b))
            heavy = sum(weight(b) for b in state.bodies)
            report.volume, report.mass, report.change = volume, heavy, heavy - mass
            report.bodies = list(state.bodies)
            mass = heavy
            if not missed:
                report.misses_target = missed = _misses(step, report.mass, report.volume)
        bodies = {}
        for id, held in state.bodies.items():
            look = part.look(id)
            material = materials.get(made_of(id))
            dress = state.of(DRESSES).get(id, Dressed())
            bodies[id] = {
                "key": held.key, "form": held.form, **held.told, "mass": weight(id),
                "name": look.name or dress.name or part.body_name(id),
                "colour": look.colour or dress.colour or (material.colour if material else PLAIN),
                "opacity": min(look.opacity, _SEEN_THROUGH) if is_tool(id) else look.opacity,
                "material": made_of(id), "tool": is_tool(id),
                "sheet": SHEETS.current(state, id) is not None,
            }  # fmt: skip
        found = self._whole(state, reports, parameters, bodies)
        found.paints, found.lost_paints = painted_faces(part, state)
        for id, held in state.bodies.items():
            look, dress = part.look(id), state.of(DRESSES).get(id, Dressed())
            paints = found.paints.get(id)
            called = held.load().names if paints else ()
            found.dresses[id] = Dressed(
                look.name or dress.name, look.colour or dress.colour,
                tool=bodies[id]["tool"], faces={called[i]: tone for i, tone in (paints or {}).items()},
                material=made_of(id), mass=dress.mass if look.mass is None else look.mass,
            )  # fmt: skip
        return found

    def _whole(
        self,
        state: State,
        reports: list[StepReport],
        parameters: dict[str, Evaluated],
        bodies: dict[str, dict[str, Any]],
    ) -> PartBuild:
        real = [b for b in bodies.values() if not b["tool"]]
        volume = sum(b["volume"] for b in real)
        mass = sum(b["mass"] for b in real)
        # Without a material the middle is that of the volume, of surfaces alone that of the area.
        area = sum(b["area"] for b in real)
        by, whole = ("mass", mass) if mass > 0 else ("volume", volume)
        by, whole = (by, whole) if whole > 0 else ("area", area)
        centre = None
        if whole > 0:
            c = [sum(b[by] * b["centre"][k] for b in real) for k in range(3)]
            centre = (c[0] / whole, c[1] / whole, c[2] / whole)
        return PartBuild(
            steps=reports,
            state=state,
            parameters=parameters,
            bodies=bodies,
            volume=volume,
            mass=mass,
            centre=centre,
            area=area,
            marks=_marks(state),
        )

    def _step(
        self,
        index: int,
        step: Step,
        state: State,
        names: Mapping[str, Quantity],
        report: StepReport,
        trust: bool,
    ) -> None:
        try:
            kind = kind_called(step.kind)
            fields = kind.Fields.model_validate(step.fields)
            report.caption = kind.caption(fields)
            values = field_values(fields, names)
            report.values = values
        except Trouble as trouble:
            _fail(report, state, step, trouble.report())
            return
        except ValidationError as error:
            text = f"its fields cannot be read: {first_said(error)[1]}"
            _fail(report, state, step, Report(code="fields", text=text))
            return
        used = names_used(fields, names)
        key = digest(
            [
                BUILD_VERSION, KERNEL_VERSION, kind.kind, kind.version, step.id, values,
                plain_fields(fields),
                {n: [q.value, q.dimension.name] for n, q in used.items()},
            ]
        )  # fmt: skip
        if key in self.doomed:
            _fail(report, state, step, Report(code="doomed", text=self.doomed[key]))
            return
        again = self._again(kind, fields, step.id, state, values, used)
        if trust:
            for trace in self._traces(key):
                if all(state.key_of(r) == k for r, k in trace["reads"].items()):
                    report.kept = True
                    self._apply(trace["record"], step, state, report)
                    again(digest([key, trace["reads"]]))
                    return
        if self.on_step:
            self.on_step(index, step.id, key)
        ctx = Context(step.id, state, values, self.blob, used, kind.forms)
        record: dict[str, Any]
        search = Search(self.search, lambda: self.on_search(step.id) if self.on_search else None)
        try:
            with searching(search):
                outcome = kind.build(expanded(fields, ctx), ctx)
            record = self._record(key, ctx.reads, outcome) | {"counted": list(ctx.counted)}
        except Trouble as trouble:
            record = {"error": trouble.report().model_dump()}
        except Gone:
            raise
        except Exception:  # the kernel raises all sorts; the rest must go on
            _LOG.exception("step %s (%s)", step.id, kind.kind)
            text = (
                f"{kind.label} failed in the geometry kernel, which gave no reason: a slightly "
                "different size or order often helps"
            )
            record = {"error": Report(code="kernel", text=text).model_dump()}
        # Without its search the answer is not whole: another build looks again.
        if not search.skipped:
            self.cache.keep_trace(key, {"reads": ctx.reads, "record": record})
        self._apply(record, step, state, report)
        again(digest([key, ctx.reads]))

    def _traces(self, key: str) -> Iterator[dict[str, Any]]:
        """What is known of a step: here first, then what others have kept meanwhile."""
        yield from self.cache.traces(key)
        yield from self.cache.fresh_traces(key)

    def _again(
        self,
        kind: StepKind[Any],
        fields: Any,
        id: str,
        state: State,
        values: dict[str, float],
        used: dict[str, Quantity],
    ) -> Callable[[str], None]:
        """What notes, once the step is built, how to build it with other numbers."""
        if not kind.copyable:
            return lambda key: None
        before = state.copy()

        def build(other: Mapping[str, float]) -> Outcome:
            ctx = Context(id, before, other, self.blob, used, kind.forms)
            made: Outcome = kind.build(expanded(fields, ctx), ctx)
            return made

        def redo(now: State, mark: str, repick: Repick, other: Mapping[str, float]) -> Outcome:
            whole = expanded(fields, Context(id, before, values, self.blob, used, kind.forms))
            changed = repicked(whole, repick, kind.works_on)
            with searching(Search(allowed=False)):
                ctx = Context(mark, now, {**values, **other}, self.blob, used, kind.forms)
                made: Outcome = kind.build(changed, ctx)
                return made

        def note(key: str) -> None:
            known = dimensions(kind)
            state.again[id] = Again(key, values, known, build, before, kind.works_on, redo)

        return note

    def _record(self, key: str, reads: dict[str, str | None], outcome: Outcome) -> dict[str, Any]:
        keeper = _Shapes(self.cache, [key, reads])
        return {p.word: p.record(outcome.of(p), keeper) for p in all_products()}

    def _apply(self, record: dict[str, Any], step: Step, state: State, report: StepReport) -> None:
        if record.get("error"):
            _fail(report, state, step, Report.model_validate(record["error"]))
            return
        keeper = _Shapes(self.cache, [])
        for product in all_products():
            # A product that came since is none of a record kept before.
            if product.word in record:
                product.put(record[product.word], step.id, state, report, keeper)
        report.counted = tuple(record["counted"])


class _Shapes:
    """Keeps the shapes of one step in the cache (`products.kind.Keeper`)."""

    def __init__(self, cache: Cache, of: list[Any]) -> None:
        self._cache, self._of = cache, of

    def keep(self, body: Body, *which: str | int) -> str:
        key = digest([*self._of, *which])
        self._cache.keep_body(key, body)
        return key

    def load(self, key: str) -> Callable[[], Body]:
        return partial(self._cache.body, key)


def _marks(state: State) -> dict[str, list[Mark]]:
    if not state.of(MARKS):
        return {}
    there = {part for held in state.bodies.values() for part in all_parts(held.load().names)}
    kept = {
        id: [m for m in marks if not m.faces or there & set(m.faces)]
        for id, marks in state.of(MARKS).items()
    }
    return {id: marks for id, marks in kept.items() if marks}


def _tell_ended(part: Part, before: set[str], state: State, report: StepReport) -> None:
    """Say of bodies that were sheets before a step that it left them none."""
    for body in sorted(before - SHEETS.all_current(state)):
        if body in state.bodies:
            text = (
                f"{part.body_name(body)} is no sheet any more: this step changed its solid by other means, and "
                "it has no blank; Sheet from solid reads it again where it still is one"
            )
            report.notes.append(Report(code="sheet_ended", text=text, where=[f"step:{report.id}"]))


def _fail(report: StepReport, state: State, step: Step, error: Report) -> None:
    if f"step:{step.id}" not in error.where:
        error = error.model_copy(update={"where": [f"step:{step.id}", *error.where]})
    report.status, report.error = "failed", error
    state.failed[step.id] = step.name

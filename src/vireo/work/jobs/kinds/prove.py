"""Members of a document built one by one, on all cores: whether each builds or where it fails and why,
its mass and size, what its checks say."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping
from functools import partial
from typing import Any, Literal

from pydantic import Field, TypeAdapter

from vireo.core.digest import digest
from vireo.core.documents import Document, dump, kind_of, load_document
from vireo.core.documents.base import Amount, Cell, Choice
from vireo.core.documents.content import content_of, deciding
from vireo.core.documents.driver import DRIVERS
from vireo.core.documents.kind import Around
from vireo.core.documents.members import (
    MOST,
    applied,
    called,
    checked,
    combinations,
    owned,
    pairs,
    rows,
    said,
    values_of,
)
from vireo.core.documents.membertexts import WORKED_OUT
from vireo.core.quantity import FormulaError, Quantity, evaluate
from vireo.core.trouble import BadInput, Trouble
from vireo.work.examining import KERNEL_ENDED, examined, nothing_known
from vireo.work.jobs.kind import Json, Options, Telling, job_of_pieces
from vireo.work.jobs.pieces import Pieces
from vireo.work.worker import Bench

_CELLS = TypeAdapter(list[list[Cell]])
#: What is said of a check and decides nothing.
_SAID = {"name", "severity", "note"}
#: Whoever samples twice gets the same members.
_SEED = 20


class ProveOptions(Options):
    """Which members: those of the rows named (ids, "" for what is as drawn; none: all) with the options
    as they are by themselves, or with their combinations: every pair of choices at least once, a
    `count` of them at random, or all; or `members`, said one by one."""

    variants: tuple[str, ...] = Field(default=(), max_length=MOST)
    how: Literal["rows", "pairs", "sample", "all"] = "rows"
    count: int = Field(default=24, ge=1, le=MOST)
    members: tuple[Choice, ...] = Field(default=(), max_length=MOST)


def members_of(document: Document, options: ProveOptions) -> list[Choice]:
    """The members asked for. Raises BadInput for those it does not have, or too many."""
    if options.members:
        return [checked(document, c) for c in options.members]
    chosen = [checked(document, Choice(variant=v or None)).variant for v in options.variants]
    variants = chosen or [c.variant for c in rows(document)]
    if options.how == "rows":
        found = [Choice(variant=v) for v in variants]
    elif options.how == "pairs":
        found = pairs(document, variants)
    else:
        found = list(_combined(document, variants, options))
    if len(found) > MOST:
        raise BadInput(
            f"these are {len(found)} members; up to {MOST} are built in one go: choose rows, every pair "
            "or a sample"
        )
    return found


def _combined(
    document: Document, variants: list[str | None], options: ProveOptions
) -> list[Choice]:
    found: list[Choice] = []
    for choice in combinations(document, variants):
        found.append(choice)
        if len(found) > 100_000:
            raise BadInput("these are over 100 000 combinations; take every pair instead")
    if options.how == "sample" and len(found) > options.count:
        found = random.Random(_SEED).sample(found, options.count)
    return found


def gather(document: Document, around: Around, options: ProveOptions) -> Json:
    """The document with its members, and what each needs besides: once where that is the same."""
    kind = kind_of(document)
    # What a member needs hangs on few columns: each combination of those is asked for once.
    reaching = [o for o in owned(document) if DRIVERS.called(o.column.drives).reaches]
    needs: dict[str, tuple[int | None, str]] = {}
    kept: list[Json] = []
    members: list[Json] = []
    task = ""
    for choice in members_of(document, options):
        key = repr([c for o in reaching if not isinstance(c := said(document, o, choice), Amount)])
        if key not in needs:
            try:
                task, request = kind.request(applied(document, choice), around)
            except Trouble as trouble:
                needs[key] = None, trouble.report().text
            else:
                needs[key] = len(kept), ""
                kept.append({k: v for k, v in request.items() if k != "document"})
        rest, why = needs[key]
        members.append({"choice": choice.model_dump(mode="json"), "rest": rest, "why": why})
    return {"document": dump(document), "task": task, "rests": kept, "members": members}


def reads(request: Json, options: ProveOptions) -> Any:
    """What the members are like, in the order they are asked for."""
    document = load_document(request["document"])
    drawn = applied(document, Choice())
    choices = [Choice.model_validate(m["choice"]) for m in request["members"]]
    cells = [
        [said(document, o, c) for o in owned(document)] for c in choices
    ]  # fmt: skip
    checks = [c.model_dump(mode="json", exclude=_SAID) for c in document.checks]
    return [
        deciding({"document": dump(drawn)}), deciding(request["rests"]), checks,
        _CELLS.dump_python(cells, mode="json"),
        [m["choice"] for m in request["members"]],
        [p.model_dump(mode="json") for p in drawn.parameters],
    ]  # fmt: skip


def told(result: Json, telling: Telling) -> Json:
    """The rows by the names their members have now, and whether they would be found so now; members that
    are gone are left out."""
    found = []
    few = len(result.get("rows", ())) <= WORKED_OUT
    for row in result.get("rows", ()):
        try:
            choice = checked(telling.document, Choice.model_validate(row["choice"]))
        except BadInput:
            continue
        names = {c.id: c.name for c in telling.document.checks}
        checks = [{**c, "name": names[c["id"]]} for c in row["checks"] if c["id"] in names]
        # Of many that is not worked out: whether the whole still holds is asked of the job then.
        old = row["stand"] != _now(telling, choice) if few and telling.around else None
        name = called(telling.document, choice)
        found.append({**row, "name": name, "checks": checks, "old": old})
    return {**result, "rows": found}


def _now(telling: Telling, choice: Choice) -> str:
    member = applied(telling.document, choice)
    assert telling.around is not None
    try:
        task, request = kind_of(member).request(member, telling.around)
    except Trouble:
        return ""
    return stand_of(member, task, {k: v for k, v in request.items() if k != "document"})


def stand_of(member: Document, task: str, rest: Json) -> str:
    """What decides how a member builds and what its checks say: a row that has another now is out of
    date."""
    values = values_of(member)
    checks = [
        [c.model_dump(mode="json", exclude=_SAID), _limit(c.limit, values)] for c in member.checks
    ]
    return digest([task, content_of(kind_of(member).present(member)), deciding(rest), checks])


def _limit(formula: str, values: Mapping[str, Quantity]) -> Any:
    """What the limit of a check comes to: parameters that nothing is built by may stand in it."""
    try:
        found = evaluate(formula, values)
    except FormulaError:
        return formula
    return [found.value, found.dimension.name]


@job_of_pieces("prove", ("part", "assembly"), ProveOptions, reads=reads, told=told, gather=gather)
class Members(Pieces):
    """A row for each member, in the order asked for."""

    noun = "members"

    def count(self, request: Json) -> int:
        return len(request["members"])

    def answering(self, bench: Bench, request: Json, options: Any) -> Callable[[int], Json]:
        return partial(_row, bench, load_document(request["document"]), request)

    def lost(self, request: Json, number: int) -> Json:
        return {**_blank(request["members"][number]), "why": KERNEL_ENDED}


def _blank(member: Json) -> Json:
    return {"choice": member["choice"], "stand": "", **nothing_known()}


def _row(bench: Bench, document: Document, request: Json, index: int) -> Json:
    """What becomes of one member."""
    entry = request["members"][index]
    row = _blank(entry)
    if entry["rest"] is None:
        return {**row, "why": entry["why"]}
    member = applied(document, Choice.model_validate(entry["choice"]))
    rest = request["rests"][entry["rest"]]
    return {**row, "stand": stand_of(member, request["task"], rest)} | examined(
        bench, member, request["task"], rest
    )

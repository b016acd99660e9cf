"""An assembly looked over for what is wrong with how it is put together: lists of faults."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from pydantic import Field

from vireo.core.assembly.titles import leaf_titles, left_out
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.fit.classes import allowed_in, classed
from vireo.core.fit.interference import look
from vireo.core.fit.listing import LISTS, Looked, Say
from vireo.core.fit.pairs import Item
from vireo.core.geometry import Triple
from vireo.core.kernel.nearest import nearest
from vireo.core.kernel.overlap import holds
from vireo.core.kernel.place import located
from vireo.core.naming.grammar import holder_of
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.tasks.assembly import put_together, topology_of_key
from vireo.work.tasks.fit import Looker, items_of
from vireo.work.worker import Bench


class SurveyOptions(Options):
    """What is no more than `near` (mm) apart touches; axes up to `tolerance` (mm) apart are in line."""

    near: float = Field(default=0.1, gt=0, le=100, allow_inf_nan=False)
    tolerance: float = Field(default=0.01, gt=0, le=100, allow_inf_nan=False)


def told(result: Json, telling: Telling) -> Json:
    """What is wrong in words, by the names of the components; what is meant is no fault."""
    assert isinstance(telling.document, Assembly)
    title = leaf_titles(telling.document, telling.other)
    say = Say(title, telling.document.units)
    allowed = allowed_in(telling.document, telling.values())

    def meant(row: Json) -> bool:
        pair = {
            **row,
            "state": "overlap",
            "depth": row["numbers"].get("depth", 0.0),
            "thread": False,
        }
        return bool(row["b"]) and classed(pair, allowed, 0.0)["class"] == "intended"

    lists = []
    for kind in sorted(LISTS.values(), key=lambda k: k.order):
        rows = [
            {**row, "name_a": title(row["a"]), "name_b": title(row["b"]) if row["b"] else "",
             "text": kind.tell(row, say)}
            for row in result["lists"].get(kind.kind, ())
            if not (kind.meant and meant(row))
        ]  # fmt: skip
        lists.append({
            "kind": kind.kind, "label": kind.label, "line": kind.line, "none": kind.none, "rows": rows,
        })  # fmt: skip
    return {**result, "lists": lists, "left": [title(id) for id in result["left"]]}


@job("survey", ("assembly",), SurveyOptions, told=told)
def survey(bench: Bench, request: Json, options: SurveyOptions) -> dict[str, Any]:
    """The rows of every list, as it stands."""
    built = put_together(bench, request)
    items = items_of(built)
    known = {leaf.id: leaf for leaf in built.leaves}
    leaves = [known[i.id] for i in items]
    looker = Looker(bench, options.near)

    def together(a: Item, b: Item) -> bool:
        return holder_of(a.id) == holder_of(b.id)

    def progress(done: int, of: int) -> None:
        bench.report({"share": 0.9 * done / max(of, 1), "stage": f"{done} of {of} near pairs"})

    found = look(
        items, looker.answers, within=options.near, known=looker.known, skip=together,
        progress=progress,
    )  # fmt: skip

    def apart(i: int, j: int) -> tuple[float, Triple, Triple]:
        shapes = [
            located(bench.cache.body(x.solid.key).shape, x.pose.rotation, x.pose.p)
            for x in (leaves[i], leaves[j])
        ]
        least = nearest(*shapes)
        return least.distance, least.a, least.b

    looked = Looked(
        built, leaves, items, found.pairs, options.near, options.tolerance,
        topology=lambda leaf: topology_of_key(bench, leaf.solid.key),
        holds=lambda leaf, at: holds(bench.cache.body(leaf.solid.key), leaf.pose.inverse().out(at)),
        apart=apart, together=lambda a, b: holder_of(a) == holder_of(b),
    )  # fmt: skip
    lists = {}
    for n, kind in enumerate(LISTS.values()):
        bench.report({"share": 0.9 + 0.1 * n / len(LISTS), "stage": kind.label.lower()})
        lists[kind.kind] = [asdict(row) for row in kind.rows(looked)]
    return {"lists": lists, "solids": len(items), "left": left_out(built)}

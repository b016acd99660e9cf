"""Overlaps of an assembly, or among chosen components."""

from __future__ import annotations

from functools import partial
from typing import Any

from pydantic import Field

from vireo.core.assembly.titles import leaf_titles, left_out
from vireo.core.documents import Document
from vireo.core.fit.interference import Clash, find_interference
from vireo.core.naming.grammar import component_of, holder_of
from vireo.work.jobs.kind import Json, Options, Other, job
from vireo.work.tasks.assembly import items_of, put_together, topology_of_key
from vireo.work.worker import Bench


class InterferenceOptions(Options):
    """`components` are ids of those looked at; all when none is chosen."""

    components: tuple[str, ...] = Field(default=(), max_length=5000)


def told(result: Json, document: Document, other: Other) -> Json:
    """The pairs by the names of their components."""
    title = leaf_titles(document, other)
    clashes = [
        {**c, "name_a": title(c["a"]), "name_b": title(c["b"])} for c in result.get("clashes", ())
    ]
    return {**result, "clashes": clashes, "left": [title(id) for id in result.get("left", ())]}


def _clash(clash: Clash) -> Json:
    return {
        "a": clash.a, "b": clash.b, "volume": clash.volume, "thickness": clash.thickness,
        "at": list(clash.at), "faces_a": list(clash.faces_a), "faces_b": list(clash.faces_b),
        "certain": clash.certain,
    }  # fmt: skip


@job("interference", ("assembly",), InterferenceOptions, told=told, version=2)
def interference(bench: Bench, request: Json, options: InterferenceOptions) -> dict[str, Any]:
    """Overlaps in the whole assembly, or among the chosen components; as they are found, too."""
    built = put_together(bench, request)
    items = items_of(built, options.components)
    so_far: list[Json] = []

    def progress(share: float, stage: str) -> None:
        bench.report({"share": share, "stage": stage, "partial": {"clashes": list(so_far)}})

    found = find_interference(
        items,
        bench.cache.body,
        partial(topology_of_key, bench),
        # Solids of one part are the part's own business, those of a sub-assembly are not.
        skip=lambda a, b: holder_of(a.id) == holder_of(b.id),
        progress=progress,
        found_one=lambda clash: so_far.append(_clash(clash)),
    )
    return {
        "clashes": [_clash(c) for c in found.clashes],
        "pairs": found.pairs, "near": found.near, "computed": found.computed,
        "volume": sum(c.volume for c in found.clashes),
        "left": left_out(built, options.components),
        "components": len({component_of(i.id) for i in items}),
    }  # fmt: skip

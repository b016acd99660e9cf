"""Overlaps of an assembly, or among chosen components; as it stands, or in positions kept by name."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from pydantic import Field

from vireo.core.assembly.titles import leaf_titles, left_out
from vireo.core.documents import Document, kind_of, load_document
from vireo.core.documents.base import Choice
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.documents.kind import Around, dump
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.documents.members import AS_DRAWN, applied
from vireo.core.fit.classes import allowed_in, classed
from vireo.core.fit.interference import Found, Pair, look
from vireo.core.fit.pairs import Item
from vireo.core.naming.grammar import component_of, holder_of
from vireo.core.trouble import BadInput
from vireo.work.jobs.acting import acting
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.tasks.assembly import put_together
from vireo.work.tasks.fit import Looker, items_of
from vireo.work.worker import Bench

#: Pairs that only touch are listed up to so many.
_LISTED = 2000


class InterferenceOptions(Options):
    """`components` are ids of those looked at, all when none is chosen; `positions` ids of stands kept
    by name, as it stands when none is; `variants` ids of rows of the assembly's variants ("" as drawn),
    the one it stands as when none is. Without `inside` a sub-assembly is one thing. Pairs clear by at
    most `clearance` (mm) are told with their nearest places; overlaps no deeper than `tolerance` (mm)
    are no fault."""

    components: tuple[str, ...] = Field(default=(), max_length=5000)
    positions: tuple[str, ...] = Field(default=(), max_length=50)
    variants: tuple[str, ...] = Field(default=(), max_length=200)
    inside: bool = True
    clearance: float = Field(default=0.0, ge=0, le=1000, allow_inf_nan=False)
    tolerance: float = Field(default=0.0, ge=0, le=100, allow_inf_nan=False)


def gather(document: Document, around: Around, options: InterferenceOptions) -> Json:
    """What builds the assembly, and what builds the variants that are looked at."""
    kind = kind_of(document)
    if not options.variants:
        return kind.request(document, around)[1]
    members = {
        id: kind.request(applied(document, Choice(variant=id or None)), around)[1]
        for id in dict.fromkeys(options.variants)
    }
    return {**kind.request(applied(document, Choice()), around)[1], "members": members}


def reads(request: Json, options: InterferenceOptions) -> Any:
    """What stands where, and in which positions."""
    kept = request["document"].get("positions", ())
    wanted = [p for p in kept if p["id"] in options.positions]
    return [acting(request), [{k: v for k, v in p.items() if k != "name"} for p in wanted]]


def told(result: Json, telling: Telling) -> Json:
    """The pairs by the names of their components, with what each means and what became of it since
    the last run."""
    assert isinstance(telling.document, Assembly)
    title = leaf_titles(telling.document, telling.other)
    allowed = allowed_in(telling.document, telling.values())
    before = {_pair_of(r): r for r in (telling.before or {}).get("rows", ())}
    positions = {p.id: p.name for p in telling.document.positions}
    variants = {"": AS_DRAWN, **{v.id: v.name for v in telling.document.variants}}

    def named(row: Json) -> Json:
        return {
            **row, **classed(row, allowed, result.get("tolerance", 0.0)),
            "name_a": title(row["a"]), "name_b": title(row["b"]),
            "position_name": positions.get(row["position"], ""),
            "variant_name": "" if row.get("variant") is None else variants.get(row["variant"], ""),
        }  # fmt: skip

    rows = []
    for row in result.get("rows", ()):
        known = before.pop(_pair_of(row), None)
        rows.append({**named(row), "news": _news(row, known) if telling.before else ""})
    looked = {(p.get("variant"), p["id"]) for p in result.get("positions", ())}
    gone = [
        named(r) for r in before.values()
        if r["state"] == "overlap" and (r.get("variant"), r["position"]) in looked
    ]  # fmt: skip
    return {
        **result, "rows": rows, "gone": gone,
        "faults": sum(r["fault"] for r in rows),
        "left": [title(id) for id in result.get("left", ())],
    }  # fmt: skip


def _pair_of(row: Json) -> tuple[str, ...]:
    return (row.get("variant") or "", row["position"], *sorted((row["a"], row["b"])))


def _news(now: Json, before: Json | None) -> str:
    """What became of an overlap: ``new``, ``grown``, ``less`` or nothing."""
    if now["state"] != "overlap":
        return ""
    if before is None or before["state"] != "overlap":
        return "new"
    change = now["depth"] - before["depth"]
    if abs(change) <= 1e-6 + 0.001 * before["depth"]:
        return ""
    return "grown" if change > 0 else "less"


@job(
    "interference", ("assembly",), InterferenceOptions, reads=reads, told=told, version=4, gather=gather,
)  # fmt: skip
def interference(bench: Bench, request: Json, options: InterferenceOptions) -> dict[str, Any]:
    """Overlaps in the whole assembly, or among the chosen components; as they are found, too."""
    members = request.get("members") or {None: request}
    stands = options.positions or ("",)
    document = load_document(request["document"])
    assert isinstance(document, Assembly)
    known = {"": "as it stands", **{p.id: p.name for p in document.positions}}
    called = {"": AS_DRAWN, **{v.id: v.name for v in document.variants}}
    if gone := [p for p in stands if p not in known]:
        words = "a position is" if len(gone) == 1 else f"{len(gone)} of the positions are"
        raise BadInput(f"{words} no longer kept: choose anew where to look")
    looker = Looker(bench, options.clearance)
    rows: list[Json] = []
    told_of: list[Json] = []
    counts = {"pairs": 0, "near": 0, "computed": 0}
    left: list[str] = []
    parts: set[str] = set()
    places = [(member, stand) for member in members for stand in stands]
    for n, (member, stand) in enumerate(places):
        own_request = members[member]
        own_document = load_document(own_request["document"])
        assert isinstance(own_document, Assembly)
        stood = {**own_request, "document": dump(_standing(own_document, stand))}
        built = put_together(bench, stood)
        items = items_of(built, options.components)
        parts |= {component_of(i.id) for i in items}
        left = left or left_out(built, options.components)
        hard = {leaf.id for leaf in built.leaves if leaf.solid.hardware}
        row = partial(_row, variant=member, position=stand, hard=hard, looker=looker)
        whose = [called.get(member or "", "")] if member is not None else []
        where = ", ".join([*whose, *([known[stand]] if stand else [])])
        news = _News(bench, n, len(places), where, rows, row, told_of)
        # Solids of one part are the part's own business, those of a sub-assembly are not.
        held = holder_of if options.inside else component_of
        found = look(
            items, looker.answers, within=options.clearance, known=looker.known,
            skip=partial(_together, held), progress=news.progress, found_one=news.found,
        )  # fmt: skip
        own = [row(p) for p in found.pairs]
        touching = [r for r in own if r["state"] == "touching"]
        rows += [r for r in own if r["state"] != "touching"] + touching[:_LISTED]
        placed = built.mechanism.placements(built.solution.poses) if stand else {}
        told_of.append({
            "id": stand, "variant": member, "touching": len(touching), **_counted(found),
            "stand": {id: p.to_json() for id, p in placed.items()},
        })  # fmt: skip
        counts = {k: v + told_of[-1][k] for k, v in counts.items()}
    return {
        "rows": rows, "positions": told_of, **counts, "left": left,
        "volume": sum(r["volume"] for r in rows), "components": len(parts),
        "clearance": options.clearance, "tolerance": options.tolerance,
    }  # fmt: skip


def _together(held: Callable[[str], str], a: Item, b: Item) -> bool:
    return held(a.id) == held(b.id)


@dataclass
class _News:
    """Tells how far a run is, with what was found so far."""

    bench: Bench
    at: int
    of: int
    where: str
    before: list[Json]
    row: Callable[[Pair], Json]
    positions: list[Json]
    so_far: list[Json] = field(default_factory=list)

    def found(self, pair: Pair) -> None:
        self.so_far.append(self.row(pair))

    def progress(self, done: int, of: int) -> None:
        where = f"{self.where}: " if self.where else ""
        self.bench.report({
            "share": (self.at + done / max(of, 1)) / self.of,
            "stage": f"{where}{done} of {of} near pairs",
            "partial": {"rows": [*self.before, *self.so_far], "positions": self.positions},
        })  # fmt: skip


def _standing(document: Assembly, position: str) -> Assembly:
    if not position:
        return document
    moved = run(parse({"do": "take_position", "id": position}), document)
    assert isinstance(moved, Assembly)
    return moved


def _counted(found: Found) -> dict[str, int]:
    return {"pairs": found.all, "near": found.near, "computed": found.computed}


def _row(pair: Pair, variant: str | None, position: str, hard: set[str], looker: Looker) -> Json:
    v = pair.verdict
    row: Json = {
        "variant": variant, "position": position, "a": pair.a, "b": pair.b, "state": v.state, "how": list(v.how),
        "gap": v.gap, "volume": v.volume, "depth": v.depth, "certain": v.certain,
        "inside": v.inside, "thread": v.thread,
        "hardware": bool({pair.a, pair.b} & hard),
        "at": list(pair.at), "way": list(pair.way),
        "near": [list(p) for p in pair.near] if pair.near else None,
        "faces_a": list(v.faces_a), "faces_b": list(v.faces_b),
    }  # fmt: skip
    if v.state == "overlap":
        row["picture"] = looker.picture(pair)
    return row

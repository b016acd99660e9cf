"""Solids of an assembly beside each other: what they are asked, kept by what they are and how they
stand, so that only what moved or changed is asked anew."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import asdict
from typing import Any

import numpy as np

from vireo.core.assembly.build import Built
from vireo.core.assembly.seats import DrawnThread
from vireo.core.digest import digest
from vireo.core.fit.interference import Ask, Pair, look
from vireo.core.fit.nearly import Shapes
from vireo.core.fit.pairs import Item
from vireo.core.fit.verdict import Shape, Verdict, verdict_of
from vireo.core.geometry import Frame
from vireo.core.kernel.measure import topology_of, volume_of
from vireo.core.kernel.mesh import tessellate
from vireo.core.lately import Lately
from vireo.core.naming.grammar import original_of
from vireo.core.viewmesh import kept_as, pack
from vireo.work.forking import shared_out
from vireo.work.tasks.assembly import put_together, topology_of_key
from vireo.work.worker import Bench, task

#: Raise when a pair would be judged otherwise.
VERSION = 1
_SHAPES = Lately[str, Shape](512)
#: Marks drawn threads in what a solid is asked by.
_WITH = "~"


def items_of(built: Built, chosen: Sequence[str] = ()) -> list[Item]:
    """The solids of an assembly, or of chosen components of it."""
    return [
        Item(
            leaf.id, _WITH.join([leaf.solid.key, *(json.dumps(asdict(t)) for t in leaf.solid.threads)]), leaf.pose,
            np.array(leaf.solid.low), np.array(leaf.solid.high),
        )
        for leaf in built.leaves
        if (not chosen or leaf.path[0] in chosen) and leaf.solid.form == "solid"
    ]  # fmt: skip


def _thread(raw: dict[str, Any]) -> DrawnThread:
    frame = Frame(**{k: tuple(v) for k, v in raw["frame"].items()})
    return DrawnThread(frame, raw["radius"], raw["pitch"])


class Looker:
    """Answers what solids are to each other: kept answers first, the rest on all cores. Of what is
    clear by up to `within` (mm) the exact gap."""

    def __init__(self, bench: Bench, within: float = 0.0) -> None:
        self._bench, self._within = bench, within

    def shaped(self, asked: str) -> Shape:
        """A solid by its content, with its drawn threads."""

        def make() -> Shape:
            key, *threads = asked.split(_WITH)
            body = self._bench.cache.body(key)
            topology = topology_of_key(self._bench, key)
            drawn = [_thread(json.loads(t)) for t in threads]
            mesh = tessellate(body, None, 0.3)
            return Shape(body, mesh, Shapes(topology), volume_of(body.shape), drawn)

        return _SHAPES.get(asked, make)

    def answers(self, asks: Sequence[Ask]) -> Iterator[tuple[Ask, Verdict]]:
        """Verdicts as they come; each is kept, its common solid for the screen."""
        for key in {k for a in asks for k in (a.a, a.b)}:
            self.shaped(key)  # once, before the work is shared out
        for ask, found in shared_out(asks, self._answer):
            if found is None:
                yield ask, Verdict("untold", ())
                continue
            verdict, picture = found
            if picture:
                self._bench.keep(kept_as(_picture(ask)), picture)
            told = {"verdict": verdict.to_json(), "within": self._within, "drawn": bool(picture)}
            self._bench.disk.put(_name(ask), json.dumps(told).encode())
            yield ask, verdict

    def _answer(self, ask: Ask) -> tuple[Verdict, bytes]:
        verdict = verdict_of(self.shaped(ask.a), self.shaped(ask.b), ask.relative, self._within)
        if verdict.body is None:
            return verdict, b""
        mesh = tessellate(verdict.body, None, 0.3)
        drawn = pack(mesh, topology_of(verdict.body))
        return Verdict.from_json(json.loads(json.dumps(verdict.to_json()))), drawn

    def known(self, ask: Ask) -> Verdict | None:
        """What was found before of a pair that stands so."""
        raw = self._bench.disk.get(_name(ask))
        if raw is None:
            return None
        told = json.loads(raw)
        verdict = Verdict.from_json(told["verdict"])
        if (
            verdict.state == "clear"
            and verdict.how == ("triangles",)
            and verdict.gap <= self._within
        ):
            return None
        if told["drawn"] and not self._bench.disk.has(kept_as(_picture(ask))):
            return None
        return verdict

    def picture(self, pair: Pair) -> str | None:
        """Under what key the screen gets the common solid, in the coordinates of the first."""
        name = _picture(pair.ask)
        return name if self._bench.disk.has(kept_as(name)) else None


def _name(ask: Ask) -> str:
    return f"verdict-{VERSION}-{digest(list(ask.key))}"


def _picture(ask: Ask) -> str:
    return digest(["overlap", VERSION, *ask.key])


@task("in_the_way")
def in_the_way(bench: Bench, request: dict[str, Any]) -> list[dict[str, Any]]:
    """What some components (and their copies) truly overlap with: pairs by component and name, volumes
    in mm3."""
    built = put_together(bench, request["request"])
    chosen = set(request["components"])
    names = {leaf.id: leaf for leaf in built.leaves}

    def ours(item: Item) -> bool:
        return original_of(names[item.id].path[0]) in chosen

    looker = Looker(bench)
    found = look(
        items_of(built), looker.answers, known=looker.known,
        skip=lambda a, b: not ours(a) and not ours(b),
    )  # fmt: skip
    return [
        {"components": [names[p.a].path[0], names[p.b].path[0]],
         "names": [names[p.a].name, names[p.b].name], "volume": p.verdict.volume}
        for p in found.pairs if p.verdict.state == "overlap"
    ]  # fmt: skip

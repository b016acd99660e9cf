"""Another document in place of a component's: what held it is found again on the new one, by the names
of ports, by the names of faces, then by likeness; what is not found is left to be mended."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from vireo.core.assembly.seats import BuiltPart
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.naming import Pick, Topology, geometry_of, make_pick, ranked, resolve

#: From here on what is most alike is taken, where nothing else comes near (shares of one).
_ALIKE, _CLEAR = 0.8, 0.08


@dataclass(frozen=True)
class Change:
    """What became of an end on the replaced component: of a joint (`side` as it is called there) or
    of copies (`of`). `how` it was found: port, name, likeness, or lost with the best there is; `score`
    is how alike it is (0 to 1)."""

    id: str
    side: str
    title: str
    how: str
    score: float
    end: JointEnd | None

    def to_json(self) -> dict[str, Any]:
        end = self.end.model_dump(mode="json") if self.end else None
        return {**vars(self), "end": end}


def rematched(
    document: Assembly, component: str, new: BuiltPart | None, old: BuiltPart | None
) -> list[Change]:
    """Every end on a component, found again on a part in its place; `new` is None for what has no
    faces of its own (an assembly): ends into that are lost."""
    found = []
    for id, side, title, end in _ends(document, component):
        how, score, better = ("lost", 0.0, None)
        if new is not None and not end.path:
            how, score, better = _again(end, new, old)
        found.append(Change(id, side, title, how, score, better))
    return found


def _ends(document: Assembly, component: str) -> Iterator[tuple[str, str, str, JointEnd]]:
    for joint in document.joints:
        for side, end in joint.ends.items():
            if end.component == component:
                yield joint.id, side, joint.name, end
    for copies in document.copies:
        if copies.of is not None and copies.of.component == component:
            yield copies.id, "of", copies.name, copies.of


def _again(
    end: JointEnd, new: BuiltPart, old: BuiltPart | None
) -> tuple[str, float, JointEnd | None]:
    if end.pick is None:
        return _port(end, new, old)
    topologies = [(s.id, new.topology(s.id)) for s in new.solids]
    for body, topology in topologies:
        found = resolve(end.pick, topology)
        if found.index is None or found.guessed:
            continue
        form, _, _ = geometry_of(topology, end.pick.kind, found.index)
        if form == end.pick.witness.kind:
            # One name on a part of other ancestry may be another thing: how alike it is, is told.
            alike = dict(ranked(end.pick, topology, len(topology.names[end.pick.kind])))
            return "name", alike.get(found.index, 0.0), _on(end, topology, body, found.index)
    best = sorted(
        (
            (score, body, topology, index)
            for body, topology in topologies
            for index, score in ranked(end.pick, topology, 2)
            if geometry_of(topology, end.pick.kind, index)[0] == end.pick.witness.kind
        ),
        key=lambda x: -x[0],
    )
    if not best:
        return "lost", 0.0, None
    score, body, topology, index = best[0]
    clear = len(best) < 2 or score - best[1][0] >= _CLEAR
    how = "likeness" if score >= _ALIKE and clear else "lost"
    return how, score, _on(end, topology, body, index)


def _on(end: JointEnd, topology: Topology, body: str, index: int) -> JointEnd:
    assert isinstance(end.pick, Pick)
    return end.model_copy(update={"pick": make_pick(topology, body, end.pick.kind, index)})


def _port(
    end: JointEnd, new: BuiltPart, old: BuiltPart | None
) -> tuple[str, float, JointEnd | None]:
    """A port of the same name and kind; the only one of its kind where none is called so."""
    before = old.places.get(end.datum) if old else None
    if before is None:
        there = end.datum in new.places
        return ("port", 1.0, end) if there else ("lost", 0.0, None)
    alike = {
        id: p for id, p in new.places.items() if p.form == before.form and p.sort == before.sort
    }
    named = [id for id, p in alike.items() if p.name == before.name]
    chosen = named[0] if len(named) == 1 else next(iter(alike)) if len(alike) == 1 else None
    if chosen is None:
        return "lost", 0.0, None
    return "port", 1.0, end.model_copy(update={"datum": chosen})

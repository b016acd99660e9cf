"""What was done to a document in two places since both had it in common, put together: thing by thing, and
within a thing field by field. Where both did something else to the same, that is told, and one is chosen."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from vireo.core.documents.base import Document, dump
from vireo.core.documents.difference import key_of, label_of, named, plain, read, things, words_of
from vireo.core.documents.kind import load_document
from vireo.core.trouble import BadInput

Json = dict[str, Any]
Which = Literal["ours", "theirs"]
#: What is not merged: each keeps its own name and what it stands as.
_OWN = ("name", "active", "schema_version", "kind")


@dataclass(frozen=True)
class Conflict:
    """Something both changed: `key` is what it is chosen by; how it was, is here, and is there."""

    key: str
    name: str
    label: str
    base: str
    ours: str
    theirs: str


@dataclass
class Merging:
    """A merge in the making: what is chosen where both changed the same, and where that was asked."""

    chosen: Mapping[str, Which]
    conflicts: list[Conflict] = field(default_factory=list)

    def pick(self, conflict: Conflict, ours: Any, theirs: Any) -> Any:
        self.conflicts.append(conflict)
        return theirs if self.chosen.get(conflict.key) == "theirs" else ours


def merged(
    base: Document, ours: Document, theirs: Document, chosen: Mapping[str, Which]
) -> tuple[Document, list[Conflict]]:
    """The document with the changes of both since `base`, and what both changed; where nothing is chosen
    ours stays. Raises BadInput when together they make no document."""
    was, here, there = dump(base), dump(ours), dump(theirs)
    merging = Merging(chosen)
    words = words_of(ours)
    found: Json = {}
    for name in here:
        if name in _OWN:
            found[name] = here[name]
        elif name == "last_id":
            found[name] = max(here[name], there[name])
        else:
            found[name] = _merged(
                merging, name, (words.get(name, label_of(name)), label_of(name)),
                was.get(name), here[name], there[name],
            )  # fmt: skip
    try:
        return load_document(found), merging.conflicts
    except BadInput as trouble:
        raise BadInput(f"together they make no sound document: {trouble.text}") from trouble


#: What a value is called: the thing it is of, and what of that.
Called = tuple[str, str]


def _merged(merging: Merging, key: str, called: Called, base: Any, ours: Any, theirs: Any) -> Any:
    if theirs in (ours, base):
        return ours
    if ours == base:
        return theirs
    if things(ours) and things(theirs) and (things(base) or base is None):
        return _lists(merging, key, called, base or [], ours, theirs)
    dicts = [isinstance(v, dict) and not plain(v) for v in (ours, theirs)]
    if all(dicts):
        was = base if isinstance(base, dict) else {}
        found = {}
        for name in {**ours, **theirs}:
            inner = (called[0], label_of(name) if name != "fields" else called[1])
            value = _merged(
                merging, f"{key}.{name}", inner, was.get(name), ours.get(name), theirs.get(name)
            )
            # What one took away is away, unless that was chosen otherwise.
            if (name in ours and name in theirs) or value is not None:
                found[name] = value
        return found
    told = [read(v) for v in (base, ours, theirs)]
    if told[1] == told[2]:
        told[1:] = [f"{told[1]}, changed here", f"{told[2]}, changed there"]
    return merging.pick(Conflict(key, called[0], called[1], *told), ours, theirs)


def _lists(
    merging: Merging, key: str, called: Called, base: Sequence[Json], ours: Sequence[Json],
    theirs: Sequence[Json],
) -> list[Json]:  # fmt: skip
    was, here, there = ({key_of(x): x for x in side} for side in (base, ours, theirs))
    kept: dict[str, Json] = {}
    for id in {**here, **there}:
        one, other, before = here.get(id), there.get(id), was.get(id)
        if one is not None and other is not None:
            name = named(one) or called[0]
            kept[id] = _merged(merging, f"{key}.{id}", (name, called[1]), before, one, other)
            continue
        left = one if one is not None else other
        assert left is not None
        if before is None:
            kept[id] = left
        elif left != before:
            # Changed by one, taken away by the other.
            told = (
                ("there", "changed", "removed")
                if one is not None
                else ("there", "removed", "changed")
            )
            conflict = Conflict(f"{key}.{id}", named(left), "", *told)
            if (chosen := merging.pick(conflict, one, other)) is not None:
                kept[id] = chosen
    return [kept[id] for id in _order(list(was), list(here), list(there)) if id in kept]


def _order(was: list[str], here: list[str], there: list[str]) -> list[str]:
    """The order of both: that of who changed it, what is only in the other put behind all that it follows
    there: it may stand on any of that."""
    common = [k for k in was if k in here and k in there]
    changed = [k for k in here if k in common] != common
    first, second = (here, there) if changed else (there, here)
    found = list(first)
    for n, id in enumerate(second):
        if id in found:
            continue
        before = [found.index(k) for k in second[:n] if k in found]
        found.insert(max(before, default=-1) + 1, id)
    return found

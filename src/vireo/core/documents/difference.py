"""What differs between two states of a document, in the words of the engineer, and putting the changes
of two together. Works on what is stored, so that every kind of document has it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from vireo.core.declared.fields import told_of
from vireo.core.declared.step import KINDS
from vireo.core.documents.base import Choice, Document, dump
from vireo.core.documents.content import content_of
from vireo.core.documents.kind import kind_of
from vireo.core.documents.members import driven

Json = dict[str, Any]
Sign = Literal["added", "removed", "changed", "moved"]

#: Fields of documents that hold named things and are no group of their kind: what one is called.
_WORDS = {
    "parameters": "parameter",
    "properties": "property",
    "views": "kept view",
    "looks": "look of a body",
}
#: What no engineer asks about: counters and what a document stands as, which is told by its name.
_QUIET = ("schema_version", "last_id", "kind", "active")
_MANY = 3
#: Stored names that are letters.
_SHORT = {"p": "position", "q": "turn (w, x, y, z)", "a": "one end", "b": "other end"}


@dataclass(frozen=True)
class Aspect:
    """What of a thing differs: how that is called, as it was and as it is now."""

    label: str
    before: str
    after: str


@dataclass(frozen=True)
class Difference:
    """A thing that differs: in which field of the document it is kept (empty: it is one of the
    document's own), what it is and is called, and how it differs."""

    group: str
    word: str
    id: str
    name: str
    sign: Sign
    aspects: tuple[Aspect, ...] = ()

    @property
    def said(self) -> str:
        """In one line."""
        if self.sign == "moved":
            return f"{self.name} moved in the order"
        if self.sign != "changed":
            return f"{self.sign} {self.word} {self.name}".replace("  ", " ")
        first = self.aspects[0]
        rest = f" and {len(self.aspects) - 1} more" if len(self.aspects) > 1 else ""
        change = f"{first.before or 'nothing'} → {first.after or 'nothing'}"
        label = f"{first.label} " if first.label else ""
        return f"{self.name}: {label}{change}{rest}"


def in_words(found: Sequence[Difference]) -> str:
    """A whole change in one line."""
    said = "; ".join(d.said for d in found[:_MANY])
    return f"{said}; and {len(found) - _MANY} more" if len(found) > _MANY else said


def differences(before: Document, after: Document) -> list[Difference]:
    """What differs, the document's own fields first, then its things in the order they stand."""
    old, new = _by_names(before), _by_names(after)
    words = words_of(after)
    ordered = {g.name for g in kind_of(after).groups if g.ordered}
    found: list[Difference] = []
    own: list[Aspect] = []
    for field in new:
        if field in _QUIET or old.get(field) == new[field]:
            continue
        if things(old.get(field)) and things(new[field]):
            word = words.get(field, field.replace("_", " "))
            found += _of_things(field, word, old[field], new[field], field in ordered)
        else:
            own += _aspects(label_of(field), old.get(field), new[field])
    for aspect in own:
        kept = Aspect("", aspect.before, aspect.after)
        found.insert(0, Difference("", "", "", aspect.label, "changed", (kept,)))
    return found


class _Said(str):
    """A key that is a name somebody gave."""

    __slots__ = ()


def _by_names(document: Document) -> Json:
    """A document's data with columns of the variants by what they drive, and values of options by name."""
    data = dump(document)
    names: dict[str, str] = {}
    for column, stored in zip(document.columns, data["columns"], strict=True):
        found = driven(document, column)
        names[column.id] = stored["name"] = found.name if found is not None else "gone"

    def cells(item: Json) -> Json:
        return {_Said(names.get(k, k)): v for k, v in item["cells"].items()}

    for variant in data["variants"]:
        variant["cells"] = cells(variant)
    for option in data["options"]:
        option["values"] = {_Said(v["name"]): cells(v) for v in option["values"]}
    return data


def words_of(document: Document) -> dict[str, str]:
    """What the things of a document are called, by the field that holds them."""
    return _WORDS | {g.name: g.word for g in kind_of(document).groups}


def builds_alike(before: Document, after: Document) -> bool:
    """Whether nothing that decides how it is built differs."""
    return content_of(before) == content_of(after)


def key_of(thing: Json) -> str:
    """What a thing of a list is told apart by."""
    return str(thing.get("id") or thing.get("body") or thing.get("name"))


def things(data: Any) -> bool:
    """Whether it is a list of things that are told apart by what they are called."""
    return isinstance(data, list) and all(
        isinstance(x, dict) and any(k in x for k in ("id", "name", "body")) for x in data
    )


def _of_things(
    group: str, word: str, old: Sequence[Json], new: Sequence[Json], ordered: bool
) -> Iterator[Difference]:
    was, now = {key_of(x): x for x in old}, {key_of(x): x for x in new}
    for key, thing in was.items():
        if key not in now:
            yield Difference(group, word, key, named(thing), "removed")
    moved = _moved([k for k in was if k in now], [k for k in now if k in was]) if ordered else set()
    for key, thing in now.items():
        if key not in was:
            yield Difference(group, word, key, named(thing), "added", _shown(thing))
        elif thing != was[key]:
            aspects = tuple(_of_thing(was[key], thing))
            yield Difference(group, word, key, named(thing), "changed", aspects)
        if key in moved:
            yield Difference(group, word, key, named(thing), "moved")


def _moved(was: Sequence[str], now: Sequence[str]) -> set[str]:
    """Those of an order that have to be moved to make another of it: the fewest."""
    place = {k: i for i, k in enumerate(now)}
    # The longest run that stands in the same order in both.
    runs: list[list[str]] = []
    for key in was:
        before: list[str] = []
        for run in runs:
            if place[run[-1]] < place[key] and len(run) > len(before):
                before = run
        runs.append([*before, key])
    stays: list[str] = []
    for run in runs:
        stays = run if len(run) > len(stays) else stays
    return set(was) - set(stays)


def named(thing: Json) -> str:
    """What a thing is called."""
    return str(thing.get("name") or thing.get("body") or thing.get("id") or "")


def _shown(thing: Json) -> tuple[Aspect, ...]:
    """What is told of a new thing: the formula of a parameter, the limit of a check."""
    for key in ("formula", "limit", "value"):
        if isinstance(thing.get(key), str) and thing[key]:
            return (Aspect("", "", thing[key]),)
    return ()


def _of_thing(old: Json, new: Json) -> Iterator[Aspect]:
    labels = _labels(new)
    for key in new:
        if old.get(key) == new[key]:
            continue
        if key == "fields" and isinstance(new[key], dict):
            before, after = old.get(key) or {}, new[key]
            for name in {**before, **after}:
                if before.get(name) != after.get(name):
                    label, words = labels.get(name, (label_of(name), {}))
                    yield from _aspects(label, before.get(name), after.get(name), words)
        else:
            yield from _aspects("" if key == "formula" else label_of(key), old.get(key), new[key])


def _labels(thing: Json) -> dict[str, tuple[str, Mapping[str, str]]]:
    """How the fields of a step are called, and the words of what is chosen in them."""
    kind = KINDS.get(str(thing.get("kind")))
    if kind is None:
        return {}
    told = told_of(kind.Fields)
    return {n: (t.get("label", label_of(n)), t.get("words") or {}) for n, t in told.items()}


def label_of(name: str) -> str:
    """How a stored field is called where nobody gave it a label."""
    return _SHORT.get(name, name).replace("_", " ").capitalize()


def _aspects(
    label: str, old: Any, new: Any, words: Mapping[str, str] | None = None
) -> Iterator[Aspect]:
    if isinstance(old, dict) and isinstance(new, dict) and not plain(old) and not plain(new):
        for key in {**old, **new}:
            if old.get(key) != new.get(key):
                told = key if isinstance(key, _Said) else label_of(str(key)).lower()
                yield from _aspects(f"{label} · {told}", old.get(key), new.get(key))
        return
    before, after = read(old, words), read(new, words)
    yield Aspect(label, before, after if after != before else f"{after}, changed")


def plain(data: Json) -> bool:
    """Whether it is read as a whole: a number as typed, a drawing, a pick."""
    return (
        "formula" in data
        or "entities" in data
        or "curves" in data
        or {"kind", "name"} <= data.keys()
    )


def read(data: Any, words: Mapping[str, str] | None = None) -> str:
    """A stored value in few words."""
    if data is None or data in ("", []):
        return ""
    if isinstance(data, bool):
        return "yes" if data else "no"
    if isinstance(data, str):
        return (words or {}).get(data, data)
    if isinstance(data, int | float):
        return f"{data:g}"
    if isinstance(data, dict):
        if "formula" in data:
            return str(data["formula"])
        if "variant" in data and "options" in data:
            return "another member" if data != Choice().model_dump(mode="json") else "as drawn"
        curves = data.get("entities", data.get("curves"))
        if curves is not None:
            return f"{len(curves)} curves"
        return "one pick" if {"kind", "name"} <= data.keys() else f"{len(data)} entries"
    if all(isinstance(x, str | int | float) for x in data):
        return ", ".join(read(x, words) for x in data)
    picks = all(isinstance(x, dict) and {"kind", "name"} <= x.keys() for x in data)
    count = len(data)
    return f"{count} {'pick' if picks else 'entry' if count == 1 else 'entries'}{'s' if picks and count > 1 else ''}"

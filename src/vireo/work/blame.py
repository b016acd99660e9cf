"""Which change broke a check: from what it found before and after, and what was changed in between."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from vireo.core.checks.kind import judge
from vireo.core.documents.members import applied
from vireo.core.trouble import NotAllowed, Trouble
from vireo.store import DocumentRecord, Store
from vireo.work.builds import Builds
from vireo.work.checks import HEAVY, Asking, Checks, cost_of, kind_of_check, variant_of
from vireo.work.jobs import Jobs


@dataclass(frozen=True)
class Made:
    """A change: the revision of a document it made, its words and when."""

    document: str
    revision: int
    label: str
    created: float


@dataclass(frozen=True)
class Blame:
    """`between` are the changes after which a check that held did not, the first made first; `broke` is
    the one that is known to have done it. `why` says what else there is to say."""

    between: tuple[Made, ...] = ()
    broke: Made | None = None
    why: str = ""


class Pinned:
    """A store where some documents stand at revisions of before."""

    def __init__(self, store: Store, pins: Mapping[str, int]) -> None:
        self._store, self._pins = store, dict(pins)

    def heads(self, project: str) -> dict[str, int]:
        heads = self._store.heads(project)
        return heads | {id: n for id, n in self._pins.items() if id in heads}

    def document(self, id: str, revision: int | None = None) -> DocumentRecord:
        return self._store.document(id, self._pins.get(id) if revision is None else revision)

    def __getattr__(self, name: str) -> Any:
        """The rest (documents by their revisions, materials, files) is as it is stored."""
        return getattr(self._store, name)


def changes_between(
    store: Store, before: Mapping[str, int], after: Mapping[str, int]
) -> tuple[dict[str, int], list[Made]]:
    """What was changed from one state of documents to another: where each stood last that both come
    from, and the changes since, the first made first."""
    start, found = dict(before), []
    for id, number in after.items():
        if id not in before or before[id] == number:
            start.setdefault(id, number)
            continue
        rows = {r["number"]: r for r in store.revisions(id)}
        mine = _line(rows, before[id])
        at: int | None = number
        while at is not None and at not in mine:
            row = rows[at]
            found.append(Made(id, at, row["label"], row["created"]))
            at = row["parent"]
        start[id] = at if at is not None else number
    return start, sorted(found, key=lambda m: (m.created, m.revision))


def _line(rows: Mapping[int, Mapping[str, Any]], number: int) -> set[int]:
    line: set[int] = set()
    at: int | None = number
    while at is not None and at in rows:
        line.add(at)
        at = rows[at]["parent"]
    return line


class Blaming:
    def __init__(self, store: Store, builds: Builds, jobs: Jobs, checks: Checks) -> None:
        self._store, self._builds, self._jobs, self._checks = store, builds, jobs, checks

    def blame(self, document: str, check: str, find: bool = False) -> Blame:
        """Which change broke a check of a document as it stands; with `find` the states in between are
        built until that is known."""
        record = self._store.document(document)
        mine = variant_of(record.document)
        rows = [r for r in self._checks.history(document, check) if r.variant == mine]
        if not rows or rows[-1].answer["state"] == "holds":
            return Blame(why="it holds")
        bad = len(rows) - 1
        while bad > 0 and rows[bad - 1].answer["state"] != "holds":
            bad -= 1
        if bad == 0:
            return Blame(why="it has not held since it was first run")
        good, first = rows[bad - 1], rows[bad]
        if not good.reached:
            return Blame(why="what it hung on when it last held was not kept then")
        start, between = changes_between(self._store, good.reached, first.reached)
        if not between:
            return Blame(
                why="no document was changed: materials were, or one went back to what it was"
            )
        if len(between) == 1:
            return Blame((between[0],), between[0])
        if find:
            return self._found(record, check, start, between)
        return Blame(tuple(between))

    def _found(
        self, record: DocumentRecord, check: str, start: dict[str, int], between: Sequence[Made]
    ) -> Blame:
        if cost_of(self._checks.one(record.id, check)) >= HEAVY:
            raise NotAllowed(
                "this check takes a run of its own at every state: go back to one of the changes, and look"
            )

        def holds(count: int) -> bool:
            return self._holds(record, check, start, between[:count])

        if not holds(0):
            return Blame(
                tuple(between),
                why="it did not hold where these changes began: a change was taken back",
            )
        good, bad = 0, len(between)
        while bad - good > 1:
            middle = (good + bad) // 2
            good, bad = (middle, bad) if holds(middle) else (good, middle)
        return Blame(tuple(between), between[bad - 1])

    def _holds(
        self, record: DocumentRecord, check: str, start: dict[str, int], made: Sequence[Made]
    ) -> bool:
        pins = dict(start)
        for change in made:
            pins[change.document] = change.revision
        store: Any = Pinned(self._store, pins)
        builds = self._builds.on(store)
        then = store.document(record.id)
        then = replace(then, document=applied(then.document, record.document.active))
        asked = next((c for c in then.document.checks if c.id == check), None)
        asked = asked or self._checks.one(record.id, check)
        names = builds.values(then)
        asking = Asking(then, builds, self._jobs, names, wait=False)
        try:
            value = kind_of_check(asked).measure(asked, asking)
            return bool(judge(asked, value, names)["state"] == "holds")
        except Trouble:
            return False

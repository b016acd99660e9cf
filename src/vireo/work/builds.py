"""Builds of documents: what goes to a worker, what to do when one is lost, answers kept."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Mapping
from contextlib import suppress
from copy import copy
from dataclasses import dataclass, field
from difflib import get_close_matches
from functools import cached_property
from pathlib import Path
from typing import Any

from vireo import __version__
from vireo.core.digest import digest
from vireo.core.documents import Document, kind_of
from vireo.core.documents.base import Choice, key_parts, member_key
from vireo.core.documents.commands import apply_all
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.documents.kinds.part import as_part
from vireo.core.documents.members import applied, called, checked
from vireo.core.lately import Lately
from vireo.core.material import LIBRARY, Material, find
from vireo.core.measure.mass import dimension_weighed
from vireo.core.quantity import Quantity, evaluate_parameters
from vireo.core.trouble import BadInput, NotAllowed
from vireo.store import DocumentRecord, NotFound, Store
from vireo.work.events import Events
from vireo.work.lanes import Cancelled, Queue, WorkerLost
from vireo.work.userkinds import Stamp, put_in, stamp_of


@dataclass(frozen=True)
class Project:
    """What the kinds of documents may ask of the project a document stands in. `extra` are
    documents by id that are only tried out, and kept nowhere."""

    store: Store
    project: str
    known: Callable[[str], tuple[Material, ...]]
    doomed: Mapping[str, str]
    extra: Mapping[str, Document] = field(default_factory=dict)

    def other(self, id: str) -> Document | None:
        """A document as drawn, or the member of it that a key (`documents.base.member_key`) says;
        None for a member that is not there, too."""
        own, choice = key_parts(id)
        if own in self.extra and choice.revision is None:
            document: Document | None = self.extra[own]
        else:
            document = self._at(own, choice.revision)
        if document is None or document.active == choice.member:
            return document
        if id not in self._members:
            try:
                self._members[id] = applied(document, choice)
            except BadInput:
                self._members[id] = None
        return self._members[id]

    def _at(self, id: str, pinned: int | None) -> Document | None:
        """A document where it stands, or where it is pinned; None where it is not there."""
        newest = self._heads.get(id)
        if newest is None:
            return None
        try:
            return self.store.document_at(id, pinned or newest)
        except NotFound:
            return None

    @cached_property
    def _members(self) -> dict[str, Document | None]:
        """Each worked out once: lists ask for every name on the way to a part."""
        return {}

    @cached_property
    def _heads(self) -> dict[str, int]:
        """Asked once: an assembly reaches many documents."""
        return self.store.heads(self.project)

    @cached_property
    def _known(self) -> tuple[Material, ...]:
        return self.known(self.project)

    def materials(self, ids: set[str]) -> dict[str, dict[str, Any]]:
        found = {id: find(id, self._known) for id in sorted(ids)}
        return {id: m.model_dump() for id, m in found.items() if m}


class Builds:
    """Asks workers to build documents. Answers are plain JSON."""

    def __init__(
        self, store: Store, queue: Queue, events: Events, steps: Path | None = None
    ) -> None:
        self._store = store
        self._steps = steps
        self._values = Lately[tuple[str, str], dict[str, Quantity]](64)
        #: Builds that look for what would fit, by document: set to stop them.
        self._searches: dict[str, threading.Event] = {}
        self._stamp: Stamp = ()
        self._told: dict[str, Any] = {"kinds": [], "troubles": []}
        self._renewing = threading.Lock()
        self._queue = queue
        self._events = events
        #: Step keys that took a worker down, with what to tell.
        self._doomed: dict[str, str] = {}
        #: Which document's worker holds a body in memory: what is left when the disk is full.
        self._home: OrderedDict[str, str] = OrderedDict()

    def on(self, store: Store) -> Builds:
        """The same workers and kept answers on another store."""
        other = copy(self)
        other._store = store
        other._values = Lately(64)
        return other

    def user_kinds(self) -> list[dict[str, Any]]:
        """Have the user's own kinds of step in the registry as their files are now; what is
        wrong with files. A worker reads them: they are never run here."""
        with self._renewing:
            stamp = stamp_of(self._steps)
            if stamp != self._stamp:
                self._told = self._queue.call("user_kinds", {}, lane="background", seconds=20)
                put_in(self._told["kinds"])
                self._stamp = stamp
            troubles: list[dict[str, Any]] = self._told["troubles"]
            return troubles

    @property
    def standing(self) -> str:
        """What else decides how documents build: the files of the user's own kinds of step, and
        the steps that are not tried again."""
        return repr([stamp_of(self._steps), sorted(self._doomed)])

    def materials(self, project: str) -> tuple[Material, ...]:
        """The project's own materials, then the library."""
        own = self._store.settings(project).get("materials", [])
        return (*(Material.model_validate(m) for m in own), *LIBRARY)

    def applied(
        self, record: DocumentRecord, commands: list[dict[str, Any]]
    ) -> tuple[Document, str]:
        """What a document is after commands, fit for its project, and their label. Raises
        BadInput and the troubles of the commands."""
        after, label = apply_all(record.document, commands)
        self.fits(record, after)
        return after, label

    def fits(self, record: DocumentRecord, after: Document) -> None:
        """That what a document would become is fit for its project. Raises BadInput or NotAllowed."""
        self._check_materials(record.project, record.document, after)
        self._check_circles(record, after)
        self._check_members(record, after)

    def _check_members(self, record: DocumentRecord, after: Document) -> None:
        """That a change takes no member away that stands somewhere, and speaks of none that is not there.
        Raises NotAllowed or BadInput with where and which."""
        before = record.document
        gone = {v.id for v in before.variants} - {v.id for v in after.variants}
        if gone or before.options != after.options:
            for other in self._store.documents_of(record.project):
                for name, id, choice in kind_of(other.document).chosen(other.document):
                    pinned = choice.revision is not None
                    if id != record.id or pinned or not _there(before, choice):
                        continue
                    if not _there(after, choice):
                        raise NotAllowed(
                            f"{called(before, choice)} stands in {other.document.name} as {name}; "
                            "choose another there first"
                        )
        fresh = [c for c in kind_of(after).chosen(after) if c not in kind_of(before).chosen(before)]
        others = self.around(record.project)
        for name, id, choice in fresh:
            document = others.other(member_key(id, Choice(revision=choice.revision)))
            if document is None and choice.revision and others.other(id) is not None:
                raise BadInput(f"{name}: there is no revision {choice.revision} of its document")
            if document is not None:
                try:
                    checked(document, choice)
                except BadInput as trouble:
                    raise BadInput(f"{name}: {trouble.text}") from trouble

    def _check_circles(self, record: DocumentRecord, after: Document) -> None:
        """That a change has no document contain itself. Raises BadInput with the way round."""
        others = self.around(record.project)

        def back(id: str, seen: set[str]) -> list[str] | None:
            """Names of documents from one that leads back here."""
            document = others.other(id)
            if document is None or id in seen:
                return None
            seen.add(id)
            for inner in sorted(kind_of(document).refers(document)):
                if inner == record.id:
                    return [document.name]
                if rest := back(inner, seen):
                    return [document.name, *rest]
            return None

        fresh = kind_of(after).refers(after) - kind_of(record.document).refers(record.document)
        for id in sorted(fresh):
            if id == record.id:
                raise BadInput(f"{after.name} cannot contain itself")
            if way := back(id, set()):
                inside = ", which contains ".join(f"“{n}”" for n in way)
                raise BadInput(
                    f"“{after.name}” would contain itself: {inside}, which contains “{after.name}”"
                )

    def _check_materials(self, project: str, before: Document, after: Document) -> None:
        """That a change names no material that is nowhere. Raises BadInput with what is near."""
        named = kind_of(after).materials(after) - kind_of(before).materials(before)
        if not named:
            return
        known = {m.id: m.name for m in self.materials(project)}
        for id in sorted(named - set(known)):
            meant = get_close_matches(id, known, 1, 0.5)
            hint = f"did you mean {meant[0]}?" if meant else f"there are {', '.join(sorted(known))}"
            raise BadInput(f"there is no material {id} in this project; {hint}", ["field:material"])

    def around(self, project: str, extra: Mapping[str, Document] | None = None) -> Project:
        """What a document of a project may ask of it."""
        return Project(self._store, project, self.materials, self._doomed, extra or {})

    def reached(self, record: DocumentRecord) -> dict[str, int]:
        """A document and all it follows, by the revisions they stand at. What it has pinned changes with
        itself alone; what that follows in turn is among them."""
        reached = {record.id: record.revision}
        waiting, pinned = [record.document], set[tuple[str, int]]()
        heads = self._store.heads(record.project)
        while waiting:
            document = waiting.pop()
            kind = kind_of(document)
            for id in kind.follows(document) & heads.keys() - reached.keys():
                reached[id] = heads[id]
                waiting.append(self._store.document_at(id, heads[id]))
            for _, id, choice in kind.chosen(document):
                if choice.revision is not None and (id, choice.revision) not in pinned:
                    pinned.add((id, choice.revision))
                    with suppress(NotFound):
                        waiting.append(self._store.document_at(id, choice.revision))
        return reached

    def state_of(self, project: str, reached: Mapping[str, int]) -> str:
        """What documents at these revisions come to, and what materials are: the same gives the same
        answers."""
        own = self._store.settings(project).get("materials", [])
        return digest([__version__, sorted(reached.items()), own, self.standing])

    def state(self, record: DocumentRecord) -> str:
        """What a document and all it reaches stand at."""
        return self.state_of(record.project, self.reached(record))

    def values(self, record: DocumentRecord) -> dict[str, Quantity]:
        """The parameters of a document that have values, and what is weighed. Kept: a drag asks at
        every place."""
        document = record.document
        weighs = isinstance(document, Assembly) and bool(document.weighed)

        def evaluated() -> dict[str, Quantity]:
            given = weighed_in(self.show(record.id, record.project, document)) if weighs else {}
            found = evaluate_parameters(document.parameters, given)
            return given | {n: e.value for n, e in found.items() if e.value is not None}

        # What is weighed hangs on all that is reached.
        state = self.state(record) if weighs else str(record.revision)
        return self._values.get((record.id, state), evaluated)

    def request(
        self,
        project: str,
        document: Document,
        upto: int | None = None,
        extra: Mapping[str, Document] | None = None,
    ) -> tuple[str, dict[str, Any]]:
        """Task and request that show a document."""
        return kind_of(document).request(document, self.around(project, extra), upto)

    def build(
        self, id: str, revision: int | None = None, upto: int | None = None
    ) -> dict[str, Any]:
        """The build of a stored revision. Bodies that cannot be built any more are told as they
        last were, under ``past``."""
        record = self._store.document(id, revision)
        found = self.show(id, record.project, record.document, upto)
        broken = any(s["status"] == "failed" for s in found.get("steps", ()))
        past = self._past(record, found) if broken and upto is None else []
        return {**found, "revision": record.revision, "past": past}

    def _past(self, record: DocumentRecord, found: dict[str, Any]) -> list[dict[str, Any]]:
        there = {b["id"] for b in found["bodies"]}
        for older in self._before(record.id, record.revision)[:8]:
            task, request = self.request(record.project, older.document)
            built = self.run(task, request, sticky=record.id)
            if not any(s["status"] == "failed" for s in built["steps"]):
                return [b for b in built["bodies"] if b["id"] not in there]
        return []

    def _before(self, id: str, revision: int) -> list[DocumentRecord]:
        """The revisions a document came from, newest first."""
        parents = {r["number"]: r["parent"] for r in self._store.revisions(id)}
        found: list[DocumentRecord] = []
        number = parents.get(revision)
        while number is not None and len(found) < 30:
            found.append(self._store.document(id, number))
            number = parents.get(number)
        return found

    def ghost(self, id: str, step: str, pick: dict[str, Any]) -> list[Any]:
        """Lines of what a lost pick of a step last stood for; none when no revision knows it."""
        record = self._store.document(id)
        for older in self._before(id, record.revision):
            part = as_part(older.document, "only the picks of a part are looked for this way")
            at = next((k for k, s in enumerate(part.steps) if s.id == step), len(part.steps))
            ask = {**self.request(record.project, part, at)[1], "pick": pick}
            lines: list[Any] | None = self.run("ghost", ask, sticky=id)
            if lines:
                return lines
        return []

    def alike(self, id: str, step: str, old: Any, new: Any) -> list[dict[str, Any]]:
        """Other lost picks of a part that go the same way when one is put in another's place."""
        record = self._store.document(id)
        part = as_part(record.document, "only the picks of a part are mended this way")
        ask = {**self.request(record.project, part)[1], "step": step}
        found: list[dict[str, Any]] = self.run("alike", {**ask, "old": old, "new": new}, sticky=id)
        return found

    def stop_search(self, id: str) -> bool:
        """Stop looking for what would fit in a document; False when nobody does."""
        event = self._searches.get(id)
        if event is not None:
            event.set()
        return event is not None

    def show(
        self,
        id: str,
        project: str,
        document: Document,
        upto: int | None = None,
        extra: Mapping[str, Document] | None = None,
    ) -> dict[str, Any]:
        """Build any document (stored or only tried out), surviving workers that die on it.

        While it looks for what would fit it can be stopped, and is by the next build of the same
        document: it then answers without.
        """
        task, request = self.request(project, document, upto, extra)
        self.stop_search(id)
        stop = threading.Event()

        def tell(news: dict[str, Any]) -> None:
            if "step" in news:
                searching = news.get("searching", False)
                if searching:
                    self._searches[id] = stop
                self._events.publish("building", id=id, step=news["step"], searching=searching)

        try:
            found: dict[str, Any] = self.run(task, request, sticky=id, progress=tell, cancel=stop)
        except Cancelled:
            _without_search(request)
            found = self.run(task, request, sticky=id)
        finally:
            if self._searches.get(id) is stop:
                del self._searches[id]
        for item in (*found.get("bodies", ()), *found.get("leaves", ())):
            self._home[item["key"]] = id
        while len(self._home) > 5000:
            self._home.popitem(last=False)
        return found

    def mesh(self, key: str) -> bytes:
        """The view buffer of a body. Raises TaskTrouble when it is kept nowhere."""
        found: bytes = self._queue.call("mesh", {"key": key}, sticky=self._home.get(key))
        return found

    def map(self, key: str, kind: str, way: tuple[float, float, float], name: str) -> bytes:
        """A map of a body, kept on disk by a name. Raises TaskTrouble when the body is gone."""
        ask = {"key": key, "kind": kind, "way": way, "name": name}
        found: bytes = self._queue.call("map", ask, sticky=self._home.get(key))
        return found

    def run(self, task: str, request: dict[str, Any], sticky: str | None, **how: Any) -> Any:
        """Run a task; a step that takes its worker down is marked and the rest built again.

        A worker that was lost for no step's fault (ended from outside) is tried once more.
        """
        blameless = 0
        for _ in range(6):
            try:
                return self._queue.call(task, request, sticky=sticky, **how)
            except WorkerLost as lost:
                key = lost.news.get("key")
                if key is None:
                    blameless += 1
                    if blameless > 1 or not lost.crashed:
                        raise
                    continue
                self._doomed[key] = f"{lost.text} while this step was built; change it or try again"
                _mark(request, self._doomed)
        raise WorkerLost("the geometry kernel was lost again and again on this document")

    def machines(self) -> int | None:
        """How many machines of a cluster take jobs; None where they are done here."""
        return self._queue.machines()

    def topology(self, key: str) -> dict[str, Any]:
        """What the faces, edges and corners of a kept body are."""
        found: dict[str, Any] = self._queue.call("topology", {"key": key})
        return found

    def forgive(self) -> None:
        """Let steps that took a worker down be tried again."""
        self._doomed.clear()


def _there(document: Document, choice: Choice) -> bool:
    try:
        checked(document, choice)
    except BadInput:
        return False
    return True


def _without_search(request: dict[str, Any]) -> None:
    """Have every part request inside go without looking for what would fit."""
    if "doomed" in request:
        request["search"] = False
    for value in request.values():
        if isinstance(value, dict):
            _without_search(value)


def _mark(request: dict[str, Any], doomed: dict[str, str]) -> None:
    """Put the doomed steps into every part request inside."""
    if "doomed" in request:
        request["doomed"] = dict(doomed)
    for value in request.values():
        if isinstance(value, dict):
            _mark(value, doomed)


def weighed_in(built: Mapping[str, Any]) -> dict[str, Quantity]:
    """The numbers a built assembly weighed, by name."""
    return {
        w["name"]: Quantity(w["value"], dimension_weighed(w["what"]))
        for w in built.get("weighed", ())
        if w["value"] is not None
    }

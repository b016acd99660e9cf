"""Running scripts: a process of its own asks, this side answers on unkept of the documents.

Nothing is kept until a script has run to its end; each document it changed then gets one
revision.
"""

from __future__ import annotations

import json
import os
import selectors
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from difflib import get_close_matches
from math import degrees
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from vireo.core.declared.reading import unreadable
from vireo.core.documents import DOCUMENT_KINDS, Document, dump, kind_of, new_document
from vireo.core.documents.commands import apply_all
from vireo.core.documents.kinds.part import as_part
from vireo.core.naming import Topology, make_pick
from vireo.core.naming.pick import PickKind
from vireo.core.quantity import Quantity, evaluate_parameters
from vireo.core.quantity.units import ANGLE
from vireo.core.sketch import Drawing, solve_drawing
from vireo.core.sketch.constraints import KINDS as CONSTRAINTS
from vireo.core.sketch.tools import TOOLS, Spot, ToolTrouble, use
from vireo.core.trouble import BadInput, Trouble
from vireo.core.viewmesh import topology_from
from vireo.store import DocumentRecord, NotFound, Store
from vireo.store.store import Change, new_id
from vireo.work.builds import Builds

SECONDS = 120.0
MEMORY = 1024**3
MOST_ASKED = 50_000

Say = Callable[[str, int], None]
Applied = Callable[[DocumentRecord, list[dict[str, Any]]], tuple[Document, str]]
#: Makes a file's content of a document's build: builds, record, ending, deviation.
Export = Callable[[Builds, DocumentRecord, str, float], bytes]


@dataclass
class Ran:
    """What became of a script. `printed` are texts with their lines; `changed` ids of documents
    it made or changed; `trouble` why it stopped and at which line (0: none known)."""

    printed: list[tuple[str, int]] = field(default_factory=list)
    changed: list[str] = field(default_factory=list)
    trouble: tuple[str, int] | None = None


class Unkept:
    """The store as a script sees it: what it changed lies over what is stored."""

    def __init__(self, store: Store, project: str) -> None:
        self._store, self.project = store, project
        self.changed: dict[str, Document] = {}
        self.made: list[str] = []
        self.base: dict[str, int] = {}
        self.commands: dict[str, list[dict[str, Any]]] = {}
        #: What a document is after commands, fit for its project.
        self.applied: Applied = lambda record, commands: apply_all(record.document, commands)

    def document(self, id: str, revision: int | None = None) -> DocumentRecord:
        if id in self.made:
            document = self.changed[id]
            return DocumentRecord(id, self.project, document.kind, 0, document)
        record = self._store.document(id, revision)
        if record.project != self.project:
            raise NotFound("there is no such document in this project")
        if revision is None and id in self.changed:
            return replace(record, document=self.changed[id])
        return record

    def heads(self, project: str) -> dict[str, int]:
        return {**self._store.heads(project), **dict.fromkeys(self.made, 0)}

    def document_at(self, id: str, revision: int) -> Document:
        return self.changed[id] if id in self.changed else self._store.document_at(id, revision)

    def documents(self) -> list[dict[str, str]]:
        stored = [
            (d.id, self.changed.get(d.id, d.document))
            for d in self._store.documents_of(self.project)
        ]
        every = [*stored, *((id, self.changed[id]) for id in self.made)]
        return [{"id": id, "kind": d.kind, "name": d.name} for id, d in every]

    def create(self, document: Document) -> str:
        id = new_id("d")
        self.made.append(id)
        self.changed[id] = document
        return id

    def do(self, id: str, command: dict[str, Any]) -> str | None:
        """Id of what the command made, or None."""
        record = self.document(id)
        before = record.document
        after, _ = self.applied(record, [command])
        self.base.setdefault(id, record.revision)
        self.changed[id] = after
        self.commands.setdefault(id, []).append(command)
        if after.last_id == before.last_id:
            return None
        every = (item.id for g in kind_of(after).groups for item in getattr(after, g.name))
        return next((i for i in every if i[1:] == str(after.last_id)), None)

    def keep(self, label: str) -> list[str]:
        """Put everything into the store; ids of what was made or changed.

        Raises Stale, with nothing kept, when a document was changed by somebody meanwhile.
        """
        changes = [
            Change(id, self.base[id], document, label, {"commands": self.commands[id]})
            for id, document in self.changed.items()
            if id not in self.made and document != self._store.document(id, self.base[id]).document
        ]
        made = [(id, self.changed[id]) for id in self.made]
        self._store.commit_all(self.project, made, changes)
        return [*self.made, *(c.id for c in changes)]

    def __getattr__(self, name: str) -> Any:
        """The rest (materials, files) is as it is stored."""
        return getattr(self._store, name)


def run_script(
    text: str, builds: Builds, store: Store, project: str, *, document: str | None = None,
    picks: list[dict[str, Any]] | None = None, folder: Path | None = None, say: Say | None = None,
    cancel: threading.Event | None = None, seconds: float = SECONDS, memory: int = MEMORY,
    label: str = "script", export: Export | None = None,
) -> Ran:  # fmt: skip
    """Run a script on a project; what it did is kept when it ran to its end, else nothing is.

    `picks` are what is picked in the open `document`. Never raises for what a script does.
    """
    ran = Ran()
    unkept = Unkept(store, project)
    over = builds.on(unkept)  # type: ignore[arg-type]
    unkept.applied = over.applied
    answers = _Answers(unkept, over, document, folder, export)
    (ours_in, theirs_out), (theirs_in, ours_out) = os.pipe(), os.pipe()
    process = subprocess.Popen(
        [sys.executable, "-I", "-m", "vireo.script.sandbox", str(theirs_in), str(theirs_out)],
        pass_fds=(theirs_in, theirs_out), stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL, env={"PATH": "", "LANG": "C.UTF-8"}, cwd="/",
    )  # fmt: skip
    os.close(theirs_in)
    os.close(theirs_out)
    job = {"text": text, "folder": str(folder) if folder else None, "seconds": seconds,
           "memory": memory, "picks": picks or []}  # fmt: skip
    # The script's own clock stops first and knows the line; this one is for when it cannot.
    deadline = time.monotonic() + seconds + 10.0
    try:
        with os.fdopen(ours_out, "w", encoding="utf-8") as out, os.fdopen(ours_in, "rb") as lines:
            _send(out, job)
            reader = _Lines(lines, deadline, cancel)
            while ran.trouble is None:
                message = reader.next()
                if isinstance(message, str):
                    ran.trouble = (message, answers.line)
                elif message["kind"] == "print":
                    ran.printed.append((message["text"], message["line"]))
                    if say:
                        say(message["text"], message["line"])
                elif message["kind"] == "failed":
                    ran.trouble = (message["text"], message["line"])
                elif message["kind"] == "done":
                    break
                else:
                    answer = answers.to(message)
                    # A script whose time ran out while it waited has said so and gone.
                    with suppress(BrokenPipeError):
                        _send(out, answer)
    finally:
        process.kill()
        process.wait()
    if ran.trouble is None:
        try:
            ran.changed = unkept.keep(label)
        except Trouble as trouble:
            ran.trouble = (f"what it did was not kept: {trouble.text}", 0)
    return ran


def _send(out: Any, data: Any) -> None:
    out.write(json.dumps(data) + "\n")
    out.flush()


class _Lines:
    """Messages from the script's process, or words for why there are no more."""

    def __init__(self, pipe: Any, deadline: float, cancel: threading.Event | None) -> None:
        self._pipe, self._deadline, self._cancel = pipe, deadline, cancel
        self._kept = b""
        self._ready = selectors.DefaultSelector()
        self._ready.register(pipe, selectors.EVENT_READ)

    def next(self) -> Any:
        while b"\n" not in self._kept:
            if self._cancel is not None and self._cancel.is_set():
                return "it was stopped"
            if time.monotonic() > self._deadline:
                return "it took too long and was stopped"
            if not self._ready.select(0.1):
                continue
            more = os.read(self._pipe.fileno(), 1 << 16)
            if not more:
                return (
                    "the script's process ended unexpectedly: out of memory, or ended from outside"
                )
            self._kept += more
            if len(self._kept) > 50_000_000:
                return "it sent more than can be taken in"
        line, _, self._kept = self._kept.partition(b"\n")
        try:
            return json.loads(line)
        except ValueError:
            return "it sent what cannot be read"


def _drawing(data: dict[str, Any]) -> Drawing:
    try:
        return Drawing.model_validate(data)
    except ValidationError as error:
        raise unreadable("this sketch", error) from error


def _text(value: Any, kind: str) -> str:
    """What is typed for a size of a tool: numbers in mm, degrees or plain, flags as yes."""
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, int | float):
        return f"{value!r}{ {'length': ' mm', 'angle': ' deg'}.get(kind, '') }"
    return str(value)


class _Answers:
    """What a script may ask: one method each."""

    def __init__(
        self, unkept: Unkept, builds: Builds, current: str | None, folder: Path | None,
        export: Export | None,
    ) -> None:  # fmt: skip
        self._unkept, self._builds, self._current = unkept, builds, current
        self._folder, self._export = folder, export
        self._asked = 0
        self.line = 0

    def to(self, message: dict[str, Any]) -> dict[str, Any]:
        self.line = int(message.get("line", 0))
        self._asked += 1
        if self._asked > MOST_ASKED:
            return {"refused": f"a script may ask for {MOST_ASKED} things at most"}
        method = getattr(self, f"on_{message.get('method')}", None)
        if method is None:
            return {"refused": f"there is nothing called {message.get('method')}"}
        try:
            return {"value": method(**message.get("given", {}))}
        except Trouble as trouble:
            return {"refused": trouble.text}
        except TypeError as error:
            return {"refused": f"{message.get('method')}: {error}"}

    def on_documents(self) -> Any:
        return self._unkept.documents()

    def on_current(self) -> Any:
        if self._current is None:
            return None
        record = self._unkept.document(self._current)
        return {"id": record.id, "kind": record.document.kind, "name": record.document.name}

    def on_create(self, kind: str, name: str, **given: Any) -> str:
        more = DOCUMENT_KINDS.called(kind).made(given, {})
        new = new_document(kind, name.strip(), **more)
        for other in kind_of(new).refers(new):
            self._unkept.document(other)
        return self._unkept.create(new)

    def on_do(self, id: str, command: dict[str, Any]) -> str | None:
        return self._unkept.do(id, command)

    def on_view(self, id: str) -> Any:
        return dump(self._unkept.document(id).document)

    def on_values(self, id: str) -> dict[str, float]:
        found = evaluate_parameters(self._unkept.document(id).document.parameters)
        return {
            n: degrees(e.value.working) if e.value.dimension == ANGLE else e.value.working
            for n, e in found.items()
            if e.value is not None
        }

    def _quantities(self, id: str | None) -> dict[str, Quantity]:
        if id is None:
            return {}
        found = evaluate_parameters(self._unkept.document(id).document.parameters)
        return {n: e.value for n, e in found.items() if e.value is not None}

    def on_solve(self, drawing: dict[str, Any], id: str | None = None) -> Any:
        solved = solve_drawing(_drawing(drawing), self._quantities(id))
        angles = {
            c.id
            for c in solved.drawing.constraints
            if (kind := CONSTRAINTS.get(c.type)) is not None and kind.dimension == ANGLE
        }
        return {
            "entities": [e.model_dump(mode="json") for e in solved.drawing.entities],
            "holds": solved.holds, "freedom": solved.freedom, "loose": solved.loose,
            "values": {k: degrees(v) if k in angles else v for k, v in solved.values.items()},
            "troubles": [t.text for t in solved.troubles],
        }  # fmt: skip

    def on_draw(
        self, tool: str, drawing: dict[str, Any], spots: list[list[float]],
        sizes: dict[str, Any], selected: list[str], id: str | None = None,
    ) -> Any:  # fmt: skip
        kind = TOOLS.get(tool)
        if kind is None:
            meant = get_close_matches(tool, TOOLS, 1, 0.6)
            hint = f"did you mean {meant[0]}?" if meant else f"there are {', '.join(sorted(TOOLS))}"
            raise BadInput(f"there is no sketch tool called {tool}; {hint}")
        kinds = {s.name: s.kind for s in kind.sizes}
        for name in sizes:
            if name not in kinds:
                there = ", ".join(kinds) or "none"
                raise BadInput(f"{tool} has no size {name}; its sizes: {there}")
        texts = {name: _text(value, kinds[name]) for name, value in sizes.items()}
        places = [Spot(at=(float(x), float(y))) for x, y in spots]
        try:
            made = use(tool, _drawing(drawing), places, texts, selected, self._quantities(id))
        except ToolTrouble as trouble:
            raise BadInput(f"{tool}: {trouble.text}") from trouble
        solved = solve_drawing(made.drawing, self._quantities(id)).drawing
        return solved.model_dump(mode="json", include={"entities", "constraints", "links"})

    def _sketched(self, id: str, sketch: str) -> Any:
        record = self._unkept.document(id)
        as_part(record.document, "only parts hold sketches")
        built = self._builds.show(id, record.project, record.document)
        found = next((s for s in built["steps"] if s["id"] == sketch), None)
        if found is None or not found.get("sketch"):
            why = found["error"]["text"] if found and found["error"] else "it is no sketch"
            raise BadInput(f"{sketch} has no curves to speak of: {why}")
        return found["sketch"]

    def on_regions(self, id: str, sketch: str) -> Any:
        shown = ("id", "area", "at", "depth", "curves")
        return [{k: r[k] for k in shown} for r in self._sketched(id, sketch)["regions"]]

    def on_outlines(self, id: str, sketch: str) -> Any:
        shown = ("id", "area", "at", "depth", "curves")
        return [{k: w[k] for k in shown} for w in self._sketched(id, sketch)["wholes"]]

    def on_curves(self, id: str, sketch: str) -> Any:
        return self._sketched(id, sketch)["curves"]

    def on_build(self, id: str) -> Any:
        record = self._unkept.document(id)
        part = as_part(record.document, "only parts are built by a script")
        built = self._builds.show(id, record.project, part)
        names = {s.id: s.name for s in part.steps}
        return {
            "steps": [{"id": s["id"], "name": names[s["id"]], "status": s["status"],
                       "error": s["error"]["text"] if s["error"] else None} for s in built["steps"]],
            "bodies": [{k: b[k] for k in ("id", "key", "name", "mass", "volume")} for b in built["bodies"]],
            "mass": built["mass"], "volume": built["volume"],
        }  # fmt: skip

    def on_topology(self, key: str, body: str) -> Any:
        raw = self._builds.topology(key)
        topology: Topology = topology_from(raw)
        kinds: tuple[tuple[str, PickKind], ...] = (
            ("faces", "face"),
            ("edges", "edge"),
            ("vertices", "vertex"),
        )
        return {
            group: [
                {**item, "pick": make_pick(topology, body, kind, i).model_dump(mode="json")}
                for i, item in enumerate(raw[group])
            ]
            for group, kind in kinds
        }

    def on_export(self, id: str, file: str, deviation: float = 0.05) -> None:
        if self._folder is None or self._export is None:
            raise BadInput("this script has no folder of its own for files")
        path = (self._folder / file).resolve()
        if not path.is_relative_to(self._folder.resolve()) or path.is_dir():
            raise BadInput(f"{file} is outside the script's folder")
        ending = path.suffix.lstrip(".").lower()
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(self._export(self._builds, self._unkept.document(id), ending, deviation))

"""Scripts of projects: kept by name, run one at a time in a project, told live."""

from __future__ import annotations

import threading
from pathlib import Path
from typing import Any

from vireo.core.telling import Teller, script_of, variable_for
from vireo.core.trouble import BadInput, NotAllowed
from vireo.store import Store
from vireo.work.builds import Builds
from vireo.work.events import Events
from vireo.work.files import file_of
from vireo.work.scripting import Ran, run_script

MOST_SCRIPTS = 200


class Scripts:
    """`folder` holds a folder for each project, the only place its scripts can have files in."""

    def __init__(self, store: Store, builds: Builds, events: Events, folder: Path) -> None:
        self._store, self._builds, self._events = store, builds, events
        self._folder = folder
        self._lock = threading.Lock()
        self._running: dict[str, threading.Event] = {}

    def run(
        self, project: str, text: str, *, name: str, document: str | None,
        picks: list[dict[str, Any]], seconds: float,
    ) -> Ran:  # fmt: skip
        """Run a script on a project. What it prints is published as it comes, with its lines.

        Raises NotFound for no such project, NotAllowed while another script runs in it.
        """
        self._store.settings(project)  # raises NotFound before anything is made or run
        stop = threading.Event()
        with self._lock:
            if project in self._running:
                raise NotAllowed("a script is running in this project already; stop it first")
            self._running[project] = stop
        folder = self._folder / project
        folder.mkdir(parents=True, exist_ok=True)

        def say(text: str, line: int) -> None:
            self._events.publish("script", project=project, text=text, line=line)

        try:
            ran = run_script(
                text, self._builds, self._store, project, document=document, picks=picks,
                folder=folder, say=say, cancel=stop, seconds=seconds, label=f"script {name}".strip(),
                export=file_of,
            )  # fmt: skip
        finally:
            with self._lock:
                self._running.pop(project, None)
        known = {p.id: p.revision for p in self._store.documents_of(project)}
        for id in ran.changed:
            self._events.publish("document", id=id, revision=known[id], project=project)
        if ran.changed:
            self._events.publish("shelf")
        return ran

    def stop(self, project: str) -> bool:
        """Stop the script that runs in a project; False when none does."""
        with self._lock:
            event = self._running.get(project)
        if event is not None:
            event.set()
        return event is not None

    def kept(self, project: str) -> list[dict[str, str]]:
        """Scripts kept in a project, by name."""
        found: dict[str, str] = self._store.settings(project).get("scripts", {})
        return [{"name": n, "text": found[n]} for n in sorted(found)]

    def keep(self, project: str, name: str, text: str | None) -> None:
        """Keep a script under a name; None takes it away."""
        settings = self._store.settings(project)
        found = dict(settings.get("scripts", {}))
        if text is None:
            found.pop(name, None)
        else:
            if name not in found and len(found) >= MOST_SCRIPTS:
                raise BadInput(f"a project keeps at most {MOST_SCRIPTS} scripts")
            found[name] = text
        self._store.set_settings(project, {**settings, "scripts": found})

    def of_document(self, id: str, since: int | None = None) -> str:
        """The script that makes a document, or the one that does again what was done to it since
        a revision."""
        if since is None:
            record = self._store.document(id)
            others = {r.id: r.document.name for r in self._store.documents_of(record.project)}
            names = {i: f"project.document({n!r}).id" for i, n in others.items() if i != id}
            return script_of([(id, record.document)], names)
        before, commands = self._store.commands_since(id, since)
        if not commands:
            return ""
        v = variable_for(before.document.name)
        teller = Teller(v, before.document.kind)
        teller.starts_at(before.document.last_id)
        return "\n".join([f"{v} = project.current", *teller.lines(commands)]) + "\n"

    def of_project(self, id: str) -> str:
        """The script that makes all documents of a project."""
        return script_of([(r.id, r.document) for r in self._store.documents_of(id)])

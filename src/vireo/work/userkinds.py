"""Step kinds of the user's own: a folder of Python files, one kind a file.

The files are run in workers only. The web process knows the kinds by what a worker tells of
them: stand-ins with the same fields, which are never built.
"""

from __future__ import annotations

import hashlib
import importlib
import importlib.util
import sys
import traceback
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from pydantic import create_model

from vireo.core.declared.fields import StepFields, redeclared
from vireo.core.declared.step import KINDS, StepKind, all_kinds, describe
from vireo.core.trouble import Report

PREFIX = "vireo_user_steps_"
#: Where what older files import by another name stands now.
MOVED = {
    "vireo.core.part.fields": "vireo.core.declared.fields",
    "vireo.core.part.kind": "vireo.core.declared.step",
}

Stamp = tuple[tuple[str, int, int], ...]


def stamp_of(folder: Path | None) -> Stamp:
    """What the folder's files are, so that a change is noticed without reading them."""
    if folder is None or not folder.is_dir():
        return ()
    found = [(p.name, p.stat()) for p in sorted(folder.glob("*.py"))]
    return tuple((name, s.st_mtime_ns, s.st_size) for name, s in found)


class Shelf:
    """The user's kinds as loaded into this process (a worker), renewed when files change."""

    def __init__(self, folder: Path | None) -> None:
        self.folder = folder
        self.troubles: list[Report] = []
        self._stamp: Stamp | None = None
        self._own: set[str] = set()

    def renew(self) -> None:
        """Load what is new or changed. A file that cannot be loaded leaves a trouble, no kind."""
        stamp = stamp_of(self.folder)
        if stamp == self._stamp or self.folder is None:
            return
        all_kinds()  # the kinds that come with the product are there first
        for name in self._own:
            KINDS.discard(name)
        self._own, self.troubles, self._stamp = set(), [], stamp
        for name, _, _ in stamp:
            before = set(KINDS)
            try:
                _load(self.folder / name, before)
            except Exception as error:  # whatever a person's file raises is told with its place
                for made in set(KINDS) - before:
                    KINDS.discard(made)
                self.troubles.append(_told(self.folder / name, error))
            self._own |= set(KINDS) - before

    def described(self) -> dict[str, Any]:
        """All that the web process needs of the kinds, and what is wrong with files."""
        kinds = [{**describe(KINDS[n]), "version": KINDS[n].version} for n in sorted(self._own)]
        return {"kinds": kinds, "troubles": [t.model_dump() for t in self.troubles]}


def _load(path: Path, before: set[str]) -> None:
    source = path.read_bytes()
    module_name = PREFIX + path.stem
    for was, now in MOVED.items():
        sys.modules.setdefault(was, importlib.import_module(now))
    spec = importlib.util.spec_from_file_location(module_name, path)
    assert spec is not None
    module = importlib.util.module_from_spec(spec)
    sys.modules[module_name] = module
    exec(compile(source, str(path), "exec"), module.__dict__)
    made = set(KINDS) - before
    if len(made) != 1:
        raise ValueError(f"a file registers one kind of step; this one registers {len(made)}")
    # Kept results of another state of the file must not be taken for this one's.
    kind = KINDS[made.pop()]
    type(kind).version = int(hashlib.sha256(source).hexdigest()[:12], 16)
    describe(kind)  # fails here, by name, rather than on the screen


def _told(path: Path, error: Exception) -> Report:
    lines = [f for f in traceback.extract_tb(error.__traceback__) if f.filename == str(path)]
    line = lines[-1].lineno if lines else getattr(error, "lineno", None)
    at = f" line {line}" if line else ""
    text = f"{path.name}{at}: {type(error).__name__}: {error}"
    return Report(code="user_step", text=text[:400], where=[f"file:{path.name}"])


class StandIn(StepKind[StepFields]):
    """A user's kind as the web process knows it."""


def stand_in(told: dict[str, Any]) -> StepKind[Any]:
    """A kind with the fields and words a worker told of."""
    own: dict[str, Any] = {f["name"]: redeclared(f) for f in told["fields"]}
    fields = create_model(f"{told['kind']}_fields", __base__=StepFields, **own)
    words = {k: told[k] for k in ("kind", "label", "group", "icon", "line", "copyable", "version")}
    made: StepKind[Any] = type(
        "StandIn", (StandIn,), {**words, "deciding": tuple(told["deciding"]), "Fields": fields}
    )()
    return made


def put_in(told: Sequence[dict[str, Any]]) -> None:
    """Make the registry of the web process hold exactly these kinds of the user's."""
    all_kinds()
    for name in [n for n, k in KINDS.items() if isinstance(k, StandIn)]:
        KINDS.discard(name)
    for one in told:
        if one["kind"] not in KINDS:
            KINDS.add(one["kind"], stand_in(one))

"""A whole project as one zip of plain, sorted JSON and files, and back to the same thing."""

from __future__ import annotations

import hashlib
import io
import json
import re
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from vireo.core.documents import load_document
from vireo.core.documents.base import Document, dump
from vireo.core.trouble import BadInput

FORMAT = 1
MOST_FILES = 5000
MOST_BYTES = 512 * 1024**2
MOST_RATIO = 200
_STAMP = (2000, 1, 1, 0, 0, 0)  # the same project gives the same bytes

Documents = dict[str, Document]


@dataclass(frozen=True)
class Kept:
    """A revision that is kept beside the newest: it is pinned somewhere, named, or approved (when)."""

    number: int
    document: Document
    version: str | None = None
    approved: float | None = None


@dataclass(frozen=True)
class History:
    """At which revision a document stands, what that is named and when it was approved, and which others
    are kept of it."""

    head: int
    kept: tuple[Kept, ...] = ()
    version: str | None = None
    approved: float | None = None


Histories = dict[str, History]


def write_archive(
    name: str,
    settings: Mapping[str, Any],
    documents: Sequence[tuple[str, Document]],
    files: Sequence[tuple[str, str, bytes]],
    histories: Mapping[str, History] | None = None,
) -> bytes:
    """The zip: project.json, documents/<id>.json, revisions/<id>/<number>.json, files/<sha256>."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as z:

        def put(path: str, data: bytes) -> None:
            z.writestr(zipfile.ZipInfo(path, _STAMP), data, zipfile.ZIP_DEFLATED)

        project = {
            "format": FORMAT,
            "name": name,
            "settings": dict(settings),
            "documents": [id for id, _ in documents],
            "files": {id: file for id, file, _ in files},
        }
        kept = {id: h for id, h in (histories or {}).items() if h.kept or h.version or h.approved}
        if kept:
            project["revisions"] = {
                id: {"head": h.head, "version": h.version, "approved": h.approved, "kept": [
                    {"number": k.number, "version": k.version, "approved": k.approved} for k in h.kept
                ]}
                for id, h in kept.items()
            }  # fmt: skip
        put("project.json", _json(project))
        for id, document in documents:
            put(f"documents/{id}.json", _json(dump(document)))
        for id, history in kept.items():
            for each in history.kept:
                put(f"revisions/{id}/{each.number}.json", _json(dump(each.document)))
        for id, _, data in files:
            put(f"files/{id}", data)
    return stream.getvalue()


def _json(data: Any) -> bytes:
    return (json.dumps(data, indent=1, sort_keys=True, ensure_ascii=False) + "\n").encode()


def read_archive(
    data: bytes,
) -> tuple[str, dict[str, Any], Documents, list[tuple[str, str, bytes]], Histories]:
    """Name, settings, documents, files and kept revisions of a zip made by `write_archive`.

    Raises BadInput for anything else: not a zip, too large once unpacked, unknown format,
    broken JSON, a file whose content is not what its name says.
    """
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
    except zipfile.BadZipFile as error:
        raise BadInput("this file is not a project zip") from error
    with archive as z:
        infos = z.infolist()
        total = sum(i.file_size for i in infos)
        if len(infos) > MOST_FILES or total > MOST_BYTES:
            raise BadInput(
                f"this zip unpacks to {total / 1024**2:.0f} MB in {len(infos)} files; "
                f"at most {MOST_BYTES // 1024**2} MB in {MOST_FILES} files are taken"
            )
        if total > MOST_RATIO * max(len(data), 1):
            raise BadInput("this zip unpacks to far more than it holds; it was not opened")
        project = _load(z, "project.json")
        if not isinstance(project, dict) or project.get("format") != FORMAT:
            raise BadInput("this zip holds no project of a format known here")
        documents: Documents = {}
        for id in project.get("documents", []):
            if not isinstance(id, str) or not re.fullmatch(r"[a-z][a-z0-9]{1,39}", id):
                raise BadInput("the zip names a document in a way that is not allowed")
            documents[id] = load_document(_load(z, f"documents/{id}.json"))
        files = []
        for id, file in dict(project.get("files", {})).items():
            content = _read(z, f"files/{id}")
            if hashlib.sha256(content).hexdigest() != id:
                raise BadInput(f"the file {file} in the zip is damaged")
            files.append((id, str(file), content))
        settings = project.get("settings") or {}
        histories = _histories(z, project.get("revisions"), documents)
        name = str(project.get("name") or "Project")
        return name, dict(settings), documents, files, histories


class _Mark(BaseModel):
    number: int = Field(ge=1)
    version: str | None = Field(default=None, max_length=80)
    approved: float | None = None


class _Marks(BaseModel):
    head: int = Field(ge=1)
    version: str | None = Field(default=None, max_length=80)
    approved: float | None = None
    kept: list[_Mark] = Field(max_length=MOST_FILES)


def _histories(z: zipfile.ZipFile, data: Any, documents: Documents) -> Histories:
    found: Histories = {}
    try:
        told = TypeAdapter(dict[str, _Marks]).validate_python(data or {})
    except ValidationError as error:
        raise BadInput("the zip tells of revisions in a way that is not known here") from error
    for id, marks in told.items():
        numbers = [k.number for k in marks.kept]
        if id not in documents or len({*numbers, marks.head}) != len(numbers) + 1:
            raise BadInput(
                "the zip tells of revisions of a document it does not hold, or of one twice"
            )
        kept = tuple(
            Kept(k.number, load_document(_load(z, f"revisions/{id}/{k.number}.json")), k.version, k.approved)
            for k in marks.kept
        )  # fmt: skip
        found[id] = History(marks.head, kept, marks.version, marks.approved)
    return found


def _read(z: zipfile.ZipFile, path: str) -> bytes:
    try:
        with z.open(path) as file:
            content = file.read(MOST_BYTES + 1)
    except (KeyError, zipfile.BadZipFile, RuntimeError, OSError) as error:
        raise BadInput(f"the zip lacks {path} or it is damaged") from error
    if len(content) > MOST_BYTES:
        raise BadInput(f"{path} in the zip is too large")
    return content


def _load(z: zipfile.ZipFile, path: str) -> Any:
    try:
        return json.loads(_read(z, path))
    except (ValueError, RecursionError) as error:
        raise BadInput(f"{path} in the zip is not readable JSON") from error

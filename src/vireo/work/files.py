"""Documents as files, by their ending."""

from __future__ import annotations

from typing import Any

from vireo.core.documents import DOCUMENT_KINDS, kind_of
from vireo.core.trouble import BadInput
from vireo.store import DocumentRecord
from vireo.work.builds import Builds


def file_of(
    builds: Builds, record: DocumentRecord, form: str, deviation: float, **more: Any
) -> bytes:
    """A document as a file: STEP, GLB, STL or 3MF; `deviation` in mm for the meshed ones, `more`
    what else a form takes.

    Raises BadInput for a form that is not written or does not go with the kind of document.
    """
    kind = kind_of(record.document)
    if form not in kind.exports:
        known = dict.fromkeys(f for k in DOCUMENT_KINDS.values() for f in k.exports)
        if form not in known:
            raise BadInput(f"{form} is not written; known: {', '.join(known)}")
        raise BadInput(f"{kind.article} is not written as {form}")
    task = kind.exports[form]
    _, ask = builds.request(record.project, record.document)
    data: bytes = builds.run(
        task, {**ask, "form": form, "deviation": deviation, **more}, sticky=None
    )
    return data

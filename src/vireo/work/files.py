"""Documents as files, by their ending."""

from __future__ import annotations

from vireo.core.documents import Assembly, Part
from vireo.core.trouble import BadInput
from vireo.store import DocumentRecord
from vireo.work.builds import Builds

FORMS = {
    "step": "part_step", "stl": "part_mesh", "stl-text": "part_mesh", "3mf": "part_mesh",
}  # fmt: skip


def file_of(builds: Builds, record: DocumentRecord, form: str, deviation: float) -> bytes:
    """A document as a file: STEP, STL or 3MF; `deviation` in mm for the meshed ones.

    Raises BadInput for a form that is not written or does not go with the kind of document.
    """
    if form not in FORMS:
        raise BadInput(f"{form} is not written; known: {', '.join(FORMS)}")
    task = FORMS[form]
    if isinstance(record.document, Assembly) and form == "step":
        task = "assembly_step"
    elif not isinstance(record.document, Part):
        raise BadInput(f"a {record.document.kind} is not written as {form}")
    _, ask = builds.request(record.project, record.document)
    data: bytes = builds.run(task, {**ask, "form": form, "deviation": deviation}, sticky=None)
    return data

"""The contract of a job and the registry they enter by being read.

A job is one file in `vireo.work.jobs.kinds`: the kinds of document it works on, its options, what it
reads, how it runs. It is keyed by content: what decides its answer and nothing else.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, TypeVar

from pydantic import BaseModel, ConfigDict, ValidationError

from vireo.core.declared.reading import unreadable
from vireo.core.digest import digest
from vireo.core.documents import Document
from vireo.core.documents.content import deciding
from vireo.core.documents.kind import Around
from vireo.core.quantity import Quantity
from vireo.core.registry import Registry
from vireo.core.trouble import BadInput
from vireo.work.jobs.pieces import Pieces
from vireo.work.worker import Bench

Json = dict[str, Any]
O = TypeVar("O", bound="Options")
#: Another document of the project by its id; None when it is not there.
Other = Callable[[str], Document | None]
Reads = Callable[[Json, Any], Any]
#: The request of a job whose answer takes more than the document as it stands.
Gather = Callable[[Document, Around, Any], Json]
Run = Callable[[Bench, Json, Any], Json]


@dataclass(frozen=True)
class Telling:
    """What a result is told with: the document as it is now, others of its project, the values of its
    parameters, what the run before found (that asked otherwise, with the same choices), and what a document
    may ask of the project."""

    document: Document
    other: Other
    values: Callable[[], Mapping[str, Quantity]]
    before: Json | None = None
    around: Around | None = None


Told = Callable[[Json, Telling], Json]


class Options(BaseModel):
    """What is chosen for a job; subclassed by those that have choices."""

    model_config = ConfigDict(frozen=True, extra="forbid")


def _all(request: Json, options: Options) -> Any:
    return deciding(request)


def _as_is(result: Json, telling: Telling) -> Json:
    return result


@dataclass(frozen=True)
class JobKind:
    """`reads` gives what decides the answer of a request; `told` what is said of a result when it
    is looked at: names, which do not decide anything, are put in there."""

    kind: str
    documents: tuple[str, ...]
    options: type[Options]
    run: Run
    reads: Reads = _all
    told: Told = _as_is
    #: Raise when the same question would get another answer.
    version: int = 1
    #: The option that says what is asked about: the newest answer about each is looked at.
    about: str = ""
    #: What it works with where that is not what builds the document as it stands.
    gather: Gather | None = None
    #: How it falls into questions that other machines may answer.
    pieces: Pieces | None = None

    def parsed(self, options: Mapping[str, Any]) -> Options:
        """Raises BadInput for options it does not take."""
        try:
            return self.options.model_validate(dict(options))
        except ValidationError as error:
            raise unreadable(self.kind, error, self.options) from error

    def key(self, request: Json, options: Options) -> str:
        said = options.model_dump(mode="json")
        return digest([self.kind, self.version, self.reads(request, options), said])

    def fits(self, document: Document) -> None:
        """Raises BadInput for a document it does not work on."""
        if document.kind not in self.documents:
            raise BadInput(f"{self.kind} works on {' or '.join(self.documents)}")


JOBS: Registry[JobKind] = Registry("job", "vireo.work.jobs.kinds")


def job(
    kind: str, documents: tuple[str, ...], options: type[Options] = Options, *,
    reads: Reads = _all, told: Told = _as_is, version: int = 1, about: str = "",
    gather: Gather | None = None,
) -> Callable[[Run], Run]:  # fmt: skip
    """Declares a job by the function that runs it: it gets a bench, the request that builds the
    document, and its options."""

    def declare(run: Run) -> Run:
        JOBS.add(kind, JobKind(kind, documents, options, run, reads, told, version, about, gather))
        return run

    return declare


def job_of_pieces(
    kind: str, documents: tuple[str, ...], options: type[Options], *, reads: Reads, told: Told,
    gather: Gather, version: int = 1,
) -> Callable[[type[Pieces]], type[Pieces]]:  # fmt: skip
    """Declares a job by the questions it falls into."""

    def declare(asks: type[Pieces]) -> type[Pieces]:
        pieces = asks()
        JOBS.add(
            kind,
            JobKind(
                kind, documents, options, pieces.run, reads, told, version, gather=gather,
                pieces=pieces,
            ),
        )  # fmt: skip
        return asks

    return declare

"""What can go wrong, as data: every refusal says what, where, why and what would work.

Knows nothing of the rooms that raise it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import BaseModel, Field, ValidationError


class Offer(BaseModel):
    """A mend the engineer can take with one click: new values for the fields of a step, or
    commands on the document."""

    label: str
    fields: dict[str, Any] = Field(default_factory=dict)
    commands: list[dict[str, Any]] = Field(default_factory=list)


class Candidate(BaseModel):
    """What a lost pick may stand for now: the pick of it, how alike it is (0 to 1)."""

    pick: dict[str, Any]
    score: float


class Lost(BaseModel):
    """A pick that no longer stands for anything, the field it is in, and what is like it."""

    field: str
    pick: dict[str, Any]
    candidates: list[Candidate] = Field(default_factory=list)


class Report(BaseModel):
    """A trouble as it travels to the screen.

    `where` holds references such as ``step:s4``, ``parameter:wall``, ``constraint:k3``
    or ``edge:s1/side/a|s1/cap/end`` so that the place can be lit up.
    """

    code: str
    text: str
    where: list[str] = Field(default_factory=list)
    offers: list[Offer] = Field(default_factory=list)
    #: Polylines (mm) that show the place in the picture: loose edges, borders of faulty faces.
    lines: list[list[tuple[float, float, float]]] = Field(default_factory=list)
    lost: Lost | None = None


def first_said(error: ValidationError) -> tuple[str, str]:
    """Where the first thing wrong with fields is, and what is wrong, in the words of who refused."""
    first = error.errors()[0]
    said = first["msg"].removeprefix("Value error, ").removeprefix("Assertion failed, ")
    return ".".join(str(p) for p in first["loc"]), said


class Trouble(Exception):
    """A refusal worded for the person at the screen. Raise a subclass that names the kind."""

    code = "trouble"

    def __init__(
        self,
        text: str,
        where: Sequence[str] = (),
        offers: Sequence[Offer] = (),
        lines: Sequence[Sequence[tuple[float, float, float]]] = (),
    ) -> None:
        super().__init__(text)
        self.text = text
        self.where = list(where)
        self.offers = list(offers)
        self.lines = [list(line) for line in lines]

    def report(self) -> Report:
        return Report(
            code=self.code, text=self.text, where=self.where, offers=self.offers, lines=self.lines
        )

    def __reduce__(self) -> tuple[Any, ...]:
        return (type(self), (self.text, self.where, self.offers, self.lines))


class NotAllowed(Trouble):
    """The edit breaks a rule of the document (unknown id, a dependency in the way ...)."""

    code = "not_allowed"


class BadInput(Trouble):
    """A value or file that cannot be used."""

    code = "bad_input"

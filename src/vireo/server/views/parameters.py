"""Formulas, tables, uses of parameters and what an edit would change."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field

from vireo.core.trouble import Report


class ParameterView(BaseModel):
    value: float | None
    shown: str | None
    dimension: str | None
    uses: list[str]
    trouble: Report | None


class FormulaWordView(BaseModel):
    """A function, sign or unit; the example works and gives what is said."""

    word: str
    kind: str
    line: str
    example: str
    gives: str


class FormulaWordsView(BaseModel):
    words: list[FormulaWordView]


class UseView(BaseModel):
    kind: str
    id: str
    name: str


class UsesView(BaseModel):
    """Users of parameters by name."""

    uses: dict[str, list[UseView]]


class FaultView(BaseModel):
    """Something wrong and what has it."""

    name: str
    text: str


class MovedValue(BaseModel):
    name: str
    was: str | None
    now: str | None


class ForeseenView(BaseModel):
    """What an edit would break, mend and change. g."""

    breaks: list[FaultView]
    mends: list[FaultView]
    values: list[MovedValue]
    mass_before: float | None
    mass_after: float | None


class TableText(BaseModel):
    """A table as a spreadsheet copies it, or a CSV file."""

    text: str = Field(max_length=2_000_000)


class TableRead(BaseModel):
    """The commands that put a table in, and how many parameters are new."""

    commands: list[dict[str, Any]]
    new: int

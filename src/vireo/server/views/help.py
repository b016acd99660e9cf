"""Pages of the help."""

from __future__ import annotations

from pydantic import BaseModel


class HelpSection(BaseModel):
    """Paragraphs, points of a list, and rows of two columns under a heading."""

    heading: str
    paragraphs: list[str]
    points: list[str]
    rows: list[tuple[str, str]]


class HelpPage(BaseModel):
    """`picture` is the kind of step whose picture the page shows."""

    id: str
    title: str
    group: str
    line: str
    sections: list[HelpSection]
    picture: str | None


class HelpView(BaseModel):
    pages: list[HelpPage]

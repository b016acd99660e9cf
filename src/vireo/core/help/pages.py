"""Pages of the help. One for each kind of document, step, check, joint and message, made from its
declaration, so that none can be forgotten; topics come from ``topics/*.md``."""

from __future__ import annotations

import re
import tomllib
from dataclasses import dataclass, field
from importlib import resources
from typing import Any

from vireo.core.checks.kind import CHECK_KINDS
from vireo.core.declared.copying import COPY_KINDS
from vireo.core.declared.joint import JOINTS
from vireo.core.declared.step import all_kinds, describe
from vireo.core.documents import DOCUMENT_KINDS
from vireo.core.hardware.kind import STANDARDS
from vireo.core.quantity.help import words
from vireo.core.samples.ways import ways
from vireo.core.sketch.constraints import KINDS
from vireo.core.sketch.tools import TOOLS


@dataclass(frozen=True)
class Section:
    """Paragraphs, points of a list, and rows of two columns under a heading."""

    heading: str = ""
    paragraphs: tuple[str, ...] = ()
    points: tuple[str, ...] = ()
    rows: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class Page:
    """`id` is ``step:fillet``, ``topic:picks``, ``message:lost_pick`` and so on; `picture` the
    kind whose picture it shows."""

    id: str
    title: str
    group: str
    line: str
    sections: tuple[Section, ...] = field(default=())
    picture: str | None = None


def pages() -> list[Page]:
    """All pages, topics first."""
    return [
        *_topics(), *_documents(), *(_step(describe(k)) for k in all_kinds()), *_sketching(),
        *_joints(), *_checks(), _formulas(), *_messages(),
    ]  # fmt: skip


def _topics() -> list[Page]:
    folder = resources.files(__package__) / "topics"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".md")), key=lambda f: f.name)
    return [_topic(f.name[:-3], f.read_text(encoding="utf-8")) for f in files]


def _topic(name: str, text: str) -> Page:
    """A page of plain Markdown: a title, a line, then headings, paragraphs and points."""
    blocks = [b.strip() for b in re.split(r"\n\s*\n", text.strip())]
    title, line = blocks[0].lstrip("# "), _one_line(blocks[1])
    sections: list[Section] = []
    heading = ""
    paragraphs: list[str] = []
    points: list[str] = []

    def close() -> None:
        nonlocal paragraphs, points
        if heading or paragraphs or points:
            sections.append(Section(heading, tuple(paragraphs), tuple(points)))
        paragraphs, points = [], []

    for block in blocks[2:]:
        if block.startswith("## "):
            close()
            heading = block[3:].strip()
        elif block.startswith("- "):
            points += [_one_line(p) for p in re.split(r"\n- ", block[2:])]
        else:
            paragraphs.append(_one_line(block))
    close()
    return Page(f"topic:{re.sub(r'^[0-9]+-', '', name)}", title, "Topics", line, tuple(sections))


def _documents() -> list[Page]:
    return [
        Page(
            f"document:{k.kind}", k.label, "Documents", k.line,
            (Section("What it holds", rows=tuple(
                (g.name.capitalize(), f"each a {g.word}, made by {g.command}") for g in k.groups
            )),
             Section("In a script", paragraphs=(f'project.{k.kind}("{k.label}")',)),
             *([Section("Handed over as", points=tuple(k.exports))] if k.exports else [])),
        )
        for k in sorted(DOCUMENT_KINDS.values(), key=lambda k: k.order)
    ]  # fmt: skip


def _one_line(text: str) -> str:
    return re.sub(r"\s+", " ", text)


def _step(told: dict[str, Any]) -> Page:
    rows = [
        (f["label"], _field(f)) for f in told["fields"] if f["type"] != "hidden" and f.get("label")
    ]
    sections = [Section("What it takes", rows=tuple(rows))]
    call = f'part.{told["kind"]}("{told["label"]}", ...)'
    names = ", ".join(f["name"] for f in told["fields"] if f["type"] != "hidden")
    sections.append(Section("In a script", paragraphs=(call, f"Fields: {names}.")))
    has = told["kind"] if told["kind"] in ways() else None
    return Page(f"step:{told['kind']}", told["label"], f"Steps: {told['group']}", told["line"],
                tuple(sections), has)  # fmt: skip


_TYPES = {
    "toggle": "on or off", "sketch": "a sketch", "sketches": "several sketches",
    "regions": "regions of the sketch", "curves": "curves of the sketch",
    "points": "points of the sketch", "axis": "a line of the sketch", "bodies": "bodies",
    "steps": "steps", "spots": "places clicked on faces", "name": "a name",
    "varied": "numbers that change from copy to copy", "numbers": "numbers of copies",
    "file": "a file", "csv": "a table as CSV", "stock": "rules from the library of sheets", "part": "another part",
    "frozen": "faces, edges or bodies of what stands around it", "part_body": "a body of that part",
    "member": "a variant of that part, and where it is pinned",
}  # fmt: skip


def _field(f: dict[str, Any]) -> str:
    """What a field takes, in words."""
    said = []
    if f["type"] == "quantity":
        ends = [f"above {f['above']:g}" if f.get("above") is not None else "",
                f"at least {f['least']:g}" if f.get("least") is not None else "",
                f"at most {f['most']:g}" if f.get("most") is not None else ""]  # fmt: skip
        article = "an" if f["dimension"][0] in "aeiou" else "a"
        said.append(", ".join([f"{article} {f['dimension']} or a formula", *filter(None, ends)]))
    elif f["type"] == "choice":
        said.append(" | ".join(f["words"].values()))
    elif f["type"] == "picks":
        said.append({"any": "faces, edges or corners"}.get(f["accepts"], f"{f['accepts']}s"))
        said.append(f.get("hint", ""))
    else:
        said.append(_TYPES.get(f["type"], ""))
        said.append(f.get("hint", "") or "")
    default = f.get("default")
    if isinstance(default, str) and default and f["type"] == "quantity":
        said.append(f"begins at {default}")
    return "; ".join(s for s in said if s)


def _sketching() -> list[Page]:
    tools = tuple(
        (t.label, t.line + (f" ({t.key.upper()})" if t.key else "")) for t in TOOLS.values()
    )
    conditions = tuple(
        (k.label, " or ".join(" and ".join(f) for f in k.forms))
        for k in KINDS.values()
        if k.offered
    )
    return [
        Page("sketch:tools", "Sketch tools", "Sketching", "What there is to draw and change with",
             (Section(rows=tools),)),
        Page("sketch:conditions", "Conditions and sizes", "Sketching",
             "What holds curves together, and what each goes on", (Section(rows=conditions),)),
    ]  # fmt: skip


def _joints() -> list[Page]:
    rows = tuple((k.label, k.line) for k in sorted(JOINTS.values(), key=lambda k: k.order))
    copies = tuple((k.label, k.line) for k in sorted(COPY_KINDS.values(), key=lambda k: k.order))
    hardware = tuple(
        (f"{s.standard} {s.label}", f"{first} to {last}")
        for s in sorted(STANDARDS.values(), key=lambda s: s.order)
        for first, last in [(next(iter(s.sizes)), list(s.sizes)[-1])]
    )
    return [
        Page("assembly:joints", "Joints", "Assemblies", "How components move against each other",
             (Section(rows=rows),)),
        Page("assembly:copies", "Copies", "Assemblies", "How components are repeated",
             (Section(rows=copies),)),
        Page("assembly:hardware", "Hardware", "Assemblies",
             "Screws, washers, nuts, pins and rings: the standards and sizes there are",
             (Section(rows=hardware),)),
    ]  # fmt: skip


def _checks() -> list[Page]:
    return [
        Page(f"check:{k.kind}", f"Check: {k.label}", "Checks", k.line, (Section(rows=(
            ("Works on", ", ".join(k.documents)), ("Held to", k.limit),
            ("Picks", str(k.picks or "none")),
        )),))
        for k in CHECK_KINDS.values()
    ]  # fmt: skip


def _formulas() -> Page:
    titles = {"function": "Functions", "constant": "Constants", "sign": "Signs", "unit": "Units"}
    sections = tuple(
        Section(title, rows=tuple(
            (w.word, w.line + (f": {w.example} gives {w.gives}" if kind != "unit" else ""))
            for w in words() if w.kind == kind
        ))
        for kind, title in titles.items()
    )  # fmt: skip
    return Page("topic:formulas", "Functions and units", "Topics",
                "What formulas can hold, with examples", sections)  # fmt: skip


def _messages() -> list[Page]:
    text = (resources.files(__package__) / "codes.toml").read_text(encoding="utf-8")
    return [
        Page(f"message:{code}", c["title"], "Messages", c["means"],
             (Section("What to do", points=tuple(c["do"])),))
        for code, c in tomllib.loads(text).items()
    ]  # fmt: skip

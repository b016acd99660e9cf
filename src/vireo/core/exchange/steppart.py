"""Some products of a STEP file as a file of their own, cut out of its text (ISO 10303-21): all they
refer to, and what ties shapes, places and colours to them."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from vireo.core.trouble import BadInput

_STATEMENT = re.compile(rb"#(\d+)\s*=\s*(\w*)\s*(\([^;']*(?:'[^']*'[^;']*)*);")
_DATA = re.compile(rb"ENDSEC\s*;\s*DATA\s*[;(]")
_STRING = re.compile(rb"'[^']*'")
_REFERENCE = re.compile(rb"#(\d+)")
#: What refers to things and is not referred to by them: a tie is kept where what it needs is.
_SHAPE = b"PRODUCT_DEFINITION_SHAPE"
_SHOWN = b"SHAPE_DEFINITION_REPRESENTATION"
_USE = b"NEXT_ASSEMBLY_USAGE_OCCURRENCE"
_PLACED = b"CONTEXT_DEPENDENT_SHAPE_REPRESENTATION"
_ALIKE = b"SHAPE_REPRESENTATION_RELATIONSHIP"
_STYLED = (b"STYLED_ITEM", b"OVER_RIDING_STYLED_ITEM")
_LOOKS = b"MECHANICAL_DESIGN_GEOMETRIC_PRESENTATION_REPRESENTATION"
_TIES = frozenset((_SHAPE, _SHOWN, _USE, _PLACED, _ALIKE, *_STYLED, _LOOKS))


@dataclass(frozen=True)
class _Spans:
    """Where statements stand in the text, by number, and the ties by kind."""

    data: bytes
    at: dict[int, tuple[int, int]]
    ties: dict[bytes, list[int]]

    def refs(self, number: int) -> list[int]:
        start, end = self.at[number]
        text = self.data[start:end]
        if b"'" in text:
            text = _STRING.sub(b"", text)
        return [int(n) for n in _REFERENCE.findall(text)][1:]


#: The line every whole file ends with.
END = b"END-ISO-10303-21"


def step_part(data: bytes, products: set[int]) -> tuple[bytes, list[str]]:
    """A file with those products only (by the numbers of their definitions), and with those occurrences
    that are of one of them in another; what they refer to and is not in the file, in words. Raises
    BadInput for a file that is cut short."""
    if END not in data[-2000:]:
        raise BadInput("this STEP file is cut short: its end is missing")
    spans = _spans(data)
    kept: set[int] = set()
    lost: set[int] = set()

    def keep(number: int) -> None:
        waiting = [number]
        while waiting:
            here = waiting.pop()
            if here in kept:
                continue
            if here not in spans.at:
                lost.add(here)
                continue
            kept.add(here)
            waiting += spans.refs(here)

    for product in products:
        keep(product)
    uses = {n for n in spans.ties[_USE] if set(spans.refs(n)[:2]) <= products}
    for use in uses:
        keep(use)
    defined = products | uses
    shapes = {n for n in spans.ties[_SHAPE] if defined & set(spans.refs(n))}
    for kind in (_SHOWN, _PLACED):
        for tie in spans.ties[kind]:
            if shapes & set(spans.refs(tie)):
                keep(tie)
    alike = {n: spans.refs(n) for n in spans.ties[_ALIKE]}
    while fresh := [n for n, refs in alike.items() if n not in kept and kept & set(refs)]:
        for tie in fresh:
            keep(tie)
    styled = set()
    for kind in _STYLED:
        for tie in spans.ties[kind]:
            # The last is what is styled, the others are how.
            if kept & set(spans.refs(tie)[-1:]):
                keep(tie)
                styled.add(tie)
    faults = [f"what is taken refers to #{n}, which is not in the file" for n in sorted(lost)]
    return b"".join(_written(spans, kept, styled)), faults[:20]


def _written(spans: _Spans, kept: set[int], styled: set[int]) -> Iterable[bytes]:
    data = spans.data
    first = min((start for start, _ in spans.at.values()), default=len(data))
    yield data[:first]
    looks_there = set(spans.ties[_LOOKS])
    for number in sorted(kept, key=lambda n: spans.at[n]):
        if number not in looks_there:
            start, end = spans.at[number]
            yield data[start:end] + b";\n"
    for looks in spans.ties[_LOOKS]:
        refs = spans.refs(looks)
        mine = [n for n in refs[:-1] if n in styled]
        if mine and refs[-1] in kept:
            items = b",".join(b"#%d" % n for n in mine)
            yield b"#%d=%s('',(%s),#%d);\n" % (looks, _LOOKS, items, refs[-1])
    yield b"ENDSEC;\n" + END + b";\n"


def _spans(data: bytes) -> _Spans:
    at: dict[int, tuple[int, int]] = {}
    ties: dict[bytes, list[int]] = {kind: [] for kind in _TIES}
    # What only looks like a statement in the texts of the header is none.
    begins = _DATA.search(data)
    for match in _STATEMENT.finditer(data, begins.end() if begins else 0):
        number = int(match[1])
        at[number] = match.start(), match.end() - 1
        if match[2] in ties:
            ties[match[2]].append(number)
    return _Spans(data, at, ties)

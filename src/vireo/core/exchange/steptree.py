"""The products of a STEP file and how they stand in each other, read off its text (ISO 10303-21) without
translating any geometry: a fraction of the time of reading the file."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

from vireo.core.exchange.steptext import told
from vireo.core.trouble import BadInput

_WANTED = re.compile(
    rb"=\s*(PRODUCT|PRODUCT_DEFINITION|PRODUCT_DEFINITION_FORMATION|"
    rb"PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE|NEXT_ASSEMBLY_USAGE_OCCURRENCE|"
    rb"ASSEMBLY_COMPONENT_USAGE|SHAPE_DEFINITION_REPRESENTATION)\s*\("
)
_OWN = re.compile(rb"#(\d+)\s*$")
_PART = re.compile(rb"'((?:[^']|'')*)'|#(\d+)|\(|\)|,")
#: More rows than this are no tree anybody reads.
MOST = 20_000
_DEEPEST = 60


@dataclass
class Product:
    """A product by the number of its definition in the file: what it is called, what stands in it
    (numbers, each with how many), whether it has a shape of its own."""

    number: int
    name: str
    holds: dict[int, int] = field(default_factory=dict)
    shaped: bool = False


@dataclass(frozen=True)
class Row:
    """A product where it stands: how deep, how many of it there."""

    number: int
    name: str
    level: int
    count: int
    holds: bool


@dataclass(frozen=True)
class StepTree:
    """`roots` are products in no other; `faults` say where the file refers to what is not there, or
    has a product contain itself."""

    products: dict[int, Product]
    roots: tuple[int, ...]
    faults: tuple[str, ...] = ()

    def below(self, number: int) -> set[int]:
        """A product with all that stands in it, by number; none where there is no such."""
        found: set[int] = set()
        waiting = [number] if number in self.products else []
        while waiting:
            here = waiting.pop()
            if here not in found:
                found.add(here)
                waiting += self.products[here].holds
        return found

    def rows(self) -> list[Row]:
        """Products from the top down, each assembly opened where it first stands."""
        found: list[Row] = []
        opened: set[int] = set()

        def put(number: int, level: int, count: int) -> None:
            product = self.products[number]
            found.append(Row(number, product.name, level, count, bool(product.holds)))
            if number in opened or level >= _DEEPEST or len(found) >= MOST:
                return
            opened.add(number)
            for inner, n in product.holds.items():
                if len(found) < MOST:
                    put(inner, level + 1, n)

        for root in self.roots:
            put(root, 0, 1)
        return found


_INCH = re.compile(
    rb"CONVERSION_BASED_UNIT\s*\(\s*'(\w+)'\s*,\s*#\d+\s*\)\s*(?:\w+\s*\([^()]*\)\s*)*LENGTH_UNIT|"
    rb"LENGTH_UNIT\s*\(\s*\)\s*(?:NAMED_UNIT\s*\([^()]*\)\s*)?CONVERSION_BASED_UNIT\s*\(\s*'(\w+)'"
)
_SI = re.compile(rb"SI_UNIT\s*\(\s*(\$|\.\w+\.)\s*,\s*\.METRE\.\s*\)")
_PREFIXES = {b"$": "m", b".MILLI.": "mm", b".CENTI.": "cm", b".MICRO.": "um"}


def step_unit(data: bytes) -> str:
    """What lengths of a STEP file are counted in; nothing where it does not say, or says several."""
    found = _INCH.search(data)
    if found is not None:
        return (found[1] or found[2]).decode("ascii").lower()
    said = {
        _PREFIXES.get(m[1], m[1].decode("ascii").strip(".").lower() + "metre")
        for m in _SI.finditer(data)
    }
    return said.pop() if len(said) == 1 else ""


def step_tree(data: bytes) -> StepTree:
    """The products of a STEP file. Raises BadInput for what is none, or holds no product."""
    if not data.lstrip()[:20].startswith(b"ISO-10303-21"):
        raise BadInput("this is no STEP file")
    names: dict[int, str] = {}
    formations: dict[int, int] = {}
    definitions: dict[int, int] = {}
    uses: list[tuple[int, int, int]] = []
    for number, kind, texts, refs in _statements(data):
        if kind == b"PRODUCT":
            names[number] = next((t for t in (texts[1:2] + texts[:1]) if t.strip()), "")
        elif kind.startswith(b"PRODUCT_DEFINITION_FORMATION"):
            formations[number] = refs[0] if refs else 0
        elif kind == b"PRODUCT_DEFINITION":
            definitions[number] = refs[0] if refs else 0
        elif kind == b"NEXT_ASSEMBLY_USAGE_OCCURRENCE" and len(refs) >= 2:
            uses.append((number, refs[0], refs[1]))
    faults: list[str] = []
    products: dict[int, Product] = {}
    for number, formation in definitions.items():
        product = formations.get(formation)
        if product not in names:
            faults.append(f"the definition #{number} leads to no product")
        name = names.get(product or 0, "") or f"Product #{number}"
        products[number] = Product(number, name)
    for number, above, below in uses:
        if above not in products or below not in products:
            lost = above if above not in products else below
            faults.append(f"the occurrence #{number} refers to #{lost}, which is not in the file")
            continue
        holds = products[above].holds
        holds[below] = holds.get(below, 0) + 1
    if not products:
        raise BadInput("this STEP file holds no product")
    faults += _circles(products)
    inner = {b for p in products.values() for b in p.holds}
    roots = tuple(n for n in products if n not in inner)
    return StepTree(products, roots or (next(iter(products)),), tuple(faults))


def _circles(products: dict[int, Product]) -> list[str]:
    """Takes out what would have a product contain itself, and tells it."""
    told: list[str] = []
    done: set[int] = set()
    for start, first in products.items():
        way: list[tuple[int, Iterator[int]]] = [(start, iter(list(first.holds)))]
        above = {start}
        while way:
            number, left = way[-1]
            below = next(left, None)
            if below is None:
                done.add(number)
                above.discard(number)
                way.pop()
            elif below in above:
                del products[number].holds[below]
                told.append(
                    f"{products[below].name} would contain itself through {products[number].name}"
                )
            elif below not in done:
                above.add(below)
                way.append((below, iter(list(products[below].holds))))
    return told


def _statements(data: bytes) -> Iterator[tuple[int, bytes, list[str], list[int]]]:
    """The statements looked for: number, kind, the texts and the references among what it is given."""
    for match in _WANTED.finditer(data):
        own = _OWN.search(data, max(match.start() - 24, 0), match.start())
        if own is None or not _begins(data, own.start()):
            continue
        texts: list[str] = []
        refs: list[int] = []
        depth = 1
        for part in _PART.finditer(data, match.end(), match.end() + 20_000):
            sign = part[0]
            if sign == b"(":
                depth += 1
            elif sign == b")":
                depth -= 1
                if depth == 0:
                    break
            elif part[2] is not None:
                refs.append(int(part[2]))
            elif part[1] is not None:
                texts.append(told(part[1]))
        yield int(own[1]), match[1], texts, refs


def _begins(data: bytes, at: int) -> bool:
    """Whether a statement begins here: behind the end of another, or of a comment."""
    before = data[max(at - 200, 0) : at].rstrip()
    return not before or before.endswith((b";", b"*/"))

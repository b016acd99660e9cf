"""The help: a page for everything, true examples, pictures, no code of a message without a page."""

import re
from pathlib import Path
from xml.etree import ElementTree

import pytest

import vireo
from vireo.core.help import pages
from vireo.core.part.kind import all_kinds
from vireo.core.samples.picture import picture
from vireo.core.samples.ways import ways

#: Kinds that change no face: they read, gather or mark.
READING = {"measured", "set", "thread"}
PAGES = {p.id: p for p in pages()}


def test_every_kind_of_step_has_a_page_with_its_fields_and_a_picture():
    for kind in all_kinds():
        page = PAGES[f"step:{kind.kind}"]
        assert page.line
        told = dict(page.sections[0].rows)
        assert told or kind.kind == "sketch"
        assert all(told.values()), (kind.kind, told)
        assert page.picture == (kind.kind if kind.kind in ways() else None)


@pytest.mark.parametrize("kind", sorted(ways()))
def test_pictures_show_what_the_step_did(kind):
    drawn = picture(kind)
    shapes = list(ElementTree.fromstring(drawn))
    assert len(shapes) > 10
    # Green are faces it made or moved, or the lines of a reference; what it only read is not.
    green = [s for s in shapes if _is_green(s.get("fill")) or _is_green(s.get("stroke"))]
    assert bool(green) == (kind not in READING), (kind, len(green))
    assert picture("fly") is None


def _is_green(fill: str | None) -> bool:
    if not fill or not re.fullmatch("#[0-9a-f]{6}", fill):
        return False
    r, g, b = (int(fill[i : i + 2], 16) for i in (1, 3, 5))
    return g > 1.2 * max(r, b)


def test_every_code_of_a_message_has_a_page_that_says_what_to_do():
    source = "\n".join(p.read_text() for p in Path(vireo.__file__).parent.rglob("*.py"))
    codes = set(re.findall(r'\bcode(?:: str)? ?= ?"([a-z_]+)"', source))
    codes |= set(re.findall(r'_report\([^,]+, "([a-z_]+)"', source))
    assert len(codes) > 15
    missing = [c for c in codes if f"message:{c}" not in PAGES]
    assert missing == []
    for code in codes:
        assert PAGES[f"message:{code}"].sections[0].points, code


def test_pages_are_told_apart():
    listed = pages()
    assert len({p.id for p in listed}) == len(listed)
    assert len({p.title for p in listed if p.group == "Topics"}) >= 8

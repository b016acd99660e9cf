"""The help: a page for everything, true examples, pictures, no code of a message without a page."""

import base64
import re
import struct
import zlib
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pytest

import vireo
from vireo.core.declared.step import all_kinds
from vireo.core.help import pages
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
    image, *lines = ElementTree.fromstring(drawn)
    pixels = _pixels(image.get("href"))
    seen = pixels[pixels[..., 3] == 255][:, :3].astype(float)
    assert 0.04 < len(seen) / pixels[..., 3].size < 0.9
    assert lines
    # Green are faces it made or moved, or the lines of a reference; what it only read is not.
    painted = (seen[:, 1] > 1.2 * np.maximum(seen[:, 0], seen[:, 2])).sum()
    green = painted > 5 or any(_is_green(s.get("stroke")) for s in lines)
    assert green == (kind not in READING), (kind, painted)
    assert picture("fly") is None


def _pixels(href: str) -> np.ndarray:
    """The picture in an image element: RGBA rows of a PNG without filters."""
    data = base64.b64decode(href.removeprefix("data:image/png;base64,"))
    wide, high = struct.unpack(">II", data[16:24])
    at = data.index(b"IDAT")
    (size,) = struct.unpack(">I", data[at - 4 : at])
    rows = np.frombuffer(zlib.decompress(data[at + 4 : at + 4 + size]), np.uint8)
    return rows.reshape(high, 1 + 4 * wide)[:, 1:].reshape(high, wide, 4)


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

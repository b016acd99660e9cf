"""Strings in the text of a STEP file (ISO 10303-21), where the kernel's reader and writer stumble."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

#: An apostrophe as a control directive.
_APOSTROPHE = b"\\X2\\0027\\X0\\"
_STRING = re.compile(rb"'((?:[^']|'')*)'")
#: A doubled apostrophe with text beside it: two alone are a string without letters.
_DOUBLED = re.compile(rb"''(?:[^,)\s]|(?<=[^(,\s']''))")
#: A line of a string that ends with part of a letter.
_CUT = re.compile(rb"[\x80-\xff][\r\n]+[\x80-\xff]")
_DIRECTIVE = re.compile(rb"\\X[24]\\[0-9A-Fa-f\s]+\\\s*X\s*0\s*\\")
_MARK = re.compile(rb"~(\d+)~")
#: What needs a directive: an apostrophe, and letters beyond ASCII of two bytes, or of four.
_OTHER = re.compile(r"((?:[^ -~\U00010000-\U0010ffff]|')+)|([\U00010000-\U0010ffff]+)")


def legible(data: bytes) -> bytes:
    """The same file in words its strings cannot be misread by: an apostrophe that stands before a
    comma or a bracket inside a string ends it for the kernel's reader (the rest is lost), and
    a control directive or a letter of several bytes broken over two lines is lost."""
    if b"\\X" in data:
        data = _DIRECTIVE.sub(lambda m: b"".join(m[0].split()), data)
    if not data.isascii():
        data = _CUT.sub(lambda m: m[0].translate(None, b"\r\n"), data)
    if _DOUBLED.search(data):
        data = _STRING.sub(_unquoted, data)
    return data


def _unquoted(found: re.Match[bytes]) -> bytes:
    if b"''" not in found[1]:
        return found[0]
    return b"'" + re.sub(rb"''(?=\s*[,)])|''$", lambda _: _APOSTROPHE, found[1]) + b"'"


@dataclass
class Spelling:
    """Titles kept out of a writer's hands, which breaks lines inside letters and passes over what
    looks like a control directive: it is given marks, and these are replaced in what it wrote."""

    _marks: dict[str, str] = field(default_factory=dict)

    def mark(self, title: str) -> str:
        return self._marks.setdefault(title, f"~{len(self._marks)}~") if title else ""

    def replaced(self, written: bytes) -> bytes:
        titles = list(self._marks)
        return _MARK.sub(lambda m: spelt(titles[int(m[1])]).encode("ascii"), written)


def spelt(title: str) -> str:
    """A title as ISO 10303-21 writes it in plain ASCII."""
    return _OTHER.sub(_directive, title.replace("\\", "\\\\"))


def _directive(found: re.Match[str]) -> str:
    letters, size = (found[1], 4) if found[1] else (found[2], 8)
    return f"\\X{size // 2}\\" + "".join(f"{ord(c):0{size}X}" for c in letters) + "\\X0\\"


_SPELLING = re.compile(
    r"''|\\\\|\\X2\\((?:[0-9A-Fa-f]{4})+)\\X0\\|\\X4\\((?:[0-9A-Fa-f]{8})+)\\X0\\"
    r"|\\S\\(.)|\\X\\([0-9A-Fa-f]{2})|\\[PN][A-I]?\\"
)


def told(raw: bytes) -> str:
    """What a string of a STEP file says, between its apostrophes; blanks folded, 80 letters at most."""
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError:
        text = raw.decode("latin-1")
    return " ".join(_SPELLING.sub(_letters, text).split())[:80]


def _letters(found: re.Match[str]) -> str:
    if found[1] or found[2]:
        size, codes = (4, found[1]) if found[1] else (8, found[2])
        numbers = (int(codes[i : i + size], 16) for i in range(0, len(codes), size))
        return "".join(
            chr(n) if n < 0x110000 and not 0xD800 <= n < 0xE000 else "?" for n in numbers
        )
    if found[3]:
        return chr((ord(found[3]) + 128) % 256)
    if found[4]:
        return chr(int(found[4], 16))
    return {"''": "'", "\\\\": "\\"}.get(found[0], " ")


def strings(data: bytes) -> Iterator[str]:
    """All strings of a STEP file, as they are read."""
    return (told(m[1]) for m in _STRING.finditer(data) if m[1])

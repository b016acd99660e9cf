"""2D files of any kind that is read, told apart by content."""

from __future__ import annotations

from vireo.core.sketch.exchange.dxf import read_dxf
from vireo.core.sketch.exchange.sheet import Sheet
from vireo.core.sketch.exchange.svg import read_svg


def read_sheet(data: bytes) -> Sheet:
    """The curves of a DXF or an SVG file. Raises BadInput."""
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    return read_svg(data) if head.startswith(b"<") else read_dxf(data)

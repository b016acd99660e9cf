"""2D files of any kind that is read, told apart by content."""

from __future__ import annotations

from vireo.core.sketch.exchange.sheet import Sheet


def read_sheet(data: bytes) -> Sheet:
    """The curves of a DXF or an SVG file. Raises BadInput."""
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    # Imported when asked: the readers take half a second to load, and most runs read no drawing.
    if head.startswith(b"<"):
        from vireo.core.sketch.exchange.svg import read_svg

        return read_svg(data)
    from vireo.core.sketch.exchange.dxf import read_dxf

    return read_dxf(data)

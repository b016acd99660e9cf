"""Tools that draw and change sketches, one registry for screen, quick entry and script.

Importing this room fills the registry.
"""

from vireo.core.sketch.tools import (  # noqa: F401
    bends,
    boxes,
    circles,
    copies,
    corners,
    cutting,
    ellipses,
    free,
    lines,
    offset,
    shift,
    slots,
    text,
    tidy,
)
from vireo.core.sketch.tools.base import TOOLS, Given, Pen, Spot, Tool, ToolTrouble, use

__all__ = ["TOOLS", "Given", "Pen", "Spot", "Tool", "ToolTrouble", "use"]

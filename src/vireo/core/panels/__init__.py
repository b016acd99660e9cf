"""Sheets as a tree of flat panels and bends between them, with exact outlines in frames of their own. Knows
curves, no kernel: solid and blank are both made from it."""

from vireo.core.panels.loops import Loop, Motion2, Seg
from vireo.core.panels.model import Bend, Panel, Sheet

__all__ = ["Bend", "Loop", "Motion2", "Panel", "Seg", "Sheet"]

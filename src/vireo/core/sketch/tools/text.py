"""Text on its baseline."""

from __future__ import annotations

from collections.abc import Sequence

from vireo.core.sketch.lettering import letter
from vireo.core.sketch.tools.base import Given, Pen, Size, Spot, Tool, ToolTrouble, plus, register


@register
class TextTool(Tool):
    name, label, icon, group, key = "text", "Text", "text", "Point", "T"
    line = "A line of text as outlines, its capitals as high as said"
    spots = ("where it begins",)
    sizes = (
        Size("text", "Text", "text", after=0, default="Text"),
        Size("height", "Capitals", after=0, default="5 mm"),
        Size("bold", "Bold", "flag", after=0),
    )

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        text, height = given.text("text"), given.need("height")
        if not text:
            raise ToolTrouble("type what it should say")
        if height <= 0:
            raise ToolTrouble("letters need a height")
        font = "bold" if given.flag("bold") else "regular"
        start = pen.point(spots[0])
        end = pen.place(plus(pen.at(start), (letter(text, font).width * height, 0.0)))
        made = pen.add("text", start=start, end=end, height=height, text=text, font=font)
        pen.constrain("horizontal", start, end)
        pen.dimension("text_height", [made], given.text("height"))
        return None

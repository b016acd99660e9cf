"""Where a straight line a step of a sheet goes along lies in a panel."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from vireo.core.curves import Line2, Pair
from vireo.core.declared import fields as f
from vireo.core.panels.loops import inside, line
from vireo.core.part.context import Context
from vireo.core.part.profile import curves_of
from vireo.core.part.trouble import StepTrouble
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.planes import panels_parallel


class LineFields(f.StepFields):
    """Of steps that bend a sheet along a line drawn on it."""

    sketch: str = f.sketch("Line")
    chains: tuple[str, ...] = f.curves("sketch", "Along")
    into: tuple[str, ...] = f.bodies("Sheet")


def own_radius() -> tuple[Any, Any]:
    """Two fields: whether bends are as those of the sheet, and their radius where they are not."""
    return (
        f.choice("Bend radius", "sheet", {"sheet": "As the sheet", "own": "Of its own"}),
        f.length("Radius", "2 mm", least=0, key="r", when={"bends": ["own"]}),
    )


@dataclass(frozen=True)
class OnPanel:
    """A line drawn on a panel: a place on it and its direction; `key` is what the line is called, `up` whether
    it was drawn looking down on the top."""

    body: str
    panel: str
    p: Pair
    d: Pair
    key: str
    up: bool


def line_on_sheet(fields: LineFields, ctx: Context) -> OnPanel:
    """The one straight line of a sketch, seen square on the flat piece of a sheet it lies over. Raises
    StepTrouble."""
    sketch, into = fields.sketch, fields.into
    curves = [
        (id, c) for id, c in curves_of(sketch, fields.chains, ctx, "line") if isinstance(c, Line2)
    ]
    if len(curves) != 1:
        raise StepTrouble(
            f"one straight line is needed, and the sketch {ctx.sketch(sketch).name} has {len(curves)}"
            + (": choose it" if curves else ""), [f"step:{sketch}", "field:chains"],
        )  # fmt: skip
    key, curve = curves[0]
    frame = ctx.sketch(sketch).frame
    ids = list(into) or ctx.sheet_ids()
    if not ids:
        raise StepTrouble("there is no sheet yet: Plate makes one", [f"step:{ctx.step}"])
    found: list[tuple[float, OnPanel]] = []
    for id in ids:
        body = ctx.sheet(id)
        for panel, carried, off in panels_parallel(body, frame):
            ((seg,),) = carried(((line(curve.a, curve.b, key),),))
            if not _over(body, panel, seg.a, seg.b):
                continue
            size = math.dist(seg.a, seg.b)
            d = ((seg.b[0] - seg.a[0]) / size, (seg.b[1] - seg.a[1]) / size)
            # Seen from behind it is run the other way: what is left of it stays left of it.
            up = float(np.array(frame.z) @ body.places()[panel].z) > 0.0
            found.append((abs(off), OnPanel(id, panel, seg.a, d, key, up)))
    if not found:
        raise StepTrouble(
            "the line lies over no flat piece of a sheet: draw it on the face that is to be bent",
            [f"step:{sketch}"],
        )
    return min(found, key=lambda f: f[0])[1]


def _over(body: SheetBody, panel: str, a: Pair, b: Pair) -> bool:
    """Whether some of a line lies on a panel."""
    loops = body.sheet.panels[panel].loops
    shares = np.linspace(0.0, 1.0, 41)[1:-1]
    return any(inside((a[0] + (b[0] - a[0]) * s, a[1] + (b[1] - a[1]) * s), loops) for s in shares)

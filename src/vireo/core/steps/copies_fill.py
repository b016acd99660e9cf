"""Copies filling regions of a sketch."""

from __future__ import annotations

import math
from typing import Literal

from vireo.core.curves import inside
from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.profile import Region
from vireo.core.kernel.transform import Move
from vireo.core.part.context import Context
from vireo.core.part.copying import CopyFields, copied
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula

#: More copies than this are a slip of the finger.
_MOST = 2000


class FillFields(CopyFields):
    sketch: str = f.sketch("Fill")
    regions: tuple[f.RegionPick, ...] = f.regions("sketch")
    grid: Literal["square", "staggered", "rings"] = f.choice(
        "Grid", "staggered",
        {"square": "Square", "staggered": "Staggered", "rings": "Rings"},
    )  # fmt: skip
    spacing: Formula = f.length("Spacing", "10 mm", above=0.05)
    margin: Formula = f.length("Clear of the border", "3 mm", least=0)
    angle: Formula = f.quantity("angle", "Grid turned by", "0 deg", least=-360, most=360)


@register
class FillCopies(StepKind[FillFields]):
    kind = "copies_fill"
    forms = ("solid", "surface")
    label = "Copies filling a region"
    group = "Copy"
    icon = "copiesFill"
    order = 44
    line = "A grid of steps or bodies in a region: the first stands at the sketch's loose point"
    Fields = FillFields
    example = """
vent = part.primitive("Vent", form="cylinder", diameter=3, height=20, x=30, y=20, result="cut")
s = Sketch()
s.box(10, 8, 50, 32)
grille = part.copies_fill("Grille", steps=[vent], sketch=part.sketch(drawing=s), grid="staggered", spacing=8)
"""
    deciding = ("spacing",)

    def build(self, fields: FillFields, ctx: Context) -> Outcome:
        data = ctx.sketch(fields.sketch)
        regions = ctx.regions(fields.sketch, fields.regions, "regions")
        seed = next(iter(data.points.values()), (0.0, 0.0))
        spacing, margin = ctx.value("spacing"), ctx.value("margin")
        area = sum(r.area for r in regions)
        if area / spacing**2 > _MOST:
            raise StepTrouble(
                f"about {area / spacing**2:.0f} copies would fill it; at most {_MOST} are made: "
                "make the spacing wider",
                ["field:spacing"],
            )
        reach = max(math.dist(p, seed) for r in regions for p in r.outer)
        c, s = math.cos(ctx.value("angle")), math.sin(ctx.value("angle"))
        moves = []
        start = data.frame.out(seed)
        number = 1
        for name, (x, y) in _grid(fields.grid, spacing, reach):
            p = (seed[0] + c * x - s * y, seed[1] + s * x + c * y)
            if not any(_clear(p, r, margin) for r in regions):
                continue
            number += 1
            if number in fields.skips:
                continue
            q = data.frame.out(p)
            moves.append((name, Move.shift((q[0] - start[0], q[1] - start[1], q[2] - start[2]))))
        if not moves:
            raise StepTrouble(
                "nothing else fits into the region with this spacing and border", ["field:spacing"]
            )
        return copied(fields, ctx, moves)


def _grid(form: str, spacing: float, reach: float) -> list[tuple[str, tuple[float, float]]]:
    """Places round the origin with names that do not change when the region grows; the origin
    itself, where the original stands, is not among them."""
    n = int(reach / spacing / (math.sqrt(0.75) if form == "staggered" else 1.0)) + 1
    if form == "rings":
        return [
            (f"r{k}.{i}", (k * spacing * math.cos(a), k * spacing * math.sin(a)))
            for k in range(1, n + 1)
            for i, a in enumerate(2 * math.pi * j / (6 * k) for j in range(6 * k))
        ]
    found = []
    for j in range(-n, n + 1):
        for i in range(-2 * n, 2 * n + 1):
            x, y = i * spacing, j * spacing
            if form == "staggered":
                x, y = (i + 0.5 * (j % 2)) * spacing, j * spacing * math.sqrt(0.75)
            if (i, j) != (0, 0) and math.hypot(x, y) <= reach:
                found.append((f"{i}.{j}".replace("-", "m"), (x, y)))
    return found


def _clear(p: tuple[float, float], region: Region, margin: float) -> bool:
    """Whether a place lies in a region, clear of its border."""
    if not inside(p, region.outer) or any(inside(p, h) for h in region.holes):
        return False
    rims = [region.outer, *region.holes]
    return all(
        _gap(p, a, b) >= margin - 1e-9
        for rim in rims
        for a, b in zip(rim, [*rim[1:], rim[0]], strict=True)
    )


def _gap(p: tuple[float, float], a: tuple[float, float], b: tuple[float, float]) -> float:
    """Distance of a place from a stretch."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    k = dx * dx + dy * dy
    t = max(0.0, min(1.0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / k)) if k else 0.0
    return math.dist(p, (a[0] + t * dx, a[1] + t * dy))

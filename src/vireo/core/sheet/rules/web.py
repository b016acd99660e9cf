"""Webs between cuts, and between cuts and the rim."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

import shapely

from vireo.core.panels.loops import Loop
from vireo.core.sheet.blanks import polygon
from vireo.core.sheet.rules.kind import Fault, Made, MakingRule, register


@register
class Web(MakingRule):
    """What is left between two cuts is at least as wide as the sheet is thick: less burns away or bends. The limit
    is practice. Looked for in the blank, so that what is cut across bends counts."""

    kind = "web"
    label = "Web too thin"

    def faults(self, made: Made) -> Iterator[Fault]:
        if made.flat.laps:
            return  # what is a web there cannot be told
        told: list[shapely.Point] = []
        for width, at in [*_between(made.flat.outline.loops), *_slivers(made)]:
            if width >= made.t - 1e-6 or any(at.distance(p) < 2.0 * made.t for p in told):
                continue
            told.append(at)
            home = made.home((at.x, at.y))
            if home is not None:
                yield Fault(
                    self.kind, *home,
                    f"a web of {width:.3g} mm is left in a sheet of {made.t:.3g} mm",
                    f"leave at least {made.t:.3g} mm between cuts, or take it away as well",
                )  # fmt: skip


def _between(loops: Sequence[Loop]) -> Iterator[tuple[float, shapely.Point]]:
    """What every two loops leave between them, and where."""
    rims = [shapely.LinearRing([p for s in lp for p in s.points(0.02)[:-1]]) for lp in loops]
    for a, b in itertools.combinations(rims, 2):
        line = shapely.shortest_line(a, b)
        yield line.length, line.interpolate(0.5, normalized=True)


def _slivers(made: Made) -> Iterator[tuple[float, shapely.Point]]:
    """What goes when the rim is moved in by half a thickness and out again: its width, by area and length."""
    whole = polygon(made.flat.outline.loops)
    half = 0.499 * made.t
    thin = shapely.difference(whole, whole.buffer(-half).buffer(half * 1.001))
    for piece in getattr(thin, "geoms", [thin]):
        # Tips of corners are no webs.
        if piece.area > made.t**2:
            yield 2.0 * piece.area / piece.length, piece.representative_point()

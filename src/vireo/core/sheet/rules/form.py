"""Forms that keep off bends, edges and each other."""

from __future__ import annotations

from collections.abc import Iterator

import shapely

from vireo.core.kernel.stamp import taken
from vireo.core.sheet.blanks import polygon
from vireo.core.sheet.rules.kind import Fault, Made, MakingRule, register

#: How many thicknesses off forms are put beyond a bend's radius, and from edges and each other: habits of shops, whose
#: tools hold the sheet all round a form.
_FROM_BEND, _FROM_EDGE = 3.0, 2.0


@register
class FormNear(MakingRule):
    kind = "form"
    label = "Form"

    def faults(self, made: Made) -> Iterator[Fault]:
        for panel in made.sheet.panels.values():
            shapes = [
                (f, polygon([tuple(s.turned for s in reversed(lp)) for lp in taken(f)])) for f in panel.forms
            ]  # fmt: skip
            for k, (form, shape) in enumerate(shapes):
                kind = form.pressing.kind
                if kind == "open form":
                    yield Fault(
                        self.kind, panel.id, taken(form)[0][0].a,
                        "what is open here was read from a solid: the blank has no hole or slit for it",
                        "cut what it is made from, or press it anew by Louvre or Collar",
                    )  # fmt: skip
                for bend in made.sheet.bends.values():
                    if panel.id not in (bend.parent, bend.child):
                        continue
                    lines = made.joints(panel.id, bend.id)
                    need = _FROM_BEND * made.t + bend.radius
                    near = (
                        shapely.shortest_line(shape, shapely.MultiLineString(lines))
                        if lines
                        else None
                    )
                    if near is not None and near.length < need - 1e-6:
                        yield Fault(
                            self.kind, panel.id, tuple(near.coords[0]),
                            f"a {kind} {near.length:.3g} mm from where a bend begins is bent along with it",
                            f"keep it {need:.3g} mm off",
                        )  # fmt: skip
                need = _FROM_EDGE * made.t
                walls = [
                    seg.points(0.05) for (n, i), _ in made.parts[panel.id].walls
                    for seg in (made.parts[panel.id].loops[n][i],)
                ]  # fmt: skip
                near = (
                    shapely.shortest_line(shape, shapely.MultiLineString(walls)) if walls else None
                )
                if near is not None and near.length < need - 1e-6:
                    yield Fault(
                        self.kind, panel.id, tuple(near.coords[0]),
                        f"a {kind} {near.length:.3g} mm from an edge draws that in",
                        f"keep it {need:.3g} mm off",
                    )  # fmt: skip
                for other, beside in shapes[:k]:
                    near = shapely.shortest_line(shape, beside)
                    if near.length < need - 1e-6:
                        yield Fault(
                            self.kind, panel.id, tuple(near.coords[0]),
                            f"a {kind} is {near.length:.3g} mm from another {other.pressing.kind}: one draws the other "
                            "out of shape",
                            f"keep them {need:.3g} mm apart",
                        )  # fmt: skip

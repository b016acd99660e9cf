"""Profile flange: a drawn profile of several bends along straight edges of a sheet, corners mitred."""

from __future__ import annotations

from typing import Literal

import numpy as np

from vireo.core.curves import Line2
from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.lining import own_radius
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.profile import curves_of
from vireo.core.part.sheeting import Wall, changed, handed, together, walls_of
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.flange import Flange, Reach, flanged, named
from vireo.core.sheet.profile import chained, profile_runs

_BENDS, _RADIUS = own_radius()


class SheetProfileFields(f.StepFields):
    edges: tuple[Pick, ...] = f.picks("Edges", "edge", "Click long edges of the sheet")
    sketch: str = f.sketch("Profile")
    chains: tuple[str, ...] = f.curves("sketch", "Lines")
    face: Literal["bottom", "top"] = f.choice(
        "Drawn is", "bottom", {"bottom": "The bottom of the sheet", "top": "The top"}
    )
    width: Literal["full", "ends"] = f.choice(
        "Width", "full", {"full": "Full", "ends": "Off the ends"}
    )
    start: Formula = f.length("Off the start", "5 mm", least=0, when={"width": ["ends"]})
    end: Formula = f.length("Off the end", "5 mm", least=0, when={"width": ["ends"]})
    bends: Literal["sheet", "own"] = _BENDS
    radius: Formula = _RADIUS


@register
class SheetProfile(StepKind[SheetProfileFields]):
    kind = "sheet_profile"
    label = "Profile flange"
    group = "Sheet"
    icon = "profileFlange"
    order = 30
    line = "Bend a drawn profile of several lines up along edges of a sheet, mitred round corners"
    Fields = SheetProfileFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
sheet = part.bodies[1]
p = Sketch()
a, b, c = p.point(0, 0), p.point(0, 20), p.point(10, 20)
p.line(a, b)
p.line(b, c)
profile = part.sketch(drawing=p, plane="YZ")
part.sheet_profile("Return", edges=[sheet.edge_at(130, 0, 1.5)], sketch=profile)
"""

    def build(self, fields: SheetProfileFields, ctx: Context) -> Outcome:
        made, new = {}, set()
        for id, (before, walls) in walls_of(ctx, fields.edges, "edges").items():
            found = before
            for group in together([_level(w) for w in walls]):
                found = self._flanged(fields, ctx, found, group)
            made[id] = found
            new |= changed(before, found)
        return handed(ctx, made, new)

    def _flanged(
        self, fields: SheetProfileFields, ctx: Context, body: SheetBody, walls: list[Wall]
    ) -> SheetBody:
        radius = ctx.value("radius") if fields.bends == "own" else body.radius
        points = self._points(fields, ctx, body, walls)
        runs, back = profile_runs(points, fields.face == "top", radius, body.sheet.thickness)
        reach = Reach()
        if fields.width == "ends":
            reach = Reach(ctx.value("start"), ctx.value("end"))
        flange = Flange(runs, back, reach, body.relief, body.gap)
        at = {w.spot: w.key for w in walls}
        return body.with_(
            flanged(body.sheet, walls[0].panel, at, flange, body.rule, named(ctx.step))
        )

    def _points(
        self, fields: SheetProfileFields, ctx: Context, body: SheetBody, walls: list[Wall]
    ) -> list[tuple[float, float]]:
        """The corners of the profile: outward from the edge it is drawn square to, and up from the face it is."""
        sketch = ctx.sketch(fields.sketch)
        curves = [c for _, c in curves_of(fields.sketch, fields.chains, ctx, "profile")]
        if not all(isinstance(c, Line2) for c in curves):
            raise StepTrouble(
                "the profile is drawn of straight lines: its corners get the bend radius by themselves",
                [f"step:{fields.sketch}"],
            )
        place = body.places()[walls[0].panel]
        loops = body.sheet.panels[walls[0].panel].loops
        frame: Frame = sketch.frame
        found: list[tuple[float, list[tuple[float, float]]]] = []
        for wall in walls:
            seg = loops[wall.spot[0]][wall.spot[1]]
            (ax, ay), (bx, by) = seg.a, seg.b
            size = float(np.hypot(bx - ax, by - ay))
            along = place.x * ((bx - ax) / size) + place.y * ((by - ay) / size)
            if abs(abs(float(np.array(frame.z) @ along)) - 1.0) > 1e-9:
                continue
            # Outward is to the right of where the loop runs.
            out = np.cross(along, place.z)
            height = body.sheet.thickness if fields.face == "top" else 0.0
            home = place.at(seg.a, height)

            def seen(p: tuple[float, float]) -> tuple[float, float]:
                v = np.array(frame.out(p)) - home  # noqa: B023
                return float(v @ out), float(v @ place.z)  # noqa: B023

            lines = [Line2(seen(c.a), seen(c.b)) for c in curves if isinstance(c, Line2)]
            points = chained(lines, (0.0, 0.0))
            found.append((float(np.hypot(*points[0])), points))
        if found:
            # Of edges that face each other the profile is at one.
            return min(found)[1]
        raise StepTrouble(
            "the profile is drawn in a plane square to one of the edges", [f"step:{fields.sketch}"]
        )


def _level(wall: Wall) -> Wall:
    """The profile says itself which way it goes: whichever edge of a wall is picked."""
    return Wall(wall.panel, wall.spot, wall.piece, True)

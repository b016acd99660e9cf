"""Hole: plain or counterbored bores at points of a sketch."""

from __future__ import annotations

from typing import Literal

from vireo.core.geometry import Triple
from vireo.core.kernel.boolean import Nothing, combine
from vireo.core.kernel.grow import cylinder
from vireo.core.kernel.shape import Body
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.part.kind import StepKind, register
from vireo.core.part.merge import reach_through
from vireo.core.trouble import Report

_CLEAR = 1.0  # mm
_COUNTERBORE = {"form": ["counterbored"]}


class HoleFields(f.StepFields):
    sketch: str = f.sketch("Place on")
    points: tuple[str, ...] = f.points("sketch")
    form: Literal["plain", "counterbored"] = f.choice(
        "Kind", "plain", {"plain": "Plain", "counterbored": "Counterbored"}
    )
    bore: str = f.length("Bore", "6.6 mm", above=0, key="Ø")
    recess: str = f.length("Recess", "11 mm", above=0, when=_COUNTERBORE, key="Ø")
    recess_depth: str = f.length("Recess depth", "6.5 mm", above=0, when=_COUNTERBORE)
    reach: Literal["through", "blind"] = f.choice(
        "Reach", "through", {"through": "Through", "blind": "Depth"}
    )
    depth: str = f.length("Depth", "10 mm", above=0, when={"reach": ["blind"]})
    flip: bool = f.toggle("Other way")
    into: tuple[str, ...] = f.bodies("Into")


@register
class Hole(StepKind[HoleFields]):
    kind = "hole"
    label = "Hole"
    group = "Cut"
    icon = "hole"
    line = "Plain or counterbored bores at sketch points"
    Fields = HoleFields
    copyable = True
    deciding = ("bore",)

    def build(self, fields: HoleFields, ctx: Context) -> Outcome:
        data = ctx.sketch(fields.sketch)
        wanted = fields.points or tuple(data.points)
        if not wanted:
            raise StepTrouble(
                "the sketch has no loose points to put holes at; draw points where holes go",
                [f"step:{fields.sketch}"],
            )
        gone = [p for p in wanted if p not in data.points]
        if gone:
            raise StepTrouble(
                f"point {gone[0]} is no longer in the sketch", [f"step:{fields.sketch}"]
            )
        low, high = reach_through(ctx, fields.into, data.frame)
        # Into the material: the side of the sketch plane on which more of the body lies.
        sign = -1.0 if (-low >= high) != fields.flip else 1.0
        axis: Triple = tuple(sign * c for c in data.frame.z)  # type: ignore[assignment]
        through, behind = (high, -low) if sign > 0 else (-low, high)
        # Tools begin outside so that no skin is left; a through bore comes out on both sides.
        above = max(behind, _CLEAR) if fields.reach == "through" else _CLEAR
        tools: dict[str, list[Body]] = {}
        for id in wanted:
            start = data.frame.out(data.points[id])
            tools[id] = self._tools(fields, ctx, id, start, axis, through, above)
        flat = [tool for group in tools.values() for tool in group]
        ids = list(fields.into) or ctx.body_ids()
        outcome = Outcome(tools=flat, operation="cut")
        cut_walls: set[str] = set()
        for id in ids:
            try:
                made = combine("cut", ctx.body(id), flat, "this hole")
            except Nothing:
                continue
            outcome.bodies[id] = made
            cut_walls |= {part for n in made.names for part in n.split("&")}
        missing = [p for p in wanted if not any(f"{ctx.step}/{p}/{r}" in cut_walls
                                                for r in ("wall", "recess", "floor"))]  # fmt: skip
        if not outcome.bodies:
            raise Nothing(
                "no hole touches the body: they lie outside it or point away from it",
                [f"step:{ctx.step}"],
            )
        if missing:
            outcome.notes.append(
                Report(
                    code="missed",
                    text=f"{len(missing)} of {len(wanted)} holes miss the body "
                    f"({', '.join(missing)})",
                    where=[f"step:{ctx.step}"],
                )
            )
        return outcome

    def _tools(
        self, fields: HoleFields, ctx: Context, id: str, start: Triple, axis: Triple,
        through: float, above: float,
    ) -> list[Body]:  # fmt: skip
        role = f"{ctx.step}/{id}"
        length = max(through, 0.0) if fields.reach == "through" else ctx.value("depth")
        bore = ctx.value("bore")
        tools = [
            cylinder(_back(start, axis, above), axis, bore / 2, length + above,
                     (f"{role}/wall", f"{role}/floor", f"{role}/mouth"))
        ]  # fmt: skip
        if fields.form == "counterbored":
            recess = ctx.value("recess")
            if recess <= bore:
                raise StepTrouble(
                    f"the recess (Ø {recess:g} mm) must be wider than the bore (Ø {bore:g} mm)"
                )
            tools.append(
                cylinder(_back(start, axis, _CLEAR), axis, recess / 2,
                         ctx.value("recess_depth") + _CLEAR,
                         (f"{role}/recess", f"{role}/shoulder", f"{role}/mouth"))
            )  # fmt: skip
        return tools


def _back(start: Triple, axis: Triple, by: float) -> Triple:
    return (start[0] - by * axis[0], start[1] - by * axis[1], start[2] - by * axis[2])

"""Hole: plain, recessed, sunk, tapped or tapered bores at points of a sketch, by size or by screw."""

from __future__ import annotations

import math
from typing import Literal

from vireo.core.geometry import Triple
from vireo.core.kernel.boolean import Nothing, combine
from vireo.core.kernel.grow import turned
from vireo.core.kernel.shape import Body
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.part.kind import StepKind, register
from vireo.core.part.merge import reach_through
from vireo.core.screws import SCREWS, Screw
from vireo.core.trouble import Report

_CLEAR = 1.0  # mm
_OWN = {"size": ["own"]}
_BY_SCREW = {"size": ["screw"]}


class HoleFields(f.StepFields):
    sketch: str = f.sketch("Place on")
    points: tuple[str, ...] = f.points("sketch")
    form: Literal["plain", "counterbored", "countersunk", "tapped", "tapered"] = f.choice(
        "Kind", "plain",
        {"plain": "Plain", "counterbored": "Counterbored", "countersunk": "Countersunk",
         "tapped": "Tapped", "tapered": "Tapered"},
    )  # fmt: skip
    size: Literal["own", "screw"] = f.choice("Sizes", "own", {"own": "Own", "screw": "For a screw"})
    screw: str = f.choice("Screw", "M6", {n: n for n in SCREWS}, when=_BY_SCREW)
    fit: Literal["fine", "medium", "coarse"] = f.choice(
        "Clearance", "medium", {"fine": "Fine", "medium": "Medium", "coarse": "Coarse"},
        when={"size": ["screw"], "form": ["plain", "counterbored", "countersunk"]},
    )  # fmt: skip
    bore: str = f.length("Bore", "6.6 mm", above=0, when=_OWN, key="Ø")
    recess: str = f.length(
        "Recess", "11 mm", above=0, when={"form": ["counterbored"], "size": ["own"]}, key="Ø"
    )
    recess_depth: str = f.length(
        "Recess depth", "6.5 mm", above=0, when={"form": ["counterbored"], "size": ["own"]}
    )
    sink: str = f.length(
        "Sink", "13 mm", above=0, when={"form": ["countersunk"], "size": ["own"]}, key="Ø"
    )
    sink_angle: str = f.quantity(
        "angle", "Sink angle", "90 deg", above=10, most=170, when={"form": ["countersunk"]}
    )
    taper: str = f.quantity(
        "angle", "Taper each side", "2 deg", above=0, most=45, when={"form": ["tapered"]}
    )
    more: str = f.length("Extra on the bore", "0 mm", least=-5, most=5)
    reach: Literal["through", "blind"] = f.choice(
        "Reach", "through", {"through": "Through", "blind": "Depth"}
    )
    depth: str = f.length("Depth", "10 mm", above=0, when={"reach": ["blind"]})
    bottom: Literal["flat", "point"] = f.choice(
        "Bottom", "flat", {"flat": "Flat", "point": "Drill point"}, when={"reach": ["blind"]}
    )
    point: str = f.quantity(
        "angle", "Point angle", "118 deg", above=30, most=178,
        when={"reach": ["blind"], "bottom": ["point"]},
    )  # fmt: skip
    thread: str = f.length(
        "Thread depth", "8 mm", above=0, when={"form": ["tapped"], "reach": ["blind"]}
    )
    flip: bool = f.toggle("Other way")
    into: tuple[str, ...] = f.bodies("Into")


@register
class Hole(StepKind[HoleFields]):
    kind = "hole"
    label = "Hole"
    group = "Cut"
    icon = "hole"
    line = "Plain, recessed, sunk, tapped or tapered, by size or for a screw, at sketch points"
    Fields = HoleFields
    version = 2
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
        flat = [
            self._tool(fields, ctx, id, data.frame.out(data.points[id]), axis, through, above)
            for id in wanted
        ]
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
                                                for r in ("wall", "recess", "sink", "floor"))]  # fmt: skip
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

    def _tool(
        self, fields: HoleFields, ctx: Context, id: str, start: Triple, axis: Triple,
        through: float, above: float,
    ) -> Body:  # fmt: skip
        """One tool for a hole: its half profile, (radius, height) from the mouth down, turned."""
        screw = self._screw(fields)
        bore = self._bore(fields, ctx, screw)
        r = bore / 2
        blind = fields.reach == "blind"
        length = ctx.value("depth") if blind else max(through, 0.0)
        mouth: list[tuple[float, float, str]] = []  # radius, depth, what the piece before it is
        if fields.form == "counterbored":
            wide, deep = self._recess(fields, ctx, screw)
            if wide <= bore:
                raise StepTrouble(
                    f"the recess (Ø {wide:g} mm) must be wider than the bore (Ø {bore:g} mm)",
                    ["field:recess"],
                )
            if blind and deep >= length:
                raise StepTrouble("the recess goes as deep as the hole", ["field:recess_depth"])
            mouth = [
                (wide / 2, -_CLEAR, "mouth"),
                (wide / 2, deep, "recess"),
                (r, deep, "shoulder"),
            ]
        elif fields.form == "countersunk":
            wide = self._sink(fields, ctx, screw)
            if wide <= bore:
                raise StepTrouble(
                    f"the sink (Ø {wide:g} mm) must be wider than the bore (Ø {bore:g} mm)",
                    ["field:sink"],
                )
            slope = math.tan(ctx.value("sink_angle") / 2)
            deep = (wide / 2 - r) / slope
            out = wide / 2 + _CLEAR * slope
            mouth = [(out, -_CLEAR, "mouth"), (r, deep, "sink")]
        else:
            mouth = [(r, -above, "mouth")]
        first = mouth[0]
        if fields.form in ("counterbored", "countersunk") and not blind and above > _CLEAR:
            # The bore comes out behind the mouth as well: the sketch lies inside the body.
            mouth = [(r, -above, "mouth"), (r, first[1], "wall"), (first[0], first[1], "mouth"),
                     *mouth[1:]]  # fmt: skip
        end = r
        if fields.form == "tapered":
            end = r - length * math.tan(ctx.value("taper"))
            if end <= 0:
                raise StepTrouble(
                    f"a taper of {math.degrees(ctx.value('taper')):g} deg closes the hole before "
                    f"its depth of {length:g} mm", ["field:taper"],
                )  # fmt: skip
            mouth = [(r, -above, "mouth"), (r, 0.0, "mouth")]
        run = [*mouth, (end, length, "wall")]
        if blind and fields.bottom == "point":
            run.append((0.0, length + end / math.tan(ctx.value("point") / 2), "point"))
        else:
            run.append((0.0, length, "floor"))
        return turned(start, axis, run, f"{ctx.step}/{id}")

    def _screw(self, fields: HoleFields) -> Screw | None:
        if fields.size == "own":
            return None
        found = SCREWS.get(fields.screw)
        if found is None:
            raise StepTrouble(f"there is no screw {fields.screw} in the tables", ["field:screw"])
        return found

    def _bore(self, fields: HoleFields, ctx: Context, screw: Screw | None) -> float:
        more = ctx.value("more")
        if screw is None:
            bore = ctx.value("bore") + more
        elif fields.form == "tapped":
            bore = screw.drill + more
        else:
            bore = screw.clear[("fine", "medium", "coarse").index(fields.fit)] + more
        if bore <= 0:
            raise StepTrouble("nothing is left of the bore", ["field:more"])
        if (
            fields.form == "tapped"
            and fields.reach == "blind"
            and ctx.value("thread") > ctx.value("depth")
        ):
            raise StepTrouble("the thread is deeper than the hole", ["field:thread"])
        return bore

    def _recess(self, fields: HoleFields, ctx: Context, screw: Screw | None) -> tuple[float, float]:
        if screw is None:
            return ctx.value("recess"), ctx.value("recess_depth")
        if screw.recess is None or screw.recess_depth is None:
            raise StepTrouble(
                f"no recess for {screw.name} is in the tables: take own sizes", ["field:screw"]
            )
        return screw.recess, screw.recess_depth

    def _sink(self, fields: HoleFields, ctx: Context, screw: Screw | None) -> float:
        if screw is None:
            return ctx.value("sink")
        if screw.sink is None:
            raise StepTrouble(
                f"no countersink for {screw.name} is in the tables: take own sizes",
                ["field:screw"],
            )
        return screw.sink

    def caption(self, fields: HoleFields) -> str:
        if fields.size == "own":
            return ""
        return f"{fields.screw} {fields.form}" if fields.form != "plain" else fields.screw

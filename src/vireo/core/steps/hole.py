"""Hole: plain, recessed, sunk, tapped or tapered bores at points of a sketch, by size or by screw."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, Triple, dot, plane_frame
from vireo.core.kernel.boolean import Nothing, combine
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.grow import turned
from vireo.core.kernel.locate import ahead, foot_on
from vireo.core.kernel.outline import axis_of_face
from vireo.core.kernel.shape import Body
from vireo.core.kernel.thread import threaded
from vireo.core.kernel.trim import run_on
from vireo.core.naming import Pick
from vireo.core.naming.grammar import all_parts, answers, face_name
from vireo.core.part.context import Context
from vireo.core.part.merge import reach_through
from vireo.core.part.places import number
from vireo.core.part.products.deeds import Deed
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.threads import (
    CLASS_WORDS,
    Class,
    Shown,
    class_zone,
    cut_of,
    form_for,
    listed,
    mark_of,
    screw_called,
)
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import LENGTH, Formula
from vireo.core.screws import SCREWS, Screw
from vireo.core.thread_classes import OUTER
from vireo.core.trouble import Report

_CLEAR = 1.0  # mm
_OWN = {"size": ["own"]}
_BY_SCREW = {"size": ["screw"]}


#: Half profile of a tool from its mouth down: radius, depth (mm), role of the piece before.
Run = list[tuple[float, float, str]]


@dataclass(frozen=True)
class Place:
    """Where a hole goes: its mouth, the way in, how deep (mm), and how far the tool begins
    outside."""

    id: str
    start: Triple
    axis: Triple
    length: float
    above: float


class HoleFields(f.StepFields):
    at: Literal["sketch", "faces"] = f.choice(
        "Places", "sketch", {"sketch": "Sketch points", "faces": "On faces"}
    )
    sketch: str = f.later_sketch("Place on", when={"at": ["sketch"]})
    points: tuple[str, ...] = f.points("sketch", when={"at": ["sketch"]})
    spots: tuple[f.Spot, ...] = f.spots(
        "Places", "Click faces where holes go; type their X, Y, Z", when={"at": ["faces"]}
    )
    form: Literal[
        "plain", "counterbored", "countersunk", "spotfaced", "tapped", "tapered"
    ] = f.choice(
        "Kind", "plain",
        {"plain": "Plain", "counterbored": "Counterbored", "countersunk": "Countersunk",
         "spotfaced": "Spot-faced", "tapped": "Tapped", "tapered": "Tapered"},
    )  # fmt: skip
    size: Literal["own", "screw"] = f.choice("Sizes", "own", {"own": "Own", "screw": "For a screw"})
    screw: str = f.choice("Screw", "M6", {n: n for n in SCREWS}, when=_BY_SCREW)
    fit: Literal["fine", "medium", "coarse"] = f.choice(
        "Clearance", "medium", {"fine": "Fine", "medium": "Medium", "coarse": "Coarse"},
        when={"size": ["screw"], "form": ["plain", "counterbored", "countersunk", "spotfaced"]},
    )  # fmt: skip
    bore: Formula = f.length("Bore", "6.6 mm", above=0, when=_OWN, key="Ø")
    recess: Formula = f.length(
        "Recess",
        "11 mm",
        above=0,
        when={"form": ["counterbored", "spotfaced"], "size": ["own"]},
        key="Ø",
    )
    recess_depth: Formula = f.length(
        "Recess depth", "6.5 mm", above=0, when={"form": ["counterbored"], "size": ["own"]}
    )
    spot_depth: Formula = f.length("Spot depth", "0.5 mm", above=0, when={"form": ["spotfaced"]})
    sink: Formula = f.length(
        "Sink", "13 mm", above=0, when={"form": ["countersunk"], "size": ["own"]}, key="Ø"
    )
    sink_angle: Formula = f.quantity(
        "angle", "Sink angle", "90 deg", above=10, most=170, when={"form": ["countersunk"]}
    )
    taper: Formula = f.quantity(
        "angle", "Taper each side", "2 deg", above=0, most=45, when={"form": ["tapered"]}
    )
    more: Formula = f.length("Extra on the bore", "0 mm", least=-5, most=5)
    reach: Literal["through", "blind", "upto"] = f.choice(
        "Reach", "through", {"through": "Through", "blind": "Depth", "upto": "Up to"}
    )
    upto: tuple[Pick, ...] = f.picks(
        "Up to", "face", "Click the face its axis stops at", when={"reach": ["upto"]}
    )
    depth: Formula = f.length("Depth", "10 mm", above=0, when={"reach": ["blind"]})
    bottom: Literal["flat", "point"] = f.choice(
        "Bottom",
        "flat",
        {"flat": "Flat", "point": "Drill point"},
        when={"reach": ["blind", "upto"]},
    )
    point: Formula = f.quantity(
        "angle", "Point angle", "118 deg", above=30, most=178,
        when={"reach": ["blind", "upto"], "bottom": ["point"]},
    )  # fmt: skip
    thread: Formula = f.length(
        "Thread depth", "8 mm", above=0, when={"form": ["tapped"], "reach": ["blind", "upto"]}
    )
    shown: Shown = f.choice(
        "Thread", "marked", {"marked": "Marked", "modelled": "Modelled"},
        when={"form": ["tapped"], "size": ["screw"]},
    )  # fmt: skip
    grade: Class = f.choice(
        "Class", "", {c: w for c, w in CLASS_WORDS.items() if c not in OUTER},
        when={"form": ["tapped"], "size": ["screw"]},
    )  # fmt: skip
    loose: Formula = f.length(
        "Looser by", "0 mm", least=-1, most=3, when={"form": ["tapped"], "shown": ["modelled"]}
    )
    flip: bool = f.toggle("Other way")
    into: tuple[str, ...] = f.bodies("Into")


@register
class Hole(StepKind[HoleFields]):
    kind = "hole"
    label = "Hole"
    group = "Cut"
    icon = "hole"
    order = 10
    line = "Plain, recessed, sunk, tapped or tapered, by size or for a screw, at points or on faces"
    Fields = HoleFields
    example = """
s = Sketch()
s.point(15, 20)
s.point(45, 20)
bolts = part.hole("Bolts", sketch=part.sketch(drawing=s, plane=top), size="screw", screw="M6", form="counterbored")
"""
    version = 3
    copyable = True
    deciding = ("bore",)

    def build(self, fields: HoleFields, ctx: Context) -> Outcome:
        places = (_from_sketch if fields.at == "sketch" else _on_faces)(fields, ctx)
        runs = {p.id: self._run(fields, ctx, p) for p in places}
        flat = [turned(p.start, p.axis, runs[p.id], face_name(ctx.step, p.id)) for p in places]
        ids = list(fields.into) or ctx.body_ids()
        outcome = Outcome()
        cut_walls: set[str] = set()
        for id in ids:
            try:
                made = combine("cut", ctx.body(id), flat, "this hole")
            except Nothing:
                continue
            outcome.bodies[id] = made
            cut_walls |= all_parts(made.names)
        outcome.deeds.append(Deed("cut", tuple(flat), tuple(outcome.bodies)))
        wanted = [p.id for p in places]
        missing = [p for p in wanted if not any(face_name(ctx.step, p, r) in cut_walls
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
        if fields.form == "tapped" and fields.size == "screw":
            self._threads(fields, ctx, [p for p in places if p.id not in missing], runs, outcome)
        return outcome

    def _threads(
        self, fields: HoleFields, ctx: Context, places: list[Place], runs: dict[str, Run],
        outcome: Outcome,
    ) -> None:  # fmt: skip
        """Marks the threads of tapped holes, or cuts them."""
        screw = screw_called(fields.screw, "screw")
        bore = self._bore(fields, ctx, screw)
        loose = ctx.value("loose") if fields.shown == "modelled" else 0.0
        within = class_zone(fields.grade, screw, True, "grade")
        form = form_for(screw.diameter, screw.pitch, bore, loose, False, None, within)
        name = f"{screw.name} {fields.grade}".strip()
        if within is not None:
            text = listed(fields.grade, screw)
            outcome.notes.append(Report(code="thread", text=text, where=[f"step:{ctx.step}"]))
        for place in places:
            frame = plane_frame(place.start, place.axis)
            frame = Frame(place.start, frame.x, frame.z)
            whole = next(h for _, h, role in reversed(runs[place.id]) if role == "wall")
            deep = ctx.value("thread") if fields.reach != "through" else whole
            wall = face_name(ctx.step, place.id, "wall")
            body = next((id for id, b in outcome.bodies.items() if b and _has(b, wall)), None)
            if body is None:
                continue
            cut = outcome.bodies[body]
            assert cut is not None
            # A through bore's tool reaches out of the body: the thread ends where its wall does.
            low, end = _stretch(cut, wall, frame)
            high = min(end, low + deep)
            if fields.shown == "marked":
                outcome.marks.append(mark_of(name, form, bore / 2, frame, low, high, (wall,)))
                continue
            try:
                tool = cut_of(
                    cut,
                    form,
                    frame,
                    low,
                    high,
                    face_name(ctx.step, place.id, "thread"),
                    high >= end,
                )
                outcome.bodies[body] = threaded(cut, tool)
            except KernelTrouble as error:
                raise StepTrouble(
                    f"the thread {screw.name} cannot be cut here ({error.text}): mark it only",
                    ["field:shown"],
                ) from error

    def _run(self, fields: HoleFields, ctx: Context, place: Place) -> Run:
        """The half profile of a hole's tool: (radius, depth below the mouth, role)."""
        above = place.above
        screw = self._screw(fields)
        bore = self._bore(fields, ctx, screw)
        r = bore / 2
        blind = fields.reach != "through"
        length = place.length
        mouth: list[tuple[float, float, str]] = []  # radius, depth, what the piece before it is
        if fields.form in ("counterbored", "spotfaced"):
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
        if (
            fields.form in ("counterbored", "countersunk", "spotfaced")
            and not blind
            and above > _CLEAR
        ):
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
        return run

    def _screw(self, fields: HoleFields) -> Screw | None:
        if fields.size == "own":
            return None
        return screw_called(fields.screw, "screw")

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
        if fields.form == "spotfaced":
            # A seat for a washer: as wide as the head's recess, just deep enough to be flat.
            wide = ctx.value("recess") if screw is None else screw.recess
            if wide is None:
                raise StepTrouble(
                    f"no head for {fields.screw} is in the tables: take own sizes", ["field:screw"]
                )
            return wide, ctx.value("spot_depth")
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


def _from_sketch(fields: HoleFields, ctx: Context) -> list[Place]:
    if not fields.sketch:
        raise StepTrouble("choose the sketch whose points are the places", ["field:sketch"])
    data = ctx.sketch(fields.sketch)
    wanted = fields.points or tuple(data.points)
    if not wanted:
        raise StepTrouble(
            "the sketch has no loose points to put holes at; draw points where holes go",
            [f"step:{fields.sketch}"],
        )
    gone = [p for p in wanted if p not in data.points]
    if gone:
        raise StepTrouble(f"point {gone[0]} is no longer in the sketch", [f"step:{fields.sketch}"])
    low, high = reach_through(ctx, fields.into, data.frame)
    # Into the material: the side of the sketch plane on which more of the body lies.
    sign = -1.0 if (-low >= high) != fields.flip else 1.0
    axis: Triple = tuple(sign * c for c in data.frame.z)  # type: ignore[assignment]
    through, behind = (high, -low) if sign > 0 else (-low, high)
    starts = {id: data.frame.out(data.points[id]) for id in wanted}
    return [_place(fields, ctx, id, p, axis, through, behind) for id, p in starts.items()]


def _on_faces(fields: HoleFields, ctx: Context) -> list[Place]:
    if not fields.spots:
        raise StepTrouble("click faces where holes go", ["field:spots"])
    places = []
    for spot in fields.spots:
        index, _ = ctx.find(spot.face, "spots")
        at = tuple(number(o, f"the place of {spot.id}", LENGTH, ctx) for o in spot.at)
        try:
            start, normal = foot_on(ctx.seen(spot.face.body).faces[index], at)  # type: ignore[arg-type]
        except KernelTrouble as error:
            raise StepTrouble(f"{error.text} ({spot.id})", ["field:spots"]) from error
        inward: Triple = (-normal[0], -normal[1], -normal[2])
        if fields.flip:
            inward = normal
        frame = plane_frame(start, inward)
        frame = Frame(start, frame.x, frame.z)
        low, high = reach_through(ctx, fields.into or (spot.face.body,), frame)
        # From a face outwards in there is nothing of this hole behind it.
        behind = _CLEAR if not fields.flip else -low
        places.append(_place(fields, ctx, spot.id, start, inward, high, behind))
    return places


def _place(
    fields: HoleFields, ctx: Context, id: str, start: Triple, axis: Triple, through: float,
    behind: float,
) -> Place:  # fmt: skip
    if fields.reach == "through":
        # Tools begin outside so that no skin is left; a through bore comes out on both sides.
        return Place(id, start, axis, max(through, 0.0), max(behind, _CLEAR))
    if fields.reach == "blind":
        return Place(id, start, axis, ctx.value("depth"), _CLEAR)
    if len(fields.upto) != 1:
        raise StepTrouble("pick the one face its axis stops at", ["field:upto"])
    index, _ = ctx.find(fields.upto[0], "upto", fields.upto)
    length = ahead(run_on(ctx.seen(fields.upto[0].body).faces[index]), start, axis)
    if length is None:
        raise StepTrouble(
            f"the axis of {id} never meets the face it should stop at", ["field:upto"]
        )
    return Place(id, start, axis, length, _CLEAR)


def _has(body: Body, name: str) -> bool:
    return any(answers(n, name) for n in body.names)


def _stretch(body: Body, wall: str, frame: Frame) -> tuple[float, float]:
    """From where to where along a hole's axis its wall is there (mm)."""
    heights = []
    for face, name in body.named_faces():
        found = axis_of_face(face) if answers(name, wall) else None
        for end in found or ():
            assert isinstance(end, tuple)
            d = tuple(e - o for e, o in zip(end, frame.origin, strict=True))
            heights.append(dot(d, frame.z))  # type: ignore[arg-type]
    return min(heights), max(heights)

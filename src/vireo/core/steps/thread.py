"""Thread: on shafts and in bores, drawn or as solid."""

from __future__ import annotations

import math
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, plane_frame
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.outline import axis_of_face
from vireo.core.kernel.shape import Body
from vireo.core.kernel.thread import threaded
from vireo.core.naming import FaceInfo, Pick
from vireo.core.naming.grammar import face_name
from vireo.core.part.context import Context
from vireo.core.part.fitting import fitted
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
    matching,
    nearest,
    screw_called,
)
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.screws import SCREWS, Screw
from vireo.core.thread_classes import Zone
from vireo.core.trouble import Report

_OWN = {"size": ["own"]}


class ThreadFields(f.StepFields):
    faces: tuple[Pick, ...] = f.picks("Round faces", "face", "Click shafts or bores")
    shown: Shown = f.choice("As", "marked", {"marked": "Marked", "modelled": "Modelled"})
    size: Literal["match", "screw", "own"] = f.choice(
        "Size", "match", {"match": "By the face", "screw": "Screw", "own": "Own"}
    )
    screw: str = f.choice("Screw", "M6", {n: n for n in SCREWS}, when={"size": ["screw"]})
    pitch: Formula = f.length("Pitch", "1 mm", above=0, when=_OWN, key="P")
    reach: Literal["whole", "depth"] = f.choice(
        "Reach", "whole", {"whole": "All of it", "depth": "A length"}
    )
    length: Formula = f.length("Length", "10 mm", above=0, when={"reach": ["depth"]})
    flip: bool = f.toggle("From the other end", when={"reach": ["depth"]})
    hand: Literal["right", "left"] = f.choice("Hand", "right", {"right": "Right", "left": "Left"})
    grade: Class = f.choice("Class", "", CLASS_WORDS, when={"size": ["match", "screw"]})
    loose: Formula = f.length("Looser by", "0 mm", least=-1, most=3)


@register
class Thread(StepKind[ThreadFields]):
    kind = "thread"
    label = "Thread"
    group = "Cut"
    icon = "thread"
    order = 20
    line = "On shafts and in bores: marked, or modelled as solid for printing"
    Fields = ThreadFields
    example = """
part.primitive("Stud", form="cylinder", diameter=8, height=40, x=100)
stud = part.bodies[-1].face_at(100, 0, 20)
thread = part.thread("M8", faces=[stud], reach="depth", length=12)
"""
    version = 2
    deciding = ("length",)

    def build(self, fields: ThreadFields, ctx: Context) -> Outcome:
        outcome = Outcome()
        for n, pick in enumerate(fields.faces):
            index, topology = ctx.find(pick, "faces", fields.faces)
            info = topology.faces[index]
            if info.kind != "cylinder" or info.radius is None:
                raise StepTrouble(
                    f"a thread needs a cylinder; this face is a {info.kind}", ["field:faces"]
                )
            frame, length = self._axis(ctx.body(pick.body), index, fields.flip)
            screw, diameter, pitch = self._size(fields, ctx, info, outcome)
            name = screw.name if screw is not None else ""
            grade = fields.grade if fields.size != "own" else ""
            within = class_zone(grade, screw, info.hollow, "grade")
            if grade and screw is not None:
                name = f"{name} {grade}"
                text = listed(grade, screw)
                outcome.notes.append(Report(code="thread", text=text, where=[f"step:{ctx.step}"]))
            loose, left = ctx.value("loose"), fields.hand == "left"
            reach = length
            if fields.reach == "depth":
                reach = ctx.value("length")
                if reach > length + 1e-9:
                    raise StepTrouble(
                        f"the cylinder is only {length:.4g} mm long", ["field:length"]
                    )
            bore = 2 * info.radius if info.hollow else None
            if fields.shown == "marked":
                form = form_for(diameter, pitch, bore, loose, left, 2 * info.radius, within)
                text = name or f"{diameter:.4g} × {pitch:g}"
                outcome.marks.append(
                    mark_of(text, form, info.radius, frame, 0.0, reach, (info.name,))
                )
                continue
            outcome.bodies[pick.body] = self._modelled(
                ctx, outcome.bodies.get(pick.body) or ctx.body(pick.body), (frame, reach, length),
                (diameter, pitch, bore, loose, left, 2 * info.radius, within),
                face_name(ctx.step, n) if n else ctx.step,
                "pitch" if fields.size == "own" else "loose",
            )  # fmt: skip
        return outcome

    def _modelled(
        self, ctx: Context, body: Body, run: tuple[Frame, float, float],
        size: tuple[float, float, float | None, float, bool, float, Zone | None], name: str,
        field: str,
    ) -> Body:  # fmt: skip
        frame, reach, whole = run
        diameter, pitch, bore, loose, left, across, within = size

        def attempt(p: float) -> Body:
            form = form_for(diameter, p, bore, loose, left, across, within)
            return threaded(body, cut_of(body, form, frame, 0.0, reach, name, reach >= whole))

        if field == "pitch":
            return fitted(attempt, pitch, "pitch", "a thread of pitch")
        try:
            return attempt(pitch)
        except KernelTrouble as error:
            raise StepTrouble(
                f"this thread cannot be cut ({error.text}): take a finer pitch, or mark it only",
                ["field:shown"],
            ) from error

    def _axis(self, body: Body, index: int, flip: bool) -> tuple[Frame, float]:
        """A frame at one end of a cylinder with z along it, and its length."""
        found = axis_of_face(body.faces[index])
        assert found is not None
        a, b = (found[1], found[0]) if flip else (found[0], found[1])
        assert isinstance(a, tuple)
        assert isinstance(b, tuple)
        length = math.dist(a, b)
        way = ((b[0] - a[0]) / length, (b[1] - a[1]) / length, (b[2] - a[2]) / length)
        frame = plane_frame(a, way)
        return Frame(a, frame.x, frame.z), length

    def _size(
        self, fields: ThreadFields, ctx: Context, info: FaceInfo, outcome: Outcome
    ) -> tuple[Screw | None, float, float]:
        """The screw, if it is one of the tables, nominal diameter and pitch (mm)."""
        radius = info.radius or 0.0
        if fields.size == "match":
            what = "tapping drill" if info.hollow else "screw"
            found = matching(2 * radius, info.hollow)
            if found is None:
                near = ", ".join(m.screw.name for m in nearest(2 * radius, info.hollow)[:3])
                raise StepTrouble(
                    f"no {what} of the tables is {2 * radius:.4g} mm: choose a screw or a pitch; "
                    f"nearest are {near}",
                    ["field:size"],
                )
            best, others = found
            also = f"; near it: {', '.join(m.words for m in others)}" if others else ""
            text = f"taken for {best.words} by its {what}{also}"
            outcome.notes.append(Report(code="thread", text=text, where=[f"step:{ctx.step}"]))
            return best.screw, best.screw.diameter, best.screw.pitch
        if fields.size == "screw":
            screw = screw_called(fields.screw, "screw")
            off = 2 * radius - (screw.diameter - screw.pitch if info.hollow else screw.diameter)
            if abs(off) > 0.6 * screw.pitch:
                where = "a bore" if info.hollow else "a shaft"
                wants = screw.drill if info.hollow else screw.diameter
                raise StepTrouble(
                    f"{screw.name} needs {where} of {wants:g} mm; this one is {2 * radius:.4g} mm",
                    ["field:screw"],
                )
            return screw, screw.diameter, screw.pitch
        pitch = ctx.value("pitch")
        # A bore is drilled to the diameter less the pitch.
        return None, (2 * radius + pitch if info.hollow else 2 * radius), pitch

    def caption(self, fields: ThreadFields) -> str:
        size = fields.screw if fields.size == "screw" else ""
        return f"{size} {fields.shown}".strip()

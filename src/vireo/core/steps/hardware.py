"""Screws, washers, nuts, pins and rings from standard tables."""

from __future__ import annotations

import math
from itertools import pairwise

from vireo.core.curves import Curve2, Line2
from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, cross
from vireo.core.hardware.kind import STANDARDS, Prism, Threaded, Turned
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.grow import prism, revolved
from vireo.core.kernel.profile import Outline, arrange, outline_of
from vireo.core.kernel.shape import Body
from vireo.core.naming.grammar import body_name, face_name, words_of
from vireo.core.part.context import Context
from vireo.core.part.datum import Datum, Mark
from vireo.core.part.products.outcome import Outcome
from vireo.core.quantity import Formula
from vireo.core.trouble import BadInput

_WITH_LENGTH = {
    "standard": [s.standard for s in STANDARDS.values() if s.lengths(next(iter(s.sizes)))]
}
_SIZES = dict.fromkeys(size for s in STANDARDS.values() for size in s.sizes)


class HardwareFields(f.StepFields):
    standard: str = f.choice(
        "Standard", "ISO 4762",
        {s.standard: f"{s.standard} {s.label}" for s in sorted(STANDARDS.values(), key=lambda s: s.order)},
    )  # fmt: skip
    size: str = f.choice("Size", "M6", {n: n for n in _SIZES})
    length: Formula = f.length("Length", "20 mm", above=0, when=_WITH_LENGTH)


@register
class Hardware(StepKind[HardwareFields]):
    kind = "hardware"
    label = "Hardware"
    group = "Grow"
    icon = "thread"
    order = 60
    line = "A screw, washer, nut, pin or ring by its standard, on its seat"
    Fields = HardwareFields
    example = """
screw = part.hardware("Screw", standard="ISO 4762", size="M6", length=20)
"""
    deciding = ("length",)

    def build(self, fields: HardwareFields, ctx: Context) -> Outcome:
        standard = STANDARDS.called(fields.standard)
        length = ctx.value("length") if ctx.has("length") else 0.0
        standard.checked(fields.size, length)
        form = standard.form(fields.size, length)
        title = standard.title(fields.size, length)
        body = _turned(form.base, ctx.step)
        if form.within is not None:
            body = combine("overlap", body, [_raised(form.within, ctx.step)], title)
        if form.added is not None:
            body = combine("add", body, [_turned(form.added, ctx.step)], title)
        if form.cut:
            body = combine("cut", body, [_raised(p, ctx.step) for p in form.cut], title)
        # Its seat looks down: what it sits on looks up.
        seat = Datum("port", Frame(z=(0.0, 0.0, -1.0)), word="screw")
        outcome = Outcome(bodies={body_name(ctx.step): body}, datum=seat)
        if form.thread is not None:
            outcome.marks.append(_mark(form.thread, ctx.step))
        return outcome

    def caption(self, fields: HardwareFields) -> str:
        try:
            return STANDARDS.called(fields.standard).label.lower()
        except BadInput:
            return fields.standard


def _mark(thread: Threaded, step: str) -> Mark:
    screw, length = thread.screw, thread.high - thread.low
    frame = Frame((0.0, 0.0, thread.low))
    face = face_name(step, thread.face)
    return Mark(screw.name, frame, screw.diameter / 2, length, screw.pitch, faces=(face,))


def _closed(points: list[tuple[float, float]], names: list[str]) -> Outline:
    curves: list[tuple[str, Curve2]] = []
    for k, (a, b) in enumerate(pairwise([*points, points[0]])):
        if math.dist(a, b) > 1e-9:
            curves.append((f"{names[k]}.{k}", Line2(a, b)))
    found = arrange(tuple(curves))
    return outline_of(found, list(found.regions))


def _named(body: Body, step: str) -> Body:
    """Faces called by what they are, without the numbers that told stretches apart."""
    return Body(
        body.shape, tuple(face_name(step, words_of(n)[-1].split(".")[0]) for n in body.names)
    )


def _turned(turned: Turned, step: str) -> Body:
    points = [(r, z) for r, z, _ in turned.outline]
    outline = _closed(points, [n for _, _, n in turned.outline])
    # In this frame x is the radius and y runs along the axis.
    x, z = (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)
    frame = Frame((0.0, 0.0, 0.0), x, cross(x, z))
    return _named(revolved(outline, frame, (0.0, 0.0), (0.0, 1.0), 0.0, 2 * math.pi, step), step)


def _raised(form: Prism, step: str) -> Body:
    outline = _closed(list(form.outline), [form.name] * len(form.outline))
    body = prism(outline, Frame(), form.low, form.high, step)
    names = []
    for name in body.names:
        side = words_of(name)[-1]
        names.append(
            face_name(step, form.name, side.rsplit(".", 1)[-1]) if "." in side
            else face_name(step, form.name, side)
        )  # fmt: skip
    return Body(body.shape, tuple(names))

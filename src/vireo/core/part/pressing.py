"""Where a form that is drawn over a sheet is pressed into it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from vireo.core.curves import Arc2, Circle2, Curve2, Line2
from vireo.core.declared import fields as f
from vireo.core.panels.forms import Form, Pressing, ways
from vireo.core.panels.loops import Loop, Motion2, Seg, inside, line, moved
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import changed, handed
from vireo.core.part.trouble import StepTrouble
from vireo.core.sheet.forming import pressed
from vireo.core.sheet.planes import panels_parallel

#: What one thing drawn is called, and its curves as they run.
Drawn = tuple[str, Loop]
#: The pressing of a path about its own beginning, in a sheet of a thickness.
Made = Callable[[Loop, float], Pressing]


class FormFields(f.StepFields):
    """Of steps that press something into a sheet."""

    flip: bool = f.toggle("Pressed the other way")
    into: tuple[str, ...] = f.bodies("Sheet")


@dataclass(frozen=True)
class _Over:
    """What is drawn, over the flat piece of a sheet; `up` where one looks at its top while drawing."""

    body: str
    panel: str
    path: Loop
    up: bool


def press(
    ctx: Context, sketch: str, drawn: Iterable[Drawn], fields: FormFields, made: Made, what: str
) -> Outcome:
    """A form for each thing that is drawn. Raises StepTrouble for one that is over no flat piece."""
    ids = list(fields.into) or ctx.sheet_ids()
    if not ids:
        raise StepTrouble("there is no sheet yet: Plate makes one", [f"step:{ctx.step}"])
    before = {id: ctx.sheet(id) for id in ids}
    after = dict(before)
    for key, path in drawn:
        over = _over(ctx, sketch, ids, path)
        if over is None:
            raise StepTrouble(
                f"{key} lies over no flat piece of a sheet: a {what} is drawn where it goes",
                [f"step:{ctx.step}", f"step:{sketch}"],
            )
        body = after[over.body]
        first = over.path[0]
        (d, _), bare = (ways(first), False) if first.curve.length else (((1.0, 0.0), None), True)
        home = Motion2.along(first.a, d)
        own = () if bare else tuple(_tidy(moved(s, home.inverse)) for s in over.path)
        form = Form(
            f"{ctx.step}/{key}", made(own, body.sheet.thickness), home, over.up != fields.flip
        )
        after[over.body] = body.with_(pressed(body.sheet, over.panel, [form]))
    found = {id: s for id, s in after.items() if s is not before[id]}
    new = {p for id, s in found.items() for p in changed(before[id], s)}
    return handed(ctx, found, new)


def _tidy(seg: Seg) -> Seg:
    """Without what rounding adds: equal forms at several places are made once."""
    if isinstance(seg.curve, Line2):
        a, b = ((round(x, 9), round(y, 9)) for x, y in (seg.a, seg.b))
        return line(a, b, seg.name)
    return seg


def _over(ctx: Context, sketch: str, ids: Sequence[str], path: Loop) -> _Over | None:
    frame = ctx.sketch(sketch).frame
    found: list[tuple[float, _Over]] = []
    for id in ids:
        body = ctx.sheet(id)
        places = body.places()
        for panel, carried, off in panels_parallel(body, frame):
            (seen,) = carried((path,))
            loops = body.sheet.panels[panel].loops
            if not all(inside(s.at(0.5), loops) for s in seen):
                continue
            up = float(np.array(frame.z) @ places[panel].z) > 0.0
            found.append((abs(off), _Over(id, panel, seen, up)))
    return min(found, key=lambda x: x[0])[1] if found else None


def at_points(ctx: Context, sketch: str, chosen: Sequence[str]) -> list[Drawn]:
    """Points of a sketch, those chosen or all. Raises StepTrouble."""
    data = ctx.sketch(sketch)
    gone = [p for p in chosen if p not in data.points]
    if gone:
        raise StepTrouble(f"point {gone[0]} is no longer in the sketch", [f"step:{sketch}"])
    wanted = list(chosen) or list(data.points)
    if not wanted:
        raise StepTrouble(
            f"the sketch {data.name} has no loose points: draw one where each is to be",
            [f"step:{sketch}"],
        )
    return [(id, (line(data.points[id], data.points[id], id),)) for id in wanted]


def along(curves: Sequence[tuple[str, Curve2]], what: str) -> list[Drawn]:
    """Lines and arcs put together to open runs that go on smoothly, each called after its first curve. Raises
    StepTrouble for other curves, branches and closed runs."""
    left = []
    for id, curve in curves:
        if not isinstance(curve, Line2 | Arc2):
            raise StepTrouble(f"a {what} runs along lines and arcs, and {id} is neither")
        left.append(Seg(curve, id))
    found: list[Drawn] = []
    while left:
        chain = [left.pop(0)]
        while (more := _next(chain, left)) is not None:
            at, seg, front = more
            left.pop(at)
            chain.insert(0, seg) if front else chain.append(seg)
        if len(chain) > 1 and math.dist(chain[0].a, chain[-1].b) < 1e-6:
            raise StepTrouble(
                f"a {what} runs from one end to another, and {chain[0].name} comes back"
            )
        found.append((chain[0].name, tuple(chain)))
    return found


def _next(chain: Sequence[Seg], left: Sequence[Seg]) -> tuple[int, Seg, bool] | None:
    for k, seg in enumerate(left):
        for one in (seg, seg.turned):
            if math.dist(chain[-1].b, one.a) < 1e-6:
                return k, one, False
            if math.dist(one.b, chain[0].a) < 1e-6:
                return k, one, True
    return None


def backwards(drawn: Drawn) -> Drawn:
    """The same run the other way."""
    return drawn[0], tuple(s.turned for s in reversed(drawn[1]))


def in_arcs(loop: Loop) -> Loop:
    """A closed run with a full circle as two arcs."""
    found: list[Seg] = []
    for s in loop:
        if isinstance(s.curve, Circle2):
            c = s.curve
            halves = [
                Seg(
                    Arc2(c.centre, c.radius, k * math.pi, (k + 1) * math.pi),
                    f"{s.name}.{k}",
                    s.back,
                )
                for k in (0, 1)
            ]
            found += halves[::-1] if s.back else halves
        else:
            found.append(s)
    return tuple(found)

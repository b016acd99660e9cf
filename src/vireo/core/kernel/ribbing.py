"""Ribs: slabs along curves, cut off where the body stops them."""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.TopAbs import TopAbs_IN, TopAbs_ON

from vireo.core.curves import Curve2, Line2, Pair
from vireo.core.geometry import Frame
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.gate import KernelTrouble, checked
from vireo.core.kernel.grow import prism
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.place import point
from vireo.core.kernel.profile import arrange, edge_of, outline_of
from vireo.core.kernel.shape import Body
from vireo.core.kernel.trim import split
from vireo.core.kernel.wall import wall
from vireo.core.naming.grammar import face_name

Named = tuple[str, Curve2]


def _end(curve: Curve2, other: Curve2 | None) -> tuple[Pair, Pair]:
    """The free end of the first curve of a run, and the direction out of it."""
    edge = edge_of(curve)
    if edge is None:
        raise KernelTrouble("a curve of the rib has no length")
    c = BRepAdaptor_Curve(edge)
    ends = []
    for t, sign in ((c.FirstParameter(), -1.0), (c.LastParameter(), 1.0)):
        p, d = c.Value(t), c.DN(t, 1)
        n = d.Magnitude()
        ends.append(((p.X(), p.Y()), (sign * d.X() / n, sign * d.Y() / n)))
    if other is None:
        return ends[0]
    near = edge_of(other)
    assert near is not None
    o = BRepAdaptor_Curve(near)
    corners = [o.Value(o.FirstParameter()), o.Value(o.LastParameter())]

    def off(p: Pair) -> float:
        return min(math.dist((q.X(), q.Y()), p) for q in corners)

    return max(ends, key=lambda e: off(e[0]))


def _run_on(run: Sequence[Named], far: float) -> list[Named]:
    """A run with straight pieces put on at both ends, along its tangents."""
    first = _end(run[0][1], run[1][1] if len(run) > 1 else None)
    last = _end(run[-1][1], run[-2][1]) if len(run) > 1 else _other_end(run[0][1])
    before, after = (Line2(p, (p[0] + far * d[0], p[1] + far * d[1])) for p, d in (first, last))
    return [("run.0", Line2(before.b, before.a)), *run, ("run.1", after)]


def _other_end(curve: Curve2) -> tuple[Pair, Pair]:
    edge = edge_of(curve)
    assert edge is not None
    c = BRepAdaptor_Curve(edge)
    t = c.LastParameter()
    p, d = c.Value(t), c.DN(t, 1)
    n = d.Magnitude()
    return (p.X(), p.Y()), (d.X() / n, d.Y() / n)


def ribbed(
    body: Body, runs: Sequence[Sequence[Named]], frame: Frame, thickness: float, across: bool,
    flip: bool, step: str,
) -> Body:  # fmt: skip
    """The body with a rib of a thickness (mm) along each run of curves.

    Across, the wall stands on the sketch's plane and grows along its normal; else it lies about
    that plane and grows in it, to the right of the run. Faces are named
    ``<step>/<n>/...``. Raises KernelTrouble when the body does not stop it all round.
    """
    low, high = box_of(body.shape)
    far = 2.0 * sum(b - a for a, b in zip(low, high, strict=True)) + 10.0 * thickness
    made = []
    for n, run in enumerate(runs):
        name = face_name(step, n) if len(runs) > 1 else step
        longer = _run_on(run, far)
        slab = (
            _standing(longer, frame, thickness, far, flip, name)
            if across
            else _lying(longer, frame, thickness, far, flip, name)
        )
        made.append(_between(body, slab, _probe(run, frame, across, flip, thickness), far, name))
    return combine("add", body, made, "the rib")


def _standing(
    run: Sequence[Named], frame: Frame, t: float, far: float, flip: bool, name: str
) -> Body:
    outline = wall(run, t / 2, t / 2, False)
    return prism(outline, frame, *((-far, 0.0) if flip else (0.0, far)), name)


def _lying(run: Sequence[Named], frame: Frame, t: float, far: float, flip: bool, name: str) -> Body:
    """Between the run and a far line beside it, as thick as asked about the sketch's plane."""
    a, b = _end(run[0][1], run[1][1])[0], _end(run[-1][1], run[-2][1])[0]
    along = (b[0] - a[0], b[1] - a[1])
    length = (along[0] ** 2 + along[1] ** 2) ** 0.5
    side = 1.0 if flip else -1.0
    down = (-side * along[1] / length * far, side * along[0] / length * far)
    c, d = (a[0] + down[0], a[1] + down[1]), (b[0] + down[0], b[1] + down[1])
    closed = [*run, ("far.0", Line2(b, d)), ("far.1", Line2(d, c)), ("far.2", Line2(c, a))]
    found = arrange(tuple(closed))
    if not found.regions:
        raise KernelTrouble("the rib's curve crosses itself when it is run on")
    biggest = max(found.regions, key=lambda r: r.area)
    return prism(outline_of(found, [biggest]), frame, -t / 2, t / 2, name)


def _probe(
    run: Sequence[Named], frame: Frame, across: bool, flip: bool, t: float
) -> tuple[float, float, float]:
    """A place just inside the rib, at the middle of its first curve."""
    edge = edge_of(run[len(run) // 2][1])
    assert edge is not None
    c = BRepAdaptor_Curve(edge)
    m = 0.5 * (c.FirstParameter() + c.LastParameter())
    p, d = c.Value(m), c.DN(m, 1)
    hair = 1e-3 * t
    if across:
        return frame.out((p.X(), p.Y(), -hair if flip else hair))
    n = d.Magnitude()
    side = 1.0 if flip else -1.0
    return frame.out((p.X() - side * hair * d.Y() / n, p.Y() + side * hair * d.X() / n, 0.0))


def _between(
    body: Body, slab: Body, probe: tuple[float, float, float], far: float, name: str
) -> Body:
    for solid, names in split(slab, [body.shape], face_name(name, "seat"), "the rib"):
        within = BRepClass3d_SolidClassifier(solid)
        within.Perform(point(probe), 1e-7)
        if within.State() not in (TopAbs_IN, TopAbs_ON):
            continue
        low, high = box_of(solid)
        if max(b - a for a, b in zip(low, high, strict=True)) > 0.45 * far:
            raise KernelTrouble(
                "the rib reaches out of the body: it does not stop it on all sides; draw the "
                "curve from wall to wall, or turn the rib the other way"
            )
        return Body(checked("the rib", solid), names)
    raise KernelTrouble("the rib's curve lies inside the body: nothing is left to fill")

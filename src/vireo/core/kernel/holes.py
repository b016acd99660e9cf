"""Round holes of a body: hollow cylinders that go all the way round, those on one axis that follow each
other taken as one."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Cylinder
from OCP.TopoDS import TopoDS_Face

from vireo.core.kernel.measure import is_hollow
from vireo.core.kernel.shape import Body

#: Cylinders that agree to this (mm) share an axis, a radius, an end.
_SAME = 1e-4
#: What a turn may lack (rad) and be whole.
_TURN = 1e-3


@dataclass(frozen=True)
class _Stretch:
    """A hollow cylinder that goes round: where its axis passes nearest the origin, its direction, its
    radius, where along the axis it begins and ends (mm)."""

    at: np.ndarray
    way: np.ndarray
    radius: float
    low: float
    high: float


def round_holes(body: Body) -> list[tuple[float, ...]]:
    """The holes of a body, each by the radii (mm, smallest first) of its stretches: a counterbored
    hole has two. Rounded inner corners and the ends of slots are none."""
    holes: list[list[_Stretch]] = []
    for each in sorted(_whole(_walls(body)), key=lambda s: s.low):
        mine = next(
            (h for h in holes if _one_axis(h[0], each) and max(s.high for s in h) > each.low - _SAME),
            None,
        )  # fmt: skip
        if mine is None:
            holes.append([each])
        else:
            mine.append(each)
    return [tuple(sorted({round(s.radius, 7) for s in h})) for h in holes]


def _walls(body: Body) -> list[tuple[_Stretch, float, float]]:
    """Hollow cylindrical faces with where they begin and end around their axis (rad)."""
    found = []
    for face in body.faces:
        surface = BRepAdaptor_Surface(face)
        if surface.GetType() != GeomAbs_Cylinder or not is_hollow(face, "cylinder"):
            continue
        found.append(_wall(face, surface))
    return found


def _wall(face: TopoDS_Face, surface: BRepAdaptor_Surface) -> tuple[_Stretch, float, float]:
    cylinder = surface.Cylinder()
    axis = cylinder.Axis()
    p, d, x = axis.Location(), axis.Direction(), cylinder.XAxis().Direction()
    way, at = np.array([d.X(), d.Y(), d.Z()]), np.array([p.X(), p.Y(), p.Z()])
    first, last, low, high = BRepTools.UVBounds_s(face)
    # One sense for all on an axis, and angles counted from one direction.
    sign = 1.0 if way[int(np.abs(way).argmax())] > 0 else -1.0
    ends = sorted(sign * (float(at @ way) + v) for v in (low, high))
    start = _turned(sign * way, np.array([x.X(), x.Y(), x.Z()]))
    around = 1.0 if cylinder.Position().Direct() == (sign > 0) else -1.0
    turned = sorted(start + around * v for v in (first, last))
    foot = at - (at @ way) * way
    return _Stretch(foot, sign * way, float(cylinder.Radius()), *ends), turned[0], turned[1]


def _turned(way: np.ndarray, x: np.ndarray) -> float:
    """The angle of a direction about an axis, from a direction that hangs on the axis alone."""
    side = np.eye(3)[int(np.abs(way).argmin())]
    first = side - (side @ way) * way
    first /= np.linalg.norm(first)
    return math.atan2(float(np.cross(way, first) @ x), float(first @ x))


def _one_axis(a: _Stretch, b: _Stretch) -> bool:
    return bool(np.linalg.norm(a.at - b.at) < _SAME and np.linalg.norm(a.way - b.way) < 1e-6)


def _whole(walls: Sequence[tuple[_Stretch, float, float]]) -> list[_Stretch]:
    """The cylinders whose faces together go all the way round."""
    found: list[list[tuple[_Stretch, float, float]]] = []
    for wall in walls:
        one = wall[0]
        mine = next((g for g in found if _alike(g, one)), None)
        if mine is None:
            found.append([wall])
        else:
            mine.append(wall)
    whole = []
    for group in found:
        if _covered([(a, b) for _, a, b in group]) >= 2 * math.pi - _TURN:
            low, high = min(w.low for w, _, _ in group), max(w.high for w, _, _ in group)
            first = group[0][0]
            whole.append(_Stretch(first.at, first.way, first.radius, low, high))
    return whole


def _alike(group: Sequence[tuple[_Stretch, float, float]], one: _Stretch) -> bool:
    """Whether a face carries on a cylinder: on its axis, as wide, and beside it."""
    return any(
        _one_axis(w, one) and abs(w.radius - one.radius) < _SAME
        and one.low < w.high + _SAME and w.low < one.high + _SAME
        for w, _, _ in group
    )  # fmt: skip


def _covered(spans: Sequence[tuple[float, float]]) -> float:
    """How much of a turn (rad) stretches of angle cover together."""
    turn = 2 * math.pi
    cut: list[tuple[float, float]] = []
    for a, b in spans:
        if b - a >= turn - _TURN:
            return turn
        start = a % turn
        end = start + (b - a)
        cut += [(start, min(end, turn)), *([(0.0, end - turn)] if end > turn else [])]
    total, reach = 0.0, 0.0
    for a, b in sorted(cut):
        total += max(0.0, b - max(a, reach))
        reach = max(reach, b)
    return total

"""Edges and points of bodies seen straight on from a plane: as curves in that plane."""

from __future__ import annotations

import math

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.Geom import Geom_TrimmedCurve
from OCP.GeomAbs import GeomAbs_CurveType as CurveType
from OCP.GeomConvert import GeomConvert
from OCP.TopoDS import TopoDS_Edge

from vireo.core.curves import Arc2, Circle2, Curve2, Line2, Pair, Spline2
from vireo.core.geometry import Frame, Triple

#: Curves this short (mm) when seen from the plane are points.
_POINT = 1e-6


def projected_point(at: Triple, frame: Frame) -> Pair:
    """Foot of a point on the frame's plane, in the frame's x and y."""
    d = np.array(at) - np.array(frame.origin)
    local = frame.matrix.T @ d
    return (float(local[0]), float(local[1]))


def projected_edge(edge: TopoDS_Edge, frame: Frame) -> Curve2 | Pair:
    """An edge dropped on a plane: exact, as line, circle, arc or B-spline; a point when the
    edge stands upright on the plane."""
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()

    def at(t: float) -> Pair:
        p = curve.Value(t)
        return projected_point((p.X(), p.Y(), p.Z()), frame)

    a, b = at(first), at(last)
    if curve.GetType() == CurveType.GeomAbs_Line:
        return a if math.dist(a, b) < _POINT else Line2(a, b)
    if curve.GetType() == CurveType.GeomAbs_Circle:
        circle = curve.Circle()
        n = circle.Axis().Direction()
        tilt = float(np.dot((n.X(), n.Y(), n.Z()), frame.z))
        p = circle.Location()
        c, r = projected_point((p.X(), p.Y(), p.Z()), frame), float(circle.Radius())
        if abs(abs(tilt) - 1.0) < 1e-9:
            if abs(last - first - 2 * math.pi) < 1e-9:
                return Circle2(c, r)
            start, end = (a, b) if tilt > 0 else (b, a)
            s = math.atan2(start[1] - c[1], start[0] - c[0])
            sweep = (math.atan2(end[1] - c[1], end[0] - c[0]) - s) % (2 * math.pi)
            return Arc2(c, r, s, s + sweep)
        if abs(tilt) < 1e-9:
            return _flattened([at(first + (last - first) * k / 64) for k in range(65)])
    return _spline(edge, first, last, frame)


def _flattened(points: list[Pair]) -> Line2:
    """A curve seen edge-on: the straight stretch it covers."""
    p = np.array(points)
    i = int(np.argmax(((p - p[0]) ** 2).sum(axis=1)))
    j = int(np.argmax(((p - p[i]) ** 2).sum(axis=1)))
    return Line2(points[i], points[j])


def _spline(edge: object, first: float, last: float, frame: Frame) -> Spline2:
    """Poles dropped on the plane give the dropped curve: B-splines are affine."""
    curve = BRep_Tool.Curve_s(edge, 0.0, 1.0)
    made = GeomConvert.CurveToBSplineCurve_s(Geom_TrimmedCurve(curve, first, last))
    if made.IsPeriodic():
        made.SetNotPeriodic()
    poles = [made.Pole(i + 1) for i in range(made.NbPoles())]
    knots = [
        made.Knot(i + 1) for i in range(made.NbKnots()) for _ in range(made.Multiplicity(i + 1))
    ]
    low, high = knots[0], knots[-1]
    weights = tuple(float(made.Weight(i + 1)) for i in range(made.NbPoles()))
    return Spline2(
        int(made.Degree()),
        tuple((float(k) - low) / (high - low) for k in knots),
        tuple(projected_point((p.X(), p.Y(), p.Z()), frame) for p in poles),
        weights if made.IsRational() else None,
    )

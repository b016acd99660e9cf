"""SVG out: one path per curve, in mm, Y upwards as drawn."""

from __future__ import annotations

import math
from collections.abc import Sequence

from vireo.core.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Pair


def write_svg(curves: Sequence[Curve2]) -> bytes:
    """Curves as an SVG picture at true size (1 user unit is 1 mm)."""
    places = [p for c in curves for p in c.points(0.05)] or [(0.0, 0.0)]
    xs, ys = [p[0] for p in places], [p[1] for p in places]
    margin = 0.02 * max(max(xs) - min(xs), max(ys) - min(ys), 1.0)
    x, y = min(xs) - margin, -max(ys) - margin
    w, h = max(xs) - min(xs) + 2 * margin, max(ys) - min(ys) + 2 * margin
    paths = "\n".join(f'  <path d="{_path(c)}"/>' for c in curves)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w:.6g}mm" height="{h:.6g}mm" '
        f'viewBox="{x:.6g} {y:.6g} {w:.6g} {h:.6g}">\n'
        f' <g fill="none" stroke="#22312b" stroke-width="{w / 500:.4g}">\n{paths}\n </g>\n</svg>\n'
    ).encode()


def _at(p: Pair) -> str:
    return f"{p[0]:.6f} {-p[1]:.6f}"


def _path(c: Curve2) -> str:
    if isinstance(c, Line2):
        return f"M{_at(c.a)}L{_at(c.b)}"
    if isinstance(c, Circle2 | Arc2 | Ellipse2):
        low, high = c.range
        if isinstance(c, Ellipse2):
            rx, ry = math.hypot(*c.major), c.minor
            tilt = -math.degrees(math.atan2(c.major[1], c.major[0]))
        else:
            rx = ry = c.radius
            tilt = 0.0
        # Two halves: one arc cannot go all the way round.
        half = 0.5 * (low + high)
        steps = "".join(f"A{rx:.6f} {ry:.6f} {tilt:.6f} 0 0 {_at(c.at(t))}" for t in (half, high))
        return f"M{_at(c.at(low))}{steps}"
    return "M" + "L".join(_at(p) for p in c.points(0.02))

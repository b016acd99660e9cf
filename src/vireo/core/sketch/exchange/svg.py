"""SVG in and out, in mm, Y upwards as drawn. Out: one path per curve."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Iterator, Sequence
from xml.etree.ElementTree import ParseError

import svgelements

from vireo.core.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Pair, Spline2
from vireo.core.sketch.exchange.sheet import Collected, Sheet
from vireo.core.trouble import BadInput

#: User units to the inch (the format's rule).
_INCH = 96.0


def read_svg(data: bytes) -> Sheet:
    """Paths and shapes of an SVG picture, transforms and units done. Raises BadInput.

    Layers are the outermost named groups; keys the ids of the elements, with the number of the
    segment.
    """
    if re.search(rb"<!ENTITY", data[:100_000]):
        raise BadInput("this SVG defines entities of its own; such files are not read")
    try:
        picture = svgelements.SVG.parse(io.BytesIO(data), reify=True, ppi=_INCH)
    except (ParseError, ValueError, KeyError, IndexError, ZeroDivisionError, RecursionError) as bad:
        raise BadInput(f"this is not an SVG file that can be read: {bad}"[:200]) from bad
    k = 1.0 / _units_per_mm(picture)
    found = Collected()
    for number, (layer, element) in enumerate(_elements(picture, "")):
        kind = type(element).__name__
        if not isinstance(element, svgelements.Shape):
            if isinstance(element, svgelements.Text | svgelements.Image):
                found.skip(kind.lower())
            continue
        name = str(element.id or f"{kind.lower()}{number}")[:60]
        whole = _round_shape(element, k)
        if whole is not None:
            found.add(name, layer, whole, kind)
            continue
        for n, curve in enumerate(_segments(svgelements.Path(element), k)):
            found.add(f"{name}.{n}", layer, curve, kind)
    return found.sheet()


def _units_per_mm(picture: svgelements.SVG) -> float:
    """User units to the mm. The reader's own word for mm and cm is a rounded one: what it
    multiplied by is divided out again."""
    width = str(picture.values.get("attributes", {}).get("width", ""))
    unit = re.sub(r"[^a-z]", "", width.lower())
    if unit in ("mm", "cm"):
        rounded = float(svgelements.Length(f"1{unit}").value(ppi=_INCH))
        return rounded / {"mm": 1.0, "cm": 10.0}[unit]
    return _INCH / 25.4


def _elements(group: Sequence[object], layer: str) -> Iterator[tuple[str, object]]:
    for element in group:
        if isinstance(element, list):  # groups, uses and the picture itself are lists
            attributes = getattr(element, "values", {}).get("attributes", {})
            named = next((v for n, v in attributes.items() if n.endswith("}label")), None)
            own = str(named or getattr(element, "id", None) or "")
            yield from _elements(element, layer or own)
        else:
            yield layer or "0", element


def _pair(p: complex | svgelements.Point, k: float) -> Pair:
    point = svgelements.Point(p)
    return (float(point.x) * k, -float(point.y) * k)


def _round_shape(shape: svgelements.Shape, k: float) -> Curve2 | None:
    """A circle or an ellipse that is still one after its transforms."""
    if not isinstance(shape, svgelements.Circle | svgelements.Ellipse):
        return None
    arcs = [s for s in svgelements.Path(shape) if isinstance(s, svgelements.Arc)]
    if not arcs:
        return None
    made = _arc(arcs[0], k)
    if isinstance(made, Arc2):
        return Circle2(made.centre, made.radius)
    return Ellipse2(made.centre, made.major, made.minor) if isinstance(made, Ellipse2) else None


def _segments(path: svgelements.Path, k: float) -> Iterator[Curve2]:
    for s in path:
        if isinstance(s, svgelements.Move) or s.start is None or s.end is None:
            continue
        a, b = _pair(s.start, k), _pair(s.end, k)
        if isinstance(s, svgelements.Line | svgelements.Close):
            if math.dist(a, b) > 1e-9:
                yield Line2(a, b)
        elif isinstance(s, svgelements.QuadraticBezier):
            yield Spline2(2, (0.0,) * 3 + (1.0,) * 3, (a, _pair(s.control, k), b))
        elif isinstance(s, svgelements.CubicBezier):
            inner = (_pair(s.control1, k), _pair(s.control2, k))
            yield Spline2(3, (0.0,) * 4 + (1.0,) * 4, (a, *inner, b))
        elif isinstance(s, svgelements.Arc):
            made = _arc(s, k)
            yield from (
                _segments(svgelements.Path(*s.as_cubic_curves()), k) if made is None else [made]
            )


def _arc(s: svgelements.Arc, k: float) -> Curve2 | None:
    """An arc of a circle or an ellipse; None when a shear left its half axes askew."""
    c, x, y = _pair(s.center, k), _pair(s.prx, k), _pair(s.pry, k)
    u, v = (x[0] - c[0], x[1] - c[1]), (y[0] - c[0], y[1] - c[1])
    a, b = math.hypot(*u), math.hypot(*v)
    if min(a, b) < 1e-9 or abs(u[0] * v[0] + u[1] * v[1]) > 1e-6 * a * b:
        return None
    ends = _pair(s.start, k), _pair(s.end, k)
    middle = _pair(s.point(0.5), k)
    whole: Circle2 | Ellipse2 = Circle2(c, a) if abs(a - b) < 1e-7 * a else Ellipse2(c, u, b)
    first, mid, last = (whole.parameter(p) for p in (ends[0], middle, ends[1]))
    turn = 2.0 * math.pi
    # Counter-clockwise is the way round that passes the middle.
    if (mid - first) % turn > (last - first) % turn:
        first, last = last, first
    sweep = (last - first) % turn or turn
    if isinstance(whole, Circle2):
        return Arc2(c, a, first, first + sweep)
    return Ellipse2(c, u, b, first, first + sweep)


def write_svg(curves: Sequence[Curve2]) -> bytes:
    """Curves as an SVG picture at true size (1 user unit is 1 mm)."""
    places = [p for c in curves for p in c.points(0.05)] or [(0.0, 0.0)]
    xs, ys = [p[0] for p in places], [p[1] for p in places]
    margin = 0.02 * max(max(xs) - min(xs), max(ys) - min(ys), 1.0)
    x, y = min(xs) - margin, -max(ys) - margin
    w, h = max(xs) - min(xs) + 2 * margin, max(ys) - min(ys) + 2 * margin
    paths = "\n".join(f'  <path d="{path_of(c)}"/>' for c in curves)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w:.6g}mm" height="{h:.6g}mm" '
        f'viewBox="{x:.6g} {y:.6g} {w:.6g} {h:.6g}">\n'
        f' <g fill="none" stroke="#22312b" stroke-width="{w / 500:.4g}">\n{paths}\n </g>\n</svg>\n'
    ).encode()


def _at(p: Pair) -> str:
    return f"{p[0]:.6f} {-p[1]:.6f}"


def path_of(c: Curve2) -> str:
    """The data of an SVG path that draws a curve at true size, y up."""
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

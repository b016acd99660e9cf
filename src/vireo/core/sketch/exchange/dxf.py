"""DXF in and out: lines, arcs, circles, ellipses, polylines, splines, blocks, units.

Reading is forgiving of structure (damaged files are recovered where that is possible) and
strict about numbers. Everything flat is taken as it lies in the drawing plane.
"""

from __future__ import annotations

import io
import math
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from ezdxf import recover
from ezdxf.document import Drawing as Dxf
from ezdxf.enums import InsertUnits
from ezdxf.filemanagement import new, read
from ezdxf.lldxf.const import DXFError
from ezdxf.units import conversion_factor

from vireo.core.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Pair, Spline2
from vireo.core.sketch.exchange.sheet import Collected, Sheet, mapped
from vireo.core.trouble import BadInput

_DEEPEST = 12
#: What reading a damaged file, or one thing in it, may end in.
FAULTS = (
    OSError, DXFError, ValueError, LookupError, TypeError, AttributeError, ArithmeticError,
    AssertionError, RuntimeError, StopIteration,
)  # fmt: skip


def read_dxf(data: bytes) -> Sheet:
    """Curves of a DXF file's model space. Raises BadInput when it cannot be read."""
    return _curves(_sound(data) or _mended(data))


def _curves(document: Dxf) -> Sheet:
    try:
        units = InsertUnits(document.units)
    except ValueError as error:
        raise BadInput(
            f"this DXF file counts in a unit there is none of: {document.units}"
        ) from error
    factor = 1.0
    if units != InsertUnits.Unitless:
        factor = conversion_factor(units, InsertUnits.Millimeters)
    found = Collected()
    for key, layer, entity in _flat(document):
        kind = entity.dxftype()
        maker = _MAKERS.get(kind)
        if maker is None:
            found.skip(kind)
            continue
        try:
            curves = list(maker(entity))
        except FAULTS:
            found.skip(f"damaged {kind}")
            continue
        for curve in curves:
            found.add(key, layer, mapped(curve, (0.0, 0.0), 0.0, factor), kind)
    return found.sheet()


def _sound(data: bytes) -> Dxf | None:
    """A file as it is; None where that takes mending. Twice as fast as mending what is sound."""
    try:
        text = data.decode("utf-8").replace("\r\n", "\n")
        document = read(io.StringIO(text))
    except FAULTS:
        return None
    # Files before 2007 are in the code page they name.
    return document if document.dxfversion >= "AC1021" or data.isascii() else None


def _mended(data: bytes) -> Dxf:
    try:
        return recover.read(io.BytesIO(data))[0]
    except FAULTS as error:
        raise BadInput(f"this is not a DXF file that can be read: {error}"[:200]) from error


def _flat(document: Dxf) -> Iterator[tuple[str, str, Any]]:
    """`(key, layer, entity)` of the model space, blocks and polylines taken apart.

    Keys are the file's handles, followed by the place within a block or polyline. What lies
    on layer 0 of a block lies on the layer of its insertion (the format's rule).
    """

    def walk(entities: Iterable[Any], above: str, on: str, depth: int) -> Iterator[Any]:
        for n, entity in enumerate(entities):
            key = f"{above}.{n}" if above else str(entity.dxf.handle)
            layer = str(entity.dxf.layer) if entity.dxf.is_supported("layer") else "0"
            layer = on if on and layer == "0" else layer
            if entity.dxftype() not in ("INSERT", "LWPOLYLINE", "POLYLINE"):
                yield key, layer, entity
                continue
            if depth > _DEEPEST:
                raise BadInput("blocks of this file hold each other too deeply")
            try:
                inner = list(entity.virtual_entities())
            except FAULTS:
                yield key, layer, entity  # told as left out
                continue
            yield from walk(inner, key, layer, depth + 1)

    return walk(document.modelspace(), "", "", 0)


def _pair(v: Any) -> Pair:
    return (float(v.x), float(v.y))


def _mirrored(entity: Any) -> bool:
    return bool(entity.dxf.extrusion.z < 0)


def _centre(entity: Any) -> Pair:
    x, y = _pair(entity.dxf.center)
    return (-x, y) if _mirrored(entity) else (x, y)


def _arc(entity: Any) -> Iterator[Curve2 | Pair]:
    start, end = math.radians(entity.dxf.start_angle), math.radians(entity.dxf.end_angle)
    if _mirrored(entity):
        start, end = math.pi - end, math.pi - start
    sweep = (end - start) % (2 * math.pi) or 2 * math.pi
    yield Arc2(_centre(entity), float(entity.dxf.radius), start, start + sweep)


def _ellipse(entity: Any) -> Iterator[Curve2 | Pair]:
    major = _pair(entity.dxf.major_axis)
    start, end = float(entity.dxf.start_param), float(entity.dxf.end_param)
    if _mirrored(entity):
        start, end = -end, -start
    sweep = (end - start) % (2 * math.pi)
    if sweep < 1e-9 or sweep > 2 * math.pi - 1e-9:
        start, sweep = 0.0, 2 * math.pi
    minor = math.hypot(*major) * float(entity.dxf.ratio)
    yield Ellipse2(_pair(entity.dxf.center), major, minor, start, start + sweep)


def _spline(entity: Any) -> Iterator[Curve2 | Pair]:
    curve = entity.construction_tool()
    knots = [float(k) for k in curve.knots()]
    degree = int(curve.degree)
    if any(k != knots[0] for k in knots[: degree + 1]) or any(
        k != knots[-1] for k in knots[-degree - 1 :]
    ):
        raise BadInput("a spline of this file has open ends (no clamped knots) and cannot be taken")
    low, high = knots[0], knots[-1]
    weights = tuple(float(w) for w in curve.weights()) or None
    yield Spline2(
        degree,
        tuple((k - low) / (high - low) for k in knots),
        tuple(_pair(p) for p in curve.control_points),
        weights if weights and any(abs(w - weights[0]) > 1e-12 for w in weights) else None,
    )


_MAKERS: dict[str, Any] = {
    "LINE": lambda e: iter([Line2(_pair(e.dxf.start), _pair(e.dxf.end))]),
    "CIRCLE": lambda e: iter([Circle2(_centre(e), float(e.dxf.radius))]),
    "ARC": _arc,
    "ELLIPSE": _ellipse,
    "SPLINE": _spline,
    "POINT": lambda e: iter([_pair(e.dxf.location)]),
}


def write_dxf(curves: Sequence[Curve2], points: Sequence[Pair] = ()) -> bytes:
    """Curves as a DXF file (AC1015, mm)."""
    document = new("R2000", units=InsertUnits.Millimeters)
    space = document.modelspace()
    for c in curves:
        add_curve(space, c)
    for p in points:
        space.add_point(p)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode(document.output_encoding)


def add_curve(space: Any, c: Curve2, layer: str = "0") -> None:
    """A curve put into a DXF layout as what it is."""
    on = {"layer": layer}
    if isinstance(c, Line2):
        space.add_line(c.a, c.b, dxfattribs=on)
    elif isinstance(c, Circle2):
        space.add_circle(c.centre, c.radius, dxfattribs=on)
    elif isinstance(c, Arc2):
        space.add_arc(c.centre, c.radius, math.degrees(c.start), math.degrees(c.end), dxfattribs=on)
    elif isinstance(c, Ellipse2):
        long = math.hypot(*c.major)
        # The format wants the longer half axis first.
        axis, ratio, turn = c.major, c.minor / long, 0.0
        if ratio > 1:
            axis, ratio, turn = c.across, 1 / ratio, -math.pi / 2
        space.add_ellipse(
            (*c.centre, 0), (*axis, 0), ratio, c.start + turn, c.end + turn, dxfattribs=on
        )
    else:
        made = space.add_spline(degree=c.degree, dxfattribs=on)
        made.control_points = [(x, y, 0.0) for x, y in c.poles]
        made.knots = list(c.knots)
        if c.weights:
            made.weights = list(c.weights)

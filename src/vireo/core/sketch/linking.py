"""Geometry brought in from elsewhere: kept under its link's id, fixed, renewed on every build."""

from __future__ import annotations

from collections.abc import Sequence

from vireo.core.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Pair
from vireo.core.sketch.model import Drawing
from vireo.core.sketch.tools.base import Pen


def relink(
    drawing: Drawing,
    link: str,
    found: Sequence[tuple[str, Curve2 | Pair]],
    construction: bool = False,
) -> Drawing:
    """A drawing in which a link brings just these curves and points, `(suffix, curve)`; new
    ones are construction when asked for.

    Ids are the link's with the suffix, so that what is put on them survives; what the link
    no longer brings goes, with what was put on it.
    """
    pen = Pen(drawing)
    known = {e.id: e for e in pen.entities}
    kept: set[str] = set()

    def point(id: str, at: Pair) -> str:
        kept.add(id)
        pen.put(_entity(pen, "point", id, link, False, x=at[0], y=at[1]))
        return id

    used: dict[str, int] = {}
    for suffix, curve in found:
        id = f"{link}_{suffix}" if suffix else link
        used[id] = used.get(id, 0) + 1
        if used[id] > 1:  # edges of one name are told apart by their order
            id = f"{id}_{used[id]}"
        aid = known[id].construction if id in known else construction
        if isinstance(curve, tuple):
            point(id, curve)
            continue
        kept.add(id)
        type, fields = _fields(curve, id, point)
        pen.put(_entity(pen, type, id, link, aid, **fields))
    pen.remove(e.id for e in pen.entities if e.source == link and e.id not in kept)
    return pen.drawing()


def _entity(
    pen: Pen, type: str, id: str, link: str, construction: bool, **fields: object
) -> object:
    made = Pen(Drawing())
    made.add(type, id=id, source=link, construction=construction, **fields)
    return made.entity(id)


def _fields(curve: Curve2, id: str, point: object) -> tuple[str, dict[str, object]]:
    put = point
    assert callable(put)
    if isinstance(curve, Line2):
        return "line", {"a": put(f"{id}_a", curve.a), "b": put(f"{id}_b", curve.b)}
    if isinstance(curve, Circle2):
        return "circle", {"centre": put(f"{id}_c", curve.centre), "radius": curve.radius}
    if isinstance(curve, Arc2):
        start, end = curve.ends
        return "arc", {
            "centre": put(f"{id}_c", curve.centre), "start": put(f"{id}_a", start),
            "end": put(f"{id}_b", end),
        }  # fmt: skip
    if isinstance(curve, Ellipse2):
        c = curve.centre
        tip = (c[0] + curve.major[0], c[1] + curve.major[1])
        fields = {"centre": put(f"{id}_c", c), "major": put(f"{id}_m", tip), "minor": curve.minor}
        if curve.closed:
            return "ellipse", fields
        start, end = curve.ends
        return "elliptic_arc", {
            **fields,
            "start": put(f"{id}_a", start),
            "end": put(f"{id}_b", end),
        }
    n = len(curve.poles)
    names = ["a", *(f"p{k}" for k in range(1, n - 1)), "b"]
    return "control_spline", {
        "poles": [put(f"{id}_{k}", p) for k, p in zip(names, curve.poles, strict=True)],
        "degree": curve.degree, "knots": curve.knots, "weights": curve.weights,
    }  # fmt: skip

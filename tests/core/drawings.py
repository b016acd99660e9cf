"""Sample drawings."""

from vireo.core.sketch import Drawing
from vireo.script.sketch import Sketch as Sketcher


def plate(width="60 mm", height="40 mm", holes=()):
    """A settled rectangle from the origin, with loose points held at distances."""
    s = Sketcher()
    corners = s.box(0, 0, 60, 40)
    s.put("coincident", "origin", corners[0])
    s.put("distance_x", corners[0], corners[1], formula=width)
    s.put("distance_y", corners[0], corners[3], formula=height)
    for x, y in holes:
        s.at(s.point(x, y), f"{x} mm", f"{y} mm")
    return s


def slot():
    """Two tangent arcs and lines, all held."""
    s = Sketcher()
    a, b = s.point(0, 0), s.point(30, 0)
    ends = [s.point(x, y) for x, y in ((0, 5), (0, -5), (30, -5), (30, 5))]
    left, right = s.arc(a, ends[0], ends[1]), s.arc(b, ends[2], ends[3])
    low, high = s.line(ends[1], ends[2]), s.line(ends[3], ends[0])
    s.put("coincident", "origin", a)
    s.put("horizontal", a, b)
    s.put("distance_x", a, b, formula="30 mm")
    s.put("equal", left, right)
    s.put("radius", left, formula="5 mm")
    for line in (low, high):
        s.put("tangent", line, left)
        s.put("tangent", line, right)
    return s


def drawing(s: Sketcher) -> Drawing:
    return Drawing.model_validate(s.drawing)

"""Fillets and chamfers, and the search for the largest that fits."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepLProp import BRepLProp_CLProps
from OCP.collections import Array1_gp_Pnt2d
from OCP.gp import gp_Pnt2d
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_VERTEX
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape

from vireo.core.geometry import Frame, plane_frame, unit
from vireo.core.kernel.gate import KernelTrouble, checked, finite
from vireo.core.kernel.locate import length_of
from vireo.core.kernel.measure import corner_at, outward_normal, volume_of
from vireo.core.kernel.outline import pierced
from vireo.core.kernel.shape import Body, Key, ancestors, faces_of, items
from vireo.core.kernel.witness import budget
from vireo.core.naming.grammar import face_name, joined


def _short(names: Sequence[str]) -> str:
    """A short stable stand-in for a long joined name."""
    return hashlib.sha256("|".join(sorted(names)).encode()).hexdigest()[:8]


def _names(body: Body, maker: Any, result: TopoDS_Shape, step: str) -> tuple[str, ...]:
    """Names by history in the order that is safe for these operations: the kernel's
    `IsDeleted` is wrong for untouched parts, so membership in the result comes first."""
    present = {Key(f) for f in faces_of(result)}
    named: dict[Key, set[str]] = {}

    def give(shape: TopoDS_Shape, name: str) -> None:
        if Key(shape) in present:
            named.setdefault(Key(shape), set()).add(name)

    for face, name in body.named_faces():
        if Key(face) in present:
            give(face, name)
            continue
        for piece in items(maker.Modified(face)):
            give(piece, name)
    index = {Key(f): n for f, n in body.named_faces()}
    for kind, role in ((TopAbs_EDGE, "blend"), (TopAbs_VERTEX, "corner")):
        around = ancestors(body.shape, kind, TopAbs_FACE)
        parts = body.edges if kind == TopAbs_EDGE else body.vertices
        for part in parts:
            made = items(maker.Generated(part))
            if made:
                own = [index[Key(f)] for f in items(around.FindFromKey(part))]
                for face in made:
                    if Key(face) not in named:
                        give(face, face_name(step, role, _short(own)))
    return tuple(joined(named.get(Key(f), {face_name(step, "blend")})) for f in faces_of(result))


def _run(
    body: Body,
    edges: Sequence[int],
    make: Callable[[], Any],
    add: Callable[[Any, int], None],
    what: str,
    step: str,
    section: Callable[[int, float], float],
) -> Body:
    """`section` is the area (mm2) taken off, or filled, across an edge whose faces turn by an
    angle (rad) there."""
    maker = make()
    try:
        for edge in edges:
            add(maker, edge)
        maker.Build()
        done = maker.IsDone()
    except Exception as error:  # the kernel's exceptions share no narrower base
        raise KernelTrouble(f"{what} does not fit") from error
    if not done:
        raise KernelTrouble(f"{what} does not fit")
    before = volume_of(body.shape)
    shape = checked(what, maker.Shape(), before=before)
    after = volume_of(shape)
    _within(body, edges, maker, section, after - before, what)
    names = _names(body, maker, shape, step)
    if not set(body.names) & set(names):
        raise KernelTrouble(f"{what} left none of the body's faces")
    return Body(shape, names)


def _within(
    body: Body, edges: Sequence[int], maker: Any, section: Callable[[int, float], float],
    change: float, what: str,
) -> None:  # fmt: skip
    """That outer edges took off and inner ones filled no more than their sections along their
    lengths. Raises WitnessTrouble.

    The kernel goes on along edges that run on smoothly: the contours it made are asked, each edge
    with the section of the one it was begun from.
    """
    index = {Key(e): i for i, e in enumerate(body.edges)}
    low = high = 0.0
    for c in range(1, maker.NbContours() + 1):
        run = [index[Key(e)] for k in range(1, maker.NbEdges(c) + 1)
               if Key(e := maker.Edge(c, k)) in index]  # fmt: skip
        begun = [i for i in run if i in edges]
        for i in run:
            corners = [found for s in (0.02, 0.5, 0.98) if (found := corner_at(body, i, s))]
            angle = max((a for a, _ in corners), default=math.pi / 2)
            area = max(section(b, angle) for b in begun or edges)
            across = math.sqrt(max(area, 0.0))
            bend = _least_radius(body.edges[i])
            # Round an edge that bends the middle of the section runs further out; at its ends a
            # rounding runs out over faces that lean.
            volume = area * (length_of(body.edges[i]) * (1.0 + 2.0 * across / bend) + 8.0 * across)
            if not corners or any(inner for _, inner in corners):
                high += volume
            if not corners or not all(inner for _, inner in corners):
                low -= volume
    budget(what, change, low, high)


def _least_radius(edge: TopoDS_Edge) -> float:
    """The least radius (mm) an edge bends with at a few places; infinite for a straight one."""
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    sharpest = 0.0
    for k in range(5):
        props = BRepLProp_CLProps(curve, first + (last - first) * (k + 0.5) / 5, 2, 1e-9)
        if props.IsTangentDefined():
            sharpest = max(sharpest, float(props.Curvature()))
    return 1.0 / sharpest if sharpest > 1e-12 else math.inf


def fillet(
    body: Body, edges: Mapping[int, float], radius: float, step: str, grow: float = 1.0,
    flip: bool = False, laws: Mapping[int, Sequence[tuple[float, float]]] | None = None,
) -> Body:  # fmt: skip
    """Edges (by index, each with its share of the radius) rounded. Raises KernelTrouble when it
    does not fit. `laws` gives edges a radius by share of their length instead: (0..1, mm).

    With `grow` other than one the radius goes evenly from itself to itself times that along each
    edge, from the end that comes first along its curve unless flipped. New faces are named
    ``<step>/blend/<edge>`` and ``<step>/corner/<vertex>``.
    """
    finite(radius)

    def add(maker: Any, index: int) -> None:
        r = radius * edges[index]
        if laws and index in laws:
            law = Array1_gp_Pnt2d(1, len(laws[index]))
            for k, (share, size) in enumerate(laws[index], start=1):
                law.SetValue(k, gp_Pnt2d(share, size))
            maker.Add(law, body.edges[index])
        elif abs(grow - 1.0) < 1e-12:
            maker.Add(r, body.edges[index])
        else:
            first, last = (r * grow, r) if flip else (r, r * grow)
            maker.Add(first, last, body.edges[index])

    def section(index: int, angle: float) -> float:
        law = [size for _, size in laws[index]] if laws and index in laws else []
        r = max([*law, radius * edges[index] * max(1.0, grow)])
        half = min(angle, 3.0) / 2
        return r * r * (math.tan(half) - half)

    return _run(
        body, list(edges), lambda: BRepFilletAPI_MakeFillet(body.shape), add,
        f"fillet {radius:g} mm", step, section,
    )  # fmt: skip


def chamfer(
    body: Body, edges: Mapping[int, float], size: float, step: str, ratio: float = 1.0,
    flip: bool = False,
) -> Body:  # fmt: skip
    """Edges (by index, each with its share of the size) bevelled: by `size` mm on one face and
    `ratio` times that on the other; the first is the one whose name comes first."""
    finite(size)

    def add(maker: Any, index: int) -> None:
        d = size * edges[index]
        if abs(ratio - 1.0) < 1e-12:
            maker.Add(d, body.edges[index])
            return
        pair = sorted(body.edge_faces[index], key=lambda i: body.names[i])
        face = body.faces[pair[-1 if flip else 0]]
        maker.Add(d, d * ratio, body.edges[index], face)

    def section(index: int, angle: float) -> float:
        return 0.5 * (size * edges[index]) ** 2 * ratio * math.sin(angle)

    return _run(
        body, list(edges), lambda: BRepFilletAPI_MakeChamfer(body.shape), add,
        f"chamfer {size:g} mm", step, section,
    )  # fmt: skip


def holding(body: Body, edge: int, hold: TopoDS_Edge, count: int = 17) -> list[tuple[float, float]]:
    """Radii along an edge with which the rounding ends on another: (share of the edge, mm).

    The other edge lies in a face beside. Square to the edge, at distance d from it, a rounding
    between faces whose outward normals stand at the angle a touches there with r = d tan((pi - a)/2);
    exact for flat faces. Raises KernelTrouble when the other edge does not run along all of it.
    """
    curve = BRepAdaptor_Curve(body.edges[edge])
    first, last = curve.FirstParameter(), curve.LastParameter()
    pair = body.edge_faces[edge]
    if len(pair) != 2:
        raise KernelTrouble("this edge has one face only")
    found = []
    for k in range(count):
        share = k / (count - 1)
        # A hair inside, so that an edge that ends at the same height is still met.
        t = first + (last - first) * min(max(share, 1e-6), 1 - 1e-6)
        p, d = curve.Value(t), curve.DN(t, 1)
        at, way = (p.X(), p.Y(), p.Z()), unit((d.X(), d.Y(), d.Z()))
        met = pierced(hold, Frame(at, plane_frame(at, way).x, way))
        normals = [outward_normal(body.faces[i], body.edges[edge], t) for i in pair]
        if not met or normals[0] is None or normals[1] is None:
            raise KernelTrouble("the edge it is held at does not run along all of it")
        angle = math.acos(max(-1.0, min(1.0, float(normals[0] @ normals[1]))))
        gap = min(math.dist(at, q) for q in met)
        found.append((share, gap * math.tan((math.pi - angle) / 2)))
    if min(r for _, r in found) < 1e-4:
        raise KernelTrouble("the edge it is held at meets the rounded one")
    return found


def largest_that_fits(
    works: Callable[[float], bool],
    asked: float,
    tolerance: float = 0.02,
    enough: Callable[[], bool] = lambda: False,
) -> float | None:
    """The largest size below `asked` for which `works` holds, by bisection, or None.

    The result itself was tried and works; it is at most `tolerance` (relative) too small, or
    smaller still when `enough` ended the search: then the best so far.
    """
    low, high = 0.0, asked
    probe = asked / 2.0
    for _ in range(8):
        if works(probe):
            low = probe
            break
        high, probe = probe, probe / 2.5
        if enough():
            break
    if low == 0.0:
        return None
    while high - low > tolerance * high:
        if enough():
            return low
        middle = 0.5 * (low + high)
        if works(middle):
            low = middle
        else:
            high = middle
    for digits in (1, 2, 3):
        rounded = _floor(low, digits)
        if rounded >= low * (1.0 - 2.0 * tolerance) and rounded > 0 and works(rounded):
            return rounded
    return low


def _floor(value: float, digits: int) -> float:
    scale = 10.0**digits
    return float(int(value * scale) / scale)

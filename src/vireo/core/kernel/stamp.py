"""Pressings as solids: made once on a small plate, then their skin is set into panels by its rims, as it is."""

from __future__ import annotations

import base64
import functools
import io
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from OCP.BinTools import BinTools
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeWire, BRepBuilderAPI_Transform
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopExp import TopExp
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from vireo.core.curves import Curve2, Pair
from vireo.core.geometry import Frame
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.grow import prism, revolved
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.profile import Outline, arrange, outline_of, upward, wires_of
from vireo.core.kernel.region import loops_of
from vireo.core.kernel.shape import Body, Key, edges_of, faces_of
from vireo.core.naming.grammar import words_of
from vireo.core.panels.forms import Form, Found, Lid, Piece, Pressing, Straight
from vireo.core.panels.loops import Loop, moved_loop, ring
from vireo.core.panels.places import Place

#: Rims of what was found lie in the faces of the sheet to this (mm).
_RIM = 1e-5
#: How far (mm) the plate a form is made on goes beyond it.
_AROUND = 5.0


@dataclass(frozen=True)
class Stamp:
    """What a form has of its own: `skin` with what each face is called, the `low` and `high` rims in the bottom and
    top of the sheet; `loops` is what it takes of the panel, clockwise."""

    skin: tuple[tuple[TopoDS_Face, str], ...]
    low: tuple[TopoDS_Wire, ...]
    high: tuple[TopoDS_Wire, ...]
    loops: tuple[Loop, ...]


@functools.lru_cache(256)
def stamped(pressing: Pressing) -> Stamp:
    """A pressing, raised, about its origin. Raises BadInput for a path it cannot go along, KernelTrouble where the
    kernel cannot make it."""
    t, section, pieces = pressing.thickness, pressing.section, pressing.pieces
    r = section.reach
    own = {False: _outline(section.loop), True: _outline(section.twin)}
    block = {
        False: _outline(ring([(0.0, 0.0), (r, 0.0), (r, t), (0.0, t)], ["foot", "rim", "head", "mid"])),
        True: _outline(ring([(-r, 0.0), (r, 0.0), (r, t), (-r, t)], ["foot", "rim", "head", "back"])),
    }  # fmt: skip
    solid = [_piece(own, p, pressing, k) for k, p in enumerate(pieces)]
    away = [*pieces, *pressing.voids]
    taken = [_piece(block, p, pressing, k, flat=True) for k, p in enumerate(away)]
    made = combine("add", solid[0], solid[1:], "the form") if solid[1:] else solid[0]
    room = combine("add", taken[0], taken[1:], "the form") if taken[1:] else taken[0]
    plate = combine("cut", _plate(room, t), [room], "the form")
    whole = combine("add", plate, [made], "the form")
    tops = [f for f, name in whole.named_faces() if name == "plate/cap/end"]
    bottoms = [f for f, name in whole.named_faces() if name == "plate/cap/start"]
    if len(tops) != 1 or len(bottoms) != 1:
        raise KernelTrouble("the form parts the sheet it is pressed into")
    bare = [
        (face, "/".join(w for w in words_of(name) if w != "side"))
        for face, name in whole.named_faces() if not name.startswith("plate/")
    ]  # fmt: skip
    skin = _told_apart(bare)
    high, low = (tuple(_rims(faces[0])) for faces in (tops, bottoms))
    loops = tuple(loops_of(tops[0], {}, "rim")[1:])
    return Stamp(skin, low, high, loops)


def _told_apart(faces: Sequence[tuple[TopoDS_Face, str]]) -> tuple[tuple[TopoDS_Face, str], ...]:
    """Faces of one name numbered by where they lie: a slit's walls at both ends of a form."""
    alike: dict[str, list[TopoDS_Face]] = {}
    for face, name in faces:
        alike.setdefault(name, []).append(face)
    found = []
    for name, group in alike.items():
        group.sort(key=lambda f: [round(v, 6) for corner in box_of(f) for v in corner])
        found += [(f, name if k == 1 else f"{name}.{k}") for k, f in enumerate(group, 1)]
    return tuple(found)


def placed(form: Form, place: Place) -> Stamp:
    """A form where its panel stands. Skin and rims are carried by one location: by two that are equal they would not
    be the same to the kernel."""
    own = _own(form)
    at = TopLoc_Location(_carried(form, place))
    skin = tuple((TopoDS.Face(f.Moved(at)), f"{form.id}/{name}") for f, name in own.skin)
    high, low = (
        tuple(TopoDS.Wire((w if form.up else w.Reversed()).Moved(at)) for w in wires)
        for wires in ((own.high, own.low) if form.up else (own.low, own.high))
    )
    return Stamp(skin, low, high, taken(form))


def taken(form: Form) -> tuple[Loop, ...]:
    """What a form takes of its panel, in the panel's coordinates, clockwise."""
    made = form.pressing
    loops = made.taken if isinstance(made, Found) else stamped(made).loops
    return tuple(moved_loop(lp, form.at) for lp in loops)


def _own(form: Form) -> Stamp:
    if isinstance(form.pressing, Found):
        return _as_found(form.pressing)
    return stamped(form.pressing if form.up else form.pressing.flipped)


@functools.lru_cache(256)
def _as_found(found: Found) -> Stamp:
    shape = TopoDS_Shape()
    BinTools.Read_s(shape, io.BytesIO(zlib.decompress(base64.b64decode(found.shape))))
    if found.mirrored:
        turn = gp_Trsf()
        turn.SetMirror(gp_Ax2(gp_Pnt(0.0, 0.0, 0.0), gp_Dir(1.0, 0.0, 0.0)))
        shape = BRepBuilderAPI_Transform(shape, turn, True).Shape()
    faces = faces_of(shape)
    often: dict[Key, int] = {}
    for face in faces:
        for edge in edges_of(face):
            often[Key(edge)] = often.get(Key(edge), 0) + 1
    open_ = [e for e in edges_of(shape) if often[Key(e)] == 1]
    rims = []
    for level in (0.0, found.thickness):
        mine = [e for e in open_ if all(abs(z - level) < _RIM for z in _heights(e))]
        rims.append(tuple(_clockwise(w) for w in _wires(mine)))
    skin = tuple((f, f"f{k}") for k, f in enumerate(faces))
    return Stamp(skin, rims[0], rims[1], found.taken)


def _heights(edge: TopoDS_Edge) -> list[float]:
    curve = BRepAdaptor_Curve(edge)
    low, high = curve.FirstParameter(), curve.LastParameter()
    return [float(curve.Value(low + (high - low) * x).Z()) for x in (0.0, 0.5, 1.0)]


def _wires(edges: Sequence[TopoDS_Edge]) -> list[TopoDS_Wire]:
    """Edges that share their corners, one after the other, as closed wires."""
    left, found = list(edges), []
    while left:
        run = [left.pop(0)]
        first, last = (Key(v(run[0], True)) for v in (TopExp.FirstVertex_s, TopExp.LastVertex_s))
        while last != first:
            for k, edge in enumerate(left):
                a, b = (Key(v(edge, True)) for v in (TopExp.FirstVertex_s, TopExp.LastVertex_s))
                if last in (a, b):
                    last = b if last == a else a
                    run.append(left.pop(k))
                    break
            else:
                raise KernelTrouble("the rim of a form does not close")
        made = BRepBuilderAPI_MakeWire()
        for edge in run:
            made.Add(edge)
        found.append(made.Wire())
    return found


def _clockwise(wire: TopoDS_Wire) -> TopoDS_Wire:
    """A wire in a level plane, run clockwise seen from above."""
    points: list[Pair] = []
    explorer = BRepTools_WireExplorer(wire)
    while explorer.More():
        edge = explorer.Current()
        curve = BRepAdaptor_Curve(edge)
        low, high = curve.FirstParameter(), curve.LastParameter()
        if edge.Orientation() == TopAbs_REVERSED:
            low, high = high, low
        for k in range(8):
            p = curve.Value(low + (high - low) * k / 8)
            points.append((p.X(), p.Y()))
        explorer.Next()
    turned = sum(
        a[0] * b[1] - b[0] * a[1] for a, b in zip(points, points[1:] + points[:1], strict=True)
    )
    return TopoDS.Wire(wire.Reversed()) if turned > 0.0 else wire


def _carried(form: Form, place: Place) -> gp_Trsf:
    m, found = form.at, gp_Trsf()
    x = place.x * m.c + place.y * m.s
    y = place.y * m.c - place.x * m.s
    z, o = place.z, place.at((m.x, m.y), 0.0)
    if not form.up:
        # Half a turn about y, from the top to the bottom; the image in x is made beforehand.
        x, z, o = -x, -z, o + z * form.pressing.thickness
    rows = [[*(float(v[k]) for v in (x, y, z, o))] for k in range(3)]
    found.SetValues(*rows[0], *rows[1], *rows[2])
    return found


def _outline(loop: Loop) -> Outline:
    curves: tuple[tuple[str, Curve2], ...] = tuple((s.name, s.curve) for s in loop)
    found = arrange(curves)
    return outline_of(found, list(found.regions))


def _piece(
    outlines: Mapping[bool, Outline], piece: Piece, of: Pressing, k: int, flat: bool = False
) -> Body:
    """One piece of a form, or, `flat`, of what it takes of the sheet; its section is drawn in u, z, by itself or
    with its image."""
    name = f"slit{k}" if flat else str(k)
    if isinstance(piece, Lid):
        t, rise = of.thickness, 0.0 if flat else of.section.rise
        return prism(_lid(piece.loops), Frame(), rise, rise + t, name)
    if isinstance(piece, Straight):
        d = piece.d
        frame = Frame((*piece.p, 0.0), (-d[1], d[0], 0.0), (*d, 0.0))
        return prism(outlines[piece.twin], frame, 0.0, piece.length, name)
    out = piece.out
    frame = Frame((*piece.p, 0.0), (*out, 0.0), (out[1], -out[0], 0.0))
    return revolved(
        outlines[piece.twin], frame, (piece.axis, 0.0), (0.0, 1.0), 0.0, piece.sweep, name
    )


def _lid(loops: Sequence[Loop]) -> Outline:
    return _outline(tuple(s for loop in loops for s in loop))


def _plate(room: Body, t: float) -> Body:
    """A plate that goes all round what a form takes."""
    (x0, y0, _), (x1, y1, _) = box_of(room.shape)
    a, b, c, d = x0 - _AROUND, y0 - _AROUND, x1 + _AROUND, y1 + _AROUND
    around = ring([(a, b), (c, b), (c, d), (a, d)], ["front", "right", "back", "left"])
    return prism(_outline(around), Frame(), 0.0, t, "plate")


def _rims(face: TopoDS_Face) -> list[TopoDS_Wire]:
    """The inner wires of a plate's face, clockwise seen from above."""
    return wires_of(upward(face))[1:]

"""Pressings as solids: made once on a small plate, then their skin is set into panels by its rims, as it is."""

from __future__ import annotations

import functools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from OCP.gp import gp_Trsf
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Wire

from vireo.core.curves import Curve2
from vireo.core.geometry import Frame
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.grow import prism, revolved
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.profile import Outline, arrange, outline_of, upward, wires_of
from vireo.core.kernel.region import loops_of
from vireo.core.kernel.shape import Body
from vireo.core.naming.grammar import words_of
from vireo.core.panels.forms import Form, Lid, Piece, Pressing, Straight
from vireo.core.panels.loops import Loop, moved_loop, ring
from vireo.core.panels.places import Place

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
    skin = tuple(
        (face, "/".join(w for w in words_of(name) if w != "side"))
        for face, name in whole.named_faces() if not name.startswith("plate/")
    )  # fmt: skip
    high, low = (tuple(_rims(faces[0])) for faces in (tops, bottoms))
    loops = tuple(loops_of(tops[0], {}, "rim")[1:])
    return Stamp(skin, low, high, loops)


def placed(form: Form, place: Place) -> Stamp:
    """A form where its panel stands. Skin and rims are carried by one location: by two that are equal they would not
    be the same to the kernel."""
    own = stamped(form.pressing if form.up else form.pressing.flipped)
    at = TopLoc_Location(_carried(form, place))
    skin = tuple((TopoDS.Face(f.Moved(at)), f"{form.id}/{name}") for f, name in own.skin)
    high, low = (
        tuple(TopoDS.Wire((w if form.up else w.Reversed()).Moved(at)) for w in wires)
        for wires in ((own.high, own.low) if form.up else (own.low, own.high))
    )
    return Stamp(skin, low, high, taken(form))


def taken(form: Form) -> tuple[Loop, ...]:
    """What a form takes of its panel, in the panel's coordinates, clockwise."""
    return tuple(moved_loop(lp, form.at) for lp in stamped(form.pressing).loops)


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

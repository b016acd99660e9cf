"""Blanks laid on stock sheets: packed by a library on their outlines, then looked over by another."""

from __future__ import annotations

import io
import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import shapely
import spyrrow
from ezdxf import units
from ezdxf.filemanagement import new

from vireo.core.curves import Arc2, Circle2, Ellipse2, Pair
from vireo.core.panels.loops import Loop, Motion2
from vireo.core.sheet.blanks import Flat
from vireo.core.sheet.files import LAYERS, add_ink, inked, moved_ink
from vireo.core.trouble import BadInput, Trouble

#: Rounds are packed by chords that turn by this (rad), put out by what these are off.
_CHORD = 0.05
#: What the packing may be off (mm) before it is not believed.
_OFF = 1e-3
#: The same pieces are packed the same way again.
_SEED = 7


@dataclass(frozen=True)
class Stock:
    """A stock sheet: its size along x and y, what is left free along its rims, and between pieces (mm)."""

    size: Pair
    margin: float
    gap: float

    @property
    def room(self) -> Pair:
        return self.size[0] - 2.0 * self.margin, self.size[1] - 2.0 * self.margin


@dataclass(frozen=True)
class Piece:
    """A blank to be cut so many times; `turns` are the angles (deg) it may lie at."""

    id: str
    flat: Flat
    count: int
    turns: tuple[float, ...]


@dataclass(frozen=True)
class Lying:
    """A piece on a stock sheet: turned (deg) about the lower left of its blank, then shifted."""

    id: str
    turn: float
    at: Pair

    @property
    def motion(self) -> Motion2:
        a = math.radians(self.turn)
        return Motion2(math.cos(a), math.sin(a), *self.at)


def nested(
    pieces: Sequence[Piece], stock: Stock, seconds: float = 10.0,
    progress: Callable[[float], None] = lambda share: None,
) -> list[list[Lying]]:  # fmt: skip
    """What lies on each stock sheet, as few as are found. Raises BadInput for a piece that fits on none, Trouble
    where what was packed does not keep its distances."""
    w, h = stock.room
    if w <= 0.0 or h <= 0.0:
        raise BadInput("the margins leave nothing of the stock sheet")
    outlines = {p.id: _outline(p.flat.outline.loops[0]) for p in pieces}
    allowed = {p.id: _fitting(p, outlines[p.id], (w, h)) for p in pieces}
    left = {p.id: p.count for p in pieces if p.count > 0}
    whole = sum(left.values())
    found: list[list[Lying]] = []
    while left:
        packed = _strip(left, outlines, allowed, h, stock.gap, max(2.0, seconds / (1 + len(found))))
        here = _within(packed, outlines, w)
        if not here:
            raise Trouble("the pieces could not be packed: try again, or with another sheet")
        found.append(
            [Lying(x.id, x.turn, (x.at[0] + stock.margin, x.at[1] + stock.margin)) for x in here]
        )
        for lying in here:
            left[lying.id] -= 1
            if not left[lying.id]:
                del left[lying.id]
        progress(1.0 - sum(left.values()) / whole)
    _looked_over(found, pieces, stock)
    return found


def _outline(loop: Loop) -> shapely.Polygon:
    """An outline from outside: by chords, put out by what they are off."""
    round_ = [s.curve.radius for s in loop if isinstance(s.curve, Arc2 | Circle2)]
    round_ += [math.hypot(*s.curve.major) for s in loop if isinstance(s.curve, Ellipse2)]
    bare = shapely.Polygon([p for s in loop for p in s.points(_CHORD)[:-1]])
    off = max(round_, default=0.0) * (1.0 - math.cos(0.5 * _CHORD))
    if any(s.curve.form == "spline" for s in loop):
        off = max(off, 0.02)
    put = bare.buffer(off, join_style="mitre") if off else bare
    return shapely.Polygon(put.exterior)


def _turned(shape: shapely.Geometry, turn: float) -> shapely.Geometry:
    a = math.radians(turn)
    c, s = math.cos(a), math.sin(a)
    return shapely.transform(shape, lambda p: p @ [[c, s], [-s, c]])


def _fitting(piece: Piece, shape: shapely.Polygon, room: Pair) -> list[float]:
    """The angles at which a piece is no larger than what it is laid on."""
    found = []
    for turn in piece.turns:
        x0, y0, x1, y1 = _turned(shape, turn).bounds
        if x1 - x0 <= room[0] + _OFF and y1 - y0 <= room[1] - _OFF:
            found.append(turn)
    if not found:
        a, b = piece.flat.size
        raise BadInput(
            f"a blank of {a:.4g} × {b:.4g} mm does not fit on {room[0]:.4g} × {room[1]:.4g} mm of sheet: take a larger "
            "one, a smaller margin, or let it be turned"
        )
    return found


def _strip(
    left: Mapping[str, int], outlines: Mapping[str, shapely.Polygon], allowed: Mapping[str, list[float]],
    high: float, gap: float, seconds: float,
) -> list[Lying]:  # fmt: skip
    items = [
        spyrrow.Item(id, list(outlines[id].exterior.coords), count, allowed[id])
        for id, count in left.items()
    ]
    instance = spyrrow.StripPackingInstance("", high, items)
    config = spyrrow.StripPackingConfig(
        min_items_separation=gap if gap > 0.0 else None, total_computation_time=max(2, round(seconds)), seed=_SEED
    )  # fmt: skip
    solved = instance.solve(config)
    return [
        Lying(p.id, p.rotation, (p.translation[0], p.translation[1])) for p in solved.placed_items
    ]


def _within(
    packed: Sequence[Lying], outlines: Mapping[str, shapely.Polygon], wide: float
) -> list[Lying]:
    """What of a strip lies on its first stretch."""
    return [x for x in packed if _turned(outlines[x.id], x.turn).bounds[2] + x.at[0] <= wide + _OFF]


def _looked_over(found: Sequence[Sequence[Lying]], pieces: Sequence[Piece], stock: Stock) -> None:
    """Raises Trouble where pieces are nearer to each other or to the rims than was asked."""
    bare = {
        p.id: shapely.Polygon([q for s in p.flat.outline.loops[0] for q in s.points(0.02)[:-1]]) for p in pieces
    }  # fmt: skip
    m = stock.margin - _OFF
    rims = shapely.box(m, m, stock.size[0] - m, stock.size[1] - m)
    for lying in found:
        shapes = [
            shapely.transform(_turned(bare[x.id], x.turn), lambda p, x=x: p + x.at) for x in lying
        ]
        if not all(rims.contains(s) for s in shapes):
            raise Trouble("a piece was packed over the rim of its sheet")
        tree = shapely.STRtree(shapes)
        near = tree.query(shapes, predicate="dwithin", distance=max(stock.gap - _OFF, 0.0))
        if any(i < j and shapes[i].distance(shapes[j]) < stock.gap - _OFF for i, j in near.T):
            raise Trouble("two pieces were packed nearer to each other than was asked")
        meet = tree.query(shapes, predicate="intersects").T
        if any(i < j and shapes[i].intersection(shapes[j]).area > _OFF for i, j in meet):
            raise Trouble("two pieces were packed on each other")


def used(lying: Sequence[Lying], pieces: Sequence[Piece], stock: Stock) -> float:
    """Which share of a stock sheet becomes parts."""
    areas = {p.id: p.flat.outline.area for p in pieces}
    return sum(areas[x.id] for x in lying) / (stock.size[0] * stock.size[1])


def nest_dxf(found: Sequence[Sequence[Lying]], pieces: Sequence[Piece], stock: Stock) -> str:
    """All stock sheets beside each other as DXF (mm, plain ASCII): rims, and every piece with its layers."""
    document = new("R2000", units=units.MM)
    for name, colour in {**LAYERS, "STOCK": 9}.items():
        document.layers.add(name, color=colour)
    space = document.modelspace()
    flats = {p.id: p.flat for p in pieces}
    w, h = stock.size
    for k, lying in enumerate(found):
        x = k * 1.05 * w
        rim = [(x, 0.0), (x + w, 0.0), (x + w, h), (x, h)]
        space.add_lwpolyline(rim, close=True, dxfattribs={"layer": "STOCK"})
        for one in lying:
            m = one.motion.then(Motion2(x=x))
            for ink in inked(flats[one.id]):
                if ink.layer != "GRAIN":
                    add_ink(space, moved_ink(ink, m), ink.layer)
    out = io.StringIO()
    document.write(out)
    # Other signs by the format's own escape.
    return "".join(c if ord(c) < 128 else f"\\U+{ord(c):04X}" for c in out.getvalue())

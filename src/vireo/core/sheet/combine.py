"""A sheet hung on another of its panels, mirrored, put together with another."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace

from vireo.core.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Pair, Spline2
from vireo.core.kernel.region import combined
from vireo.core.panels.loops import Loop, Motion2, Seg, line, moved_loop, outers
from vireo.core.panels.model import Bend, Panel, Sheet
from vireo.core.trouble import BadInput

#: Sheets whose thicknesses differ by less (mm) are one.
_ALIKE = 1e-6


def rerooted(sheet: Sheet, panel: str) -> Sheet:
    """The same sheet with another panel at its root: its frame is that panel's place in the old one."""
    leads = {b.child: b for b in sheet.bends.values()}
    path: list[Bend] = []
    while panel != sheet.root and (not path or path[-1].parent != sheet.root):
        path.append(leads[path[-1].parent if path else panel])
    found = sheet
    for bend in reversed(path):
        found = _turned_round(found, found.bends[bend.id])
    return replace(found, root=panel)


def _turned_round(sheet: Sheet, bend: Bend) -> Sheet:
    """A bend whose parent and child change parts: the parent's outline and all that hangs on it are seen from
    the far end of the bend."""
    half = Motion2(-1.0, 0.0)
    m = Motion2.along(bend.p, bend.d).inverse.then(half)
    own = sheet.panels[bend.parent]
    hung = [
        replace(b, p=m(b.p), d=m.way(b.d)) for b in sheet.bends.values()
        if b.parent == bend.parent and b.id != bend.id
    ]  # fmt: skip
    zone = tuple(moved_loop(lp, Motion2(-1.0, 0.0, 0.0, bend.allowance)) for lp in bend.loops)
    # A parent that is a child itself hung on its own bend before; that one was turned round first.
    return sheet.with_(
        Panel(own.id, tuple(moved_loop(lp, m) for lp in own.loops), tuple(f.moved(m) for f in own.forms)),
        replace(bend, parent=bend.child, child=bend.parent, p=(0.0, 0.0), d=(-1.0, 0.0), loops=zone),
        *hung,
    )  # fmt: skip


def mirrored(sheet: Sheet) -> Sheet:
    """The mirror image, x turned to -x in the root's plane: loops turn round, bends keep their sense."""
    panels = [
        replace(p, loops=flipped(p.loops), forms=tuple(f.flipped for f in p.forms))
        for p in sheet.panels.values()
    ]
    bends = [
        # The line is looked along the other way, so that outward stays to its left.
        replace(b, loops=flipped(b.loops), p=(-b.p[0], b.p[1]), d=(b.d[0], -b.d[1]))
        for b in sheet.bends.values()
    ]
    return sheet.with_(*panels, *bends)


def flipped(loops: Sequence[Loop]) -> tuple[Loop, ...]:
    """Loops with x turned to -x, run so that outer ones go counter-clockwise again."""
    return tuple(tuple(flip(s) for s in reversed(loop)) for loop in loops)


def flip(seg: Seg) -> Seg:
    """A piece with x turned to -x, run the other way."""
    if isinstance(seg.curve, Line2):
        return line(_across(seg.b), _across(seg.a), seg.name)
    curve, turned = _flipped_curve(seg.curve)
    # An arc is told counter-clockwise both before and after; a spline keeps its own direction.
    return Seg(curve, seg.name, seg.back if turned else not seg.back)


def _flipped_curve(curve: Curve2) -> tuple[Curve2, bool]:
    """The image of a curve, and whether its own direction turned round with it."""
    match curve:
        case Circle2():
            return Circle2(_across(curve.centre), curve.radius), True
        case Arc2():
            ends = math.pi - curve.end, math.pi - curve.start
            return Arc2(_across(curve.centre), curve.radius, *ends), True
        case Ellipse2():
            # About the image of its major axis angles count the other way.
            found = Ellipse2(
                _across(curve.centre), _across(curve.major), curve.minor, -curve.end, -curve.start
            )
            return found, True
        case Spline2():
            poles = tuple(map(_across, curve.poles))
            return Spline2(curve.degree, curve.knots, poles, curve.weights), False
        case Line2():
            return Line2(_across(curve.a), _across(curve.b)), False


def _across(p: Pair) -> Pair:
    return (-p[0], p[1])


def renamed(sheet: Sheet, called: Callable[[str], str]) -> Sheet:
    """The sheet with its panels, their forms, and bends called otherwise."""
    panels = [
        replace(p, id=called(p.id), forms=tuple(replace(f, id=called(f.id)) for f in p.forms))
        for p in sheet.panels.values()
    ]
    bends = [
        replace(b, id=called(b.id), parent=called(b.parent), child=called(b.child))
        for b in sheet.bends.values()
    ]
    return Sheet(
        sheet.thickness, called(sheet.root), {p.id: p for p in panels}, {b.id: b for b in bends}
    )


def united(one: Sheet, other: Sheet, panels: tuple[str, str], lies: Motion2, mark: str) -> Sheet:
    """Two sheets as one: the `panels` of each lie in one plane, that of the other where `lies` carries it. What
    comes with the other is called after a mark where its name is taken. Raises BadInput for sheets of two
    thicknesses and for panels that do not meet."""
    if abs(one.thickness - other.thickness) > _ALIKE:
        raise BadInput(
            f"a sheet of {one.thickness:g} mm and one of {other.thickness:g} mm cannot become one"
        )
    mine, theirs = panels
    other = rerooted(other, theirs)
    taken = {*one.panels, *one.bends, *(f.id for p in one.panels.values() for f in p.forms)}

    def called(id: str) -> str:
        return mine if id == theirs else f"{mark}/{id}" if id in taken else id

    loops = combined(
        "fuse", one.panels[mine].loops, [moved_loop(lp, lies) for lp in other.panels[theirs].loops], mark
    )  # fmt: skip
    if outers(loops) >= outers(one.panels[mine].loops) + outers(other.panels[theirs].loops):
        raise BadInput("the two sheets do not meet along an edge in one plane")
    hung = [
        replace(b, p=lies(b.p), d=lies.way(b.d)) if b.parent == theirs else b
        for b in other.bends.values()
    ]
    joining = other.panels[theirs]
    seen = replace(joining, forms=tuple(f.moved(lies) for f in joining.forms))
    other = renamed(other.with_(seen, *hung), called)
    rest = [p for p in other.panels.values() if p.id != mine]
    forms = (*one.panels[mine].forms, *other.panels[mine].forms)
    return one.with_(Panel(mine, loops, forms), *rest, *other.bends.values())

"""Holes of two parts that open towards each other and do not line up: off their axis, leaning, of sizes no
screw is for, or closed by the other part while those beside it go on."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np

from vireo.core.fit.listing import FaultList, Looked, Row, Say, register
from vireo.core.fit.mouths import Meeting, Mouth, serves, suiting
from vireo.core.geometry import triple

#: Holes that lean by less (rad) are in line: half a hundredth of a millimetre on 100 mm.
_LEANS = 5e-5
#: Holes of one size to this (mm) are of one pattern.
_SAME = 0.05


@register
class OutOfLine(FaultList):
    kind, label = "out_of_line", "Holes out of line"
    line = "Holes of two parts that open towards each other, but off their axis, leaning or of unfit sizes"
    none = "every hole that meets another lies in line with it"
    order = 10

    def rows(self, looked: Looked) -> Iterable[Row]:
        for m in looked.meetings:
            off, leans = m.offset > looked.tolerance, m.lean > _LEANS
            unfit = not off and not leans and not _fit(m)
            if off or leans or unfit:
                yield _row(looked, m, "off" if off else "leans" if leans else "size")
        yield from _shut(looked)

    def tell(self, row: dict[str, Any], say: Say) -> str:
        n = row["numbers"]
        if row["what"] == "shut":
            return (
                f"its hole of {say.length(n['a'])} ends at the other part, while those beside it go on: "
                "make the hole there too, or move this one"
            )
        sizes = f"holes of {say.length(n['a'])} and {say.length(n['b'])}"
        if row["what"] == "size":
            return f"{sizes} in line: the one is for {n['for_a']}, the other for {n['for_b']}"
        wrong = [f"axes {say.length(n['offset'])} apart"] if n["offset"] > 1e-6 else []
        if n["lean"] > _LEANS:
            wrong.append(f"leaning by {math.degrees(n['lean']):.3g}°")
        passes = (
            f"a pin of {say.length(n['passes'])} still passes"
            if n["passes"] > 0
            else "nothing passes"
        )
        return f"{sizes}: {' and '.join(wrong)}; {passes}"


def _fit(m: Meeting) -> bool:
    """Whether sizes suit each other: the same, for one screw, or for none at all."""
    one, two = serves(m.a), serves(m.b)
    return abs(m.a.radius - m.b.radius) < _SAME / 2 or not one or not two or bool(suiting(m.a, m.b))


def _for(mouth: Mouth) -> str:
    """The screw a hole is most likely for."""
    roles = serves(mouth)
    first = min(roles, key=lambda n: (roles[n] != "clear", "x" in n, not n.startswith("M")))
    return f"{first}, {'with room' if roles[first] == 'clear' else 'cut into it'}"


def _row(looked: Looked, m: Meeting, what: str) -> Row:
    # The second axis where it passes the first one's mouth.
    over = m.a.at + m.a.way * float((m.b.at - m.a.at) @ m.a.way)
    return Row(
        what, looked.leaves[m.i].id, triple((over + m.b.at) / 2), looked.leaves[m.j].id,
        near=(triple(over), triple(m.b.at)) if m.offset > 1e-6 else None,
        faces_a=(m.a.face,), faces_b=(m.b.face,),
        numbers={
            "a": 2 * m.a.narrow, "b": 2 * m.b.narrow, "offset": m.offset, "lean": m.lean,
            "passes": m.passes, **({"for_a": _for(m.a), "for_b": _for(m.b)} if what == "size" else {}),
        },
    )  # fmt: skip


def _shut(looked: Looked) -> Iterator[Row]:
    """Holes that meet a wall, where at least as many of their pattern meet holes of the same part: of a
    grid of holes most are covered on purpose."""
    met: dict[tuple[int, int], list[Mouth]] = defaultdict(list)
    taken: dict[int, set[int]] = defaultdict(set)
    for m in looked.meetings:
        met[m.i, m.j].append(m.a)
        met[m.j, m.i].append(m.b)
        taken[m.i].add(id(m.a))
        taken[m.j].add(id(m.b))
    for (i, j), those in met.items():
        shut = [
            mouth for mouth in looked.mouths[i]
            if id(mouth) not in taken[i] and _walled(looked, mouth, j)
        ]  # fmt: skip
        for mouth in shut:
            pattern = [len([m for m in some if _beside(mouth, m)]) for some in (those, shut)]
            if pattern[0] >= pattern[1]:
                yield Row(
                    "shut", looked.leaves[i].id, triple(mouth.at), looked.leaves[j].id,
                    faces_a=(mouth.face,), numbers={"a": 2 * mouth.narrow},
                )  # fmt: skip


def _walled(looked: Looked, mouth: Mouth, j: int) -> bool:
    """Whether a little beyond an opening, on its axis and round about it, all is another solid."""
    ahead = mouth.at + mouth.way * (looked.near + 1e-3)
    low, high = looked.boxes
    if not ((ahead >= low[j]).all() and (ahead <= high[j]).all()):
        return False
    return all(looked.holds(looked.leaves[j], ahead + d) for d in _round(mouth))


def _beside(mouth: Mouth, other: Mouth) -> bool:
    """Whether a hole is of one pattern with another: one size, out of one flat face."""
    return (
        abs(mouth.radius - other.radius) < _SAME / 2
        and float(mouth.way @ other.way) > 1 - 1e-9
        and abs(float((mouth.at - other.at) @ mouth.way)) < 1e-6
    )


def _round(mouth: Mouth) -> list[Any]:
    side = np.cross(mouth.way, np.eye(3)[int(np.argmin(np.abs(mouth.way)))])
    side *= 0.8 * mouth.radius / np.linalg.norm(side)
    up = np.cross(mouth.way, side)
    return [np.zeros(3), side, -side, up, -up]

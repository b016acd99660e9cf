"""The registry of joint kinds: which relative motions each takes away.

A kind lists its rows in the frames of the two ends; the solver knows four row types:
T1 point along an axis, T2 two axes at right angles, T4 angle about z. (T3, a distance between
points, is not used by a joint yet.)
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

#: ("along", axis of a) | ("square", axis of a, axis of b) | ("turn",)
Row = tuple[str, ...]

_BALL: tuple[Row, ...] = (("along", "x"), ("along", "y"), ("along", "z"))
_PARALLEL: tuple[Row, ...] = (("square", "z", "x"), ("square", "z", "y"))


@dataclass(frozen=True)
class PairKind:
    """`coordinate` is what remains to be driven: an angle about z, a length along z, nothing."""

    kind: str
    label: str
    rows: tuple[Row, ...]
    coordinate: Literal["angle", "length"] | None
    icon: str
    line: str


PAIR_KINDS: dict[str, PairKind] = {
    k.kind: k
    for k in (
        PairKind("rigid", "Rigid", (*_BALL, *_PARALLEL, ("turn",)), None, "rigid",
                 "Hold two components together"),
        PairKind("revolute", "Revolute", (*_BALL, *_PARALLEL), "angle", "revolute",
                 "Turn about a common axis"),
        PairKind("slider", "Slider", (("along", "x"), ("along", "y"), *_PARALLEL, ("turn",)),
                 "length", "slider", "Slide along a common axis"),
    )
}  # fmt: skip

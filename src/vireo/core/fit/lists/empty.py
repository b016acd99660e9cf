"""Holes of two parts in line, made for a screw or pin, with nothing in them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

from vireo.core.fit.listing import FaultList, Looked, Row, Say, register
from vireo.core.fit.mouths import Meeting, serves, suiting
from vireo.core.geometry import triple


@register
class Empty(FaultList):
    kind, label = "empty", "Holes without a screw"
    line = "Holes of two parts in line and made for one screw, with nothing in them"
    none = "no hole that a screw is meant for is empty"
    order = 20

    def rows(self, looked: Looked) -> Iterable[Row]:
        for m in looked.meetings:
            if m.offset > looked.tolerance:
                continue
            fits = suiting(m.a, m.b)
            if fits and not _filled(looked, m):
                yield Row(
                    "empty", looked.leaves[m.i].id, triple(m.a.at), looked.leaves[m.j].id,
                    faces_a=(m.a.face,), faces_b=(m.b.face,), numbers={"screw": _meant(m, fits)},
                )  # fmt: skip

    def tell(self, row: dict[str, Any], say: Say) -> str:
        return f"made for {row['numbers']['screw']}, and nothing is in it"


def _meant(m: Meeting, fits: list[str]) -> str:
    """The screw that suits best: where a thread is drawn that, else the thickest that has room."""
    for mouth in (m.a, m.b):
        if mouth.thread is not None:
            return next(n for n in fits if n in serves(mouth))
    metric = [n for n in fits if n.startswith("M") and "x" not in n]
    return (metric or fits)[-1]


def _filled(looked: Looked, m: Meeting) -> bool:
    """Something stands in a hole where its axis there is in it, or in what is round about that axis."""
    at, way = (m.a.at + m.b.at) / 2, m.a.way
    low, high = looked.boxes
    for k in np.flatnonzero((low <= at + 1e-6).all(1) & (high >= at - 1e-6).all(1)).tolist():
        leaf = looked.leaves[k]
        if k in (m.i, m.j):
            continue
        for shaft in looked.shafts(leaf):
            axis = leaf.pose.rotation @ shaft.way
            to = at - leaf.pose.out(shaft.at)
            along = float(to @ axis)
            aside = float(np.linalg.norm(to - along * axis))
            if (
                abs(float(axis @ way)) > 0.99
                and aside < m.a.radius
                and shaft.low <= along <= shaft.high
            ):
                return True
        if looked.holds(leaf, at):
            return True
    return False

"""Joints tied to each other: gears, a rack. What turns or slides is found by the picked axes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Protocol

import numpy as np

from vireo.core.assembly.mechanism import Coupling, Member, Pair, Term
from vireo.core.declared.joint import EndFrame, EndTrouble, JointKind, Slide, Turn
from vireo.core.documents.kinds.assembly import Joint


class Held(Protocol):
    """The members a coupling ties together, and what is picked on each."""

    @property
    def of_a(self) -> int: ...
    @property
    def of_b(self) -> int: ...
    @property
    def a(self) -> EndFrame: ...
    @property
    def b(self) -> EndFrame: ...


def coupled(
    joint: Joint,
    kind: JointKind,
    ends: Held,
    factor: float,
    members: Sequence[Member],
    pairs: Sequence[Pair],
) -> Coupling:
    """The coupling of a drive: `factor` is turns of b for one of a, or mm for one turn.

    Raises EndTrouble when a picked component does not turn, or slide, by a joint of its own.
    """
    turn, way = _turning(ends.of_a, ends.a, members, pairs)
    z_a = members[ends.of_a].pose.rotation @ ends.a.axes[:, 2]
    other = -1.0 if joint.flip else 1.0
    if kind.couples == "slide":
        slide, sense = _sliding(ends.of_b, ends.b, members, pairs)
        arm = members[ends.of_b].pose.out(ends.b.origin) - members[ends.of_a].pose.out(
            ends.a.origin
        )
        # Rolling without slip: the rack goes where the rim next to it goes.
        rolls = float(np.cross(z_a, arm) @ sense)
        forward = -1.0 if rolls < -1e-9 else 1.0
        return Coupling(
            joint.id,
            (Term(turn.pair, turn.coordinate, way * factor / (2 * math.pi)),
             Term(slide.pair, slide.coordinate, -forward * other * slide.factor)),
        )  # fmt: skip
    second, back = _turning(ends.of_b, ends.b, members, pairs)
    z_b = members[ends.of_b].pose.rotation @ ends.b.axes[:, 2]
    alike = -1.0 if float(z_a @ z_b) < -0.1 else 1.0
    # Wheels that mesh on their outside turn against each other.
    return Coupling(
        joint.id,
        (Term(turn.pair, turn.coordinate, way * factor),
         Term(second.pair, second.coordinate, alike * other * back)),
    )  # fmt: skip


def _turning(
    member: int, end: EndFrame, members: Sequence[Member], pairs: Sequence[Pair]
) -> tuple[Term, float]:
    """The coordinate by which a member turns about a picked axis, and whether it counts the way
    the axis points (1) or against it (-1)."""
    z = end.axes[:, 2]
    for pair in pairs:
        if member not in (pair.a, pair.b):
            continue
        mine = pair.b == member
        origin, axes = (pair.origin_b, pair.axes_b) if mine else (pair.origin_a, pair.axes_a)
        name = next((c.name for c in pair.joint.coordinates if isinstance(c, Turn)), None)
        along = float(axes[:, 2] @ z)
        away = origin - end.origin
        gap = float(np.linalg.norm(away - (away @ z) * z))
        if name is None or abs(along) < 1 - 1e-6 or gap > 1e-4 * members[member].size:
            continue
        return Term(pair.id, name, 1.0), math.copysign(1.0, along) * (1.0 if mine else -1.0)
    raise EndTrouble(
        f"{members[member].title} does not turn about the picked axis: join it by a revolute or "
        "cylindrical joint first"
    )


def _sliding(
    member: int, end: EndFrame, members: Sequence[Member], pairs: Sequence[Pair]
) -> tuple[Term, np.ndarray]:
    """The coordinate by which a member slides, its factor telling the sense, and the direction it
    slides in (outer)."""
    for pair in pairs:
        if member not in (pair.a, pair.b):
            continue
        mine = pair.b == member
        slides = [c for c in pair.joint.coordinates if isinstance(c, Slide) and c.axis == "z"]
        if len(slides) != 1:
            continue
        way = members[pair.a].pose.rotation @ pair.axes_a[:, 2]
        # What it slides along moves against the count where the member is the first end.
        return Term(pair.id, slides[0].name, 1.0), way if mine else -way
    raise EndTrouble(
        f"{members[member].title} does not slide: join it by a prismatic or cylindrical joint first"
    )

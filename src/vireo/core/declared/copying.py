"""The contract of a way to copy components and the registry they enter by being read.

A way is one file in `vireo.core.assembly.copying`: what it asks for, and the motion of every copy.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import ClassVar

import numpy as np

from vireo.core.declared.joint import EndFrame, Floats, Nature
from vireo.core.quantity import Dimension
from vireo.core.registry import Registry


@dataclass(frozen=True)
class Spacing:
    """A size between copies, or over which they are spread."""

    label: str
    dimension: Dimension
    unit: str
    default: str


@dataclass(frozen=True)
class Asked:
    """What copies are made by: `of` in outer coordinates, with all that is alike to it on its part
    (holes of one size, features of one step), the number with the original, the spacing (mm or
    rad), the middle (mm, outer) and own axes (3x3, columns, outer) of what is copied, and the motions
    (4x4, outer) from what is picked to where a step of its part copied it to, by number."""

    of: EndFrame
    alike: tuple[EndFrame, ...]
    count: int
    spacing: float
    middle: Floats
    axes: Floats
    track: Track | None = None
    repeats: Mapping[int, Floats] = field(default_factory=dict)


@dataclass(frozen=True)
class Track:
    """A picked edge as a way: its length (mm), whether it comes back to its start, and where it is at
    lengths along it, as 4x4 matrices (outer) whose z runs along it."""

    length: float
    closed: bool
    at: Callable[[Sequence[float]], list[Floats]]


@dataclass(frozen=True)
class Move:
    """A copy stands at `matrix` times where the original does (4x4, outer), `back` put before it
    where it is made anew. Each may mirror, both together do not."""

    matrix: Floats
    back: Floats | None = None


class CopyKind:
    """Subclass, set the class attributes, write `moves`, decorate with `register`."""

    kind: ClassVar[str]
    label: ClassVar[str]
    icon: ClassVar[str]
    line: ClassVar[str]
    order: ClassVar[int] = 50
    #: What may be picked on a component, what is said of it; whether an axis of the assembly does.
    takes: ClassVar[tuple[Nature, ...]] = ("plane", "axis")
    hint: ClassVar[str] = ""
    axis: ClassVar[bool] = True
    counted: ClassVar[bool] = True
    #: Whether going the other way round makes a difference.
    turns: ClassVar[bool] = True
    spacing: ClassVar[Spacing | None] = None
    #: Whether no spacing spreads the copies over all there is.
    spreads: ClassVar[bool] = False
    #: Whether copies go along an edge of whatever form.
    along: ClassVar[bool] = False

    #: Whether copies go to all that is alike to what is picked.
    alike: ClassVar[bool] = False
    #: Whether copies go to where a step of the part copied what is picked.
    repeats: ClassVar[bool] = False

    def moves(self, asked: Asked) -> Mapping[int, Move]:
        """How each copy comes of the original, by its number; the original has 1. Raises
        EndTrouble for what gives no copies."""
        raise NotImplementedError

    def note(self, asked: Asked, name: str, centre: Floats) -> str:
        """What the engineer may not expect of a copy of something with its centre of gravity
        (outer, mm) there; nothing for nothing."""
        return ""


COPY_KINDS: Registry[CopyKind] = Registry("way to copy", "vireo.core.assembly.copying")


def register(cls: type[CopyKind]) -> type[CopyKind]:
    COPY_KINDS.add(cls.kind, cls())
    return cls


def shifted(by: Floats) -> Floats:
    """The matrix of a shift (mm)."""
    found = np.eye(4)
    found[:3, 3] = by
    return found


def about(point: Floats, rotation: Floats) -> Floats:
    """The matrix of a turn, or a reflection, about a point."""
    found = np.eye(4)
    found[:3, :3] = rotation
    found[:3, 3] = point - rotation @ point
    return found


def spun(axis: Floats, angle: float) -> Floats:
    """The rotation (3x3) about a unit axis by an angle in rad (Rodrigues)."""
    x, y, z = axis
    k = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
    return np.asarray(np.eye(3) + np.sin(angle) * k + (1 - np.cos(angle)) * (k @ k))


__all__ = [
    "COPY_KINDS", "Asked", "CopyKind", "Move", "Spacing", "Track", "about", "register", "shifted", "spun",
]  # fmt: skip

"""The contract of a rule of making and the registry they enter by being read.

What is a number of practice (how wide a die is, how far a hole keeps off a bend) and no law of geometry is said so
in the rule's docstring."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import shapely

from vireo.core.curves import Pair
from vireo.core.panels.flat import laid
from vireo.core.panels.joints import Patch, patches
from vireo.core.panels.loops import Motion2, area, inside
from vireo.core.panels.model import Bend
from vireo.core.registry import Registry
from vireo.core.sheet.blanks import Flat, flattened
from vireo.core.sheet.body import SheetBody


@dataclass(frozen=True)
class Fault:
    """What cannot be made, or not well: `at` is the place in the coordinates of a patch; `mend` says what would
    do."""

    rule: str
    patch: str
    at: Pair
    text: str
    mend: str


class Made:
    """A sheet as rules look at it: patches with their joints, their polygons, where each lies in the flat."""

    def __init__(self, body: SheetBody) -> None:
        self.body, self.sheet = body, body.sheet
        self.t = body.sheet.thickness

    @cached_property
    def parts(self) -> dict[str, Patch]:
        return patches(self.sheet)

    @cached_property
    def laid(self) -> dict[str, Motion2]:
        return laid(self.sheet)

    @cached_property
    def flat(self) -> Flat:
        return flattened(self.body)

    def home(self, at: Pair) -> tuple[str, Pair] | None:
        """The patch that a place of the blank is on, and where that is in it."""
        dx, dy = self.flat.place(self.sheet.root, (0.0, 0.0))
        for id, lies in self.laid.items():
            p = lies.inverse((at[0] - dx, at[1] - dy))
            if inside(p, self.parts[id].loops):
                return id, p
        return None

    def outer(self, panel: str) -> shapely.Geometry:
        """A panel without its holes, by its chords."""
        rings = [
            [p for s in lp for p in s.points(0.05)[:-1]] for lp in self.sheet.panels[panel].loops if area([lp]) > 0.0
        ]  # fmt: skip
        return shapely.union_all([shapely.Polygon(r) for r in rings])

    def joints(self, panel: str, bend: str) -> list[tuple[Pair, Pair]]:
        """The joints a panel has with a bend, run as its loop does."""
        part = self.parts[panel]
        return [
            (part.loops[n][i].a, part.loops[n][i].b) for (n, i), j in part.joints.items() if j.bend == bend
        ]  # fmt: skip

    def sides(self) -> Iterator[tuple[Bend, str]]:
        """Every bend with each of its two panels."""
        for bend in self.sheet.bends.values():
            yield bend, bend.parent
            yield bend, bend.child


class MakingRule:
    """Subclass, set the class attributes, write `faults`, decorate with `register`."""

    kind: ClassVar[str]
    label: ClassVar[str]

    def faults(self, made: Made) -> Iterator[Fault]:
        raise NotImplementedError


RULES: Registry[MakingRule] = Registry("rule of making", "vireo.core.sheet.rules")


def register(cls: type[MakingRule]) -> type[MakingRule]:
    RULES.add(cls.kind, cls())
    return cls


def faults_of(body: SheetBody) -> list[Fault]:
    """All that the rules find, the rules in the order of their names."""
    made = Made(body)
    return [f for _, rule in sorted(RULES.items()) for f in rule.faults(made)]

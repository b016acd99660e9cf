"""Which copy of what a step copied something belongs to, by its names."""

from __future__ import annotations

from dataclasses import dataclass

from vireo.core.naming.grammar import came_from, under

#: A 4x4 matrix, row by row.
Matrix = tuple[tuple[float, ...], ...]
ORIGINAL = "1"


@dataclass(frozen=True)
class Repeats:
    """Steps and bodies that were copied, and the motion from the original to each copy, by what the
    copy is called; the original is called ``1``."""

    steps: tuple[str, ...]
    bodies: tuple[str, ...]
    moves: dict[str, Matrix]

    def copy_of(self, step: str, body: str, names: tuple[str, ...]) -> str | None:
        """Which copy something with these names of faces on a body belongs to; `step` is the one that
        copied."""
        for index in self.moves:
            if any(under(name, step, index) for name in names):
                return index
        if body in self.bodies or any(came_from(name, set(self.steps)) for name in names):
            return ORIGINAL
        return None

"""Colours that tell the parts of an assembly apart where they have none of their own."""

from __future__ import annotations

from collections.abc import Sequence

from vireo.core.assembly.build import Leaf

#: Quiet, and told apart by lightness too.
TONES = (
    "#9fb3c8", "#c9b18f", "#a7bfa0", "#c4a1a1", "#7f9bb0", "#b7aacb", "#cdc08e", "#86a89f",
    "#b58e74", "#a3a8ad",
)  # fmt: skip


def toned(leaves: Sequence[Leaf]) -> dict[str, str]:
    """A colour for every leaf by its id: its own, or else the next quiet one; copies of one body
    share theirs."""
    next_by_body: dict[str, str] = {}
    found = {}
    for leaf in leaves:
        if leaf.solid.own_colour:
            found[leaf.id] = leaf.solid.colour
            continue
        if leaf.solid.key not in next_by_body:
            next_by_body[leaf.solid.key] = TONES[len(next_by_body) % len(TONES)]
        found[leaf.id] = next_by_body[leaf.solid.key]
    return found

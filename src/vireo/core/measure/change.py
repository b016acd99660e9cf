"""What a step did to bodies: the material it added and took away."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from vireo.core.kernel.boolean import Nothing, NothingLeft, combine
from vireo.core.kernel.forms.kind import form_of
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.shape import Body


@dataclass(frozen=True)
class Piece:
    """Material of a body that was added or removed, its volume in mm3. `shape` is None where the
    kernel could not take the two states apart; the volume is then what the body gained."""

    body: str
    sign: Literal["added", "removed"]
    volume: float
    shape: Body | None


def change(before: Mapping[str, Body], after: Mapping[str, Body]) -> list[Piece]:
    """Material that is only in one of two states of some bodies, by body id; surfaces have none."""
    before, after = (
        {id: b for id, b in state.items() if form_of(b).word == "solid"}
        for state in (before, after)
    )
    pieces = []
    for id in sorted({*before, *after}):
        old, new = before.get(id), after.get(id)
        if old is new:
            continue
        for sign, one, other in (("added", new, old), ("removed", old, new)):
            if one is None:
                continue
            piece = _only(id, sign, one, other)  # type: ignore[arg-type]
            if piece is not None:
                pieces.append(piece)
    return pieces


def _only(
    id: str, sign: Literal["added", "removed"], one: Body, other: Body | None
) -> Piece | None:
    """What is in one state and not in the other; None when nothing is."""
    if other is None:
        return Piece(id, sign, volume_of(one.shape), one)
    try:
        rest = combine("cut", one, [other], "telling the states apart")
    except NothingLeft:
        return None
    except Nothing:
        rest = one
    except KernelTrouble:
        gained = volume_of(one.shape) - volume_of(other.shape)
        return Piece(id, sign, gained, None) if gained > 0 else None
    return Piece(id, sign, volume_of(rest.shape), rest)

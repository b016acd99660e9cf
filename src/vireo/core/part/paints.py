"""How faces of bodies are coloured: by what made them, and by hand."""

from __future__ import annotations

from vireo.core.documents.kinds.part import Part
from vireo.core.part.context import Context
from vireo.core.part.products.dress import DRESSES
from vireo.core.part.sets import members
from vireo.core.part.state import State
from vireo.core.trouble import Trouble


def painted_faces(part: Part, state: State) -> tuple[dict[str, dict[int, str]], int]:
    """Colours (#rrggbb) of painted faces by body and index, later paint over earlier; and how
    many painted faces are no longer there."""
    ctx = Context("paint", state, {})
    painted = {id: _brought(state, id) for id in state.bodies}
    lost = 0
    for paint in part.paints:
        pick = paint.pick
        try:
            if pick.kind == "set":
                faces = members(ctx.rule(pick.name[0]), ctx)
            else:
                faces = [(pick.body, ctx.find(pick, "paint")[0])]
        except Trouble:
            lost += 1
            continue
        for body, index in faces:
            painted.setdefault(body, {})[index] = paint.colour
    return painted, lost


def _brought(state: State, body: str) -> dict[int, str]:
    """Colours that faces of a body came with."""
    tones = {n: t for d in state.of(DRESSES).values() for n, t in d.faces.items()}
    if not tones:
        return {}
    names = state.bodies[body].load().names
    return {i: tones[n] for i, n in enumerate(names) if n in tones}

"""Bodies by id; None takes one away."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from vireo.core.digest import digest
from vireo.core.kernel.forms.kind import form_of
from vireo.core.kernel.shape import Body
from vireo.core.part.products.kind import Keeper, Product, register

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@register
class Bodies(Product["dict[str, Body | None]", str]):
    """In the state stands for each body that became part of another that one's id."""

    word = "bodies"
    reads = ("bodies", "body", "absorbed", "weight")
    order = 0

    def empty(self) -> dict[str, Body | None]:
        return {}

    def record(self, made: dict[str, Body | None], keeper: Keeper) -> Any:
        found: dict[str, Any] = {}
        for id, body in made.items():
            if body is None:
                found[id] = None
                continue
            form = form_of(body)
            mass = form.mass(body)
            found[id] = {
                "form": form.word, "key": keeper.keep(body, id), "volume": mass.volume, "area": mass.area,
                "centre": list(mass.centre), "inertia": mass.inertia.tolist(),
            }  # fmt: skip
        return found

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        from vireo.core.part.state import Held

        whole = next((id for id, made in raw.items() if made is not None), None)
        for id, made in raw.items():
            if made is None:
                state.bodies.pop(id, None)
                if whole is not None:
                    state.of(self)[id] = whole
                continue
            told = {k: v for k, v in made.items() if k != "key"}
            state.bodies[id] = Held(made["key"], keeper.load(made["key"]), told)

    def key(self, state: State, read: str, id: str) -> str | None:
        if read == "bodies":
            # What is no solid is told with its form: the same id may become another.
            plain = [id if b.form == "solid" else [id, b.form] for id, b in state.bodies.items()]
            return digest(plain)
        if read == "absorbed":
            return state.of(self).get(id)
        if id not in state.bodies:
            return None
        return repr(state.weigh(id)) if read == "weight" else state.bodies[id].key


BODIES = Bodies()

"""What a step did with shapes of its own, in order, to be done again elsewhere by copies."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal

from vireo.core.digest import digest
from vireo.core.kernel.shape import Body
from vireo.core.part.products.kind import Keeper, Product, register

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import Held, State

Done = Literal["new", "add", "cut", "overlap"]


@dataclass(frozen=True)
class Deed:
    """A shape made a body of its own, or put into bodies: which those are, by id."""

    operation: Done
    tools: tuple[Body, ...]
    bodies: tuple[str, ...]


@dataclass(frozen=True)
class KeptDeed:
    """A deed as it stands between steps."""

    operation: Done
    tools: tuple[Held, ...]
    bodies: tuple[str, ...]

    @property
    def key(self) -> list[Any]:
        return [self.operation, *(t.key for t in self.tools), list(self.bodies)]

    def load(self) -> Deed:
        return Deed(self.operation, tuple(t.load() for t in self.tools), self.bodies)


@register
class Deeds(Product["list[Deed]", "list[KeptDeed]"]):
    word = "deeds"
    reads = ("deeds",)

    def empty(self) -> list[Deed]:
        return []

    def record(self, made: list[Deed], keeper: Keeper) -> Any:
        return [
            [d.operation, [keeper.keep(t, "tool", n, k) for k, t in enumerate(d.tools)],
             list(d.bodies)]
            for n, d in enumerate(made)
        ]  # fmt: skip

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        from vireo.core.part.state import Held

        if raw:
            state.of(self)[step] = [
                KeptDeed(done, tuple(Held(k, keeper.load(k)) for k in keys), tuple(on))
                for done, keys, on in raw
            ]

    def key(self, state: State, read: str, id: str) -> str | None:
        done = state.of(self).get(id)
        return digest([d.key for d in done]) if done else None


DEEDS = Deeds()

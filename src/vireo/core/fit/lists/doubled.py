"""Components that stand twice at one place, or wholly inside another."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from vireo.core.fit.listing import FaultList, Looked, Row, Say, register

#: Volumes alike to this share are of the same thing.
_ALIKE = 1e-6


@register
class Doubled(FaultList):
    kind, label = "doubled", "Doubled or inside another"
    line = "Components that stand twice at one place, or wholly inside another one's material"
    none = "nothing stands twice at one place, and nothing inside another"
    order = 40
    meant = True

    def rows(self, looked: Looked) -> Iterable[Row]:
        for pair in looked.pairs:
            if not pair.verdict.inside:
                continue
            a, b = (looked.leaves[looked.number[id]] for id in (pair.a, pair.b))
            small = (a, b)[pair.verdict.inside == "b"]
            large = b if small is a else a
            alike = abs(a.solid.volume - b.solid.volume) <= _ALIKE * large.solid.volume
            yield Row(
                "twice" if alike else "inside", small.id, pair.at, large.id,
                numbers={"depth": pair.verdict.depth},
            )  # fmt: skip

    def tell(self, row: dict[str, Any], say: Say) -> str:
        if row["what"] == "twice":
            return "both stand at one place: delete one"
        return (
            f"{say.title(row['a'])} lies wholly inside the other: move it out, or cut room for it"
        )

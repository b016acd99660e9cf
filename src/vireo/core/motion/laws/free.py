"""Let go: what was held moves by its weight and what acts on it."""

from __future__ import annotations

from vireo.core.documents.kinds.assembly import Driver
from vireo.core.motion.law import LawKind, Led, add


def going(driver: Driver, led: Led) -> None:
    return None


add(
    LawKind(
        "free", "Let go", "Held no more: it moves by its weight and what acts on it", (), going,
        order=60,
    )
)  # fmt: skip

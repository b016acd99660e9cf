"""What second witnesses cost over the gallery, and how often they fired."""

from __future__ import annotations

import functools
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from tests.core.gallery import GALLERY
from tests.core.parts import Maker
from vireo.core.kernel import witness

_ASKED = ("membership", "unmet", "budget", "swept_budget", "confined", "left_behind", "boxed")


@contextmanager
def timed() -> Iterator[dict[str, float]]:
    """Seconds spent in witnesses, wherever they are called from; one within another counts once."""
    spent = {"all": 0.0}
    depth = 0

    def wrapped(function: Callable[..., Any]) -> Callable[..., Any]:
        @functools.wraps(function)
        def run(*given: Any, **named: Any) -> Any:
            nonlocal depth
            depth += 1
            began = time.perf_counter()
            try:
                return function(*given, **named)
            finally:
                depth -= 1
                if depth == 0:
                    spent["all"] += time.perf_counter() - began

        return run

    real = {name: getattr(witness, name) for name in _ASKED}
    places = [
        (module, name)
        for module in list(sys.modules.values())
        if getattr(module, "__name__", "").startswith("vireo.core.kernel")
        for name in _ASKED
        if getattr(module, name, None) is real[name]
    ]
    instead = {name: wrapped(function) for name, function in real.items()}
    for module, name in places:
        setattr(module, name, instead[name])
    try:
        yield spent
    finally:
        for module, name in places:
            setattr(module, name, real[name])


def over_gallery() -> str:
    """Every part of the gallery built anew."""
    pieces = {name: make().maker.part for name, make in GALLERY.items()}
    asked, fired = witness.ASKED.copy(), witness.FIRED.copy()
    shares: dict[str, float] = {}
    whole = in_witnesses = 0.0
    for name, part in pieces.items():
        with timed() as spent:
            began = time.perf_counter()
            fresh = Maker()
            fresh.part = part
            fresh.build()
            took = time.perf_counter() - began
        shares[name] = spent["all"] / took
        whole, in_witnesses = whole + took, in_witnesses + spent["all"]
    now = witness.ASKED - asked
    told = ", ".join(f"{n} {count}" for n, count in sorted(now.items()))
    gone_off = witness.FIRED - fired
    bells = ", ".join(f"{n} {count}" for n, count in sorted(gone_off.items())) or "none"
    worst = max(shares, key=lambda n: shares[n])
    return (
        f"{in_witnesses / whole:.1%} of {whole:.1f} s over {len(pieces)} parts (most {shares[worst]:.0%}, "
        f"{worst}); asked: {told}; fired: {bells}"
    )


ROWS = [
    ("second witnesses over the gallery: share of building, asked, fired", "at most 10 %",
     over_gallery),
]  # fmt: skip

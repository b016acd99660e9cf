"""The contract of a map kind, its answer, and the buffer it travels in."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vireo.core.geometry import Triple, unit
from vireo.core.kernel.shape import Body
from vireo.core.trouble import BadInput

Floats = NDArray[np.float64]
Ints = NDArray[np.int32]

MAGIC = 0x4D4150
VERSION = 2


@dataclass(frozen=True)
class Place:
    """A spot worth pointing at: its value, where it is, and the place it is measured to (mm)."""

    value: float
    at: Triple
    to: Triple | None = None


@dataclass(frozen=True)
class FieldMap:
    """Values (n, c) at points (n, 3, mm) with outward normals; `triangles` (m, 3) index them.

    NaN where there is no value. `places` are the most telling spots, first the worst.
    """

    points: Floats
    normals: Floats
    triangles: Ints
    values: Floats
    places: tuple[Place, ...] = ()
    told: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class MapKind:
    """`line` says what it shows; with `directed` it depends on a direction."""

    kind: str
    line: str
    make: Callable[[Body, Triple], FieldMap]
    directed: bool = False


MAP_KINDS: dict[str, MapKind] = {}


def add(kind: MapKind) -> None:
    MAP_KINDS[kind.kind] = kind


def made(kind: str, body: Body, way: Triple) -> FieldMap:
    """The map of a body. Raises BadInput for an unknown kind or a direction of no length."""
    if kind not in MAP_KINDS:
        raise BadInput(f"there is no map called {kind}; known: {', '.join(sorted(MAP_KINDS))}")
    try:
        return MAP_KINDS[kind].make(body, unit(way))
    except ValueError as error:
        raise BadInput(f"a map needs a direction: {error}") from error


def pack(found: FieldMap) -> bytes:
    """Little endian, sections 4-byte aligned: 8 x u32 header (magic, version, points, triangles,
    values per point, bytes of JSON, 2 spare), points f32x3, normals f32x3, values f32, triangles
    u32x3, JSON with places and what else is told."""
    told = {**found.told, "places": [asdict(p) for p in found.places]}
    words = json.dumps(told, separators=(",", ":")).encode()
    words += b" " * (-len(words) % 4)
    header = np.zeros(8, dtype="<u4")
    header[:6] = (
        MAGIC, VERSION, len(found.points), len(found.triangles), found.values.shape[1], len(words),
    )  # fmt: skip
    return b"".join(
        (
            header.tobytes(),
            found.points.astype("<f4").tobytes(),
            found.normals.astype("<f4").tobytes(),
            found.values.astype("<f4").tobytes(),
            found.triangles.astype("<u4").tobytes(),
            words,
        )
    )

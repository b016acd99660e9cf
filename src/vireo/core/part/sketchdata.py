"""A built sketch as plain data: frame, curves, loose points. Later steps read this."""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict, dataclass
from functools import cached_property
from typing import Any

from vireo.core.curves import CURVES, Curve2, Pair
from vireo.core.geometry import Frame


def _tuples(value: Any) -> Any:
    return tuple(_tuples(v) for v in value) if isinstance(value, list) else value


def curve_from_json(form: str, raw: dict[str, Any]) -> Curve2:
    """A curve from its form and fields."""
    return CURVES[form](**{k: _tuples(v) for k, v in raw.items()})


@dataclass(frozen=True)
class SketchData:
    name: str
    frame: Frame
    curves: tuple[tuple[str, Curve2], ...]
    points: dict[str, Pair]
    freedom: int = 0
    #: Construction curves: axes to turn about, no outlines.
    aids: tuple[tuple[str, Curve2], ...] = ()

    @cached_property
    def key(self) -> str:
        """Content only: a sketch whose result did not change makes nothing after it run."""
        data = {k: v for k, v in self.to_json().items() if k not in ("name", "freedom")}
        return hashlib.sha256(json.dumps(data, sort_keys=True).encode()).hexdigest()[:32]

    def to_json(self) -> dict[str, Any]:
        return {
            "name": self.name,
            "frame": asdict(self.frame),
            "curves": [[id, c.form, asdict(c)] for id, c in self.curves],
            "points": {k: list(v) for k, v in self.points.items()},
            "freedom": self.freedom,
            "aids": [[id, c.form, asdict(c)] for id, c in self.aids],
        }

    @staticmethod
    def from_json(data: dict[str, Any]) -> SketchData:
        curves, aids = (
            tuple((id, curve_from_json(form, raw)) for id, form, raw in data.get(key, ()))
            for key in ("curves", "aids")
        )
        frame = Frame(**{k: tuple(v) for k, v in data["frame"].items()})
        points = {k: (v[0], v[1]) for k, v in data["points"].items()}
        return SketchData(data["name"], frame, curves, points, data["freedom"], aids)

"""Bodies laid on the bed: a chosen face down, the lowest place at zero."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from vireo.core.exchange.printed import Printed
from vireo.core.geometry import Triple, Vector


@dataclass(frozen=True)
class Laid:
    """Bodies as they lie on the bed, and the rotation and shift that brought them there."""

    bodies: tuple[Printed, ...]
    rotation: Vector
    shift: Vector

    def there(self, at: Triple) -> Triple:
        """A place of the part as it lies."""
        p = self.rotation @ np.array(at) + self.shift
        return (float(p[0]), float(p[1]), float(p[2]))

    def back(self, at: Triple) -> Triple:
        """A place on the bed in the part's own coordinates."""
        p = self.rotation.T @ (np.array(at) - self.shift)
        return (float(p[0]), float(p[1]), float(p[2]))


def lay(bodies: Sequence[Printed], down: Triple | None) -> Laid:
    """All bodies turned so that an outward normal looks down, set onto z = 0 with their middle
    over the origin; without a normal they are only set down."""
    r = _to_down(np.array(down)) if down is not None else np.eye(3)
    turned = [b.points @ r.T for b in bodies]
    every = np.concatenate(turned)
    low, high = every.min(axis=0), every.max(axis=0)
    shift = np.array([-(low[0] + high[0]) / 2, -(low[1] + high[1]) / 2, -low[2]])
    moved = tuple(replace(b, points=p + shift) for b, p in zip(bodies, turned, strict=True))
    return Laid(moved, r, shift)


def _to_down(n: Vector) -> Vector:
    """The rotation by the shortest way that takes a unit vector to -Z (Rodrigues)."""
    n = n / np.linalg.norm(n)
    down = np.array([0.0, 0.0, -1.0])
    c = float(n @ down)
    if c > 1.0 - 1e-15:
        return np.eye(3)
    if c < -1.0 + 1e-12:
        return np.diag([1.0, -1.0, -1.0])
    k = np.cross(n, down)
    x = np.array([[0, -k[2], k[1]], [k[2], 0, -k[0]], [-k[1], k[0], 0]])
    return np.asarray(np.eye(3) + x + x @ x / (1.0 + c))

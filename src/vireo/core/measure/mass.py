"""Mass properties of bodies together: mass, centre, inertia about any frame, principal axes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from vireo.core.geometry import Frame, Triple, Vector
from vireo.core.quantity import LENGTH, Dimension
from vireo.core.quantity.units import MASS


@dataclass(frozen=True)
class Whole:
    """Volume mm3, area mm2, mass g, centre mm; inertia in g mm2 about the centre in the axes of
    the space, its principal moments (ascending) and axes (rows)."""

    volume: float
    area: float
    mass: float
    centre: Triple
    inertia: Vector
    moments: Vector
    axes: Vector


def weighed(bodies: Sequence[dict[str, object]]) -> Whole | None:
    """Bodies together by the theorem of Steiner. Each gives volume, area, mass, centre and its
    volume inertia about its own centre (mm5); None when there is none or all are weightless."""
    masses = np.array([float(b["mass"]) for b in bodies])  # type: ignore[arg-type]
    volumes = np.array([float(b["volume"]) for b in bodies])  # type: ignore[arg-type]
    total = float(masses.sum())
    if total <= 0.0:
        return None
    centres = np.array([b["centre"] for b in bodies], dtype=float)
    centre = masses @ centres / total
    inertia = np.zeros((3, 3))
    for b, m, v, c in zip(bodies, masses, volumes, centres, strict=True):
        # What weighs something without a volume counts as if in one point.
        own = np.array(b["inertia"], dtype=float) * (m / v) if v > 0 else 0.0
        inertia += own + m * _steiner(c - centre)
    moments, columns = np.linalg.eigh(inertia)
    axes = columns.T
    if np.linalg.det(axes) < 0:
        axes[2] = -axes[2]
    area = float(np.array([float(b["area"]) for b in bodies]).sum())  # type: ignore[arg-type]
    at = (float(centre[0]), float(centre[1]), float(centre[2]))
    return Whole(float(volumes.sum()), area, total, at, inertia, moments, axes)


def _steiner(d: Vector) -> Vector:
    """What a unit mass at `d` adds about the origin."""
    return np.asarray(float(d @ d) * np.eye(3) - np.outer(d, d))


def inertia_about(whole: Whole, frame: Frame) -> Vector:
    """Inertia in g mm2 about the origin of a frame, in its axes: diagonal moments, off the
    diagonal the negative products."""
    d = np.array(whole.centre) - np.array(frame.origin)
    space = whole.inertia + whole.mass * _steiner(d)
    return np.asarray(frame.matrix.T @ space @ frame.matrix)


def dimension_weighed(what: str) -> Dimension:
    """What a weighed number is: ``mass``, a coordinate of the centre (``x``), a moment (``xx``)."""
    return MASS if what == "mass" else LENGTH if len(what) == 1 else Dimension(length=2, mass=1)

"""Tolerance classes of screw threads, in mm: ISO 965-1 for metric ones, ASME B1.1 for unified.

A class gives the fundamental deviation (how far the basic profile is moved clear) and the
tolerances of the pitch diameter and of the crest (major diameter outside, minor inside).
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

from vireo.core.screws import Screw

_INCH = 25.4


@dataclass(frozen=True)
class Zone:
    """Of a class at a size, mm on diameters: `clear` moves the profile off the basic one,
    `pitch` and `crest` are the tolerances beyond that."""

    clear: float
    pitch: float
    crest: float

    @property
    def middle(self) -> float:
        """How far the profile stands off the basic one in the middle of its pitch tolerance."""
        return self.clear + self.pitch / 2


INNER = ("6H", "6G", "1B", "2B", "3B")
OUTER = ("6g", "1A", "2A", "3A")

#: Ends of the ranges of diameters that share a tolerance (ISO 965-1, table 3).
_RANGES = (0.99, 1.4, 2.8, 5.6, 11.2, 22.4, 45.0, 90.0, 180.0, 355.0)


def _mean(diameter: float) -> float:
    """Geometric mean of the range a diameter lies in."""
    for low, high in itertools.pairwise(_RANGES):
        if diameter <= high:
            return math.sqrt(low * high)
    return diameter


def zone(name: str, screw: Screw) -> Zone:
    """The zone of a class. Raises KeyError for one that is not of the screw's family."""
    return _CLASSES[name](screw)


def classes_of(screw: Screw, inside: bool) -> list[str]:
    """The classes there are for a screw's bore, or for the screw."""
    metric = screw.name.startswith("M")
    return [c for c in (INNER if inside else OUTER) if c[-1] not in "AB" or not metric
            if (c[-1] in "AB") is not metric]  # fmt: skip


def cut_into(screw: Screw, bore: float) -> bool:
    """Whether a screw's thread can be cut into a bore (mm): from a little under the minor diameter
    D1 = d - 1.0825 P (ISO 68-1) to its largest by the usual class, or to the drill where that is
    wider."""
    least = screw.diameter - 1.0825 * screw.pitch
    usual = zone("6H" if screw.name.startswith("M") else "2B", screw)
    most = max(least + usual.clear + usual.crest, screw.drill) + 0.01
    return least - 0.1 * screw.pitch <= bore <= most


# ISO 965-1, clause 13: P in mm, results in micrometres. Grade 6.


def _pitch_iso(screw: Screw) -> float:
    return float(90.0 * screw.pitch**0.4 * _mean(screw.diameter) ** 0.1)


def _inner_iso(deviation: float, screw: Screw) -> Zone:
    p = screw.pitch
    minor = 433.0 * p - 190.0 * p**1.22 if p <= 0.8 else 230.0 * p**0.7
    return Zone(deviation * 1e-3, 1.32 * _pitch_iso(screw) * 1e-3, minor * 1e-3)


def _outer_iso(deviation: float, screw: Screw) -> Zone:
    p = screw.pitch
    major = 180.0 * p ** (2 / 3) - 3.15 / math.sqrt(p)
    return Zone(deviation * 1e-3, _pitch_iso(screw) * 1e-3, major * 1e-3)


# ASME B1.1, section 5: D, P and the length of engagement (one diameter) in inches.


def _pitch_un(screw: Screw) -> float:
    d, p = screw.diameter / _INCH, screw.pitch / _INCH
    return float(0.0015 * d ** (1 / 3) + 0.0015 * math.sqrt(d) + 0.015 * p ** (2 / 3))


def _outer_un(share: float, allowance: float, major: float, screw: Screw) -> Zone:
    p = screw.pitch / _INCH
    whole = _pitch_un(screw)
    return Zone(allowance * whole * _INCH, share * whole * _INCH, major * p ** (2 / 3) * _INCH)


def _inner_un(share: float, close: bool, screw: Screw) -> Zone:
    d, p = screw.diameter / _INCH, screw.pitch / _INCH
    fine = 0.05 * p ** (2 / 3) + 0.03 * p / d - 0.002
    least = 0.25 * p - 0.4 * p * p
    if close:
        minor = min(max(fine, 0.12 * p if p < 1 / 13 else 0.23 * p - 1.5 * p * p), 0.394 * p)
    else:
        minor = min(max(fine, least), 0.394 * p) if d < 0.25 else least
    return Zone(0.0, share * _pitch_un(screw) * _INCH, minor * _INCH)


_CLASSES = {
    "6H": lambda s: _inner_iso(0.0, s),
    "6G": lambda s: _inner_iso(15.0 + 11.0 * s.pitch, s),
    "6g": lambda s: _outer_iso(15.0 + 11.0 * s.pitch, s),
    "1A": lambda s: _outer_un(1.5, 0.3, 0.09, s),
    "2A": lambda s: _outer_un(1.0, 0.3, 0.06, s),
    "3A": lambda s: _outer_un(0.75, 0.0, 0.06, s),
    "1B": lambda s: _inner_un(1.95, False, s),
    "2B": lambda s: _inner_un(1.3, False, s),
    "3B": lambda s: _inner_un(0.975, True, s),
}


@dataclass(frozen=True)
class Sizes:
    """Least and largest diameters of a thread of a class (mm); None where it sets none."""

    major: tuple[float | None, float | None]
    pitch: tuple[float, float]
    minor: tuple[float | None, float | None]


def sizes(name: str, screw: Screw) -> Sizes:
    """The diameters a class allows: pitch diameter D - 0.6495 P, minor D - 1.0825 P."""
    z = zone(name, screw)
    d = screw.diameter
    d2 = d - 0.75 * math.sqrt(0.75) * screw.pitch
    d1 = d - 1.25 * math.sqrt(0.75) * screw.pitch
    if name in INNER:
        return Sizes(
            (d + z.clear, None),
            (d2 + z.clear, d2 + z.clear + z.pitch),
            (d1 + z.clear, d1 + z.clear + z.crest),
        )
    return Sizes(
        (d - z.clear - z.crest, d - z.clear),
        (d2 - z.clear - z.pitch, d2 - z.clear),
        (None, d1 - z.clear),
    )

"""Screw sizes: threads, tapping drills, clearance and recess sizes. Lengths in mm.

Pitches: ISO 261 / ISO 262. Clearance holes: ISO 273 (fine, medium, coarse). Tapping drills:
diameter less pitch, rounded as ISO 2306 does. Recesses for socket heads: heads of ISO 4762,
DIN 974-1 series 1, depth with the allowance of its table. Countersinks of 90 degrees: theoretical head
diameters of ISO 10642. Unified threads: ASME B1.1, drills of the usual 75 % table, clearance
ASME B18.2.8 (close, normal, loose).
"""

from __future__ import annotations

from dataclasses import dataclass

_INCH = 25.4


@dataclass(frozen=True)
class Screw:
    """One thread. `clear` is fine, medium, coarse; recess and sink are None where no standard head
    is kept here."""

    name: str
    diameter: float
    pitch: float
    drill: float
    clear: tuple[float, float, float]
    recess: float | None = None
    recess_depth: float | None = None
    sink: float | None = None


#: size: pitch, clearance fine / medium / coarse, recess for the head, countersink head.
_COARSE: dict[float, tuple[float, tuple[float, float, float], float | None, float | None]] = {
    1.6: (0.35, (1.7, 1.8, 2.0), 3.5, None),
    2: (0.4, (2.2, 2.4, 2.6), 4.4, None),
    2.5: (0.45, (2.7, 2.9, 3.1), 5.5, None),
    3: (0.5, (3.2, 3.4, 3.6), 6.5, 6.72),
    4: (0.7, (4.3, 4.5, 4.8), 8.0, 8.96),
    5: (0.8, (5.3, 5.5, 5.8), 10.0, 11.2),
    6: (1.0, (6.4, 6.6, 7.0), 11.0, 13.44),
    8: (1.25, (8.4, 9.0, 10.0), 15.0, 17.92),
    10: (1.5, (10.5, 11.0, 12.0), 18.0, 22.4),
    12: (1.75, (13.0, 13.5, 14.5), 20.0, 26.88),
    14: (2.0, (15.0, 15.5, 16.5), 24.0, 30.8),
    16: (2.0, (17.0, 17.5, 18.5), 26.0, 33.6),
    20: (2.5, (21.0, 22.0, 24.0), 33.0, 40.32),
    24: (3.0, (25.0, 26.0, 28.0), 40.0, None),
    30: (3.5, (31.0, 33.0, 35.0), 50.0, None),
    36: (4.0, (37.0, 39.0, 42.0), 58.0, None),
}
_FINE = {
    3: (0.35,),
    4: (0.5,),
    5: (0.5,),
    6: (0.75,),
    8: (0.75, 1.0),
    10: (0.75, 1.0, 1.25),
    12: (1.0, 1.25, 1.5),
    14: (1.0, 1.5),
    16: (1.0, 1.5),
    20: (1.0, 1.5, 2.0),
    24: (1.0, 1.5, 2.0),
    30: (1.5, 2.0),
    36: (1.5, 3.0),
}
#: Where d less P is rounded to a drill that is made.
_DRILLS = {(1.6, 0.35): 1.25, (8, 1.25): 6.8, (10, 1.25): 8.8, (12, 1.75): 10.2, (12, 1.25): 10.8}
#: size: threads to the inch and drill coarse, fine, clearance close / normal / loose, all in inches.
_UNIFIED: dict[str, tuple[float, int, float, int, float, tuple[float, float, float]]] = {
    "#1": (0.073, 64, 0.0595, 72, 0.0595, (0.081, 0.089, 0.104)),
    "#2": (0.086, 56, 0.07, 64, 0.07, (0.094, 0.102, 0.116)),
    "#3": (0.099, 48, 0.0785, 56, 0.082, (0.106, 0.116, 0.128)),
    "#4": (0.112, 40, 0.089, 48, 0.0935, (0.12, 0.128, 0.144)),
    "#5": (0.125, 40, 0.1015, 44, 0.104, (0.141, 0.156, 0.172)),
    "#6": (0.138, 32, 0.1065, 40, 0.113, (0.154, 0.17, 0.185)),
    "#8": (0.164, 32, 0.136, 36, 0.136, (0.18, 0.194, 0.213)),
    "#10": (0.19, 24, 0.1495, 32, 0.159, (0.206, 0.221, 0.238)),
    # The standard has no clearance for #12: as far off as for #10.
    "#12": (0.216, 24, 0.177, 28, 0.182, (0.232, 0.247, 0.264)),
    "1/4": (0.25, 20, 0.201, 28, 0.213, (17 / 64, 9 / 32, 19 / 64)),
    "5/16": (0.3125, 18, 0.257, 24, 0.272, (21 / 64, 11 / 32, 23 / 64)),
    "3/8": (0.375, 16, 0.3125, 24, 0.332, (25 / 64, 13 / 32, 27 / 64)),
    "7/16": (0.4375, 14, 0.368, 20, 0.3906, (29 / 64, 15 / 32, 31 / 64)),
    "1/2": (0.5, 13, 0.4219, 20, 0.4531, (17 / 32, 9 / 16, 39 / 64)),
    "5/8": (0.625, 11, 0.5313, 18, 0.5781, (21 / 32, 11 / 16, 47 / 64)),
    "3/4": (0.75, 10, 0.6563, 16, 0.6875, (25 / 32, 13 / 16, 29 / 32)),
}


def _allowance(d: float) -> float:
    """How much deeper than the head a recess is (DIN 974-1)."""
    return 0.4 if d <= 6 else 0.6 if d <= 20 else 0.8 if d <= 27 else 1.0


def _metric(d: float, pitch: float, name: str) -> Screw:
    _, clear, recess, sink = _COARSE[d]
    drill = _DRILLS.get((d, pitch), round(d - pitch, 2))
    depth = d + _allowance(d) if recess else None
    return Screw(name, float(d), pitch, drill, clear, recess, depth, sink)


def _all() -> dict[str, Screw]:
    found = {}
    for d, (pitch, *_) in _COARSE.items():
        found[f"M{d:g}"] = _metric(d, pitch, f"M{d:g}")
        for fine in _FINE.get(int(d), ()) if float(d).is_integer() else ():
            name = f"M{d:g}x{fine:g}"
            found[name] = _metric(d, fine, name)
    # The smallest numbered size comes fine only.
    found["#0-80 UNF"] = Screw(
        "#0-80 UNF", 0.06 * _INCH, _INCH / 80, 0.0469 * _INCH,
        (0.067 * _INCH, 0.076 * _INCH, 0.094 * _INCH),
    )  # fmt: skip
    for size, (d, coarse, drill, fine, fine_drill, clear) in _UNIFIED.items():
        through = (clear[0] * _INCH, clear[1] * _INCH, clear[2] * _INCH)
        for count, bit, word in ((coarse, drill, "UNC"), (fine, fine_drill, "UNF")):
            name = f"{size}-{count} {word}"
            found[name] = Screw(name, d * _INCH, _INCH / count, bit * _INCH, through)
    return found


SCREWS: dict[str, Screw] = _all()

"""How long a bend is in the flat.

Angles `turn` are those the sheet is bent by (rad, without sign); `radius` is the inner one, `t` the thickness,
lengths in mm.

Sources: the allowance by K-factor is the length of the neutral line, which lies K t from the inner face. DIN
6935 gives for bends of steel ``l = a + b + v`` with the opening angle beta = 180 deg - turn and the factor
``k = 0.65 + 0.5 log10(r/s)``, 1 from r/s = 5 on; up to an opening of 165 deg that is the neutral line at
K = k/2, above it v = 0. The standard gives no value for r = 0: k is taken as 0 there.
"""

from __future__ import annotations

import math
from typing import Literal, Protocol

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.trouble import BadInput

#: Up to this opening DIN 6935 makes up for the bend (rad of turn: 180 deg - 165 deg).
_SLIGHT = math.radians(15.0)


class Rule(Protocol):
    """How bends come out in the flat."""

    def allowance(self, turn: float, radius: float, t: float) -> float:
        """Length of the bend zone in the flat (mm). Raises BadInput where the rule tells none."""
        ...


class _Rule(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class KFactor(_Rule):
    """The neutral line lies `k` times the thickness from the inner face."""

    kind: Literal["k"] = "k"
    k: float = Field(default=0.44, ge=0.0, le=1.0)

    def allowance(self, turn: float, radius: float, t: float) -> float:
        return turn * (radius + self.k * t)


class Din6935(_Rule):
    kind: Literal["din6935"] = "din6935"

    def allowance(self, turn: float, radius: float, t: float) -> float:
        if turn < _SLIGHT - 1e-12:  # opening over 165 deg: v = 0
            return 2.0 * (radius + t) * math.tan(turn / 2.0)
        return turn * (radius + din_factor(radius, t) * t / 2.0)


class Row(_Rule):
    """A line of a table: what was measured for a thickness, radius and angle (deg): the ``allowance``, the
    ``deduction`` from outside lengths, or K."""

    thickness: float = Field(gt=0.0)
    radius: float = Field(ge=0.0)
    angle: float = Field(gt=0.0, le=360.0)
    value: float
    what: Literal["allowance", "deduction", "k"] = "deduction"

    @property
    def length(self) -> float:
        turn = math.radians(self.angle)
        if self.what == "allowance":
            return self.value
        if self.what == "k":
            return turn * (self.radius + self.value * self.thickness)
        return 2.0 * outside(turn, self.radius, self.thickness) - self.value


class Table(_Rule):
    """Measured values, linear between rows that are alike but for the radius or the angle; never beyond them."""

    kind: Literal["table"] = "table"
    rows: tuple[Row, ...] = Field(min_length=1, max_length=5000)

    def allowance(self, turn: float, radius: float, t: float) -> float:
        rows = [r for r in self.rows if abs(r.thickness - t) < 1e-6]
        if not rows:
            known = ", ".join(f"{v:g}" for v in sorted({r.thickness for r in self.rows}))
            raise BadInput(f"the table has no rows for {t:g} mm; it has {known} mm")
        angle = math.degrees(turn)
        at: list[tuple[float, float]] = []
        for r in sorted({r.radius for r in rows}):
            value = _between([(x.angle, x.length) for x in rows if x.radius == r], angle)
            if value is not None:
                at.append((r, value))
        found = _between(at, radius)
        if found is None:
            near = min(rows, key=lambda x: abs(x.radius - radius) / t + abs(x.angle - angle) / 90.0)
            raise BadInput(
                f"the table tells nothing for {radius:g} mm and {angle:g} deg in {t:g} mm; the nearest row "
                f"is {near.radius:g} mm and {near.angle:g} deg"
            )
        return found


_KINDS: dict[str, Literal["allowance", "deduction", "k"]] = {
    "allowance": "allowance", "ba": "allowance", "deduction": "deduction", "bd": "deduction", "k": "k",
    "k-factor": "k",
}  # fmt: skip
_COLUMNS = ("thickness", "radius", "angle", "value")


def table_read(text: str) -> Table:
    """A table from CSV with a header: thickness, radius, angle, value, and kind where it is not all deductions;
    separated by commas, semicolons or tabs, a decimal comma where these are no commas. Raises BadInput with the
    line."""
    lines = [x for x in text.lstrip("\ufeff").splitlines() if x.strip()]
    if len(lines) < 2:
        raise BadInput(
            "the bend table is empty: it is a CSV with the columns thickness, radius, angle, value and, for other "
            "than deductions, kind"
        )
    sign = max(";\t,", key=lines[0].count)
    header = [c.strip().strip('"').lower().split(" ")[0] for c in lines[0].split(sign)]
    missing = [c for c in _COLUMNS if c not in header]
    if missing:
        raise BadInput(
            f"the bend table has no column {missing[0]}: its first line names thickness, radius, angle, value and, for "
            "other than deductions, kind"
        )
    rows = []
    for number, raw in enumerate(lines[1:], 2):
        cells = [c.strip().strip('"') for c in raw.split(sign)]
        told = dict(zip(header, cells, strict=False))
        kind = _KINDS.get(told.get("kind", "").lower() or "deduction")
        if kind is None:
            raise BadInput(
                f"line {number} of the bend table: the kind “{told['kind']}” is none of allowance, deduction, K"
            )
        try:
            values = {
                c: float(told[c].replace(",", ".") if sign != "," else told[c]) for c in _COLUMNS
            }
        except (KeyError, ValueError):
            raise BadInput(
                f"line {number} of the bend table: “{raw[:60]}” has not a number in each of thickness, radius, angle, "
                "value"
            ) from None
        if (
            not all(math.isfinite(v) for v in values.values())
            or values["thickness"] <= 0.0
            or not (values["radius"] >= 0.0 and 0.0 < values["angle"] <= 360.0)
        ):
            raise BadInput(
                f"line {number} of the bend table: thicknesses are above 0, radii not below it, angles above 0° and at "
                "most 360°"
            )
        row = Row(**values, what=kind)
        if row.length <= 0.0:
            raise BadInput(
                f"line {number} of the bend table: with this {kind} the bend would have no length in the flat"
            )
        rows.append(row)
    if len(rows) > 5000:
        raise BadInput(f"the bend table has {len(rows)} lines, and 5000 at most are read")
    return Table(rows=tuple(rows))


def _between(values: list[tuple[float, float]], at: float) -> float | None:
    """Linear between the values around a place; None beyond them."""
    below = max((v for v in values if v[0] <= at + 1e-9), default=None)
    above = min((v for v in values if v[0] >= at - 1e-9), default=None)
    if below is None or above is None:
        return None
    if above[0] - below[0] < 1e-9:
        return below[1]
    share = (at - below[0]) / (above[0] - below[0])
    return below[1] + share * (above[1] - below[1])


def din_factor(radius: float, t: float) -> float:
    """The factor k of DIN 6935: how far from the inner face the neutral line is, in halves of t."""
    if radius <= 0.0:
        return 0.0
    return 1.0 if radius / t > 5.0 else max(0.0, 0.65 + 0.5 * math.log10(radius / t))


def outside(turn: float, radius: float, t: float) -> float:
    """From the bend's beginning to the corner its outer faces make, or from 90 deg on to its outermost
    tangent (mm)."""
    return (radius + t) * math.tan(min(turn, math.pi / 2.0) / 2.0)


def deduction(rule: Rule, turn: float, radius: float, t: float) -> float:
    """What the flat is shorter than the two outside lengths (mm)."""
    return 2.0 * outside(turn, radius, t) - rule.allowance(turn, radius, t)


def sprung(radius: float, turn: float, other: float, t: float, k: float) -> float:
    """The inner radius (mm) a bend has while it is bent by another angle: its neutral line keeps its length.
    Raises BadInput where it would have to be less than nothing."""
    found = (radius + k * t) * turn / other - k * t
    if found < -1e-12:
        most = math.degrees(turn * (radius + k * t) / (k * t))
        raise BadInput(
            f"a bend of {radius:g} mm cannot be bent to {math.degrees(other):.4g} deg: from {most:.4g} deg on "
            "its inner radius would be less than nothing"
        )
    return max(found, 0.0)

"""What laws of motion and loads ask for."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Slot:
    """Something asked for, as the screen offers it. Of a law `what` is ``speed``, ``value``, ``time``,
    ``points`` or ``formula`` (of t), of a load ``joint``, ``place``, ``way`` or ``number``; what can be
    left out says what it is then by `empty`."""

    name: str
    label: str
    what: str
    default: str = ""
    empty: str = ""

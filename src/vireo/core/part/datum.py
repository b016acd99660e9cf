"""What steps make besides bodies: places to measure, turn, sketch and join by; groups; thread
marks; names and colours.

Plain data, kept with the step; knows no kernel.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.geometry import Frame
from vireo.core.naming import Pick

DatumForm = Literal["plane", "axis", "point", "frame", "port"]


def frame_from_json(raw: dict[str, Any]) -> Frame:
    return Frame(**{k: tuple(v) for k, v in raw.items()})


@dataclass(frozen=True)
class Datum:
    """A reference: an axis runs along its frame's z through the origin, a port faces along z and
    is clocked by x. `length` (mm) is how long it is drawn, `word` the kind of a port, which what
    is joined to it may turn about where it `turns`."""

    form: DatumForm
    frame: Frame
    length: float = 20.0
    word: str = ""
    turns: bool = False

    def to_json(self) -> dict[str, Any]:
        # Kept as before where it does not turn: what hangs on it need not be built anew.
        told = asdict(self)
        return told if self.turns else {k: v for k, v in told.items() if k != "turns"}

    @staticmethod
    def from_json(raw: dict[str, Any]) -> Datum:
        return Datum(
            raw["form"], frame_from_json(raw["frame"]), raw["length"], raw["word"],
            raw.get("turns", False),
        )  # fmt: skip


@dataclass(frozen=True)
class Mark:
    """A thread that is only drawn: a helix of `radius` (mm) about z of its frame, `length` long.

    `faces` are the names of the faces it lies on: it goes when they go.
    """

    text: str
    frame: Frame
    radius: float
    length: float
    pitch: float
    left: bool = False
    faces: tuple[str, ...] = ()

    def to_json(self) -> dict[str, Any]:
        return asdict(self)

    @staticmethod
    def from_json(raw: dict[str, Any]) -> Mark:
        return Mark(**{**raw, "frame": frame_from_json(raw["frame"]), "faces": tuple(raw["faces"])})


@dataclass(frozen=True)
class Dressed:
    """What a body is called and its colour (#rrggbb) by what made it; colours of faces by name;
    whether it is a tool, without mass and not handed over; one that stands `aside` is worked on only
    by steps it is chosen for; its material by id and, where it was weighed, its mass (g). What is said of
    the body by hand goes before."""

    name: str | None = None
    colour: str | None = None
    faces: dict[str, str] = field(default_factory=dict)
    tool: bool = False
    aside: bool = False
    material: str | None = None
    mass: float | None = None


class Rule(BaseModel):
    """What belongs to a set: a rule by its word, with what it needs. Lengths in mm."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    word: str
    kind: Literal["face", "edge", "body"] = "face"
    picks: tuple[Pick, ...] = ()
    steps: tuple[str, ...] = ()
    bodies: tuple[str, ...] = ()
    size: float = 0.0
    #: Names of faces there were when the step was built, for rules about what is new.
    known: tuple[str, ...] = Field(default=())

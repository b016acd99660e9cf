"""What is asked of the solver, and what it answers. Plain data, no solver, no kernel."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

Triple = tuple[float, float, float]


class _Data(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Slide(_Data):
    """A face that may slide in itself, with its true normals: `direction` is the normal of a
    plane or the axis of a cylinder, `origin` a point on that axis or the centre of a sphere."""

    face: int
    kind: Literal["plane", "cylinder", "sphere"]
    origin: Triple
    direction: Triple = (0.0, 0.0, 1.0)


class Held(_Data):
    """Faces and edges (indices in the kernel's order) held in some of X, Y, Z, or faces that
    `slides` hold along their normals only."""

    id: str
    faces: tuple[int, ...] = ()
    edges: tuple[int, ...] = ()
    ways: tuple[bool, bool, bool] = (True, True, True)
    slides: tuple[Slide, ...] = ()


class Applied(_Data):
    """`vector`: N for a force over all its faces together, mm/s2 for gravity; `pressure` MPa."""

    id: str
    kind: Literal["force", "pressure", "gravity"]
    faces: tuple[int, ...] = ()
    vector: Triple = (0.0, 0.0, 0.0)
    pressure: float = 0.0


class Problem(_Data):
    """Lengths mm, moduli MPa, density t/mm3.

    `areas` of faces and `lengths` of edges guard that both are counted alike here and there.
    """

    areas: tuple[float, ...]
    lengths: tuple[float, ...] = ()
    volume: float
    young: float
    poisson: float
    density: float
    strength: float
    mesh_size: float | None = None
    held: tuple[Held, ...]
    loads: tuple[Applied, ...]
    #: Middle lines of sharp inner corners: polylines in mm.
    inner_corners: tuple[tuple[Triple, ...], ...] = ()
    #: Lines where stress may grow without end: borders of faces held still, held edges.
    support_borders: tuple[tuple[Triple, ...], ...] = ()


class SupportAnswer(_Data):
    id: str
    force: Triple


class Compared(_Data):
    """What third-order elements give on the same mesh, as a share of what was shown."""

    deflection: float
    peak: float


class Answer(_Data):
    """Stresses MPa, displacements mm, forces N.

    `peak_jump` is how far elements differ at the peak, None where only one meets there. `growth`
    is how much the peak grew on a finer mesh, asked only where it stands at a corner that makes
    it grow without end; `unfinished` says why a finer run gave nothing. `imbalance` is the larger
    of what is left of forces and of moments, as a share of all that is applied. `compared` is
    asked where the mesh is coarse for the part's thickness.
    """

    nodes: int
    unknowns: int
    mesh_size: float
    volume_error: float
    peak: float
    peak_at: Triple
    peak_jump: float | None
    safety: float
    deflection: float
    deflection_at: Triple
    reactions: tuple[SupportAnswer, ...]
    reaction: Triple
    load: Triple
    imbalance: float
    corner: Literal["inner", "support"] | None = None
    growth: float | None = None
    unfinished: str | None = None
    compared: Compared | None = None
    away_from_corners: float | None = None
    seconds: dict[str, float] = Field(default_factory=dict)

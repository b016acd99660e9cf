"""What is asked of the solver, and what it answers. Plain data, no solver, no kernel."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

Triple = tuple[float, float, float]


class _Data(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Fixed(_Data):
    """Faces held still; indices in the kernel's order."""

    id: str
    faces: tuple[int, ...]


class Applied(_Data):
    """`vector`: N for a force over all its faces together, mm/s2 for gravity; `pressure` MPa."""

    id: str
    kind: Literal["force", "pressure", "gravity"]
    faces: tuple[int, ...] = ()
    vector: Triple = (0.0, 0.0, 0.0)
    pressure: float = 0.0


class Problem(_Data):
    """Lengths mm, moduli MPa, density t/mm3. `areas` guard that faces are counted alike."""

    areas: tuple[float, ...]
    volume: float
    young: float
    poisson: float
    density: float
    strength: float
    mesh_size: float | None = None
    fixed: tuple[Fixed, ...]
    loads: tuple[Applied, ...]
    #: Middle lines of sharp inner corners: polylines in mm.
    inner_corners: tuple[tuple[Triple, ...], ...] = ()
    #: Border lines of the supported faces.
    support_borders: tuple[tuple[Triple, ...], ...] = ()


class SupportAnswer(_Data):
    id: str
    force: Triple


class Answer(_Data):
    """Stresses MPa, displacements mm, forces N. `growth` is how much the peak grew on a finer
    mesh, asked only where it stands at a corner that makes it grow without end."""

    nodes: int
    unknowns: int
    mesh_size: float
    volume_error: float
    peak: float
    peak_at: Triple
    peak_jump: float
    safety: float
    deflection: float
    deflection_at: Triple
    reactions: tuple[SupportAnswer, ...]
    reaction: Triple
    load: Triple
    imbalance: float
    corner: Literal["inner", "support"] | None = None
    growth: float | None = None
    away_from_corners: float | None = None
    seconds: dict[str, float] = Field(default_factory=dict)

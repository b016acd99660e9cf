"""What two placed solids are to each other: clear, touching, or in each other, and how that was found.

Triangles tell far ones apart; the exact common solid the rest. Where faces lie nearly but not wholly
in each other that solid is known to be silently wrong, so places on the true faces bear witness, and
an overlap is believed only where a place inside both is shown.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, fields
from typing import Any, Literal

import numpy as np

from vireo.core.assembly.pose import Floats, Pose
from vireo.core.assembly.seats import DrawnThread
from vireo.core.fit.nearly import Shapes, nearly_together
from vireo.core.geometry import Triple
from vireo.core.kernel.flats import FlatSolid, shared_by_flats
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.mesh import Mesh
from vireo.core.kernel.nearest import nearest
from vireo.core.kernel.overlap import (
    FATTER,
    Overlap,
    common,
    holds,
    places_of,
    probed,
    proved,
    within_reach,
)
from vireo.core.kernel.place import located
from vireo.core.kernel.shape import Body
from vireo.core.triangles.gaps import Soup, gap

#: Overlaps less deep than this (mm) are taken for contact: the kernel's own tolerance is 1e-7.
CONTACT = 1e-6
#: Volumes of two witnesses agree to this share.
_AGREE = 0.05

State = Literal["clear", "touching", "overlap", "untold"]
#: How a verdict was reached: by triangles far enough apart, the least distance of the true faces, the
#: common solid, places on the true faces, the triangles of solids that are flat all over.
How = Literal["triangles", "distance", "solid", "places", "flats"]


@dataclass(frozen=True)
class Verdict:
    """Lengths in mm, volume in mm3, all in the first solid's coordinates. `gap` of what is clear, with
    the nearest places where asked; of an overlap its depth, deepest place, and the way the second
    comes out by. What could not be told (the kernel ended) is `untold`. `inside` names the one that lies
    wholly in the other."""

    state: State
    how: tuple[How, ...]
    gap: float = 0.0
    near: tuple[Triple, Triple] | None = None
    volume: float = 0.0
    depth: float = 0.0
    at: Triple = (0.0, 0.0, 0.0)
    way: Triple = (0.0, 0.0, 0.0)
    faces_a: tuple[str, ...] = ()
    faces_b: tuple[str, ...] = ()
    inside: Literal["", "a", "b"] = ""
    certain: bool = True
    #: The flanks of a drawn thread and nothing else: what a thread that is cut would not overlap by.
    thread: bool = False
    #: The common solid, where the kernel gave one.
    body: Body | None = field(default=None, compare=False)

    def to_json(self) -> dict[str, Any]:
        return {f.name: getattr(self, f.name) for f in fields(self) if f.name != "body"}

    @staticmethod
    def from_json(raw: dict[str, Any]) -> Verdict:
        def tuples(value: Any) -> Any:
            return tuple(tuples(v) for v in value) if isinstance(value, list) else value

        return Verdict(**{k: tuples(v) for k, v in raw.items()})


def flanks_hold(thread: DrawnThread, pose: Pose, points: Floats) -> bool:
    """Whether places (n, 3) all lie where the flanks of a drawn thread are, its solid standing at
    `pose`: those go 0.6134 of the pitch deep (ISO 68-1, the height of an external thread)."""
    at, way = pose.out(np.array(thread.frame.origin)), pose.rotation @ np.array(thread.frame.z)
    to = points - at
    off = np.linalg.norm(to - np.outer(to @ way, way), axis=1)
    deep = 0.6134 * thread.pitch + 0.01
    return bool(((off <= thread.radius + 1e-3) & (off >= thread.radius - deep)).all())


class Shape:
    """A solid with what is asked of it in many pairs."""

    def __init__(
        self,
        body: Body,
        mesh: Mesh,
        shapes: Shapes,
        volume: float,
        threads: Sequence[DrawnThread] = (),
    ) -> None:
        self.body, self.shapes, self.volume, self.threads = body, shapes, volume, threads
        self.deflection = mesh.deflection
        self.skin = Soup(mesh.points, mesh.triangles)
        flat = FlatSolid(mesh) if shapes.kinds.keys() == {"plane"} else None
        self.flats = flat if flat is not None and flat.closed(volume) else None
        self.corner = tuple(map(float, mesh.points[0]))


Shaped = Callable[[str], Shape]


def gap_bound(a: Shape, b: Shape, relative: Pose) -> float:
    """What the true faces of two solids are apart at least (mm), 0 where triangles cannot tell; solids
    inside each other have a gap."""
    other = b.skin if b is not a else b.skin.again()
    a.skin.place(np.eye(3), np.zeros(3))
    other.place(relative.rotation, relative.p)
    return max(gap(a.skin, other) - 2 * (a.deflection + b.deflection), 0.0)


def one_in_the_other(a: Shape, b: Shape, relative: Pose) -> bool:
    """Whether a corner of either lies inside the other."""
    mine, theirs = np.array(a.corner), relative.out(np.array(b.corner))
    return holds(a.body, theirs) or holds(b.body, relative.inverse().out(mine))


def verdict_of(a: Shape, b: Shape, relative: Pose, within: float = 0.0) -> Verdict:
    """What `a` is to `b` standing at `relative` to it; of what is clear by up to `within` (mm) the
    exact gap and the nearest places."""
    bound = gap_bound(a, b, relative)
    if bound > within and not one_in_the_other(a, b, relative):
        return Verdict("clear", ("triangles",), gap=bound)
    if bound <= 0.0 or one_in_the_other(a, b, relative):
        found = overlap_of(a, b, relative)
        if found is not None:
            return found
    apart = nearest(a.body.shape, located(b.body.shape, relative.rotation, relative.p))
    if apart.distance <= CONTACT:
        return Verdict("touching", ("solid", "distance"), near=(apart.a, apart.b))
    return Verdict("clear", ("distance",), gap=apart.distance, near=(apart.a, apart.b))


def overlaps(a: Shape, b: Shape, relative: Pose) -> tuple[float, float] | None:
    """Whether two solids overlap, quicker than how: volume (mm3) and mean thickness or depth (mm), None
    where they share no volume."""
    if gap_bound(a, b, relative) > 0.0 and not one_in_the_other(a, b, relative):
        return None
    r, p = relative.rotation, relative.p
    try:
        found = _deep(common(a.body, b.body, r, p, closely=False))
    except KernelTrouble:
        found = _deep(probed(a.body, b.body, r, p))
    if found is None:
        doubtful = within_reach(a.body, b.body, r, p, nearly_together(a.shapes, b.shapes, relative))
        found = _deep(probed(a.body, b.body, r, p, doubtful)) if doubtful else None
    return (found.volume, found.depth) if found is not None else None


def overlap_of(a: Shape, b: Shape, relative: Pose) -> Verdict | None:
    """The overlap of two solids, or None where they share no volume."""
    r, p = relative.rotation, relative.p
    if a.flats is not None and b.flats is not None:
        return _of_flats(a, b, a.flats, b.flats, relative)
    doubtful = within_reach(a.body, b.body, r, p, nearly_together(a.shapes, b.shapes, relative))
    told = _deep(probed(a.body, b.body, r, p, doubtful)) if doubtful else None
    try:
        exact = _deep(common(a.body, b.body, r, p, closely=told is None))
    except KernelTrouble:
        exact, told = None, _deep(probed(a.body, b.body, r, p))
    if exact is None:
        return _overlap(a, b, relative, told, ("places",)) if told is not None else None
    if told is not None:
        return _settled(a, b, relative, exact, told)
    if proved(a.body, b.body, r, p, exact):
        return _overlap(a, b, relative, exact, ("solid",))
    told = _deep(probed(a.body, b.body, r, p))
    return _overlap(a, b, relative, told, ("places",)) if told is not None else None


def _of_flats(a: Shape, b: Shape, one: FlatSolid, two: FlatSolid, relative: Pose) -> Verdict | None:
    """The overlap of two solids of flat faces, by their triangles and by the kernel."""
    r, p = relative.rotation, relative.p
    told = _deep(shared_by_flats(a.body, b.body, one, two, r, p))
    if told is None or not proved(a.body, b.body, r, p, told):
        return None
    try:
        exact = common(a.body, b.body, r, p, closely=False)
    except KernelTrouble:
        exact = None
    if exact is None or not _agree(exact, told):
        return _overlap(a, b, relative, told, ("flats",))
    return _overlap(a, b, relative, exact, ("solid", "flats"), told)


def _deep(found: Overlap | None) -> Overlap | None:
    """What is more than contact."""
    return found if found is not None and found.depth > CONTACT else None


def _settled(a: Shape, b: Shape, relative: Pose, exact: Overlap, told: Overlap) -> Verdict:
    """What two witnesses of an overlap say together."""
    if not _agree(exact, told):
        # The places were asked about the doubtful faces only: now about all that bound it.
        mine = [i for i, name in enumerate(a.body.names) if name in {*exact.faces_a, *told.faces_a}]
        theirs = [
            j for j, name in enumerate(b.body.names) if name in {*exact.faces_b, *told.faces_b}
        ]
        pairs = [(i, j) for i in mine for j in theirs]
        told = probed(a.body, b.body, relative.rotation, relative.p, pairs) or told
    if _agree(exact, told):
        if told.depth * FATTER < exact.depth:
            # Told by its mean thickness so far, which is never more than its depth.
            exact = common(a.body, b.body, relative.rotation, relative.p) or exact
            return _overlap(a, b, relative, exact, ("solid", "places"))
        return _overlap(a, b, relative, exact, ("solid", "places"), told)
    return _overlap(a, b, relative, told, ("places",))


def _agree(exact: Overlap, told: Overlap) -> bool:
    return abs(told.volume - exact.volume) <= (_AGREE + told.loose) * max(told.volume, exact.volume)


def _overlap(
    a: Shape, b: Shape, relative: Pose, found: Overlap, how: tuple[How, ...],
    deep: Overlap | None = None,
) -> Verdict:  # fmt: skip
    deep = deep or found
    small = a if a.volume <= b.volume else b
    drawn = [*((t, Pose.still()) for t in a.threads), *((t, relative) for t in b.threads)]
    places = places_of(found.body) if drawn and found.body is not None else None
    whole = found.certain and found.volume >= (1 - 1e-6) * small.volume
    return Verdict(
        "overlap", how, volume=found.volume, depth=deep.depth, at=deep.at, way=deep.way,
        faces_a=tuple(sorted({*found.faces_a, *deep.faces_a})),
        faces_b=tuple(sorted({*found.faces_b, *deep.faces_b})),
        inside=("a" if small is a else "b") if whole else "", certain=found.certain,
        thread=places is not None and any(flanks_hold(t, at, places) for t, at in drawn), body=found.body,
    )  # fmt: skip

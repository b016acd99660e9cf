"""What a single face answers by itself: its box, its integrals, where a line goes through it.

Most of a body stays as it is from step to step, so each face is asked once and remembers.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepGProp import BRepGProp, BRepGProp_Domain, BRepGProp_Face, BRepGProp_Vinert
from OCP.GeomAbs import GeomAbs_SurfaceType as SurfaceType
from OCP.gp import gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.IntCurvesFace import IntCurvesFace_Intersector
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from vireo.core.geometry import Triple
from vireo.core.kernel.shape import Key, faces_of, solids_of
from vireo.core.lately import Lately

SURFACES = {
    SurfaceType.GeomAbs_Plane: "plane",
    SurfaceType.GeomAbs_Cylinder: "cylinder",
    SurfaceType.GeomAbs_Cone: "cone",
    SurfaceType.GeomAbs_Sphere: "sphere",
    SurfaceType.GeomAbs_Torus: "torus",
}

#: The common apex of cones over faces: odd, so that none comes out flat in a part that is
#: symmetric about its origin, where the kernel would take its moments for nothing.
_APEX: Triple = (-1.3719, 2.2361, 0.7071)

#: Relative error asked of integrals over bodies with free surfaces: the kernel's fixed number of
#: points is wrong by a percent there.
CLOSE = 1e-7


@dataclass(frozen=True)
class Moments:
    """Volume (mm3), and first (mm4) and second moments (mm5) about a place; of a whole, its centre
    (mm) and the inertia about that."""

    volume: float
    first: NDArray[np.float64]
    second: NDArray[np.float64]


class Cone:
    """The space between a face and an apex, negative where the face looks towards it."""

    def __init__(self, apex: Triple, found: GProp_GProps) -> None:
        self._apex, self._found = apex, found
        self.volume = float(found.Mass())

    @cached_property
    def moments(self) -> Moments:
        """About the apex."""
        c, m = self._found.CentreOfMass(), self._found.MatrixOfInertia()
        arm = np.array([c.X(), c.Y(), c.Z()]) - self._apex
        own = np.array([[m.Value(i, j) for j in (1, 2, 3)] for i in (1, 2, 3)])
        return Moments(self.volume, self.volume * arm, own + self.volume * _steiner(arm))


def _steiner(arm: NDArray[np.float64]) -> NDArray[np.float64]:
    """Inertia of a unit at the end of an arm."""
    return float(arm @ arm) * np.eye(3) - np.outer(arm, arm)


def corners(box: Bnd_Box) -> NDArray[np.float64]:
    """Least and largest corner of a box in mm, (6,)."""
    low, high = box.CornerMin(), box.CornerMax()
    return np.array([low.X(), low.Y(), low.Z(), high.X(), high.Y(), high.Z()])


class Patch:
    """A face, the way round it has in its body, with what it was asked already."""

    def __init__(self, face: TopoDS_Face) -> None:
        self.face = face
        self._areas: dict[bool, float] = {}

    @cached_property
    def box(self) -> NDArray[np.float64]:
        """Least and largest corner in mm, (6,); loose."""
        box = Bnd_Box()
        BRepBndLib.Add_s(self.face, box, False)
        return corners(box)

    @cached_property
    def close_box(self) -> NDArray[np.float64]:
        """Least and largest corner in mm, (6,); as close as the kernel finds it."""
        box = Bnd_Box()
        BRepBndLib.AddOptimal_s(self.face, box, False, False)
        return corners(box)

    @cached_property
    def cutter(self) -> IntCurvesFace_Intersector:
        """Cuts lines with the face."""
        return IntCurvesFace_Intersector(self.face, 1e-7)

    @cached_property
    def freeform(self) -> bool:
        return BRepAdaptor_Surface(self.face, False).GetType() not in SURFACES

    @cached_property
    def cone(self) -> Cone:
        """From the common apex: what the face adds to the integrals of its solid."""
        return self.cone_from(_APEX)

    def cone_from(self, apex: Triple, within: float | None = None) -> Cone:
        """The cone over the face, to a relative error of its volume when given."""
        # By the kernel's inner call: the outer one tells nothing of a lone face, and has its
        # apex where the shape is located.
        of = BRepGProp_Face()
        of.Load(self.face)
        at = gp_Pnt(*apex)
        if within is not None:
            # Without its border the kernel finds nothing to a given error.
            found = BRepGProp_Vinert(of, BRepGProp_Domain(self.face), at, within)
        elif of.NaturalRestriction():
            found = BRepGProp_Vinert(of, at)
        else:
            found = BRepGProp_Vinert(of, BRepGProp_Domain(self.face), at)
        return Cone(apex, found)

    def area(self, close: bool) -> float:
        """Its area in mm2."""
        if close not in self._areas:
            found = GProp_GProps()
            if close:
                BRepGProp.SurfaceProperties_s(self.face, found, CLOSE)
            else:
                BRepGProp.SurfaceProperties_s(self.face, found)
            self._areas[close] = float(found.Mass())
        return self._areas[close]


_PATCHES = Lately[tuple[Key, object], Patch](2048)


def _patch(face: TopoDS_Face) -> Patch:
    return _PATCHES.get((Key(face), face.Orientation()), lambda: Patch(face))


#: What one step made is what the next works on, and its gate, its card and its witnesses ask alike.
_WHOLE = Lately[tuple[Key, object], "Skin"](32)


class Skin:
    """All faces of a shape; of several solids, one solid's after the other's.

    A face that two solids share counts for each, the way round it has there.
    """

    def __init__(self, shape: TopoDS_Shape) -> None:
        self.patches = [
            _patch(face) for part in solids_of(shape) or [shape] for face in faces_of(part)
        ]

    @cached_property
    def faces(self) -> list[TopoDS_Face]:
        return [p.face for p in self.patches]

    @cached_property
    def boxes(self) -> NDArray[np.float64]:
        """(n, 6), mm."""
        return np.array([p.box for p in self.patches]).reshape(-1, 6)

    @cached_property
    def close_box(self) -> NDArray[np.float64]:
        """(6,), mm."""
        boxes = np.array([p.close_box for p in self.patches])
        return np.concatenate([boxes[:, :3].min(axis=0), boxes[:, 3:].max(axis=0)])

    @cached_property
    def freeform(self) -> bool:
        return any(p.freeform for p in self.patches)

    @cached_property
    def _cones(self) -> tuple[Triple, list[Cone]]:
        """Their apex, and the cones over all faces."""
        if not self.freeform:
            return _APEX, [p.cone for p in self.patches]
        # Where numbers are sought step by step, moments come out of cones as close as they are
        # short: from the middle of the body.
        x, y, z = 0.5 * (self.boxes[:, :3].min(axis=0) + self.boxes[:, 3:].max(axis=0))
        apex = (float(x), float(y), float(z))
        return apex, [p.cone_from(apex, CLOSE) for p in self.patches]

    @cached_property
    def volume(self) -> float:
        """Signed, mm3."""
        return sum(c.volume for c in self._cones[1])

    @cached_property
    def integrals(self) -> Moments:
        """Of what the skin holds: volume, centre (mm) and inertia about the centre (mm5)."""
        apex, cones = self._cones
        if self.volume == 0.0:
            return Moments(0.0, np.zeros(3), np.zeros((3, 3)))
        arm = np.sum([c.moments.first for c in cones], axis=0) / self.volume
        second = np.sum([c.moments.second for c in cones], axis=0)
        return Moments(self.volume, arm + apex, second - self.volume * _steiner(arm))

    @cached_property
    def area(self) -> float:
        """mm2."""
        return sum(p.area(self.freeform) for p in self.patches)


def skin_of(shape: TopoDS_Shape) -> Skin:
    """The faces of a shape, those met lately with what they know already."""
    return _WHOLE.get((Key(shape), shape.Orientation()), lambda: Skin(shape))

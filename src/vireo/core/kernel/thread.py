"""Screw threads as solids: the basic 60 degree profile of ISO 68-1, wound on a helix.

A thread is cut by what it takes away, made so that its crest stays clear of the cylinder it is
cut into: the only curves the kernel has to find are those at the ends. Sweeping a groove and
cutting it away is not usable (the kernel leaves it uncut without an error).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

from OCP.BOPAlgo import BOPAlgo_MakerVolume
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_Sewing,
    BRepBuilderAPI_Transform,
)
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepFill import BRepFill
from OCP.BRepLib import BRepLib
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
from OCP.Geom import Geom_CylindricalSurface
from OCP.Geom2d import Geom2d_Line
from OCP.GeomAbs import GeomAbs_Shape
from OCP.gp import gp_Ax2, gp_Ax3, gp_Dir, gp_Dir2d, gp_Pln, gp_Pnt, gp_Pnt2d, gp_Trsf
from OCP.TopAbs import TopAbs_IN
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face

from vireo.core.geometry import Frame
from vireo.core.kernel.boolean import carry, combine
from vireo.core.kernel.gate import KernelTrouble, finite
from vireo.core.kernel.measure import roughly
from vireo.core.kernel.place import point, to_place
from vireo.core.kernel.shape import Body, Key, compound_of, faces_of, solids_of
from vireo.core.lately import Lately
from vireo.core.naming.grammar import face_name

#: Height of the sharp triangle over the pitch.
SHARP = math.sqrt(3.0) / 2.0
_UP = gp_Dir(0, 0, 1)


@dataclass(frozen=True)
class Form:
    """A thread in mm: radii of its crest-side and root-side cylinders, pitch, hand.

    `wide` is the outer radius, `narrow` the inner one, `inside` whether it is cut into a bore.
    """

    wide: float
    narrow: float
    pitch: float
    inside: bool = False
    left: bool = False
    #: Radius of the shaft it is cut into, for an outer thread.
    shaft: float = 0.0

    def pieces(self) -> list[tuple[float, float, str]]:
        """(radius, height) along one pitch with the role of the piece that ends there.

        On a rod the flat at the outside is P/8 wide (ISO 68-1), the flanks lean 30 degrees.
        """
        lean = (self.wide - self.narrow) * math.tan(math.radians(30.0))
        top = self.pitch / 8.0
        low = self.pitch - top - 2.0 * lean
        if low <= 0.0:
            raise KernelTrouble(
                f"a thread {self.wide - self.narrow:.4g} mm deep has no room in its pitch of "
                f"{self.pitch:g} mm"
            )
        outer, inner = ("root", "crest") if self.inside else ("crest", "root")
        return [
            (self.narrow, 0.0, ""), (self.narrow, low, inner), (self.wide, low + lean, "rise"),
            (self.wide, low + lean + top, outer), (self.narrow, self.pitch, "fall"),
        ]  # fmt: skip

    def volume(self, length: float) -> float:
        """Volume of a rod with this thread between two planes across it, exact."""
        mean = sum(
            (b[1] - a[1]) * (a[0] ** 2 + a[0] * b[0] + b[0] ** 2) / 3.0
            for a, b in pairwise(self.pieces())
        )
        return math.pi * mean / self.pitch * length


def outer_form(
    diameter: float, pitch: float, allowance: float, left: bool, shaft: float | None = None
) -> Form:
    """A screw's thread: both cylinders smaller by the allowance (mm on the diameter); the shaft
    is as thick as the screw unless its diameter is given."""
    wide = 0.5 * (diameter - allowance)
    around = 0.5 * (diameter if shaft is None else shaft)
    return Form(wide, wide - 0.625 * SHARP * pitch, pitch, False, left, around)


def inner_form(diameter: float, bore: float, pitch: float, allowance: float, left: bool) -> Form:
    """A nut's thread in a bore: its root wider by the allowance (mm on the diameter)."""
    wide = 0.5 * (diameter + allowance)
    return Form(wide, max(0.5 * bore, wide - 0.625 * SHARP * pitch), pitch, True, left)


def _helix(radius: float, z: float, pitch: float, turns: int) -> TopoDS_Edge:
    surface = Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, z), _UP), radius)
    line = Geom2d_Line(gp_Pnt2d(0, 0), gp_Dir2d(2 * math.pi, pitch))
    edge = BRepBuilderAPI_MakeEdge(line, surface, 0, turns * math.hypot(2 * math.pi, pitch)).Edge()
    # With the usual settings the curve of many turns is too coarse for the faces to be found.
    BRepLib.BuildCurve3d_s(edge, 1e-6, GeomAbs_Shape.GeomAbs_C2, 14, 40 * turns)
    return edge


def _across(z: float, radius: float) -> TopoDS_Face:
    plane = gp_Pln(gp_Pnt(0, 0, z), _UP)
    return BRepBuilderAPI_MakeFace(plane, -radius, radius, -radius, radius).Face()


_CUTTERS = Lately[tuple[Form, float], Body](24)


def cutter(form: Form, length: float) -> Body:
    """What is taken away to leave the thread, from z = 0 up: for a screw the ring outside its
    rod, for a nut the rod itself. Kept by size, for most threads of a part are alike.

    Its volume is held against the closed form. Raises KernelTrouble.
    """
    finite(form.wide, form.narrow, form.pitch, length)
    if not form.inside and form.shaft <= form.wide:
        raise KernelTrouble("the thread would be thicker than the shaft it is cut into")
    if form.narrow <= 0.0:
        raise KernelTrouble("the thread is deeper than its cylinder")
    if length / form.pitch > 200:
        raise KernelTrouble("a thread of more than 200 turns is only marked, not modelled")
    return _CUTTERS.get((form, length), lambda: _made(form, length))


def _made(form: Form, length: float) -> Body:
    made = next((b for phase in _PHASES if (b := _cutter(form, length, phase))), None)
    if made is None:
        raise KernelTrouble("the kernel could not close the thread's surface")
    return _mirrored(made) if form.left else made


#: Where in a turn the seams between faces lie: not in the end planes, where the kernel loses
#: its way now and then; the others are tried when the first does.
_PHASES = (0.37, 0.61, 0.83, 0.19)


def _cutter(form: Form, length: float, phase: float) -> Body | None:
    """The right-hand cutter, or None when its volume is not that of the closed form."""
    turns = math.ceil(length / form.pitch) + 3
    pieces = form.pieces()
    strips = []
    # The turns the end planes cut are faces of their own: the kernel searches them alone.
    for first, count in _runs(turns):
        z0 = (first - 1 - phase) * form.pitch
        helices = [_helix(r, z0 + z, form.pitch, count) for r, z, _ in pieces]
        strips += [
            (BRepFill.Face_s(a, b), piece[2])
            for (a, b), piece in zip(pairwise(helices), pieces[1:], strict=True)
        ]
    sewing = BRepBuilderAPI_Sewing(1e-6)
    far = 3.0 * form.wide + form.pitch
    for face, _ in strips:
        sewing.Add(face)
    sewing.Perform()
    skin = sewing.SewedShape()
    named = [(sewing.Modified(face), role) for face, role in strips]
    # As one argument: the kernel does not search a shell against itself.
    arguments = [skin, _across(0.0, far), _across(length, far)]
    named += list(zip(arguments[1:], ("start", "end"), strict=True))
    # The ring ends on the shaft's own surface: wider, it would mark shoulders it stops at.
    around = form.shaft
    if not form.inside:
        place = gp_Ax2(gp_Pnt(0, 0, -form.pitch), _UP)
        tube = BRepPrimAPI_MakeCylinder(place, around, length + 2 * form.pitch)
        tube.Build()
        arguments.append(tube.Cylinder().LateralFace())
        named.append((arguments[-1], "outside"))
    maker = BOPAlgo_MakerVolume()
    for shape in arguments:
        maker.AddArgument(shape)
    maker.SetIntersect(True)
    maker.SetRunParallel(False)
    maker.SetToFillHistory(True)
    maker.Perform()
    rod = form.volume(length)
    wanted = rod if form.inside else math.pi * around**2 * length - rod
    found = [
        s
        for s in solids_of(maker.Shape())
        if abs(roughly(s, 1e-4) - wanted) < 1e-3 * wanted and BRepCheck_Analyzer(s).IsValid()
    ]
    if maker.HasErrors() or not found:
        return None
    sources = [
        Body(compound_of([face]), (role,)) for shape, role in named for face in faces_of(shape)
    ]
    return Body(found[0], carry(sources, maker, found[0], "thread"))


#: Turns to a face: more are slow to search, fewer make more faces than anyone wants.
_RUN = 4


def _runs(turns: int) -> list[tuple[int, int]]:
    """Turns parted into (first, number): three alone at each end, the others in runs."""
    if turns <= 7:
        return [(0, turns)]
    between = [(k, min(_RUN, turns - 3 - k)) for k in range(3, turns - 3, _RUN)]
    return [*((k, 1) for k in range(3)), *between, *((k, 1) for k in range(turns - 3, turns))]


def _mirrored(body: Body) -> Body:
    move = gp_Trsf()
    move.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)))
    return _moved(body, move)


def _moved(body: Body, move: gp_Trsf, mark: str = "") -> Body:
    maker = BRepBuilderAPI_Transform(body.shape, move, True, False)
    shape = maker.Shape()
    names = {
        Key(maker.ModifiedShape(f)): face_name(mark, n) if mark else n
        for f, n in body.named_faces()
    }
    return Body(shape, tuple(names[Key(f)] for f in faces_of(shape)))


def tool(form: Form, frame: Frame, low: float, high: float, name: str) -> Body:
    """The cutter between two heights of a frame whose z is the axis; faces ``<name>/<role>``."""
    start = Frame(frame.out((0.0, 0.0, low)), frame.x, frame.z)
    return _moved(cutter(form, round(high - low, 9)), to_place(start), name)


def room_beyond(body: Body, form: Form, frame: Frame, at: float, way: float) -> float:
    """How far a thread may run out past an end at height `at` without cutting anything else:
    a turn and a quarter where there is air all round, less near other material, zero at a
    shoulder or the bottom of a bore."""
    within = BRepClass3d_SolidClassifier(body.shape)
    # Clear of the cylinder itself: just outside a shaft, just inside the metal round a bore.
    radii = [form.wide + 0.2 * form.pitch] if not form.inside else [form.wide, 1.02 * form.narrow]
    for share in (1.25, 0.75, 0.4, 0.2, 0.08):
        steps = [share * form.pitch * k / 6 for k in range(1, 7)]
        probes = [
            frame.out((r * math.cos(a), r * math.sin(a), at + way * s))
            for s in steps for r in radii for a in (0.3 + k * math.pi / 6 for k in range(12))
        ]  # fmt: skip
        if not any(_is_in(within, p) for p in probes):
            return share * form.pitch
    return 0.0


def _is_in(within: BRepClass3d_SolidClassifier, p: tuple[float, float, float]) -> bool:
    within.Perform(point(p), 1e-7)
    return bool(within.State() == TopAbs_IN)


def threaded(body: Body, cut: Body) -> Body:
    """The body with a thread cut into it."""
    return combine("cut", body, [cut], "the thread")

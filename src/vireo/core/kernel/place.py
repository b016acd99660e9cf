"""Frames and vectors turned into the kernel's own."""

from __future__ import annotations

from OCP.gp import gp_Ax2, gp_Ax3, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape

from vireo.core.geometry import Frame, Triple, Vector


def point(p: Triple) -> gp_Pnt:
    return gp_Pnt(float(p[0]), float(p[1]), float(p[2]))


def direction(d: Triple) -> gp_Dir:
    return gp_Dir(float(d[0]), float(d[1]), float(d[2]))


def vector(v: Triple, length: float = 1.0) -> gp_Vec:
    return gp_Vec(v[0] * length, v[1] * length, v[2] * length)


def axes(frame: Frame) -> gp_Ax2:
    return gp_Ax2(point(frame.origin), direction(frame.z), direction(frame.x))


def to_place(frame: Frame) -> gp_Trsf:
    """What carries local geometry of a frame to where the frame is."""
    move = gp_Trsf()
    move.SetTransformation(gp_Ax3(axes(frame)), gp_Ax3())
    return move


def location(rotation: Vector, position: Vector) -> TopLoc_Location:
    """A 3x3 rotation, then a shift."""
    move = gp_Trsf()
    r, p = rotation, position
    move.SetValues(
        *(float(v) for v in (*r[0], p[0])),
        *(float(v) for v in (*r[1], p[1])),
        *(float(v) for v in (*r[2], p[2])),
    )
    return TopLoc_Location(move)


def located(shape: TopoDS_Shape, rotation: Vector, position: Vector) -> TopoDS_Shape:
    """The same shape turned by a 3x3 rotation, then moved; geometry is shared, not copied.

    A shape may carry a location of its own already: the new one comes on top of it.
    """
    return shape.Moved(location(rotation, position))

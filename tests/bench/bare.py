"""Gallery parts as bare kernel scripts: the same geometry by direct calls, each result checked and
weighed as the product does, without documents, sketches, names or kept results."""

from __future__ import annotations

import math

from OCP.BOPAlgo import BOPAlgo_BOP, BOPAlgo_Operation
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepGProp import BRepGProp
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Shape

from vireo.core.kernel.measure import describe_edge, describe_face
from vireo.core.kernel.shape import edges_of, faces_of, unwrap

ADD, CUT = BOPAlgo_Operation.BOPAlgo_FUSE, BOPAlgo_Operation.BOPAlgo_CUT
UP, FRONT = gp_Dir(0, 0, 1), gp_Dir(0, -1, 0)


def accepted(shape: TopoDS_Shape) -> TopoDS_Shape:
    BRepCheck_Analyzer(shape).IsValid()
    g = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, g)
    BRepGProp.SurfaceProperties_s(shape, g)
    return shape


def combined(kind: BOPAlgo_Operation, a: TopoDS_Shape, *tools: TopoDS_Shape) -> TopoDS_Shape:
    o = BOPAlgo_BOP()
    o.SetOperation(kind)
    o.AddArgument(a)
    for b in tools:
        o.AddTool(b)
    o.SetNonDestructive(True)
    o.SetToFillHistory(True)
    o.Perform()
    made = unwrap(o.Shape())
    if kind == ADD:
        unify = ShapeUpgrade_UnifySameDomain(made, True, True, False)
        unify.Build()
        made = unify.Shape()
    return accepted(made)


def rod(d: float, h: float, x=0.0, y=0.0, z=0.0, way=UP) -> TopoDS_Shape:
    return accepted(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(x, y, z), way), d / 2, h).Shape())


def block(w: float, d: float, h: float, x=0.0, y=0.0, z=0.0) -> TopoDS_Shape:
    return accepted(BRepPrimAPI_MakeBox(gp_Pnt(x, y, z), w, d, h).Shape())


def bored_flange() -> TopoDS_Shape:
    whole = combined(ADD, rod(120, 12), rod(50, 32))
    whole = combined(CUT, whole, rod(30, 60, z=-1))
    whole = combined(CUT, whole, rod(9, 60, x=50, z=-1))
    a = [k * math.pi / 3 for k in range(1, 6)]
    return combined(CUT, whole, *(rod(9, 60, 50 * math.cos(t), 50 * math.sin(t), -1) for t in a))


def gear_like_wheel() -> TopoDS_Shape:
    whole = combined(CUT, rod(80, 10), rod(16, 10))
    whole = combined(CUT, whole, block(10, 4, 10, 35, -2))
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Ax1, gp_Trsf

    tools = []
    for k in range(1, 10):
        move = gp_Trsf()
        move.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), UP), k * math.pi / 5)
        slot = block(10, 4, 10, 35, -2)
        tools.append(accepted(BRepBuilderAPI_Transform(slot, move, True, False).Shape()))
    return combined(CUT, whole, *tools)


def split_clamp() -> TopoDS_Shape:
    whole = combined(ADD, rod(46, 20, way=FRONT), block(46, 20, 14, -23, -20, 18))
    whole = combined(CUT, whole, rod(30, 20, way=FRONT))
    return combined(CUT, whole, block(2, 20, 60, -1, -20, 0))


def cast_housing() -> TopoDS_Shape:
    whole = block(100, 60, 50)
    fillet = BRepFilletAPI_MakeFillet(whole)
    for e in edges_of(whole):
        found = describe_edge(e)
        if found["kind"] == "line" and abs(found["direction"][2]) > 0.99:  # type: ignore[index]
            fillet.Add(8.0, e)
    fillet.Build()
    whole = accepted(unwrap(fillet.Shape()))
    maker = BRepOffset_MakeOffset()
    maker.Initialize(
        whole, -5.0, 1e-5, BRepOffset_Mode.BRepOffset_Skin, False, False,
        GeomAbs_JoinType.GeomAbs_Intersection, False, False,
    )  # fmt: skip
    for f in faces_of(whole):
        kind, _, way, _ = describe_face(f)
        if kind == "plane" and way is not None and way[2] > 0.99:
            maker.AddFace(f)
    maker.MakeThickSolid()
    whole = accepted(unwrap(maker.Shape()))
    return combined(CUT, whole, rod(26, 200, -20, 30, 25, gp_Dir(1, 0, 0)))


BARE = {f.__name__: f for f in (bored_flange, gear_like_wheel, split_clamp, cast_housing)}

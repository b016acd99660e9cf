"""Plain solids: box, cylinder, cone, sphere, torus, wedge, standing on a frame's origin."""

from __future__ import annotations

from typing import Any

from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
    BRepPrimAPI_MakeWedge,
)

from vireo.core.geometry import Frame
from vireo.core.kernel.gate import checked, finite
from vireo.core.kernel.measure import describe_face
from vireo.core.kernel.place import axes
from vireo.core.kernel.shape import Body, faces_of
from vireo.core.naming.grammar import face_name


def primitive(form: str, sizes: dict[str, float], frame: Frame, step: str) -> Body:
    """A plain solid of a form, its faces called by what they are.

    Box and wedge stand with a corner on the origin, the others about the frame's z.
    """
    finite(*sizes.values())
    at: Any = axes(frame)
    maker = {
        "box": lambda: BRepPrimAPI_MakeBox(at, sizes["width"], sizes["depth"], sizes["height"]),
        "cylinder": lambda: BRepPrimAPI_MakeCylinder(at, sizes["diameter"] / 2, sizes["height"]),
        "cone": lambda: BRepPrimAPI_MakeCone(
            at, sizes["diameter"] / 2, sizes["top"] / 2, sizes["height"]
        ),
        "sphere": lambda: BRepPrimAPI_MakeSphere(at, sizes["diameter"] / 2),
        "torus": lambda: BRepPrimAPI_MakeTorus(at, sizes["diameter"] / 2, sizes["tube"] / 2),
        # The kernel raises a wedge along its y: ours stands on z.
        "wedge": lambda: BRepPrimAPI_MakeWedge(
            axes(_lying(frame, sizes["depth"])),
            sizes["width"],
            sizes["height"],
            sizes["depth"],
            sizes["ridge"],
        ),
    }[form]()
    shape = checked(f"the {form}", maker.Shape())
    names = []
    for f in faces_of(shape):
        kind, _, way, _ = describe_face(f)
        if kind == "plane" and way is not None:
            d = [sum(way[k] * v[k] for k in range(3)) for v in (frame.x, frame.y, frame.z)]
            k = max(range(3), key=lambda i: abs(d[i]))
            tilted = abs(d[k]) < 1 - 1e-9
            side = ("right" if d[0] > 0 else "left", "back" if d[1] > 0 else "front",
                    "top" if d[2] > 0 else "under")[k]  # fmt: skip
            names.append(face_name(step, "slope" if tilted else side))
        else:
            names.append(face_name(step, "wall"))
    return Body(shape, tuple(names))


def _lying(frame: Frame, depth: float) -> Frame:
    y = frame.y
    return Frame(frame.out((0.0, depth, 0.0)), frame.x, (-y[0], -y[1], -y[2]))

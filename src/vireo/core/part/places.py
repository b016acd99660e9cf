"""Directions, axes and planes a step refers to: of the space, or of picked faces and edges."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Any

from pydantic import StringConstraints

from vireo.core.declared import fields as f
from vireo.core.geometry import Frame, Triple, cross, dot, unit
from vireo.core.kernel.outline import axis_of_face
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Dimension, FormulaError, evaluate

AXES: dict[str, Triple] = {"X": (1.0, 0.0, 0.0), "Y": (0.0, 1.0, 0.0), "Z": (0.0, 0.0, 1.0)}
NORMALS: dict[str, Triple] = {"XY": AXES["Z"], "XZ": (0.0, -1.0, 0.0), "YZ": AXES["X"]}


#: X, Y, Z, ``pick``, or ``step:<id>`` of a step that makes an axis or a frame.
WayWord = Annotated[str, StringConstraints(pattern=r"^(X|Y|Z|pick|step:[A-Za-z0-9_]{1,24})$")]
#: XY, XZ, YZ, ``face``, or ``step:<id>`` of a plane, frame or port.
PlaneWord = Annotated[
    str, StringConstraints(pattern=r"^(XY|XZ|YZ|face|sketch|surface|step:[A-Za-z0-9_]{1,24})$")
]


def along(
    label: str, name: str, default: str = "X", when: dict[str, list[str]] | None = None
) -> tuple[Any, Any]:
    """Two fields: X, Y, Z, an axis step or a pick, and the pick."""
    words = {"X": "X", "Y": "Y", "Z": "Z", "pick": "Pick"}
    shown = {"when": when} if when else {}
    return (
        f.choice(label, default, words, datums=["axis", "frame", "port"], **shown),
        f.picks("By", "any", "Click a straight edge, a flat face or a round face",
                when={**(when or {}), name: ["pick"]}),
    )  # fmt: skip


def line_of(chosen: str, picks: Sequence[Pick], field: str, ctx: Context) -> tuple[Triple, Triple]:
    """A place on a line and its direction. Raises StepTrouble or LostPick."""
    if chosen in AXES:
        return (0.0, 0.0, 0.0), AXES[chosen]
    if chosen.startswith("step:"):
        frame = ctx.datum(chosen[5:]).frame
        return frame.origin, frame.z
    if len(picks) != 1:
        raise StepTrouble("pick one straight edge, flat face or round face", [f"field:{field}"])
    index, topology = ctx.find(picks[0], field, picks)
    if picks[0].kind == "edge":
        edge = topology.edges[index]
        if edge.kind == "line" and edge.direction is not None:
            return edge.at, edge.direction
        if edge.kind == "circle" and edge.direction is not None and edge.centre is not None:
            return edge.centre, edge.direction
    if picks[0].kind == "face":
        face = topology.faces[index]
        if face.direction is not None and face.kind in ("plane", "cylinder", "cone", "torus"):
            if face.kind == "plane":
                return face.at, face.direction
            axis = axis_of_face(ctx.seen(picks[0].body).faces[index])
            assert axis is not None
            assert isinstance(axis[0], tuple)
            return axis[0], face.direction
    raise StepTrouble(
        "what is picked has no direction: take a straight or round edge, a flat or round face",
        [f"field:{field}"],
    )


def number(given: f.Offset | None, what: str, dimension: Dimension, ctx: Context) -> float:
    """A formula that is no field of its own, in mm or rad; nothing given is zero."""
    if given is None:
        return 0.0
    where = [f"step:{ctx.step}"]
    try:
        found = evaluate(given.formula, ctx.names)
    except FormulaError as error:
        raise StepTrouble(f"{what}: {error.text}", where) from error
    if found.dimension != dimension:
        raise StepTrouble(f"{what} is {dimension.name}, not {found.dimension.name}", where)
    return found.value


def based(label: str, default: str = "XY", **more: Any) -> Any:
    """A choice of a plane: a base plane, a face, or a plane made by a step; `other` adds words."""
    words = {"XY": "XY", "XZ": "XZ", "YZ": "YZ", "face": "Face", **more.pop("other", {})}
    return f.choice(label, default, words, datums=["plane", "frame", "port"], **more)


def place_of_pick(pick: Pick, field: str, ctx: Context, picks: Sequence[Pick] = ()) -> Triple:
    """The place a pick stands for: a corner, the centre of a round edge or the middle of another,
    the centre of a ball, the middle of a face."""
    index, topology = ctx.find(pick, field, picks)
    if pick.kind == "vertex":
        return topology.vertices[index].at
    if pick.kind == "edge":
        edge = topology.edges[index]
        return edge.centre if edge.kind == "circle" and edge.centre else edge.at
    face = topology.faces[index]
    return face.origin if face.kind == "sphere" else face.at


def plane_of_pick(
    chosen: str, picks: Sequence[Pick], field: str, ctx: Context
) -> tuple[Triple, Triple]:
    """A place on a plane and its normal: XY, XZ, YZ, or a picked flat face."""
    if chosen in NORMALS:
        return (0.0, 0.0, 0.0), NORMALS[chosen]
    if chosen.startswith("step:"):
        frame = ctx.datum(chosen[5:]).frame
        return frame.origin, frame.z
    if len(picks) != 1:
        raise StepTrouble("pick one flat face", [f"field:{field}"])
    frame = ctx.frame_of_face(picks[0], field, picks)
    return frame.origin, frame.z


def whole_number(value: float, label: str, field: str, least: int = 1, most: int = 1000) -> int:
    """A count. Raises StepTrouble when it is none."""
    if abs(value - round(value)) > 1e-9 or not least <= value <= most:
        raise StepTrouble(
            f"{label} must be a whole number from {least} to {most}, not {value:g}",
            [f"field:{field}"],
        )
    return round(value)


def turned_about(edge: Pick, field: str, base: Frame, turn: float, ctx: Context) -> Frame:
    """The plane through a straight edge, turned about it by an angle (rad) from a plane.

    x runs along the edge from its end; the right-hand rule about it gives the sense of the
    angle.
    """
    index, topology = ctx.find(edge, field)
    line = topology.edges[index]
    if line.kind != "line" or line.direction is None:
        raise StepTrouble("a plane is laid through a straight edge; this one is curved")
    x = line.direction
    along = dot(base.z, x)
    if abs(along) > 1.0 - 1e-9:
        raise StepTrouble("the edge stands upright on the plane its angle is measured from")
    # The base normal without its part along the edge, then turned about the edge.
    n = unit((base.z[0] - along * x[0], base.z[1] - along * x[1], base.z[2] - along * x[2]))
    m = cross(x, n)
    c, s = math.cos(turn), math.sin(turn)
    z = unit((c * n[0] + s * m[0], c * n[1] + s * m[1], c * n[2] + s * m[2]))
    return Frame(topology.vertices[line.ends[0]].at, x, z)


def meeting(one: Frame, two: Frame) -> Triple:
    """A point on the line in which two planes meet (Goldman, Graphics Gems, 1990)."""
    along = cross(one.z, two.z)
    a, b = dot(one.origin, one.z), dot(two.origin, two.z)
    k = dot(along, along)
    u, v = cross(two.z, along), cross(along, one.z)
    p = [(a * u[i] + b * v[i]) / k for i in range(3)]
    return (p[0], p[1], p[2])

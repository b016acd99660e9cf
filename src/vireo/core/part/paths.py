"""Paths a profile follows: curves of a sketch, or edges of a body."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.geometry import Frame, plane_frame, unit
from vireo.core.kernel.outline import placed_edge
from vireo.core.kernel.shape import Key
from vireo.core.kernel.sweep import Path, coil, path_of, rims
from vireo.core.kernel.wall import chains_of
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.places import WayWord, line_of
from vireo.core.part.trouble import LostPick, StepTrouble
from vireo.core.quantity import Formula


def paths_of(fields: PathFields, ctx: Context) -> list[Path]:
    """The paths of a step: one, unless it goes round all rims of faces or along edges each by
    itself. Raises StepTrouble or LostPick."""
    several = {"rims": _rims, "each": _each}.get(fields.along)
    return several(fields, ctx) if several else [_path(fields, ctx)]


def _rims(fields: PathFields, ctx: Context) -> list[Path]:
    if not fields.faces:
        raise StepTrouble("pick the faces it goes round", ["field:faces"])
    found = []
    for pick in fields.faces:
        index, topology = ctx.find(pick, "faces", fields.faces)
        body = ctx.seen(pick.body)
        names = {Key(e): "+".join(topology.edge_name(i)) for i, e in enumerate(body.edges)}
        found += rims(body.faces[index], names)
    return found


def _each(fields: PathFields, ctx: Context) -> list[Path]:
    """Every picked edge as a path by itself, on one of its faces."""
    if not fields.edges:
        raise StepTrouble("pick the edges it goes along", ["field:edges"])
    found = []
    for pick in fields.edges:
        index, topology = ctx.find(pick, "edges", fields.edges)
        body = ctx.seen(pick.body)
        path = path_of([("+".join(topology.edge_name(index)), body.edges[index])])
        found.append(replace(path, face=body.faces[body.edge_faces[index][0]]))
    return found


def _path(fields: PathFields, ctx: Context) -> Path:
    if fields.along == "helix":
        at, way = line_of(fields.axis, fields.axis_pick, "axis_pick", ctx)
        frame = Frame(at, plane_frame(at, way).x, unit(way))
        sizes = (ctx.value("coil"), ctx.value("coil_end"), ctx.value("pitch"), ctx.value("turns"))
        return coil(frame, *sizes, fields.hand == "left")
    if fields.along == "edges":
        if not fields.edges:
            raise StepTrouble("pick the edges it goes along", ["field:edges"])
        named = []
        for pick in fields.edges:
            index, topology = ctx.find(pick, "edges", fields.edges)
            name = "+".join(topology.edge_name(index))
            named.append((name, ctx.seen(pick.body).edges[index]))
        return path_of(named)
    if not fields.path:
        raise StepTrouble("choose the sketch of the path", ["field:path"])
    return run_of(fields.path, fields.chains, "path", ctx)


def run_of(sketch: str, chains: Sequence[str], field: str, ctx: Context) -> Path:
    """The one run of curves chosen from a sketch, or of all its curves."""
    data = ctx.sketch(sketch)
    curves = dict(data.curves)
    gone = [c for c in chains if c not in curves]
    if gone:
        raise LostPick(
            f"the curve {gone[0]} of the path is no longer in the sketch {data.name}",
            [f"step:{ctx.step}", f"step:{sketch}"],
        )
    wanted = [(c, curves[c]) for c in chains] or list(data.curves)
    runs = chains_of(wanted) if wanted else []
    if len(runs) != 1:
        raise StepTrouble(
            f"the sketch {data.name} has {len(runs) or 'no'} runs of curves: choose those of one path",
            [f"step:{sketch}", f"field:{field}"],
        )
    placed = [(id, placed_edge(c, data.frame)) for id, c in runs[0]]
    return path_of([(id, e) for id, e in placed if e is not None])


_HELIX = {"along": ["helix"]}


class PathFields(f.StepFields):
    along: Literal["sketch", "edges", "each", "helix", "rims"] = f.choice(
        "Path", "sketch",
        {"sketch": "Sketch", "edges": "A run of edges", "each": "Each edge by itself",
         "helix": "Helix", "rims": "All round faces"},
    )  # fmt: skip
    path: str = f.later_sketch("Path sketch", when={"along": ["sketch"]})
    chains: tuple[str, ...] = f.curves("path", "Along", when={"along": ["sketch"]})
    edges: tuple[Pick, ...] = f.picks(
        "Edges", "edge", "Click the edges it goes along", when={"along": ["edges", "each"]}
    )
    faces: tuple[Pick, ...] = f.picks(
        "Faces", "face", "Click faces: each of their rims is a path", when={"along": ["rims"]}
    )
    axis: WayWord = f.choice(
        "About", "Z", {"X": "X", "Y": "Y", "Z": "Z", "pick": "Pick"}, when=_HELIX,
        datums=["axis", "frame", "port"],
    )  # fmt: skip
    axis_pick: tuple[Pick, ...] = f.picks(
        "By", "any", "Click a straight or round edge, or a round face",
        when={"along": ["helix"], "axis": ["pick"]},
    )  # fmt: skip
    coil: Formula = f.length("Coil diameter", "40 mm", above=0, when=_HELIX)
    coil_end: Formula = f.length("Diameter at the end", "40 mm", above=0, when=_HELIX)
    pitch: Formula = f.length("Pitch", "15 mm", above=0, when=_HELIX)
    turns: Formula = f.quantity("number", "Turns", "5", above=0, most=200, when=_HELIX)
    hand: Literal["right", "left"] = f.choice(
        "Hand", "right", {"right": "Right", "left": "Left"}, when=_HELIX
    )
    corners: Literal["mitre", "round"] = f.choice(
        "Sharp corners", "mitre", {"mitre": "Mitred", "round": "Rounded"}
    )

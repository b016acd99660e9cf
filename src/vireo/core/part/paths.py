"""Paths a profile follows: curves of a sketch, or edges of a body."""

from __future__ import annotations

from typing import Literal

from vireo.core.kernel.outline import placed_edge
from vireo.core.kernel.sweep import Path, path_of
from vireo.core.kernel.wall import chains_of
from vireo.core.naming import Pick
from vireo.core.part import fields as f
from vireo.core.part.context import Context, LostPick, StepTrouble


def path_fields(fields: PathFields, ctx: Context) -> Path:
    """The path of a step. Raises StepTrouble or LostPick."""
    if fields.along == "edges":
        if not fields.edges:
            raise StepTrouble("pick the edges it goes along", ["field:edges"])
        named = []
        for pick in fields.edges:
            index, topology = ctx.find(pick, "edges", fields.edges)
            name = "+".join(topology.edge_name(index))
            named.append((name, ctx.body(pick.body).edges[index]))
        return path_of(named)
    data = ctx.sketch(fields.path)
    curves = dict(data.curves)
    gone = [c for c in fields.chains if c not in curves]
    if gone:
        raise LostPick(
            f"the curve {gone[0]} of the path is no longer in the sketch {data.name}",
            [f"step:{ctx.step}", f"step:{fields.path}"],
        )
    wanted = [(c, curves[c]) for c in fields.chains] or list(data.curves)
    runs = chains_of(wanted) if wanted else []
    if len(runs) != 1:
        raise StepTrouble(
            f"the sketch {data.name} has {len(runs) or 'no'} runs of curves: choose those of one path",
            [f"step:{fields.path}", "field:chains"],
        )
    placed = [(id, placed_edge(c, data.frame)) for id, c in runs[0]]
    return path_of([(id, e) for id, e in placed if e is not None])


class PathFields(f.StepFields):
    along: Literal["sketch", "edges"] = f.choice(
        "Path", "sketch", {"sketch": "Sketch", "edges": "Edges"}
    )
    path: str = f.later_sketch("Path sketch", when={"along": ["sketch"]})
    chains: tuple[str, ...] = f.curves("path", "Along", when={"along": ["sketch"]})
    edges: tuple[Pick, ...] = f.picks(
        "Edges", "edge", "Click the edges it goes along", when={"along": ["edges"]}
    )
    corners: Literal["mitre", "round"] = f.choice(
        "Sharp corners", "mitre", {"mitre": "Mitred", "round": "Rounded"}
    )

"""Fillet: edges rounded evenly, varying, held at another edge; or faces rounded into each other."""

from __future__ import annotations

from functools import partial
from typing import Any, Literal

from pydantic import model_validator

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.blend import fillet, holding
from vireo.core.kernel.boolean import unified
from vireo.core.kernel.dress import without_faces
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.measure import area_of
from vireo.core.kernel.shape import Body
from vireo.core.naming import Pick
from vireo.core.naming.grammar import answers
from vireo.core.part.context import Context
from vireo.core.part.edging import Group, treat_edges
from vireo.core.part.fitting import fitted
from vireo.core.part.picking import faces_by_body
from vireo.core.part.places import number
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.part.values import LEAST
from vireo.core.quantity import LENGTH, Formula

_EDGES, _FACES = {"of": ["edges"]}, {"of": ["faces"]}


class FilletFields(f.StepFields):
    of: Literal["edges", "faces"] = f.choice(
        "Rounds", "edges", {"edges": "Edges", "faces": "Between faces"}
    )
    edges: tuple[Pick, ...] = f.picks("Edges", "edge", "Click edges to round", when=_EDGES)
    one: tuple[Pick, ...] = f.picks("From faces", "face", "Click faces on one side", when=_FACES)
    two: tuple[Pick, ...] = f.picks("To faces", "face", "Click faces on the other", when=_FACES)
    radius: Formula = f.length("Radius", "3 mm", above=0, key="R")
    form: Literal["even", "varying", "held"] = f.choice(
        "Along the edge", "even", {"even": "Even", "varying": "Varying", "held": "Held"},
        when=_EDGES,
    )  # fmt: skip
    end: Formula = f.length(
        "Radius at the end", "5 mm", above=0, when={"form": ["varying"], "of": ["edges"]}
    )
    flip: bool = f.toggle("From the other end", when={"form": ["varying"], "of": ["edges"]})
    hold: tuple[Pick, ...] = f.picks(
        "Held at", "edge", "Click the edge the rounding ends on",
        when={"form": ["held"], "of": ["edges"]},
    )  # fmt: skip
    more: tuple[f.Sized, ...] = f.sized(
        "Other radii", "edge", "Click edges with a radius of their own", when=_EDGES
    )

    @model_validator(mode="before")
    @classmethod
    def _several(cls, data: Any) -> Any:
        """Older parts have one other radius with its edges."""
        if not isinstance(data, dict) or not {"others", "other"} & data.keys():
            return data
        data = dict(data)
        picks, size = data.pop("others", ()), data.pop("other", "1 mm")
        if picks:
            data["more"] = [*data.get("more", ()), {"picks": picks, "size": {"formula": size}}]
        return data


@register
class Fillet(StepKind[FilletFields]):
    kind = "fillet"
    copyable = True
    works_on = ("edges", "more", "one", "two")
    label = "Fillet"
    group = "Edges"
    icon = "fillet"
    order = 10
    line = "Round edges and all that runs on smoothly from them, or faces into each other"
    Fields = FilletFields
    example = """
soft = part.fillet("Soft edge", edges=[rim], radius=3)
"""
    version = 3
    deciding = ("radius",)

    def build(self, fields: FilletFields, ctx: Context) -> Outcome:
        radius = ctx.value("radius")
        if fields.of == "faces":
            return self._between(fields, ctx, radius)
        if not fields.edges:
            raise StepTrouble("pick the edges to round", ["field:edges"])
        if fields.form == "held":
            return self._held(fields, ctx)
        groups = [Group("edges", fields.edges)]
        for n, row in enumerate(fields.more):
            own = number(row.size, f"radius {n + 2}", LENGTH, ctx)
            if not own >= LEAST:
                raise StepTrouble(f"radius {n + 2} must be at least {LEAST:g} mm", ["field:more"])
            groups.append(Group("more", row.picks, own / radius, n))
        grow = ctx.value("end") / radius if fields.form == "varying" else 1.0
        treat = partial(fillet, grow=grow, flip=fields.flip)
        return treat_edges(ctx, groups, radius, treat, "Fillet", "radius", fields.more)

    def _held(self, fields: FilletFields, ctx: Context) -> Outcome:
        if len(fields.edges) != 1 or len(fields.hold) != 1:
            raise StepTrouble("pick one edge to round and one it is held at", ["field:hold"])
        index, _ = ctx.find(fields.edges[0], "edges", fields.edges)
        at, _ = ctx.find(fields.hold[0], "hold", fields.hold)
        id = fields.edges[0].body
        body = ctx.body(id)
        try:
            law = holding(body, index, ctx.seen(fields.hold[0].body).edges[at])
            made = _held_at(body, index, law, ctx.step)
        except KernelTrouble as error:
            raise StepTrouble(
                f"the rounding cannot be held there: {error.text}", ["field:hold"]
            ) from error
        return Outcome(bodies={id: made})

    def _between(self, fields: FilletFields, ctx: Context, radius: float) -> Outcome:
        """Rounds the edges two groups of faces share; faces between them are taken away first."""
        one, two = (
            faces_by_body(picks, field, ctx)
            for picks, field in ((fields.one, "one"), (fields.two, "two"))
        )
        if set(one) != set(two) or len(one) != 1:
            raise StepTrouble("pick faces of one body on both sides", ["field:one", "field:two"])
        id = next(iter(one))
        body = ctx.body(id)
        names = [{body.names[i] for i in group[id]} for group in (one, two)]
        edges = _shared(body, *names)
        if not edges:
            body, edges = _run_together(body, one[id], two[id], names)
        made = fitted(
            lambda r: fillet(body, dict.fromkeys(edges, 1.0), r, ctx.step), radius, "radius",
            "a fillet of", advice="the faces beside leave no room",
        )  # fmt: skip
        return Outcome(bodies={id: made})


def _shared(body: Body, one: set[str], two: set[str]) -> list[int]:
    """Edges between two groups of faces."""
    return [
        i
        for i, pair in enumerate(body.edge_faces)
        if len(pair) == 2
        and any(body.names[a] in one and body.names[b] in two for a, b in (pair, pair[::-1]))
    ]


def _held_at(body: Body, index: int, law: list[tuple[float, float]], step: str) -> Body:
    """The rounding with its law. Where it ends on an edge that only parts one surface, that edge
    is taken out first; where it would use up a face to its last hair, a hair is left."""
    try:
        return fillet(body, {index: 1.0}, law[0][1], step, laws={index: law})
    except KernelTrouble:
        pair = {body.names[i] for i in body.edge_faces[index]}
        whole = unified(body)
        there = [
            i
            for i, faces in enumerate(whole.edge_faces)
            if len(faces) == 2 and all(any(answers(whole.names[f], n) for f in faces) for n in pair)
        ]
        shy = [(share, r * (1.0 - 1e-4)) for share, r in law]
        if len(there) != 1:
            return fillet(body, {index: 1.0}, shy[0][1], step, laws={index: shy})
        try:
            return fillet(whole, {there[0]: 1.0}, law[0][1], step, laws={there[0]: law})
        except KernelTrouble:
            return fillet(whole, {there[0]: 1.0}, shy[0][1], step, laws={there[0]: shy})


def _run_together(
    body: Body, one: list[int], two: list[int], names: list[set[str]]
) -> tuple[Body, list[int]]:
    """The body with the face between two groups taken away, and the edges they then share."""
    between = _joining(body, one, two)
    # The one meant is the smallest whose going lets the groups meet; faces at the ends of both
    # touch both as well.
    for face in sorted(between, key=lambda i: area_of(body.faces[i])):
        try:
            bare = without_faces(body, [face])
        except KernelTrouble:
            continue
        if edges := _shared(bare, *names):
            return bare, edges
    raise StepTrouble(
        "these faces neither meet nor have one face between them that can be taken away so that "
        "they do",
        ["field:two"],
    )


def _joining(body: Body, one: list[int], two: list[int]) -> list[int]:
    """Faces that touch both groups and belong to neither."""
    beside: dict[int, set[int]] = {}
    for pair in body.edge_faces:
        if len(pair) == 2:
            beside.setdefault(pair[0], set()).add(pair[1])
            beside.setdefault(pair[1], set()).add(pair[0])
    own = {*one, *two}
    return [i for i, near in beside.items() if i not in own and near & set(one) and near & set(two)]

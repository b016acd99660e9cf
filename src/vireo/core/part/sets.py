"""Sets: groups of faces, edges or bodies by a rule, found anew wherever they are used.

One function a rule, entered by `rule`. A pick of kind ``set`` in a step's fields, or the id of a
set among its bodies, stands for all its members; the builder puts them in before the step sees
its fields.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from typing import Any, TypeVar

from vireo.core.declared.fields import told_of
from vireo.core.geometry import dot
from vireo.core.kernel.dress import running_on
from vireo.core.naming import EdgeInfo, FaceInfo, Pick, Topology, make_pick
from vireo.core.naming.grammar import came_from, is_body, maker_of, with_size
from vireo.core.part.context import Context
from vireo.core.part.datum import Rule
from vireo.core.part.trouble import LostPick, StepTrouble

Members = list[tuple[str, int]]
Finder = Callable[[Rule, Context], Members]
F = TypeVar("F")

#: word -> (what the button says, finder)
RULES: dict[str, tuple[str, Finder]] = {}

_HAIR = 1e-6
#: The rules bodies can be gathered by.
BODY_RULES = ("picked", "of_steps")


def rule(word: str, said: str) -> Callable[[Finder], Finder]:
    def enter(finder: Finder) -> Finder:
        RULES[word] = (said, finder)
        return finder

    return enter


def _bodies(rule: Rule, ctx: Context) -> list[str]:
    return [b for b in rule.bodies if b in ctx.all_ids()] or ctx.all_ids()


def _faces(rule: Rule, ctx: Context) -> Iterable[tuple[str, Topology, int]]:
    for id in _bodies(rule, ctx):
        topology = ctx.topology(id)
        for i in range(len(topology.faces)):
            yield id, topology, i


def _picked(rule: Rule, ctx: Context) -> list[tuple[str, Topology, int]]:
    found = []
    for pick in rule.picks:
        index, topology = ctx.find(pick, "picks", rule.picks)
        found.append((pick.body, topology, index))
    return found


@rule("picked", "Picked")
def picked(rule: Rule, ctx: Context) -> Members:
    if rule.kind == "body":
        return [(id, 0) for id in ctx.all_ids() if id in rule.bodies or not rule.bodies]
    return [(id, i) for id, _, i in _picked(rule, ctx)]


def _made_by(steps: set[str], ctx: Context) -> list[str]:
    """Bodies that steps made, and what copies, mirrors and splits made of those."""
    makers = {id: maker_of(id) for id in ctx.all_ids()}
    made = steps & set(makers.values())
    return [
        id
        for id, maker in makers.items()
        if maker in made or any(came_from(f.name, made) for f in ctx.topology(id).faces)
    ]


@rule("of_steps", "All of a step")
def of_steps(rule: Rule, ctx: Context) -> Members:
    """All faces of chosen steps, or the edges all round them, or the bodies they made."""
    steps = set(rule.steps)
    if rule.kind == "body":
        return [(id, 0) for id in _made_by(steps, ctx)]
    faces = [(id, i) for id, t, i in _faces(rule, ctx) if came_from(t.faces[i].name, steps)]
    return faces if rule.kind == "face" else _edges_of(faces, ctx)


@rule("round", "Round, of a radius")
def round_(rule: Rule, ctx: Context) -> Members:
    """Cylinders of a radius, or round edges of it; any radius when it is zero."""
    if rule.kind == "edge":
        return [
            (id, i)
            for id in _bodies(rule, ctx)
            for i, e in enumerate(ctx.topology(id).edges)
            if e.kind == "circle" and _is_size(e.radius, rule.size)
        ]
    return [
        (id, i)
        for id, t, i in _faces(rule, ctx)
        if t.faces[i].kind == "cylinder" and _is_size(t.faces[i].radius, rule.size)
    ]


def _is_size(radius: float | None, size: float) -> bool:
    return radius is not None and (size <= 0.0 or math.isclose(radius, size, rel_tol=1e-6))


@rule("chain", "Running on smoothly")
def chain(rule: Rule, ctx: Context) -> Members:
    """Picked faces with all that run on smoothly from them; edges: the runs they are part of."""
    by_body: dict[str, list[int]] = {}
    for id, _, i in _picked(rule, ctx):
        by_body.setdefault(id, []).append(i)
    found: Members = []
    for id, indices in by_body.items():
        if rule.kind == "face":
            found += [(id, i) for i in [*indices, *sorted(running_on(ctx.seen(id), indices))]]
        else:
            found += [(id, i) for i in _run(ctx.topology(id), indices)]
    return found


def _run(topology: Topology, edges: list[int]) -> list[int]:
    """Edges with those that share a face pair's side with them end to end: the loop of one face
    they both bound."""
    at: dict[int, list[int]] = {}
    for i, e in enumerate(topology.edges):
        for v in e.ends:
            at.setdefault(v, []).append(i)
    found, front = list(dict.fromkeys(edges)), list(edges)
    while front:
        here = front.pop()
        faces = set(topology.edges[here].faces)
        for v in topology.edges[here].ends:
            for other in at[v]:
                shares = faces & set(topology.edges[other].faces)
                if other not in found and shares and _smooth(topology, here, other, v):
                    found.append(other)
                    front.append(other)
    return found


def _smooth(topology: Topology, one: int, two: int, v: int) -> bool:
    """Whether straight and round edges run on into each other at a corner."""
    a, b = (_leaving(topology, e, v) for e in (one, two))
    return a is not None and b is not None and abs(dot(a, b)) > 1.0 - 1e-6


def _leaving(topology: Topology, edge: int, v: int) -> tuple[float, float, float] | None:
    e = topology.edges[edge]
    if e.kind == "line":
        return e.direction
    if e.kind == "circle" and e.centre and e.direction and e.radius:
        p, n = topology.vertices[v].at, e.direction
        r = [(p[k] - e.centre[k]) / e.radius for k in range(3)]
        return (n[1] * r[2] - n[2] * r[1], n[2] * r[0] - n[0] * r[2], n[0] * r[1] - n[1] * r[0])
    return None


@rule("parallel", "Parallel to")
def parallel(rule: Rule, ctx: Context) -> Members:
    """Flat faces that look the way a picked one does (or the other), straight edges likewise."""
    found: Members = []
    for _, topology, i in _picked(rule, ctx):
        one = _entries(topology, rule)[i]
        way, form = one.direction, one.kind
        if way is None or form not in ("plane", "line"):
            raise StepTrouble("take a flat face or a straight edge to be parallel to")
        for id in _bodies(rule, ctx):
            for j, o in enumerate(_entries(ctx.topology(id), rule)):
                if o.kind != form or o.direction is None:
                    continue
                if abs(dot(o.direction, way)) > 1.0 - _HAIR:
                    found.append((id, j))
    return found


def _entries(topology: Topology, rule: Rule) -> Sequence[FaceInfo | EdgeInfo]:
    return topology.faces if rule.kind == "face" else topology.edges


@rule("untouched", "Not touched since")
def untouched(rule: Rule, ctx: Context) -> Members:
    """Faces that were there when the set was made and still stand whole, under their own name."""
    known = set(rule.known)
    faces = [
        (id, i)
        for id, t, i in _faces(rule, ctx)
        if with_size(t.faces[i].name, t.faces[i].area) in known
    ]
    return faces if rule.kind == "face" else _edges_of(faces, ctx)


def snapshot(rule: Rule, ctx: Context) -> tuple[str, ...]:
    """What `untouched` compares with."""
    return tuple(with_size(t.faces[i].name, t.faces[i].area) for _, t, i in _faces(rule, ctx))


def _edges_of(faces: Members, ctx: Context) -> Members:
    found: Members = []
    wanted: dict[str, set[int]] = {}
    for id, i in faces:
        wanted.setdefault(id, set()).add(i)
    for id, indices in wanted.items():
        edges = enumerate(ctx.topology(id).edges)
        found += [(id, j) for j, e in edges if len(e.faces) == 2 and indices & set(e.faces)]
    return found


def members(rule: Rule, ctx: Context) -> Members:
    """Faces, edges or bodies that belong to a set now, each once. Raises StepTrouble when there are none."""
    if rule.kind == "body" and rule.word not in BODY_RULES:
        ways = " or ".join(f'"{RULES[w][0]}"' for w in BODY_RULES)
        raise StepTrouble(f"bodies are gathered by {ways}", ["field:by"])
    found = list(dict.fromkeys(RULES[rule.word][1](rule, ctx)))
    if not found:
        raise StepTrouble(f"no {rule.kind} belongs to the set: nothing is like its rule here")
    return found


def expanded(fields: F, ctx: Context) -> F:
    """The fields with picks that stand for sets replaced by their members."""
    put: dict[str, Any] = {}
    for name, meta in told_of(type(fields)).items():  # type: ignore[arg-type]
        if meta.get("type") == "bodies":
            ids: tuple[str, ...] = getattr(fields, name)
            if any(not is_body(id) for id in ids):
                each = [[id] if is_body(id) else _bodies_of(id, ctx) for id in ids]
                put[name] = tuple(dict.fromkeys(id for some in each for id in some))
            continue
        if meta.get("type") != "picks":
            continue
        picks: tuple[Pick, ...] = getattr(fields, name)
        if not any(p.kind == "set" for p in picks):
            continue
        accepts = str(meta.get("accepts"))
        all_: list[Pick] = []
        for pick in picks:
            all_ += _members_of(pick, accepts, ctx) if pick.kind == "set" else [pick]
        put[name] = tuple(dict.fromkeys(all_))
    return fields.model_copy(update=put) if put else fields  # type: ignore[attr-defined]


def _bodies_of(set_: str, ctx: Context) -> list[str]:
    rule = ctx.rule(set_)
    if rule.kind != "body":
        raise LostPick(f"the set gathers {rule.kind}s, but bodies are wanted here")
    return [id for id, _ in members(rule, ctx)]


def _members_of(pick: Pick, accepts: str, ctx: Context) -> list[Pick]:
    rule = ctx.rule(pick.name[0])
    if rule.kind == "body" or accepts not in ("any", rule.kind):
        many = "bodies" if rule.kind == "body" else f"{rule.kind}s"
        raise LostPick(f"the set gathers {many}, but {accepts}s are wanted here")
    return [make_pick(ctx.topology(id), id, rule.kind, index) for id, index in members(rule, ctx)]

"""Components of an assembly made an assembly of their own, and one dissolved into what it holds."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from pydantic import BaseModel

from vireo.core.assembly.pose import Pose
from vireo.core.assembly.seats import placement_of, pose_of
from vireo.core.documents.commands.assembly import free_name
from vireo.core.documents.commands.base import place, update
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kind import new_document
from vireo.core.documents.kinds.assembly import Assembly, Bunch, Component, Copies, Joint
from vireo.core.quantity import (
    ANGLE,
    LENGTH,
    FormulaError,
    Parameter,
    evaluate,
    evaluate_parameters,
    formulas_in,
    names_in,
    with_formulas,
)
from vireo.core.trouble import NotAllowed


def gathered(
    document: Assembly, ids: Iterable[str], name: str, made: str
) -> tuple[Assembly, Assembly]:
    """An assembly of chosen components with all that holds only among them, and the document with
    that (known by the id `made`) in their place. Nothing changes its place.

    Raises NotAllowed for copies that would be torn apart.
    """
    chosen = set(ids)
    for id in chosen:
        place(document.components, id, "component")
    if len(chosen) < 2:
        raise NotAllowed("choose two components or more to make an assembly of")
    own = [c for c in document.components if c.id in chosen]
    if not any(c.anchored for c in own):
        own[0] = update(own[0], anchored=True)
    within = [j for j in document.joints if j.components <= chosen]
    copies = _taken_along(document, chosen)
    bunches = [b for b in document.bunches if set(b.components) <= chosen]
    inner = new_document(
        "assembly", name, units=document.units, components=own, joints=within, bunches=bunches,
        copies=copies, last_id=document.last_id,
        parameters=_used(document.parameters, [*within, *copies]),
    )  # fmt: skip
    assert isinstance(inner, Assembly)
    number = document.last_id + 1
    whole = Component(
        id=f"c{number}",
        name=free_name(name, {c.name for c in document.components if c.id not in chosen}),
        document=made,
        anchored=any(c.anchored for c in document.components if c.id in chosen),
    )

    def led(end: JointEnd) -> JointEnd:
        if end.component not in chosen:
            return end
        return end.model_copy(update={"component": whole.id, "path": (end.component, *end.path)})

    first = next(i for i, c in enumerate(document.components) if c.id in chosen)
    components = [c for c in document.components if c.id not in chosen]
    components.insert(first, whole)

    def left(b: Bunch) -> Bunch:
        kept = dict.fromkeys(whole.id if c in chosen else c for c in b.components)
        return update(b, components=tuple(kept))

    rest = [_with_ends(j, led) for j in document.joints if j not in within]
    outer = update(
        document,
        components=tuple(components),
        joints=tuple(rest),
        bunches=tuple(left(b) for b in document.bunches if b not in bunches),
        copies=tuple(
            c if c.of is None else update(c, of=led(c.of))
            for c in document.copies
            if c not in copies
        ),
        last_id=number,
    )
    return inner, outer


def _taken_along(document: Assembly, chosen: set[str]) -> list[Copies]:
    """The copies that are of chosen components alone."""
    inside, found = set(chosen), []
    for copies in document.copies:
        held = set(copies.components) & inside
        if not held:
            continue
        if held != set(copies.components):
            raise NotAllowed(
                f"{copies.name} copies components of both sides: take all of them along, or none",
                [f"copies:{copies.id}"],
            )
        if copies.of is not None and copies.of.component not in chosen:
            raise NotAllowed(
                f"{copies.name} goes by a component that stays outside: take that along too",
                [f"copies:{copies.id}"],
            )
        inside.add(copies.id)
        found.append(copies)
    return found


def _used(parameters: tuple[Parameter, ...], models: Iterable[BaseModel]) -> tuple[Parameter, ...]:
    """The parameters that formulas of some items need, with those they are made of."""
    texts = [f for m in models for f in formulas_in(m)]
    known = {p.name: p for p in parameters}
    found: set[str] = set()
    while texts:
        try:
            names = names_in(texts.pop()) & set(known) - found
        except FormulaError:
            continue
        found |= names
        texts += [f for n in names for f in formulas_in(known[n])]
    return tuple(p for p in parameters if p.name in found)


def dissolved(
    document: Assembly, id: str, inner: Assembly, poses: Mapping[str, Pose], at: Pose
) -> Assembly:
    """The document with what a component holds in its place, standing where it stood. `poses` are
    those of what is inside, in the component, `at` is where that stands. Formulas of the inner
    assembly that use its parameters become values."""
    whole = document.components[place(document.components, id, "component")]
    if inner.parameters:
        inner = _said(inner)
    number = document.last_id
    fresh: dict[str, str] = {}
    for group in (inner.components, inner.joints, inner.bunches, inner.copies):
        for item in group:
            number += 1
            fresh[item.id] = f"{item.id[0]}{number}"

    def up(end: JointEnd) -> JointEnd:
        return end.model_copy(update={"component": fresh[end.component]})

    def led(end: JointEnd) -> JointEnd:
        if end.component != id or not end.path:
            return end
        return end.model_copy(update={"component": fresh[end.path[0]], "path": end.path[1:]})

    taken = {c.name for c in document.components if c.id != id}
    anchored = {c.id for c in inner.components if c.anchored} or {
        c.id for c in inner.components[:1]
    }
    brought = []
    for c in inner.components:
        name = free_name(c.name, taken)
        taken.add(name)
        said = {k.split("/", 1)[1]: v for k, v in whole.inside.items() if k.startswith(f"{c.id}/")}
        brought.append(
            update(
                c, id=fresh[c.id], name=name, anchored=whole.anchored and c.id in anchored,
                placement=placement_of(at @ poses.get(c.id, pose_of(c.placement))),
                inside={**c.inside, **said},
            )
        )  # fmt: skip
    all_new = tuple(c.id for c in brought)

    def spread(items: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(x for c in items for x in (all_new if c == id else (c,)))

    first = place(document.components, id, "component")
    components = [*document.components[:first], *brought, *document.components[first + 1 :]]
    joints = [_with_ends(j, led) for j in document.joints]
    titles = {j.name for j in joints}
    for j in inner.joints:
        name = free_name(j.name, titles)
        titles.add(name)
        joints.append(update(_with_ends(j, up), id=fresh[j.id], name=name))
    own = tuple(
        update(b, id=fresh[b.id], components=tuple(fresh[c] for c in b.components if c in fresh))
        for b in inner.bunches
    )
    copies = [
        update(c, components=spread(c.components), of=c.of and led(c.of)) for c in document.copies
    ]
    inside = [
        update(
            c, id=fresh[c.id], components=tuple(fresh[x] for x in c.components if x in fresh),
            of=c.of and up(c.of),
        )
        for c in inner.copies
    ]  # fmt: skip
    return update(
        document,
        components=tuple(components),
        joints=tuple(joints),
        bunches=(*(update(b, components=spread(b.components)) for b in document.bunches), *own),
        copies=(*inside, *copies),
        last_id=number,
    )


#: How the values of formulas are written.
_WRITTEN = {LENGTH: " mm", ANGLE: " rad"}


def _said(document: Assembly) -> Assembly:
    """The document with formulas that use its parameters put as the values they have."""
    found = evaluate_parameters(document.parameters)
    values = {n: e.value for n, e in found.items() if e.value is not None}

    def put(formula: str) -> str:
        try:
            if not names_in(formula):
                return formula
            value = evaluate(formula, values)
        except FormulaError:
            return formula
        return f"{value.value!r}{_WRITTEN.get(value.dimension, '')}"

    return with_formulas(document, put)


def _with_ends(joint: Joint, led: Any) -> Joint:
    return update(joint, **{side: led(end) for side, end in joint.ends.items()})

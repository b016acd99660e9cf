"""Parts made in place: made where the engineer says, taking from what stands around them, told when that
is no longer so."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from vireo.core.documents import Document, new_document
from vireo.core.documents.commands.assembly import free_name
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import Assembly, Component
from vireo.core.documents.kinds.part import Part, Step
from vireo.core.naming.grammar import original_of
from vireo.core.trouble import NotAllowed
from vireo.store import DocumentRecord, Store
from vireo.work.builds import Builds

KIND = "neighbours"


@dataclass(frozen=True)
class InPlace:
    """A part of an assembly that takes from what stands around it, and the step that does."""

    component: Component
    record: DocumentRecord
    step: Step

    @property
    def part(self) -> Part:
        assert isinstance(self.record.document, Part)
        return self.record.document


def as_assembly(record: DocumentRecord) -> Assembly:
    if not isinstance(record.document, Assembly):
        raise NotAllowed("parts are made in place in an assembly")
    return record.document


def made_in(store: Store, record: DocumentRecord) -> Iterator[InPlace]:
    """All steps of parts of an assembly that take from what stands around them there."""
    others = {r.id: r for r in store.documents_of(record.project)}
    for component in as_assembly(record).components:
        other = others.get(component.document)
        if other is None or not isinstance(other.document, Part):
            continue
        for step in other.document.steps:
            fields = step.fields
            if step.kind == KIND and (fields["document"], fields["component"]) == (
                record.id, component.id
            ):  # fmt: skip
                yield InPlace(component, other, step)


def compared(builds: Builds, record: DocumentRecord, those: Sequence[InPlace]) -> list[list[Any]]:
    """How everything each took compares with what stands there now."""
    items = [
        {"component": one.component.id, "taken": taken}
        for one in those
        for taken in one.step.fields["taken"]
    ]
    if not items:
        return [[] for _ in those]
    _, request = builds.request(record.project, record.document)
    ask = {"request": request, "items": items, "project": record.project}
    found = iter(builds.run("out_of_date", ask, sticky=record.id))
    return [[next(found) for _ in one.step.fields["taken"]] for one in those]


def begun(
    builds: Builds,
    record: DocumentRecord,
    name: str,
    origin: JointEnd | None,
    turned: bool,
    made: str,
) -> tuple[Document, list[dict[str, Any]]]:
    """A new part, and the commands that put it in: at a picked origin, moving with what that lies
    on, `turned` as that is or as the assembly. `made` is what the part's document is to be called by."""
    assembly = as_assembly(record)
    title = free_name(name, {c.name for c in assembly.components})
    put: dict[str, Any] = {
        "do": "add_component",
        "document": made,
        "name": title,
        "anchored": False,
    }
    if origin is None:
        return new_document("part", title), [put]
    if original_of(origin.component) != origin.component:
        raise NotAllowed("a part is not made on a copy: pick its original")
    host = assembly.component(origin.component)
    if host is not None and host.moving and origin.path:
        raise NotAllowed(
            f"{host.name} goes by its own joints: what is made on a part of it is made in its own "
            "document, where it moves along"
        )
    _, request = builds.request(record.project, assembly)
    ask = {"request": request, "end": origin.model_dump(mode="json")}
    at = builds.run("origin_at", ask, sticky=record.id)
    put["placement"] = at if turned else {"p": at["p"]}
    own, on = f"c{assembly.last_id + 1}", origin.component
    bunch = next((b for b in assembly.bunches if on in b.components), None)
    group = (
        {"do": "edit_group", "id": bunch.id, "components": [*bunch.components, own]}
        if bunch
        else {"do": "group_components", "components": [on, own], "name": f"With {title}"[:80]}
    )
    return new_document("part", title), [put, group]


def taken(
    builds: Builds, store: Store, record: DocumentRecord, component: str, wanted: list[Any]
) -> list[dict[str, Any]]:
    """What a component takes from around it, frozen as it is now; the shapes are kept with the
    project."""
    _, request = builds.request(record.project, as_assembly(record))
    ask = {"request": request, "component": component, "wanted": wanted}
    found: list[dict[str, Any]] = builds.run("taken_around", ask, sticky=record.id)
    for one in found:
        one["file"] = store.put_blob(record.project, one["title"][:200], one.pop("data"))
    return found


def renewed(
    builds: Builds, store: Store, record: DocumentRecord, one: InPlace
) -> tuple[dict[str, Any], list[str]]:
    """The command on the part that takes everything anew, and what could not be: that stays as it
    was."""
    (states,) = compared(builds, record, [one])
    left, now = [], []
    for taken_then, state in zip(one.step.fields["taken"], states, strict=True):
        if state["state"] in ("fresh", "lost", "gone"):
            now.append(taken_then)
            if state["state"] != "fresh":
                left.append(state["text"])
            continue
        wish = {
            **{k: taken_then[k] for k in ("component", "path", "solid")},
            "picks": [
                {"body": taken_then["solid"], "kind": s["of"], "name": s["called"], "witness": s["look"]}
                for s in taken_then["seen"]
            ],
        }  # fmt: skip
        (fresh,) = taken(builds, store, record, one.component.id, [wish])
        # What it was called by goes on: picks on it stay.
        now.append({**fresh, "number": taken_then["number"], "seen": taken_then["seen"]})
    fields = {**one.step.fields, "taken": now}
    return {"do": "edit_step", "id": one.step.id, "fields": fields}, left

"""Screws, washers, nuts, pins and rings put into picked holes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from vireo.core.assembly.site import Site
from vireo.core.documents import Document, new_document
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.documents.kinds.part import Part
from vireo.core.hardware.fastening import Bore, Item, Stack, Wish, stacked
from vireo.core.hardware.kind import STANDARDS
from vireo.core.trouble import NotAllowed
from vireo.server.api import Room, services
from vireo.server.rooms.documents import tell
from vireo.server.views.documents import DocumentView
from vireo.server.views.hardware import HardwareKept, HardwareView, HardwareWish, StandardsView
from vireo.store.store import DocumentRecord, new_id

room = Room("hardware")

#: What hardware is made of where nothing else is said.
_MATERIAL = "S235"


@room.route("GET", "/hardware", answer=StandardsView)
def standards() -> Any:
    """The standards of hardware there are."""
    return {
        "standards": [
            {
                "standard": s.standard, "label": s.label, "role": s.role, "system": s.system,
                "sizes": list(s.sizes), "lengths": bool(s.lengths(next(iter(s.sizes)))),
            }
            for s in sorted(STANDARDS.values(), key=lambda s: s.order)
        ]
    }  # fmt: skip


@dataclass(frozen=True)
class _Put:
    """What goes in, the documents it needs besides those there are, and the commands that do it."""

    site: Site
    stack: Stack
    fresh: dict[str, Document]
    commands: list[dict[str, Any]]


def _put(record: DocumentRecord, body: HardwareWish, name: Callable[[], str]) -> _Put:
    document = record.document
    if not isinstance(document, Assembly):
        raise NotAllowed("hardware is put into holes of an assembly")
    work = services()
    _, request = work.builds.request(record.project, document)
    end = body.end.model_dump(mode="json")
    site = Site.from_json(
        work.builds.run("hardware_site", {"request": request, "end": end}, sticky=record.id)
    )
    wish = Wish(body.standard, body.size, body.length, body.washer, body.nut)
    bores = [Bore(s.diameter, s.start, s.end) for s in site.stretches]
    stack = stacked(wish, bores, site.exit is not None, site.diameter)
    known = {_is(r.document): r.id for r in work.store.documents_of(record.project)}
    fresh: dict[str, Document] = {}
    commands: list[dict[str, Any]] = []
    number, chosen = document.last_id, []
    for item in stack.items:
        id = known.get(_key(item))
        if id is None:
            id = known[_key(item)] = name()
            fresh[id] = _part(item)
        component = f"c{number + 1}"
        chosen.append(component)
        number += 2
        at = site.exit if item.far else end
        commands += [
            {"do": "add_component", "document": id, "name": item.name, "anchored": False},
            {"do": "add_joint", "kind": "fixed", "name": f"{item.name} on its seat", "a": at,
             "b": {"component": component, "datum": "s1"}, "offset": f"{item.height!r} mm"},
        ]  # fmt: skip
    if body.alike and site.alike:
        commands.append(
            {"do": "add_copies", "kind": "following", "components": chosen, "of": end,
             "name": f"{_main(stack, body).name} at all alike"}
        )  # fmt: skip
    return _Put(site, stack, fresh, commands)


def _main(stack: Stack, body: HardwareWish) -> Item:
    """The piece that was asked for, among what comes with it."""
    return next(i for i in stack.items if i.standard == body.standard)


def _key(item: Item) -> tuple[str, str, float]:
    return item.standard, item.size, round(item.length, 6)


def _is(document: Document) -> tuple[str, str, float] | None:
    """What piece of hardware a document is, where it is nothing else."""
    if not isinstance(document, Part) or len(document.steps) != 1:
        return None
    (step,) = document.steps
    if step.kind != "hardware" or step.asleep:
        return None
    standard = STANDARDS.get(step.fields.get("standard", "ISO 4762"))
    if standard is None:
        return None
    length, text = 0.0, str(step.fields.get("length", "20 mm"))
    if standard.lengths(next(iter(standard.sizes))):
        try:
            length = float(text.removesuffix("mm"))
        except ValueError:
            return None
    return standard.standard, step.fields.get("size", "M6"), round(length, 6)


def _part(item: Item) -> Document:
    fields: dict[str, Any] = {"standard": item.standard, "size": item.size}
    if item.length:
        fields["length"] = f"{item.length!r} mm"
    label = STANDARDS[item.standard].label
    step = {"id": "s1", "kind": "hardware", "name": label, "fields": fields}
    said = [{"name": "Description", "value": label}, {"name": "Standard", "value": item.standard}]
    return new_document(
        "part", item.title, material=_MATERIAL, steps=[step], last_id=1, properties=said
    )


@room.route("POST", "/documents/<id>/hardware/look", body=HardwareWish, answer=HardwareView)
def look(id: str, body: HardwareWish) -> Any:
    """What would go into a hole, and how all would stand; keeps nothing."""
    work = services()
    record = work.store.document(id)
    names = iter(range(100))
    put = _put(record, body, lambda: f"tried{next(names)}")
    changed, _ = work.builds.applied(record, put.commands)
    found = work.builds.show(id, record.project, changed, extra=put.fresh)
    found.pop("mechanism")
    main = _main(put.stack, body)
    return {
        "diameter": put.site.diameter,
        "bores": [vars(s) for s in put.site.stretches],
        "through": put.site.exit is not None,
        "alike": put.site.alike,
        "items": [{"title": i.title, "name": i.name, "far": i.far} for i in put.stack.items],
        "size": main.size,
        "sizes": put.stack.sizes,
        "length": main.length,
        "lengths": list(put.stack.lengths),
        "grip": put.stack.grip,
        "held": put.stack.held,
        "tapped": put.stack.tapped,
        "notes": put.stack.notes,
        "assembly": {**found, "revision": record.revision},
    }


@room.route("POST", "/documents/<id>/hardware", body=HardwareKept, answer=DocumentView)
def put_in(id: str, body: HardwareKept) -> DocumentView:
    """Put hardware into a hole, or into all alike; what the project does not have yet it gets."""
    work = services()
    record = work.store.document(id)
    if record.revision != body.base:
        # The store finds the words for what happened since.
        work.store.commit(id, body.base, record.document, "", None)
    put = _put(record, body, lambda: new_id("d"))
    for made, document in put.fresh.items():
        work.store.create_document(record.project, document, made)
    changed, _ = work.builds.applied(record, put.commands)
    label = f"put in {_main(put.stack, body).name}"
    kept = work.store.commit(id, body.base, changed, label[:80], {"commands": put.commands})
    work.events.publish("shelf")
    return tell(kept)

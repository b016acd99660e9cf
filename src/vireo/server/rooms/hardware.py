"""Screws, washers, nuts, pins and rings put into picked holes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from vireo.core.hardware.fastening import Wish
from vireo.core.hardware.kind import STANDARDS
from vireo.server.api import Room, services
from vireo.server.rooms.documents import tell
from vireo.server.views.documents import DocumentView
from vireo.server.views.hardware import HardwareKept, HardwareView, HardwareWish, StandardsView
from vireo.store.store import DocumentRecord, new_id
from vireo.work.fastening import Put, in_the_way
from vireo.work.fastening import put_in as put

room = Room("hardware")


def _put(record: DocumentRecord, body: HardwareWish, name: Callable[[], str]) -> tuple[Wish, Put]:
    wish = Wish(body.standard, body.size, body.length, body.washer, body.nut)
    work, end = services(), body.end.model_dump(mode="json")
    return wish, put(work.store, work.builds, record, end, wish, body.alike, name)


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


@room.route("POST", "/documents/<id>/hardware/look", body=HardwareWish, answer=HardwareView)
def look(id: str, body: HardwareWish) -> Any:
    """What would go into a hole, and how all would stand; keeps nothing."""
    work = services()
    record = work.store.document(id)
    names = iter(range(100))
    wish, found_in = _put(record, body, lambda: f"tried{next(names)}")
    changed, _ = work.builds.applied(record, found_in.commands)
    found = work.builds.show(id, record.project, changed, extra=found_in.fresh)
    found.pop("mechanism")
    main = found_in.stack.main(wish)
    return {
        "diameter": found_in.site.diameter,
        "bores": [vars(s) for s in found_in.site.stretches],
        "through": found_in.site.exit is not None,
        "alike": found_in.site.alike - len(found_in.site.unlike),
        "items": [{"title": i.title, "name": i.name, "far": i.far} for i in found_in.stack.items],
        "size": main.size,
        "sizes": found_in.stack.sizes,
        "length": main.length,
        "lengths": list(found_in.stack.lengths),
        "grip": found_in.stack.grip,
        "held": found_in.stack.held,
        "tapped": found_in.stack.tapped,
        "notes": [*found_in.stack.notes, *in_the_way(work.builds, record, found_in, changed)],
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
    wish, found = _put(record, body, lambda: new_id("d"))
    for made, document in found.fresh.items():
        work.store.create_document(record.project, document, made)
    changed, _ = work.builds.applied(record, found.commands)
    label = f"put in {found.stack.main(wish).name}"
    kept = work.store.commit(id, body.base, changed, label[:80], {"commands": found.commands})
    work.events.publish("shelf")
    return tell(kept)

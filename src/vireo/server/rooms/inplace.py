"""Parts made in place, in an assembly."""

from __future__ import annotations

from typing import Any

from vireo.core.documents import Document
from vireo.core.trouble import NotAllowed
from vireo.server.api import Room, services
from vireo.server.rooms.documents import tell
from vireo.server.views.inplace import (
    Begin,
    BegunView,
    InPlacesView,
    Renew,
    Renewed,
    RenewedView,
    Take,
    TakenView,
)
from vireo.store.store import new_id
from vireo.work.inplace import InPlace, as_assembly, begun, compared, made_in, renewed, taken

room = Room("in place")


@room.route("POST", "/documents/<id>/in-place", body=Begin, answer=BegunView)
def begin_in_place(id: str, body: Begin) -> BegunView:
    """Make a new part in an assembly, at a picked origin, moving with what that lies on."""
    work = services()
    record = work.store.document(id)
    if record.revision != body.base:
        # The store finds the words for what happened since.
        work.store.commit(id, body.base, record.document, "", None)
    made = new_id("d")
    part, commands = begun(
        work.builds, record, body.name.strip() or "Part", body.origin, body.turned, made
    )
    work.store.create_document(record.project, part, made)
    changed, _ = work.builds.applied(record, commands)
    kept = work.store.commit(
        id, body.base, changed, f"make {part.name} in place"[:80], {"commands": commands}
    )
    work.events.publish("shelf")
    component = next(c.id for c in as_assembly(kept).components if c.document == made)
    return BegunView(part=made, component=component, assembly=tell(kept))


@room.route("GET", "/documents/<id>/in-place", answer=InPlacesView)
def in_place(id: str) -> Any:
    """The parts of an assembly that take from what stands around them, and whether that is still
    so."""
    work = services()
    record = work.store.document(id)
    those = list(made_in(work.store, record))
    found = []
    for one, states in zip(those, compared(work.builds, record, those), strict=True):
        sources = [
            {"title": t["title"], **s}
            for t, s in zip(one.step.fields["taken"], states, strict=True)
        ]
        found.append(
            {
                "component": one.component.id, "name": one.component.name,
                "document": one.record.id, "step": one.step.id, "sources": sources,
                "fresh": all(s["state"] == "fresh" for s in states),
            }
        )  # fmt: skip
    return {"parts": found}


@room.route("POST", "/documents/<id>/in-place/take", body=Take, answer=TakenView)
def take_around(id: str, body: Take) -> Any:
    """Freeze what a component takes from around it, as it is now; the part keeps it with a step."""
    work = services()
    wanted = [w.model_dump(mode="json") for w in body.wanted]
    record = work.store.document(id)
    return {"taken": taken(work.builds, work.store, record, body.component, wanted)}


@room.route("POST", "/documents/<id>/in-place/look", body=Renew, answer=RenewedView)
def look_renewed(id: str, body: Renew) -> Any:
    """What bringing a part up to date would change; keeps nothing."""
    work = services()
    one, _, changed, left = _renewal(id, body)
    before = work.builds.build(one.record.id)
    after = work.builds.show(one.record.id, one.record.project, changed)
    failed = {s["id"] for s in before["steps"] if s["status"] == "failed"}
    return {
        "before": before["mass"],
        "after": after["mass"],
        "troubles": [s["error"] for s in after["steps"] if s["error"] and s["id"] not in failed],
        "left": left,
    }


@room.route("POST", "/documents/<id>/in-place/renew", body=Renew, answer=Renewed)
def renew(id: str, body: Renew) -> Renewed:
    """Have a part take anew what it takes from around it."""
    work = services()
    one, command, changed, left = _renewal(id, body)
    if changed == one.record.document:
        return Renewed(part=tell(one.record), left=left)
    kept = work.store.commit(
        one.record.id, one.record.revision, changed, f"bring {one.step.name} up to date"[:80],
        {"commands": [command]},
    )  # fmt: skip
    return Renewed(part=tell(kept), left=left)


def _renewal(id: str, body: Renew) -> tuple[InPlace, dict[str, Any], Document, list[str]]:
    """The part that takes, the command that has it take anew, what it is then, what is left as it was."""
    work = services()
    record = work.store.document(id)
    those = made_in(work.store, record)
    asked = (body.component, body.step)
    one = next((x for x in those if (x.component.id, x.step.id) == asked), None)
    if one is None:
        raise NotAllowed("this component takes nothing from around it here")
    command, left = renewed(work.builds, work.store, record, one)
    changed, _ = work.builds.applied(one.record, [command])
    return one, command, changed, left

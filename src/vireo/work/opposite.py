"""The opposite of a part: what is left where that is right. It takes the bodies of the part as in a
mirror, and follows it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from vireo.core.documents import Document, new_document
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.documents.kinds.part import Part
from vireo.core.trouble import NotAllowed
from vireo.store import DocumentRecord, Store
from vireo.store.store import new_id
from vireo.work.builds import Builds
from vireo.work.inplace import as_assembly

#: The plane of its own every part is mirrored in; where it stands makes up for the choice.
PLANE = "YZ"


def opposite_document(part: Part, id: str) -> Document:
    """The part that is the mirror image of one, which is known by `id`."""
    step = {
        "id": "s1", "kind": "taken", "name": f"Mirrored {part.name}"[:80],
        "fields": {"document": id, "which": "", "mirrored": PLANE},
    }  # fmt: skip
    return new_document(
        "part", f"{part.name}, opposite"[:80], units=part.units, material=part.material,
        steps=[step], last_id=1,
    )  # fmt: skip


def _mirrors(document: Document, id: str) -> bool:
    """Whether a part is nothing but the mirror image of another."""
    if not isinstance(document, Part) or len(document.steps) != 1:
        return False
    (step,) = document.steps
    fields = step.fields
    return (
        step.kind == "taken" and not step.asleep and fields["document"] == id
        and not fields["which"] and fields.get("mirrored") == PLANE
    )  # fmt: skip


def opposed(
    builds: Builds,
    store: Store,
    record: DocumentRecord,
    components: Sequence[str],
    of: JointEnd | None,
    axis: str,
) -> tuple[list[tuple[str, Document]], list[dict[str, Any]]]:
    """Parts to be made, with what they are to be called by, and the commands that put the opposites of
    some components on the other side of a plane: a picked one, or that across an axis of the assembly.
    An opposite that is there already is taken. Raises NotAllowed for what is no part."""
    assembly: Assembly = as_assembly(record)
    others = {r.id: r.document for r in store.documents_of(record.project)}
    known = {c.id: c for c in assembly.components}
    fresh: dict[str, tuple[str, Document]] = {}
    _, request = builds.request(record.project, assembly)
    ask = {
        "request": request, "components": list(components), "axis": axis,
        "of": of.model_dump(mode="json") if of else None,
    }  # fmt: skip
    places = builds.run("opposite_at", ask, sticky=record.id)
    commands = []
    for id, placement in zip(components, places, strict=True):
        component = known.get(id)
        part = others.get(component.document) if component else None
        if component is None or not isinstance(part, Part):
            what = component.name if component else "what is copied"
            raise NotAllowed(f"{what} is no part: the opposite is made of single parts")
        if component.choice is not None:
            raise NotAllowed(
                f"{component.name} is a variant, and an opposite follows its part as drawn: make the "
                "opposite of the part in its own table, or place the same part anew"
            )
        there = next((k for k, d in others.items() if _mirrors(d, component.document)), None)
        if there is None and component.document not in fresh:
            fresh[component.document] = (new_id("d"), opposite_document(part, component.document))
        commands.append(
            {
                "do": "add_component", "document": there or fresh[component.document][0],
                "name": f"{component.name}, opposite"[:80], "anchored": component.anchored,
                "placement": placement,
            }
        )  # fmt: skip
    return list(fresh.values()), commands

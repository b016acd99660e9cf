"""Hardware put into picked holes: what goes in, the parts it needs, the commands that do it."""

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
from vireo.core.naming.grammar import original_of
from vireo.core.trouble import NotAllowed
from vireo.store import DocumentRecord, Store
from vireo.work.builds import Builds

#: What hardware is made of where nothing else is said.
_MATERIAL = "S235"


@dataclass(frozen=True)
class Put:
    """What goes in, the documents it needs besides those there are, and the commands that do it."""

    site: Site
    stack: Stack
    fresh: dict[str, Document]
    commands: list[dict[str, Any]]


def put_in(
    store: Store,
    builds: Builds,
    record: DocumentRecord,
    end: dict[str, Any],
    wish: Wish,
    alike: bool,
    name: Callable[[], str],
) -> Put:
    """What goes into the hole a picked edge (`end`) is the mouth of; `name` gives ids to the parts
    that are not in the project yet. Changes nothing. Raises Trouble."""
    document = record.document
    if not isinstance(document, Assembly):
        raise NotAllowed("hardware is put into holes of an assembly")
    _, request = builds.request(record.project, document)
    site = Site.from_json(
        builds.run("hardware_site", {"request": request, "end": end}, sticky=record.id)
    )
    bores = [Bore(s.diameter, s.start, s.end) for s in site.stretches]
    stack = stacked(wish, bores, site.exit is not None, site.diameter)
    known = {_is(r.document): r.id for r in store.documents_of(record.project)}
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
    if alike and site.unlike:
        stack.notes.append(
            f"{len(site.unlike)} of the {site.alike} holes alike lead through something else: left out"
        )
    if alike and site.alike > len(site.unlike):
        commands.append(
            {"do": "add_copies", "kind": "following", "components": chosen, "of": end,
             "name": f"{stack.main(wish).name} at all alike", "left_out": list(site.unlike)}
        )  # fmt: skip
    return Put(site, stack, fresh, commands)


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


def in_the_way(builds: Builds, record: DocumentRecord, put: Put, changed: Document) -> list[str]:
    """What the hardware would overlap with, asked of the true solids and not of what it was chosen by;
    a thread in the part it is cut into is none."""
    fresh = [c["b"]["component"] for c in put.commands if c["do"] == "add_joint"]
    _, request = builds.request(record.project, changed, extra=put.fresh)
    ask = {"request": request, "components": fresh}
    told: dict[str, float] = {}
    for clash in builds.run("in_the_way", ask, sticky=record.id):
        inner = all(original_of(c) in fresh for c in clash["components"])
        if not inner and clash["volume"] <= 1.02 * put.stack.bite + 1e-3:
            continue
        words = " and ".join(clash["names"])
        told[words] = max(told.get(words, 0.0), clash["volume"])
    most = sorted(told.items(), key=lambda x: -x[1])
    found = [f"{words} overlap by {volume:.4g} mm³" for words, volume in most[:3]]
    return found + ([f"{len(most) - 3} more pairs overlap"] if len(most) > 3 else [])

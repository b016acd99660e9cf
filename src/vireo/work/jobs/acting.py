"""What of a request decides what stands, moves and clashes in an assembly."""

from __future__ import annotations

from typing import Any

from vireo.core.documents.base import dump
from vireo.core.documents.content import deciding
from vireo.core.documents.kind import load_document
from vireo.core.documents.kinds.assembly import Assembly, looked_at_only, without
from vireo.work.jobs.kind import Json


def acting(request: Json) -> Any:
    """`deciding` without components that are only there to be looked at: to bring one in, such as the
    envelope a run gave, makes no answer old."""
    request = {**request}
    members = {id: acting(of) for id, of in request.pop("members", {}).items()}
    found = _acting(request)
    return [found, members] if members else found


def _acting(request: Json) -> Any:
    assembly = load_document(request["document"])
    assert isinstance(assembly, Assembly)
    aside = looked_at_only(assembly)
    if not aside:
        return deciding(request)
    assembly = without(assembly, aside)
    return deciding(
        {
            **request,
            "document": dump(assembly),
            "documents": _reached(assembly, request["documents"]),
        }
    )


def _reached(assembly: Assembly, documents: Json) -> Json:
    """Of documents those an assembly is made of, and what they are made of."""
    found: Json = {}
    left = [c.key for c in assembly.components]
    while left:
        key = left.pop()
        if key in found or key not in documents:
            continue
        found[key] = documents[key]
        if "assembly" in documents[key]:
            inner = load_document(documents[key]["assembly"])
            assert isinstance(inner, Assembly)
            left += [c.key for c in inner.components]
    return found

"""What of a document decides answers: the same content gives the same answer, so that saving a view,
renaming or colouring asks nothing anew."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from typing import Any, TypeVar

from vireo.core.digest import digest
from vireo.core.documents.base import Document
from vireo.core.documents.kind import kind_of, load_document
from vireo.core.quantity import (
    FormulaError,
    evaluate,
    evaluate_parameters,
    names_in,
    rename_in,
    with_formulas,
)

D = TypeVar("D", bound=Document)
Json = dict[str, Any]
#: What of a material decides answers.
_PHYSICAL = ("density", "young", "poisson", "strength")
#: What of it decides how it looks in a file, too.
SEEN = (*_PHYSICAL, "colour", "name")
#: Parts of requests that say how an answer is found, not which it is.
_ASIDE = frozenset({"doomed", "search", "project"})


def alone(document: D) -> D:
    """The document as it stands, without the members it could be."""
    return document.model_copy(update={"columns": (), "variants": (), "options": ()})


def valued(document: D) -> D:
    """The document with its formulas put as the values they have now: neither names nor notation of
    parameters decide an answer."""
    # What else it could be decides nothing of what it is.
    document = alone(document)
    found = evaluate_parameters(document.parameters)
    values = {n: e.value for n, e in found.items() if e.value is not None}

    def put(formula: str) -> str:
        try:
            value = evaluate(formula, values)
            return f"{value.value!r} {value.dimension.name}"
        except FormulaError:
            pass
        # It needs what is read off the model later on: of what is known only the values count.
        with suppress(FormulaError):
            for name in sorted(names_in(formula) & values.keys()):
                value = values[name]
                token = f"known_{digest([value.value, value.dimension.name])}"
                formula = rename_in(formula, name, token)
        return formula

    return with_formulas(document, put)


def content_of(document: Document) -> Json:
    """What of a document decides answers about its shape, place or strength."""
    return kind_of(document).content(valued(document))


def written_of(document: Document) -> Json:
    """What of a document decides a file of it: names, colours and properties, too."""
    own = type(document).model_fields.keys() - Document.model_fields.keys()
    return valued(document).model_dump(mode="json", include={*own, "name", "properties"})


def deciding(
    request: Any, of: Callable[[Document], Json] = content_of, matters: tuple[str, ...] = _PHYSICAL
) -> Any:
    """A request to build something without what does not decide the answer: `of` its documents, and what of
    materials `matters`."""
    if isinstance(request, list):
        return [deciding(v, of, matters) for v in request]
    if not isinstance(request, dict):
        return request
    found = {}
    for key, value in request.items():
        if key in _ASIDE:
            continue
        if key in ("document", "assembly") and isinstance(value, dict) and "kind" in value:
            found[key] = of(load_document(value))
        elif key == "materials":
            found[key] = {id: {k: m[k] for k in matters} for id, m in value.items()}
        else:
            found[key] = deciding(value, of, matters)
    return found

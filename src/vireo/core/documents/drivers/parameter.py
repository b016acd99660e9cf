"""A parameter of the document."""

from __future__ import annotations

from vireo.core.documents.base import Amount, Cell, Document
from vireo.core.documents.driver import Driven, Driver, Of, put, register, swapped
from vireo.core.quantity import Parameter, evaluate_parameters


def _called(document: Document, of: Of) -> Parameter | None:
    return next((p for p in document.parameters if p.name == of["name"]), None)


@register
class ParameterDriver(Driver[Document]):
    kind = "parameter"
    of = ("name",)
    reaches = False

    def driven(self, document: Document, of: Of) -> Driven | None:
        if _called(document, of) is None:
            return None
        value = evaluate_parameters(document.parameters)[of["name"]].value
        dimension = value.dimension.name if value is not None else None
        return Driven(of["name"], "number", f"parameter:{of['name']}", dimension)

    def read(self, document: Document, of: Of) -> Cell:
        found = _called(document, of)
        assert found is not None
        return Amount(formula=found.formula)

    def write(self, document: Document, of: Of, cell: Amount) -> Document:
        found = _called(document, of)
        changed = put(found, formula=cell.formula)
        made: Document = put(document, parameters=swapped(document.parameters, found, changed))
        return made

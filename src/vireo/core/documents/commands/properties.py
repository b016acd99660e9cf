"""Commands on properties: what lists say of a document besides its name."""

from __future__ import annotations

from typing import Literal

from vireo.core.documents.base import Document, Property
from vireo.core.documents.commands.base import Command, command, update
from vireo.core.trouble import BadInput, NotAllowed


def _checked(found: Property) -> Property:
    """Raises BadInput for a value its kind does not take."""
    text = found.value.strip()
    if found.kind == "number" and text:
        try:
            float(text.replace(",", "."))
        except ValueError as error:
            raise BadInput(f"{found.name} is a number, not “{text}”") from error
    if found.kind == "yes_no" and text not in ("", "yes", "no"):
        raise BadInput(f"{found.name} is yes or no, not “{text}”")
    return Property(name=found.name.strip(), kind=found.kind, value=text)


@command
class SetProperty(Command):
    """Say something of a document, or say it anew. What kind of value it takes stays unless another
    is given."""

    do: Literal["set_property"] = "set_property"
    name: str
    value: str = ""
    kind: Literal["text", "number", "yes_no"] | None = None

    def apply(self, document: Document) -> Document:
        name = self.name.strip()
        known = next((p for p in document.properties if p.name == name), None)
        kind = self.kind or (known.kind if known else "text")
        made = _checked(Property(name=name, kind=kind, value=self.value))
        if known is None:
            return update(document, properties=(*document.properties, made))
        kept = tuple(made if p is known else p for p in document.properties)
        return update(document, properties=kept)

    def label(self) -> str:
        return f"set {self.name}"


@command
class RemoveProperty(Command):
    do: Literal["remove_property"] = "remove_property"
    name: str

    def apply(self, document: Document) -> Document:
        rest = tuple(p for p in document.properties if p.name != self.name)
        if len(rest) == len(document.properties):
            there = ", ".join(p.name for p in document.properties) or "none"
            raise NotAllowed(f"there is no property {self.name} here; there is {there}")
        return update(document, properties=rest)

    def label(self) -> str:
        return f"remove {self.name}"

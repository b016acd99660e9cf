"""The contract of a step kind and the registry they enter by being imported.

A kind is one file in `vireo.core.steps`: fields, `build`, icon, group. Nothing else in the
product lists kinds.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar, Generic, TypeVar

from pydantic import BaseModel, ValidationError

from vireo.core.declared.fields import StepFields, told_of
from vireo.core.declared.reading import unreadable
from vireo.core.naming.grammar import is_body
from vireo.core.registry import Registry

F = TypeVar("F", bound=StepFields)


class StepKind(Generic[F]):
    """Subclass, set the class attributes, write `build`, decorate with `register`."""

    #: Stored in documents; never changes once released.
    kind: ClassVar[str]
    #: Raise when the same fields would build something else, so that kept results expire.
    version: ClassVar[int] = 1
    label: ClassVar[str]
    #: Which verb of the rail it stands under.
    group: ClassVar[str]
    icon: ClassVar[str]
    #: Where in its fly-out it stands: what is used most comes first.
    order: ClassVar[int] = 50
    #: One plain line for the fly-out.
    line: ClassVar[str]
    Fields: ClassVar[type[StepFields]]
    #: The forms of body it works on; others are only looked at.
    forms: ClassVar[tuple[str, ...]] = ("solid",)
    #: Whether copies can do it again elsewhere.
    copyable: ClassVar[bool] = False
    #: Fields whose picks it treats: with them copies do it again on the copied faces and edges.
    works_on: ClassVar[tuple[str, ...]] = ()
    #: How a script adds it, to a part with a block of 60 x 40 x 20: run by the tests.
    example: ClassVar[str] = ""
    #: The fields shown on the card.
    deciding: ClassVar[tuple[str, ...]] = ()

    def build(self, fields: F, ctx: Any) -> Any:
        """An `Outcome` (`core.part.products`) made of what the `Context` (`core.part.context`)
        lets it read. Raises StepTrouble and LostPick."""
        raise NotImplementedError

    def uses(self, fields: F) -> set[str]:
        """Ids of the steps the fields name outright (sketches); picks are found by the build."""
        found = set()
        for name, meta in told_of(type(fields)).items():
            type_, value = meta.get("type"), getattr(fields, name)
            if type_ == "sketch":
                found |= {value} - {""}
            elif type_ in ("steps", "sketches"):
                found.update(value)
            elif type_ == "bodies":
                found.update(id for id in value if not is_body(id))
            elif type_ == "picks":
                found.update(p.name[0] for p in value if p.kind == "set")
            elif meta.get("datums") and value.startswith("step:"):
                found.add(value[5:])
        return found

    def files(self, fields: Mapping[str, Any]) -> set[str]:
        """Ids of the stored files the stored fields speak of."""
        file = fields.get("file")
        return {file} if isinstance(file, str) else set()

    def documents(self, fields: Mapping[str, Any]) -> set[str]:
        """Other parts, or members of them, the stored fields take from: what they are looked up by
        (`documents.base.member_key`)."""
        return set()

    def caption(self, fields: F) -> str:
        """What the card says when no number decides, such as ``12 curves``."""
        return ""


KINDS: Registry[StepKind[Any]] = Registry("step", "vireo.core.steps")


def register(cls: type[StepKind[F]]) -> type[StepKind[F]]:
    KINDS.add(cls.kind, cls())
    return cls


def kind_called(name: str) -> StepKind[Any]:
    """The registered kind. Raises BadInput when there is none."""
    return KINDS.called(name)


def checked_fields(kind_name: str, data: dict[str, Any]) -> dict[str, Any]:
    """Fields validated by their kind and written out in full. Raises BadInput."""
    kind = kind_called(kind_name)
    try:
        fields = kind.Fields.model_validate(data)
    except ValidationError as error:
        raise unreadable(kind.label, error, kind.Fields) from error
    return fields.model_dump(mode="json")


def all_kinds() -> list[StepKind[Any]]:
    """Every registered kind, in the order fly-outs show them."""
    return sorted(KINDS.values(), key=lambda k: k.order)


def describe(kind: StepKind[Any]) -> dict[str, Any]:
    """All the interface needs to offer, edit and explain a kind."""
    fields = []
    for name, meta in told_of(kind.Fields).items():
        spec = kind.Fields.model_fields[name]
        default = None if spec.is_required() else spec.default
        if isinstance(default, BaseModel):
            default = default.model_dump(mode="json")
        fields.append({"name": name, "default": default, **meta})
    return {
        "kind": kind.kind,
        "label": kind.label,
        "group": kind.group,
        "icon": kind.icon,
        "line": kind.line,
        "deciding": list(kind.deciding),
        "copyable": kind.copyable,
        "fields": fields,
    }

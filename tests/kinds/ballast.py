"""A kind of document: weights hung on a part."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from pydantic import Field

from vireo.core.documents.base import Data, Document, Id, Name, dump
from vireo.core.documents.commands.base import Command, command, update
from vireo.core.documents.kind import (
    CHECKS,
    NOTES,
    Around,
    DocumentKind,
    Group,
    Json,
    all_but,
    load_document,
    register,
)
from vireo.core.quantity import Formula, evaluate, evaluate_parameters
from vireo.work.tasks.part import parameter_views
from vireo.work.worker import Bench, task


class Weight(Data):
    id: Id
    name: Name
    mass: Formula


class Ballast(Document):
    kind: Literal["ballast"] = "ballast"
    part: str = Field(default="", max_length=40)
    weights: tuple[Weight, ...] = Field(default=(), max_length=50)


@register
class BallastKind(DocumentKind[Ballast]):
    kind = "ballast"
    model = Ballast
    label, icon = "Ballast", "force"
    line = "Weights hung on a part"
    groups = (Group("weights", "w", "weight", "add_weight", all_but()), CHECKS, NOTES)

    def refers(self, document: Ballast) -> set[str]:
        return {document.part} - {""}

    def redirected(self, data: Json, fresh: Mapping[str, str]) -> Json:
        return {**data, "part": fresh.get(data["part"], data["part"])}

    def content(self, document: Ballast) -> Json:
        return {"weights": [w.mass for w in document.weights]}

    def made(self, given: Mapping[str, Any], defaults: Mapping[str, Any]) -> Json:
        return {"part": given.get("part") or ""}

    def request(
        self, document: Ballast, around: Around, upto: int | None = None
    ) -> tuple[str, Json]:
        return "ballast", {"document": dump(document)}

    def given(self, document: Ballast, variables: Mapping[str, str]) -> list[str]:
        return [f"part={variables[document.part]}"] if document.part in variables else []


@command
class AddWeight(Command):
    on: ClassVar[tuple[str, ...]] = ("ballast",)
    do: Literal["add_weight"] = "add_weight"
    mass: Formula
    name: str = "Weight"

    def apply(self, document: Ballast) -> Document:
        number = document.last_id + 1
        new = Weight(id=f"w{number}", name=self.name, mass=self.mass)
        return update(document, weights=(*document.weights, new), last_id=number)


@task("ballast")
def ballast(bench: Bench, request: Json) -> Json:
    """The masses of the weights, g."""
    document = load_document(request["document"])
    assert isinstance(document, Ballast)
    found = evaluate_parameters(document.parameters)
    names = {n: e.value for n, e in found.items() if e.value is not None}
    masses = {w.id: evaluate(w.mass, names).value * 1e3 for w in document.weights}
    return {
        "masses": masses,
        "parameters": parameter_views(found, request["document"]),
    }

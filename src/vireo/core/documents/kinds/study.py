"""A study: linear static strength of one body of a part."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import Field, model_validator

from vireo.core.documents.base import Data, Document, Id, Name, dump
from vireo.core.documents.kind import (
    CHECKS,
    MEMBERS,
    NOTES,
    Around,
    Command,
    DocumentKind,
    Faults,
    Group,
    Json,
    all_but,
    register,
)
from vireo.core.documents.kinds.part import Part, part_request
from vireo.core.naming import Pick
from vireo.core.quantity import Formula
from vireo.core.trouble import BadInput


class Support(Data):
    """Faces and edges that are held.

    `all` holds them still, `across` lets faces slide in themselves (rollers, planes of
    symmetry), `chosen` holds the ticked ones of X, Y and Z.
    """

    id: Id
    name: Name
    faces: tuple[Pick, ...] = Field(default=(), max_length=500)
    edges: tuple[Pick, ...] = Field(default=(), max_length=500)
    hold: Literal["all", "across", "chosen"] = "all"
    ways: tuple[bool, bool, bool] = (True, True, True)

    @model_validator(mode="after")
    def _sensible(self) -> Support:
        if not self.faces and not self.edges:
            raise BadInput("a support needs the faces or edges it holds")
        if self.hold == "across" and self.edges:
            raise BadInput("an edge has no face to slide in; choose the directions it is held in")
        if self.hold == "chosen" and not any(self.ways):
            raise BadInput("this support holds no direction; tick X, Y or Z")
        return self


class Load(Data):
    """A force spread over faces (N, in X, Y, Z), a pressure on faces, or gravity."""

    id: Id
    kind: Literal["force", "pressure", "gravity"]
    name: Name
    faces: tuple[Pick, ...] = Field(default=(), max_length=500)
    size: Formula
    direction: tuple[float, float, float] = (0.0, 0.0, -1.0)


class Study(Document):
    """Linear static strength of one body of a part."""

    kind: Literal["study"] = "study"
    part: str = Field(max_length=40)
    supports: tuple[Support, ...] = Field(default=(), max_length=200)
    loads: tuple[Load, ...] = Field(default=(), max_length=200)
    #: Element size; None lets the mesher choose for the part.
    mesh_size: Formula | None = None


@register
class StudyKind(DocumentKind[Study]):
    kind = "study"
    model = Study
    label, icon = "Study", "study"
    line = "Stresses and safety of a part under load, held where it is held"
    groups = (
        Group("supports", "u", "support", "add_support", all_but()),
        Group("loads", "f", "load", "add_load", all_but()),
        CHECKS,
        NOTES,
        *MEMBERS,
    )
    picture = "study_thumbnail"
    viewed = False
    order = 30

    def refers(self, document: Study) -> set[str]:
        return {document.part}

    def redirected(self, data: Json, fresh: Mapping[str, str]) -> Json:
        return {**data, "part": fresh.get(data["part"], data["part"])}

    def content(self, document: Study) -> Json:
        """What holds and loads the part, and how finely it is meshed."""
        return {
            "supports": [s.model_dump(mode="json", exclude={"name"}) for s in document.supports],
            "loads": [x.model_dump(mode="json", exclude={"name"}) for x in document.loads],
            "mesh_size": document.mesh_size,
        }

    def made(self, given: Mapping[str, Any], defaults: Mapping[str, Any]) -> Json:
        if given.get("part") is None:
            raise BadInput("a study needs the part it looks at")
        return {"part": given["part"]}

    def request(self, document: Study, around: Around, upto: int | None = None) -> tuple[str, Json]:
        part = around.other(document.part)
        if not isinstance(part, Part):
            raise BadInput("a study looks at a part")
        return "study", {"document": dump(document), "part": part_request(part, around)}

    def faults(self, document: Study, built: Json) -> Faults:
        return {
            " ".join(t["where"]) or t["text"]: (document.name, t["text"]) for t in built["troubles"]
        }

    def given(self, document: Study, variables: Mapping[str, str]) -> list[str]:
        return [variables.get(document.part, repr(document.part))]

    def last(self, data: Json) -> list[Command]:
        if data["mesh_size"] is None:
            return []
        return [{"do": "set_mesh", "size": data["mesh_size"]}]

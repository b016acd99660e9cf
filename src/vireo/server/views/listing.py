"""Lists of what an assembly is made of."""

from __future__ import annotations

from pydantic import BaseModel

from vireo.core.documents.base import Choice


class PartsLineView(BaseModel):
    """A document that stands in the assembly `quantity` times; masses in g. `components` are those
    of the top level it stands in."""

    position: str
    document: str
    kind: str
    name: str
    #: The member of the document it is; nothing where it is as drawn.
    variant: str
    choice: Choice
    level: int
    quantity: int
    mass: float
    total: float
    material: str
    properties: dict[str, str]
    tags: list[str]
    components: list[str]


class PartsListView(BaseModel):
    """`columns` are the names of all properties any line has."""

    columns: list[str]
    lines: list[PartsLineView]

"""Documents and words of kinds as views show them: what the registry of documents holds, no list
kept beside it."""

from __future__ import annotations

from typing import Annotated, Any, Union

from pydantic import AfterValidator, GetCoreSchemaHandler, GetJsonSchemaHandler, TypeAdapter
from pydantic_core import CoreSchema, core_schema

from vireo.core.documents import DOCUMENT_KINDS, Document


class _OneOfKinds:
    """A document of any registered kind."""

    def __get_pydantic_core_schema__(
        self, source: Any, handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        return core_schema.is_instance_schema(
            Document,
            serialization=core_schema.plain_serializer_function_ser_schema(
                lambda document: document.model_dump(mode="json")
            ),
        )

    def __get_pydantic_json_schema__(
        self, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> dict[str, Any]:
        models = tuple(DOCUMENT_KINDS[k].model for k in sorted(DOCUMENT_KINDS))
        every: Any = Union[models]  # noqa: UP007  (made at run time)
        return handler(TypeAdapter(every).core_schema)


AnyDocument = Annotated[Document, _OneOfKinds()]


class _KindWords:
    """Its words in the schema."""

    def __get_pydantic_json_schema__(
        self, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> dict[str, Any]:
        return {"type": "string", "enum": sorted(DOCUMENT_KINDS)}


def _known(word: str) -> str:
    DOCUMENT_KINDS.called(word)
    return word


#: The word of a kind of document.
KindWord = Annotated[str, AfterValidator(_known), _KindWords()]

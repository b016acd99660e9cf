"""Documents: parts, assemblies and studies as plain data, and the commands that edit them."""

from vireo.core.documents.model import (
    Assembly,
    Document,
    Part,
    Step,
    Study,
    load_document,
    new_document,
)

__all__ = ["Assembly", "Document", "Part", "Step", "Study", "load_document", "new_document"]

"""Documents as plain data, and the commands that edit them. Each kind is a file in `kinds`."""

from vireo.core.documents.base import Check, Document, dump
from vireo.core.documents.kind import DOCUMENT_KINDS, kind_of, load_document, new_document

__all__ = [
    "DOCUMENT_KINDS",
    "Check",
    "Document",
    "dump",
    "kind_of",
    "load_document",
    "new_document",
]

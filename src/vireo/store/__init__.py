"""Projects, documents, revisions, blobs and jobs in SQLite. Knows the core, no web, no kernel."""

from vireo.store.store import (
    CheckRecord,
    DocumentRecord,
    JobRecord,
    NotFound,
    Stale,
    Store,
    Written,
)

__all__ = ["CheckRecord", "DocumentRecord", "JobRecord", "NotFound", "Stale", "Store", "Written"]

"""Projects, documents, revisions, blobs and jobs in SQLite. Knows the core, no web, no kernel."""

from vireo.store.store import DocumentRecord, JobRecord, NotFound, Stale, Store

__all__ = ["DocumentRecord", "JobRecord", "NotFound", "Stale", "Store"]

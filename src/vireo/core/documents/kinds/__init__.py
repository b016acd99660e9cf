"""One file per kind of document."""

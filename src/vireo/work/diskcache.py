"""Bytes kept on disk by name, for results that are costly to make again.

Losing any of it costs time, never work: a full disk is noted, not raised.
"""

from __future__ import annotations

import hashlib
import os
import tempfile
from pathlib import Path

MOST_BYTES = 4 * 1024**3


class DiskCache:
    def __init__(self, folder: Path) -> None:
        self.folder = folder
        #: Why the last write failed, or None.
        self.trouble: str | None = None

    def _path(self, name: str) -> Path:
        digest = hashlib.sha256(name.encode()).hexdigest()
        return self.folder / digest[:2] / digest[2:]

    def get(self, name: str) -> bytes | None:
        try:
            return self._path(name).read_bytes()
        except OSError:
            return None

    def has(self, name: str) -> bool:
        return self._path(name).exists()

    def put(self, name: str, data: bytes) -> None:
        """Whole or not at all: written beside, then renamed."""
        path = self._path(name)
        temporary = None
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=".new-")
            with os.fdopen(handle, "wb") as file:
                file.write(data)
            os.replace(temporary, path)
            self.trouble = None
        except OSError as error:
            self.trouble = error.strerror or str(error)
            if temporary:
                Path(temporary).unlink(missing_ok=True)

    def prune(self, most: int = MOST_BYTES) -> int:
        """Drop the oldest files until at most `most` bytes are left. Returns bytes dropped."""
        files = []
        for path in self.folder.glob("*/*"):
            try:
                found = path.stat()
            except OSError:
                continue
            files.append((found.st_mtime, found.st_size, path))
        excess = sum(f[1] for f in files) - most
        dropped = 0
        for _, size, path in sorted(files):
            if dropped >= excess:
                break
            path.unlink(missing_ok=True)
            dropped += size
        return dropped

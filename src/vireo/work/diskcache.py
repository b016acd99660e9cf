"""Bytes kept on disk by name, for results that are costly to make again.

Losing any of it costs time, never work: a full disk is noted, not raised.
"""

from __future__ import annotations

import hashlib
import os
import tempfile
import time
from pathlib import Path

MOST_BYTES = 4 * 1024**3
#: A file read within this (s) is not noted as read again.
_FRESH = 3600.0


class DiskCache:
    """`most` is about how many bytes are kept: when a sixteenth of that was written, what was not
    asked for longest goes."""

    def __init__(self, folder: Path, most: int = MOST_BYTES) -> None:
        self.folder = folder
        self._most, self._written = most, 0
        #: Why the last write failed, or None.
        self.trouble: str | None = None

    def _path(self, name: str) -> Path:
        digest = hashlib.sha256(name.encode()).hexdigest()
        return self.folder / digest[:2] / digest[2:]

    def get(self, name: str) -> bytes | None:
        path = self._path(name)
        try:
            data = path.read_bytes()
            if time.time() - path.stat().st_mtime > _FRESH:
                os.utime(path)
            return data
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
            self._written += len(data)
        except OSError as error:
            self.trouble = error.strerror or str(error)
            if temporary:
                Path(temporary).unlink(missing_ok=True)
        if self._written > self._most // 16:
            self.prune()

    def prune(self) -> int:
        """Drop what was not asked for longest until it fits. Returns bytes dropped."""
        self._written = 0
        files = []
        for path in self.folder.glob("*/*"):
            try:
                found = path.stat()
            except OSError:
                continue
            files.append((found.st_mtime, found.st_size, path))
        excess = sum(f[1] for f in files) - self._most
        dropped = 0
        for _, size, path in sorted(files):
            if dropped >= excess:
                break
            path.unlink(missing_ok=True)
            dropped += size
        return dropped

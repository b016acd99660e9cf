"""The content key of plain JSON data."""

from __future__ import annotations

import hashlib
import json
from typing import Any


def digest(data: Any) -> str:
    """The same data gives the same key, whatever the order of its fields.

    >>> digest({"a": 1, "b": 2}) == digest({"b": 2, "a": 1})
    True
    """
    text = json.dumps(data, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()[:32]

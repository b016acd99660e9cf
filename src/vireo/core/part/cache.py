"""Results of steps kept by content: in memory, and below that wherever bytes can be kept."""

from __future__ import annotations

import json
from collections import OrderedDict
from typing import Any, Protocol

from vireo.core.kernel.shape import Body


class Bytes(Protocol):
    """A place for bytes by name. `put` may fail to keep them; `get` then gives None."""

    def get(self, name: str) -> bytes | None: ...

    def put(self, name: str, data: bytes) -> None: ...


class Gone(Exception):
    """A body a kept result speaks of is no longer there; the step has to run again."""


#: At most so many traces are kept of a step with the same fields: its outcomes on as many bodies before
#: it, as the members of a family have them.
_TRACES = 64


class Cache:
    """Traces (what a step read and made) and bodies, newest kept in memory."""

    def __init__(self, below: Bytes | None = None, bodies: int = 400, traces: int = 20_000) -> None:
        self._below = below
        self._bodies: OrderedDict[str, Body] = OrderedDict()
        self._traces: OrderedDict[str, list[dict[str, Any]]] = OrderedDict()
        self._most_bodies, self._most_traces = bodies, traces

    def traces(self, key: str) -> list[dict[str, Any]]:
        """All that is known of a step with these fields: each with its reads and its record."""
        if key not in self._traces:
            raw = self._below.get(f"trace-{key}") if self._below else None
            self._traces[key] = _loaded(raw)
            while len(self._traces) > self._most_traces:
                self._traces.popitem(last=False)
        self._traces.move_to_end(key)
        return self._traces[key]

    def fresh_traces(self, key: str) -> list[dict[str, Any]]:
        """Traces of a step that another process has kept since they were read here."""
        known = self.traces(key)
        raw = self._below.get(f"trace-{key}") if self._below else None
        reads = [t["reads"] for t in known]
        fresh = [t for t in _loaded(raw) if t["reads"] not in reads]
        self._traces[key] = [*known, *fresh][:_TRACES]
        return fresh

    def keep_trace(self, key: str, trace: dict[str, Any]) -> None:
        # With what others have kept meanwhile: members of a document are built side by side.
        every = [*self.traces(key), *self.fresh_traces(key)]
        known = [t for t in every if t["reads"] != trace["reads"]]
        self._traces[key] = [trace, *known][:_TRACES]
        if self._below:
            self._below.put(f"trace-{key}", json.dumps(self._traces[key]).encode())

    def body(self, key: str) -> Body:
        """Raises Gone when it is kept nowhere any more."""
        if key in self._bodies:
            self._bodies.move_to_end(key)
            return self._bodies[key]
        raw = self._below.get(f"body-{key}") if self._below else None
        if raw is None:
            raise Gone(key)
        try:
            cut = int.from_bytes(raw[:4], "little")
            names = tuple(json.loads(raw[4 : 4 + cut]))
            body = Body.from_bytes(raw[4 + cut :], names)
        except Exception as error:  # a damaged file: the kernel raises all sorts
            raise Gone(key) from error
        self._remember(key, body)
        return body

    def keep_body(self, key: str, body: Body) -> None:
        self._remember(key, body)
        if self._below:
            names = json.dumps(body.names).encode()
            self._below.put(
                f"body-{key}", len(names).to_bytes(4, "little") + names + body.to_bytes()
            )

    def _remember(self, key: str, body: Body) -> None:
        self._bodies[key] = body
        self._bodies.move_to_end(key)
        while len(self._bodies) > self._most_bodies:
            self._bodies.popitem(last=False)


def _loaded(raw: bytes | None) -> list[dict[str, Any]]:
    if raw is None:
        return []
    try:
        found = json.loads(raw)
    except ValueError:
        return []
    return found if isinstance(found, list) else []

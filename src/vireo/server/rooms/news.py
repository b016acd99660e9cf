"""The stream of events every open tab listens to."""

from __future__ import annotations

import json
import queue
from collections.abc import Iterator

from flask import Response, stream_with_context

from vireo.server.api import Room, services

room = Room("news")

BEAT = 6.0  # seconds: how soon a closed tab is noticed


@room.route("GET", "/events")
def events() -> Response:
    """Server-sent events: documents changed, jobs moving, the shelf."""
    hub = services().events

    def stream() -> Iterator[str]:
        with hub.subscribe() as mine:
            yield "retry: 1500\n\n"
            while True:
                try:
                    news = mine.get(timeout=BEAT)
                except queue.Empty:
                    yield ": beat\n\n"
                    continue
                if news is None:
                    return
                yield f"data: {json.dumps(news)}\n\n"

    return Response(
        stream_with_context(stream()),
        mimetype="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )

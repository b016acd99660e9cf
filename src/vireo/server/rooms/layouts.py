"""2D files: as curves of a sketch's own, and as layouts lying under a sketch."""

from __future__ import annotations

from typing import Any

from vireo.core.declared.fields import Brought
from vireo.core.trouble import BadInput
from vireo.server.api import Room, services
from vireo.server.rooms.exchange import upload
from vireo.server.rooms.sketch import bring_into
from vireo.server.views.layouts import (
    ChainRequest,
    ChainView,
    LayoutFileView,
    LayoutView,
    ReplacedView,
    ReplaceRequest,
)
from vireo.work.lanes import WorkerLost

room = Room("layouts")

MOST_BYTES = 30 * 2**20
SECONDS = 60.0


def _read(task: str, data: bytes, **more: Any) -> Any:
    if len(data) > MOST_BYTES:
        raise BadInput(f"a 2D file of more than {MOST_BYTES // 2**20} MB is not read")
    try:
        return services().queue.call(
            task, {"data": data, **more}, lane="background", seconds=SECONDS
        )
    except WorkerLost as lost:
        raise BadInput(f"this file could not be read safely: {lost.text}") from lost


def _file(document: str, file: str) -> bytes:
    data: bytes = services().store.blob(services().store.document(document).project, file)
    return data


@room.route("POST", "/sketch/layout", answer=LayoutView)
def read_layout() -> LayoutView:
    """A DXF or SVG file sent as the request's body, as a drawing to put into a sketch."""
    _, data = upload()
    return LayoutView.model_validate(_read("layout_drawing", data))


@room.route("POST", "/documents/<id>/layouts", answer=LayoutFileView)
def keep_layout(id: str) -> LayoutFileView:
    """Keep a DXF or SVG file with the project, to lie under a sketch."""
    name, data = upload()
    store = services().store
    project = store.document(id).project
    found = _read("layout", data)
    return LayoutFileView(file=store.put_blob(project, name, data), source=name, **found)


@room.route("GET", "/documents/<id>/layouts/<file>", answer=LayoutFileView)
def show_layout(id: str, file: str) -> LayoutFileView:
    """A kept layout, its curves as polylines in mm."""
    return LayoutFileView(file=file, source="", **_read("layout", _file(id, file)))


@room.route("POST", "/sketch/layout_chain", body=ChainRequest, answer=ChainView)
def layout_chain(body: ChainRequest) -> ChainView:
    """The curves of a layout that hang together with one, end to end."""
    data = _file(body.document, body.file)
    return ChainView(items=_read("layout_chain", data, key=body.key))


@room.route("POST", "/sketch/replace_layout", body=ReplaceRequest, answer=ReplacedView)
def replace_layout(body: ReplaceRequest) -> ReplacedView:
    """Put a newer file in the place of an underlay's: what differs, links that follow, and the
    drawing with them."""
    under = next((u for u in body.underlays if u.id == body.underlay), None)
    if under is None:
        raise BadInput(f"there is no underlay {body.underlay}")
    old, new = _file(body.document, under.file), _file(body.document, body.file)
    found = _read("layout_difference", new, old=old)
    follow = found.pop("follow")
    underlays = [
        u.model_copy(update={"file": body.file, "source": body.source or u.source})
        if u is under else u
        for u in body.underlays
    ]  # fmt: skip
    brought = [_followed(b, under.id, follow) for b in body.brought]
    moved = body.model_copy(update={"brought": brought, "underlays": underlays})
    made = bring_into(moved)
    return ReplacedView(
        **found, brought=brought, underlays=underlays, drawing=made.drawing, lost=made.lost
    )


def _followed(one: Brought, under: str, follow: dict[str, Any]) -> Brought:
    if one.layout is None or one.layout.underlay != under:
        return one
    items = [follow.get(i.key, i.model_dump(mode="json")) for i in one.layout.items]
    layout = {"underlay": under, "items": items}
    return Brought.model_validate({**one.model_dump(), "layout": layout})

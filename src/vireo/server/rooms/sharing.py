"""Share copies of assemblies for outsiders."""

from __future__ import annotations

from typing import Any

from flask import Response

from vireo.core.documents.kinds.assembly import Assembly, Share
from vireo.core.trouble import BadInput, NotAllowed
from vireo.server.api import Room, services
from vireo.server.rooms.exchange import attachment
from vireo.server.views.sharing import ShareView, ShareWish
from vireo.store.store import DocumentRecord

room = Room("sharing")


def _asked(record: DocumentRecord, share: Share) -> dict[str, Any]:
    if not isinstance(record.document, Assembly):
        raise NotAllowed("only an assembly has a share copy")
    _, request = services().builds.request(record.project, record.document)
    return {"request": request, "share": share.model_dump(mode="json")}


@room.route("POST", "/documents/<id>/share/look", body=ShareWish, answer=ShareView)
def look_shared(id: str, body: ShareWish) -> Any:
    """A share copy as it would be; keeps nothing."""
    record = services().store.document(id)
    share = Share(id="k0", name="tried", **{**body.model_dump(), "rules": tuple(body.rules)})
    return services().builds.run("share_look", _asked(record, share), sticky=id)


@room.route("GET", "/documents/<id>/share.step", query={"share": str, "schema": str})
def export_shared(id: str, share: str | None, schema: str | None) -> Response:
    """A share copy that is kept by name as STEP. The file is read again and looked through before
    it is handed over."""
    record = services().store.document(id)
    kept = getattr(record.document, "shares", ())
    found = next((s for s in kept if share in (s.id, s.name)), None)
    if found is None:
        names = ", ".join(s.name for s in kept) or "none yet"
        raise BadInput(f"there is no share copy {share or ''} here; kept are {names}")
    wanted = (schema or "AP242").upper()
    if wanted not in ("AP214", "AP242"):
        raise BadInput(f"STEP is written by AP214 or AP242, not {schema}")
    ask = {**_asked(record, found), "name": record.document.name, "schema": wanted}
    data = services().builds.run("share_step", ask, sticky=id)
    return attachment(data, f"{record.document.name} - {found.name}.step", "model/step")

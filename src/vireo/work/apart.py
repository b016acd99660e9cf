"""A STEP file taken apart put into a project: a part for each product with a shape, an assembly for each
that holds others."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any

from vireo.core.documents import new_document
from vireo.core.trouble import BadInput
from vireo.store import Store


@dataclass
class Put:
    """The document on top, how many parts and assemblies were made, and what was left out."""

    id: str = ""
    parts: int = 0
    assemblies: int = 0
    faults: list[str] = field(default_factory=list)


def put_apart(store: Store, project: str, source: str, found: dict[str, Any]) -> Put:
    """Documents from what `taken_apart` found. Raises BadInput where nothing would be left."""
    made: dict[str, str | None] = {}
    put = Put(faults=list(found["faults"]))

    def part(key: str) -> str:
        title = found["names"][key][:80]
        blob = store.put_blob(project, f"{title}.step"[-120:], found["parts"][key])
        fields = {"file": blob, "source": f"{title}.step", "form": "step"}
        step = {"id": "s1", "kind": "import", "name": "Import", "fields": fields}
        put.parts += 1
        return store.create_document(project, new_document("part", title, steps=[step], last_id=1))

    def document(key: str) -> str | None:
        if key not in made:
            if key in found["parts"]:
                made[key] = part(key)
            else:
                made[key] = assembly(found["names"][key], found["holds"].get(key, ()))
        return made[key]

    def assembly(title: str, stands: Any) -> str | None:
        components: list[dict[str, Any]] = []
        taken: set[str] = set()
        for stand in stands:
            inner = document(stand["key"])
            if inner is None:
                continue
            name, n = stand["name"][:74], 2
            while name in taken:
                name, n = f"{stand['name'][:74]} {n}", n + 1
            taken.add(name)
            components.append(
                {"id": f"c{len(components) + 1}", "name": name, "document": inner,
                 "anchored": True, "placement": {"p": stand["p"], "q": stand["q"]}}
            )  # fmt: skip
        if not components:
            return None
        put.assemblies += 1
        return store.create_document(
            project,
            new_document("assembly", title[:80], components=components, last_id=len(components)),
        )

    tops = [(key, document(key)) for key in found["roots"]]
    there = [(key, id) for key, id in tops if id is not None]
    if not there:
        raise BadInput("nothing of this file is left to bring in")
    if len(there) == 1:
        put.id = there[0][1]
        return put
    title = re.sub(r"\.\w{2,4}$", "", source)[:80] or "Imported"
    still = {"p": [0.0, 0.0, 0.0], "q": [1.0, 0.0, 0.0, 0.0]}
    stands = [{"key": key, "name": found["names"][key], **still} for key, _ in there]
    put.id = assembly(title, stands) or there[0][1]
    return put

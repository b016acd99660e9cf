"""Tasks on share copies: looked at, written, looked through for what they should not tell."""

from __future__ import annotations

from functools import partial
from typing import Any

from vireo.core.assembly.build import Built
from vireo.core.digest import digest
from vireo.core.documents import Document, load_document
from vireo.core.documents.kinds.assembly import Assembly, Share
from vireo.core.kernel.mesh import Mesh, tessellate
from vireo.core.lately import Lately
from vireo.core.naming.grammar import original_of
from vireo.core.sharing.copy import Shared, shared
from vireo.core.sharing.leaks import leaks
from vireo.core.sharing.rules import levels
from vireo.core.trouble import BadInput, Trouble
from vireo.core.viewmesh import kept_as
from vireo.work.tasks.assembly import put_together
from vireo.work.tasks.exchange import step_file
from vireo.work.tasks.part import mesh
from vireo.work.worker import Bench, task

_MESHES = Lately[str, Mesh](512)


def _meshed(bench: Bench, key: str) -> Mesh:
    return _MESHES.get(key, lambda: tessellate(bench.cache.body(key)))


def _documents(request: dict[str, Any]) -> dict[str, Document]:
    return {
        id: load_document(entry["assembly"] if "assembly" in entry else entry["part"]["document"])
        for id, entry in request["documents"].items()
    }


def _made(bench: Bench, request: dict[str, Any]) -> tuple[Built, Shared, dict[str, Document]]:
    ask = request["request"]
    assembly = load_document(ask["document"])
    assert isinstance(assembly, Assembly)
    built = put_together(bench, ask)
    documents = _documents(ask)
    share = Share.model_validate(request["share"])
    shown = levels(assembly, share, documents)
    leaves = [leaf for leaf in built.leaves if not leaf.reference]
    made = shared(share, shown, leaves, bench.cache.body, partial(_meshed, bench))
    if not made.placed:
        raise BadInput("nothing would be left in this share copy: everything is left out")
    return built, made, documents


def _secrets(request: dict[str, Any], made: Shared, documents: dict[str, Document]) -> set[str]:
    """Values of properties nobody outside is to read. What is shown may be called after its own."""
    assembly = load_document(request["request"]["document"])
    assert isinstance(assembly, Assembly)
    components = {c.id: c.key for c in assembly.components}
    shown = made.documents | {
        components[original_of(id)] for id, row in made.rows.items()
        if not row.hidden and row.shown.level != "out"
    }  # fmt: skip
    names = [n.casefold() for p in made.placed for n in (p.called, p.name, *p.titles)]
    said = {id: {p.value for p in document.properties} for id, document in documents.items()}
    called = {
        value for id in shown for value in said.get(id, ())
        if any(value.casefold() in n for n in names)
    }  # fmt: skip
    return set().union(*said.values()) - called


@task("share_look")
def share_look(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """A share copy as it would be: what is shown of each component, and its bodies to look at."""
    _, made, _ = _made(bench, request)
    leaves = []
    for number, one in enumerate(made.placed):
        key = digest(["shared", one.key])
        if not bench.disk.has(kept_as(key)):
            bench.cache.keep_body(key, one.body)
            mesh(bench, {"key": key})
        m = one.rotation
        p = one.position
        matrix = [*m[:, 0], 0.0, *m[:, 1], 0.0, *m[:, 2], 0.0, *p, 1.0]
        leaves.append(
            {"id": f"share/{number}", "key": key, "colour": one.colour,
             "matrix": [float(v) for v in matrix]}
        )  # fmt: skip
    rows = [
        {
            "component": r.component, "name": r.name, "level": r.shown.level, "rule": r.shown.rule,
            "before": r.before, "after": r.after, "hidden": r.hidden, "left": r.left,
        }
        for r in made.rows.values()
    ]  # fmt: skip
    return {"rows": rows, "leaves": leaves}


@task("share_step")
def share_step(bench: Bench, request: dict[str, Any]) -> bytes:
    """A share copy as a STEP file; refused when the file tells what it should not."""
    _, made, documents = _made(bench, request)
    data = step_file(request["name"], made.placed, request["schema"])
    told = leaks(data, made, _secrets(request, made, documents), bench.cache.body)
    if told:
        more = f" and {len(told) - 5} more" if len(told) > 5 else ""
        raise Trouble(
            f"the file was not handed over: it would show {', '.join(told[:5])}{more}; show these "
            "as boxes, leave them out, or allow them exactly"
        )
    return data

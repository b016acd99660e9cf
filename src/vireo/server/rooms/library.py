"""What there is to choose from: step kinds, constraints, units, materials."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from vireo.core.checks.kind import CHECK_KINDS
from vireo.core.declared.copying import COPY_KINDS
from vireo.core.declared.joint import JOINTS, fits
from vireo.core.declared.step import all_kinds, describe
from vireo.core.documents import DOCUMENT_KINDS
from vireo.core.fit.listing import LISTS
from vireo.core.material import LIBRARY
from vireo.core.motion.law import LAWS, LawKind
from vireo.core.motion.load import LOADS, LoadKind
from vireo.core.part.links import WAYS
from vireo.core.quantity.formula import FUNCTIONS
from vireo.core.quantity.units import UNITS
from vireo.core.sketch.constraints import KINDS
from vireo.core.sketch.tools import TOOLS
from vireo.server.api import Room, services
from vireo.server.views.documents import Done
from vireo.server.views.library import MaterialsView, Registries, TypedMaterial

room = Room("library")


@room.route("GET", "/kinds", answer=Registries)
def kinds() -> Any:
    """Every registered step kind and constraint, with what their editors need."""
    troubles = services().builds.user_kinds()
    return {
        "troubles": troubles,
        "steps": [describe(k) for k in all_kinds()],
        "constraints": [
            {
                "type": k.type,
                "label": k.label,
                "forms": [list(f) for f in k.forms],
                "dimension": k.dimension.name if k.dimension else None,
                "offered": k.offered,
            }
            for k in KINDS.values()
        ],
        "tools": [
            {
                "name": t.name,
                "label": t.label,
                "icon": t.icon,
                "group": t.group,
                "line": t.line,
                "key": t.key,
                "spots": list(t.spots),
                "more": t.more,
                "wants": list(t.wants),
                "sizes": [asdict(s) for s in t.sizes],
                "chain": t.chain,
            }
            for t in TOOLS.values()
        ],
        "links": [
            {"name": w.name, "label": w.label, "line": w.line, "takes": list(w.takes)}
            for w in sorted(dict.fromkeys(WAYS.values()), key=lambda w: w.order)
        ],
        "units": {name: dimension.name for name, (_, dimension) in UNITS.items()},
        "functions": list(FUNCTIONS),
        "documents": [
            {
                "kind": d.kind,
                "label": d.label,
                "icon": d.icon,
                "line": d.line,
                "exports": list(d.exports),
                "groups": [{"name": g.name, "word": g.word} for g in d.groups],
                "template": d.template,
                "placeable": d.placeable,
            }
            for d in sorted(DOCUMENT_KINDS.values(), key=lambda d: d.order)
        ],
        "checks": [
            {
                "kind": c.kind,
                "label": c.label,
                "documents": list(c.documents),
                "picks": c.picks,
                "relation": c.relation,
                "limit": c.limit,
                "line": c.line,
                "asks": list(c.asks),
            }
            for c in CHECK_KINDS.values()
        ],
        "joints": [
            {
                "kind": p.kind,
                "label": p.label,
                "icon": p.icon,
                "line": p.line,
                "family": p.family,
                "coordinates": [
                    {"name": c.name, "label": c.label, "unit": c.unit} for c in p.coordinates
                ],
                "factor": asdict(p.factor) if p.factor else None,
                "picks": p.picks,
                "mirrors": p.mirrors,
                "shifts": any(f.shifts for f in p.forms.values()),
                "hint": p.hint,
                "best": list(p.best),
                "fits": fits(p),
                "about": p.about,
            }
            for p in sorted(JOINTS.values(), key=lambda p: p.order)
        ],
        "copies": [
            {
                "kind": c.kind,
                "label": c.label,
                "icon": c.icon,
                "line": c.line,
                "hint": c.hint,
                "axis": c.axis,
                "counted": c.counted,
                "turns": c.turns,
                "spacing": {
                    "label": c.spacing.label,
                    "unit": c.spacing.unit,
                    "default": c.spacing.default,
                }
                if c.spacing
                else None,
            }
            for c in sorted(COPY_KINDS.values(), key=lambda c: c.order)
        ],
        "laws": _acts([*LAWS.values()]),
        "loads": _acts([*LOADS.values()]),
        "lists": [
            {"kind": k.kind, "label": k.label, "line": k.line}
            for k in sorted(LISTS.values(), key=lambda k: k.order)
        ],
    }


def _acts(every: Sequence[LawKind | LoadKind]) -> list[dict[str, Any]]:
    return [
        {"kind": k.kind, "label": k.label, "line": k.line, "slots": [asdict(s) for s in k.slots]}
        for k in sorted(every, key=lambda k: k.order)
    ]


@room.route("GET", "/projects/<id>/materials", answer=MaterialsView)
def materials(id: str) -> Any:
    """The project's own materials, then the library."""
    return {"materials": [m.model_dump() for m in services().builds.materials(id)]}


@room.route("POST", "/projects/<id>/materials", body=TypedMaterial, answer=Done)
def put_material(id: str, body: TypedMaterial) -> Done:
    """Add a material of one's own, its values as typed with their units, or replace the one with
    the same id."""
    settings = services().store.settings(id)
    made = body.material()
    own = [m for m in settings.get("materials", []) if m["id"] != made.id]
    services().store.set_settings(id, {**settings, "materials": [*own, made.model_dump()]})
    return Done()


@room.route("GET", "/materials", answer=MaterialsView)
def library() -> Any:
    """The materials there are before a project has its own."""
    return {"materials": [m.model_dump() for m in LIBRARY]}

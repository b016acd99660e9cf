"""Which component of an assembly shows how much in a share copy, and what said so."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fnmatch import fnmatchcase

from vireo.core.documents import Document
from vireo.core.documents.kinds.assembly import Assembly, Component, Share, ShareLevel, ShareRule


@dataclass(frozen=True)
class Shown:
    """The level of a component, and the number of the rule that decided (none: the copy itself)."""

    level: ShareLevel
    rule: int | None


def levels(assembly: Assembly, share: Share, documents: Mapping[str, Document]) -> dict[str, Shown]:
    """For every component what is shown of it; the last rule that speaks of it decides."""
    found = {}
    for component in assembly.components:
        shown = Shown(share.level, None)
        for number, rule in enumerate(share.rules):
            if _speaks_of(rule, component, documents.get(component.key)):
                shown = Shown(rule.level, number)
        found[component.id] = shown
    return found


def _speaks_of(rule: ShareRule, component: Component, document: Document | None) -> bool:
    if rule.by == "pick":
        return component.id in rule.components
    wanted = rule.what.strip().casefold()
    if rule.by == "name":
        names = (component.name, document.name if document else "")
        return any(fnmatchcase(n.casefold(), wanted) for n in names)
    name, _, value = (x.strip() for x in wanted.partition("="))
    said = {p.name.casefold(): p.value.casefold() for p in document.properties} if document else {}
    return name in said and fnmatchcase(said[name], value or "*")

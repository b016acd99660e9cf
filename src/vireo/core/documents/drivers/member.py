"""Which member of its document a component is."""

from __future__ import annotations

from vireo.core.documents.base import Choice
from vireo.core.documents.driver import Of, register
from vireo.core.documents.drivers.component import ComponentDriver
from vireo.core.documents.kinds.assembly import Assembly


@register
class MemberDriver(ComponentDriver):
    kind, field, words, cell = "member", "choice", "variant", "member"

    def read(self, document: Assembly, of: Of) -> Choice:
        return super().read(document, of) or Choice()

    def write(self, document: Assembly, of: Of, cell: Choice) -> Assembly:
        return super().write(document, of, cell if cell != Choice() else None)

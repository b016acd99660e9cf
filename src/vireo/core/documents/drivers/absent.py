"""Whether a component is there at all."""

from vireo.core.documents.driver import register
from vireo.core.documents.drivers.component import ComponentDriver


@register
class AbsentDriver(ComponentDriver):
    kind, field, words, cell = "absent", "absent", "left out", "flag"

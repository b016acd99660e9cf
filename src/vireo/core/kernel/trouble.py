"""What the kernel room says when it cannot do something."""

from __future__ import annotations

from vireo.core.trouble import Trouble


class KernelTrouble(Trouble):
    """The kernel could not do it, or gave something that is not sound."""

    code = "kernel"

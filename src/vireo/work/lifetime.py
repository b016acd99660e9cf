"""Processes that must not outlive the one that started them."""

from __future__ import annotations

import ctypes
import signal
import sys

_SET_DEATH_SIGNAL = 1  # PR_SET_PDEATHSIG of linux/prctl.h


def die_with_parent() -> None:
    """Linux ends this process when its parent ends, even by SIGKILL. Elsewhere nothing is done:
    there the closed pipe ends it after its present task."""
    if sys.platform == "linux":
        ctypes.CDLL(None, use_errno=True).prctl(_SET_DEATH_SIGNAL, signal.SIGKILL, 0, 0, 0)

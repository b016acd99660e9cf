"""Processes that must not outlive the one that started them."""

from __future__ import annotations

import ctypes
import fcntl
import os
import signal
import sys
from multiprocessing.connection import Connection

_SET_DEATH_SIGNAL = 1  # PR_SET_PDEATHSIG of linux/prctl.h


def die_with_parent() -> None:
    """Linux ends this process when its parent ends, even by SIGKILL. Elsewhere nothing is done:
    there the closed pipe ends it after its present task."""
    if sys.platform == "linux":
        ctypes.CDLL(None, use_errno=True).prctl(_SET_DEATH_SIGNAL, signal.SIGKILL, 0, 0, 0)


def die_with_pipe(alive: Connection) -> None:
    """Linux ends this process when the other end of a pipe that nothing is ever sent through is closed, as it is when
    whoever holds it ends: the parent may be another, which goes on. The signal comes from the system, whatever this
    process is busy with."""
    if sys.platform != "linux":
        return
    signal.signal(signal.SIGIO, signal.SIG_DFL)
    fcntl.fcntl(alive.fileno(), fcntl.F_SETOWN, os.getpid())
    flags = fcntl.fcntl(alive.fileno(), fcntl.F_GETFL)
    fcntl.fcntl(alive.fileno(), fcntl.F_SETFL, flags | os.O_ASYNC)
    if alive.poll():  # closed before this was set
        os._exit(1)

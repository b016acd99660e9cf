"""Where tasks run: lanes of worker processes on this machine, or a cluster, behind one queue."""

from vireo.work.lanes.lane import (
    Cancelled,
    ClusterLost,
    Files,
    Lane,
    Progress,
    TaskTrouble,
    WorkerLost,
)
from vireo.work.lanes.queue import Queue

__all__ = [
    "Cancelled",
    "ClusterLost",
    "Files",
    "Lane",
    "Progress",
    "Queue",
    "TaskTrouble",
    "WorkerLost",
]

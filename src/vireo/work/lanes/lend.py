"""A worker of a cluster on this machine: one job at a time, in a process of its own."""

from __future__ import annotations

import distributed


async def lend(scheduler: str) -> None:
    """Work for a scheduler until it stops, or this process does. Whoever reaches the scheduler can
    have code run here: use it on networks you trust."""
    worker = await distributed.Worker(
        scheduler, nthreads=1, dashboard=False, silence_logs="WARNING", validate=False
    )
    print(f"Lending this machine to {scheduler}", flush=True)
    await worker.finished()

"""Kernel worker processes, jobs and kept results. Knows store and core, no web."""

import os

# Workers share the machine among themselves: one thread each. A library that starts threads of
# its own after the fork waits for ever when memory for them is refused.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

"""Measured, never asserted: ratios side by side in one run. `make bench` runs `__main__`."""

import os

# As the workers of the application have it: small equations gain nothing from several threads.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

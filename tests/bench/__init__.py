"""Measured, never asserted: ratios side by side in one run. `make bench` runs `__main__`."""

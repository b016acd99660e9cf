"""Kernel worker processes, jobs and kept results. Knows store and core, no web."""

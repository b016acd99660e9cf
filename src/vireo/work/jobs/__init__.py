"""Long work: declared in `kinds`, one file each; run in the background and kept by content."""

from vireo.work.jobs.running import Jobs

__all__ = ["Jobs"]

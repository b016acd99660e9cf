"""One file per kind of job."""

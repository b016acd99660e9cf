"""Throw-away kinds, one file each, read by tests only: what must follow from one file does."""

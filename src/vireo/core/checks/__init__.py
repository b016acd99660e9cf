"""Saved rules: a measured value held to a limit. One file per kind of check."""

"""Sketches in and out of open 2D formats."""

"""Copies of a machine for outsiders: each component exactly, as its outer skin, as a box, or not at all."""

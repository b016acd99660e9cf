"""Tuples all rooms speak of."""

Pair = tuple[float, float]
Triple = tuple[float, float, float]

"""One file for each law by which a coordinate is driven over time."""

"""One file for each kind of load."""

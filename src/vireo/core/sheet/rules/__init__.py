"""What the shop asks of a sheet: one file per rule."""

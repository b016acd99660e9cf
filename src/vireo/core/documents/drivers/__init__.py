"""Drivers, a file each."""

"""The standards of hardware there are, a file each."""

"""The ways to copy components of an assembly, a file each."""

"""Kinds of entity, one file each: what it stands on, its variables, its curve."""

"""Vireo: parametric parts, assemblies and studies for mechanical engineers."""

__version__ = "0.1.0"

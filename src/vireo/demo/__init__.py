"""The demo: the first corner of a tabletop coffee roaster, built by script."""

from vireo.demo.roaster import NAME, make_demo

__all__ = ["NAME", "make_demo"]

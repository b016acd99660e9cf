"""What people read off: sizes of what is picked, distances and angles between, mass properties."""

from vireo.core.measure.mass import Whole, inertia_about, weighed
from vireo.core.measure.reading import Reading, Taken, readings

__all__ = ["Reading", "Taken", "Whole", "inertia_about", "readings", "weighed"]

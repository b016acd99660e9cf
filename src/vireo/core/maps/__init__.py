"""What a body is coloured by: a value at every place of its skin. One file per kind of map."""

import importlib
import pkgutil

from vireo.core.maps.kind import MAP_KINDS, FieldMap, MapKind, Place, pack

for _module in pkgutil.iter_modules(__path__):
    importlib.import_module(f"{__name__}.{_module.name}")

__all__ = ["MAP_KINDS", "FieldMap", "MapKind", "Place", "pack"]

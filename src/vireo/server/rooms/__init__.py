"""One file per room of the server; each declares its routes on a `Room`."""

import importlib
import pkgutil

from vireo.server.api import Room

ROOMS: list[Room] = [
    importlib.import_module(f"{__name__}.{m.name}").room for m in pkgutil.iter_modules(__path__)
]

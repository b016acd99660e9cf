"""What workers can do: one file per group of tasks. Importing fills the table of tasks."""

import importlib
import pkgutil

for _module in pkgutil.iter_modules(__path__):
    importlib.import_module(f"{__name__}.{_module.name}")

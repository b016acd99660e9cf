"""Saved rules: a measured value held to a limit. One file per kind of check."""

import importlib
import pkgutil

from vireo.core.checks.kind import CHECK_KINDS, CheckKind

for _module in pkgutil.iter_modules(__path__):
    importlib.import_module(f"{__name__}.{_module.name}")

__all__ = ["CHECK_KINDS", "CheckKind"]

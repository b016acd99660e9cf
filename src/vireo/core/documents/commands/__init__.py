"""Every edit of a document is a command. One file per kind of document; importing fills
the registry."""

from __future__ import annotations

import importlib
import pkgutil
from typing import Any

from pydantic import ValidationError

from vireo.core.declared.reading import unreadable
from vireo.core.documents.base import Document
from vireo.core.documents.commands.base import REGISTRY, Command, run
from vireo.core.trouble import BadInput

for _module in pkgutil.iter_modules(__path__):
    importlib.import_module(f"{__name__}.{_module.name}")


def parse(data: dict[str, Any]) -> Command:
    """The command in `data` by its ``do``. Raises BadInput for an unknown or ill-formed one."""
    name = data.get("do")
    if not isinstance(name, str) or name not in REGISTRY:
        raise BadInput(f"there is no command called {name}")
    try:
        return REGISTRY[name].model_validate(data)
    except ValidationError as error:
        raise unreadable(name, error) from error


def apply_all(document: Document, commands: list[dict[str, Any]]) -> tuple[Document, str]:
    """The document after commands as JSON, and what undo says it takes back."""
    label = "edit"
    for data in commands:
        command = parse(data)
        document = run(command, document)
        label = command.label()
    return document, label


__all__ = ["REGISTRY", "Command", "Document", "apply_all", "parse"]

"""Words for what cannot be read."""

from __future__ import annotations

from difflib import get_close_matches

from pydantic import BaseModel, ValidationError

from vireo.core.trouble import BadInput, first_said


def unreadable(what: str, error: ValidationError, model: type[BaseModel] | None = None) -> BadInput:
    """The first thing wrong, with its place; a field that `model` does not have comes first, as
    what is missing may only be misspelt."""
    every = error.errors()
    unknown = [e for e in every if e["type"] == "extra_forbidden" and len(e["loc"]) == 1]
    if model is not None and unknown:
        name = str(unknown[0]["loc"][0])
        there = [f.alias or n for n, f in model.model_fields.items()]
        meant = get_close_matches(name, there, 1, 0.6)
        hint = f"did you mean {meant[0]}?" if meant else f"it has {', '.join(there)}"
        return BadInput(f"{what} has no field {name}; {hint}", [f"field:{name}"])
    where, said = first_said(error)
    return BadInput(f"{what}: {where}: {said}", [f"field:{where}"])

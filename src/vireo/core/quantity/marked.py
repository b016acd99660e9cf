"""Formulas as a marked type, and walking a model's formulas by its schema.

Which texts of a document are formulas is said by the type of their field and never guessed from
what they look like: a choice called ``one`` is no use of a parameter of that name.
"""

from __future__ import annotations

import types
from collections.abc import Callable, Collection, Iterator
from functools import lru_cache
from typing import (
    Annotated,
    Any,
    Protocol,
    TypeVar,
    Union,
    cast,
    get_args,
    get_origin,
    runtime_checkable,
)

from pydantic import BaseModel, Field
from pydantic.fields import FieldInfo

M = TypeVar("M", bound=BaseModel)
Change = Callable[[str], str]


class FormulaMark:
    """Says of a text that it is a formula."""


MARK = FormulaMark()
#: A formula as typed.
Formula = Annotated[str, Field(max_length=500), MARK]


@runtime_checkable
class OwnFormulas(Protocol):
    """A model that knows better than its types which of its texts are formulas: what it holds is
    declared elsewhere (the fields of a step by its kind)."""

    def with_formulas(self, change: Change) -> Any: ...


def _is_quantity(spec: FieldInfo) -> bool:
    extra = spec.json_schema_extra
    told = extra.get("vireo") if isinstance(extra, dict) else None
    return isinstance(told, dict) and told.get("type") == "quantity"


@lru_cache(maxsize=4096)
def _marked(model: type[BaseModel]) -> dict[str, tuple[Any, bool]]:
    """The type of each field that may hold a formula, and whether it is one itself."""
    return {
        name: (spec.annotation, formula)
        for name, (spec, formula) in _fields(model).items()
        if formula or _may_hold(spec.annotation, {model})
    }


def _fields(model: type[BaseModel]) -> dict[str, tuple[FieldInfo, bool]]:
    return {
        name: (spec, any(x is MARK for x in spec.metadata) or _is_quantity(spec))
        for name, spec in model.model_fields.items()
    }


def _may_hold(annotation: Any, seen: set[type[BaseModel]]) -> bool:
    """Whether a value of a type can have a formula in it: large drawings are mostly places, which
    cannot. `seen` are the models asked about already."""
    if annotation is MARK or annotation is Any or isinstance(annotation, TypeVar):
        return True
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        if annotation is BaseModel or _tells_itself(annotation):
            return True
        if annotation in seen:
            return False
        seen.add(annotation)
        return any(
            formula or _may_hold(spec.annotation, seen)
            for spec, formula in _fields(annotation).values()
        )
    return any(_may_hold(a, seen) for a in get_args(annotation))


def with_formulas(model: M, change: Change) -> M:
    """A model with every formula in it, however deep, put through a function; itself when none
    changed.

    >>> class Step(BaseModel):
    ...     depth: Formula
    ...     reach: str
    >>> with_formulas(Step(depth="one + 2 mm", reach="one"), lambda f: f.replace("one", "two"))
    Step(depth='two + 2 mm', reach='one')
    """
    if _tells_itself(type(model)):
        found: M = cast(Any, model).with_formulas(change)
        return found
    return by_schema(model, change)


@lru_cache(maxsize=4096)
def _tells_itself(model: type[BaseModel]) -> bool:
    """Asked of the class and once: looking a protocol up in an object takes longer than the rest."""
    return issubclass(model, OwnFormulas)


def by_schema(model: M, change: Change) -> M:
    """The same by its types alone."""
    put: dict[str, Any] = {}
    for name, (annotation, formula) in _marked(type(model)).items():
        value = getattr(model, name)
        made = _changed(annotation, formula, value, change)
        if made is not value:
            put[name] = made
    return model.model_copy(update=put) if put else model


def _changed(annotation: Any, formula: bool, value: Any, change: Change) -> Any:
    if isinstance(value, BaseModel):
        return with_formulas(value, change)
    if isinstance(value, str):
        return change(value) if formula or _is_formula(annotation) else value
    if isinstance(value, tuple | list):
        made = [
            _changed(t, formula, v, change)
            for t, v in zip(_of_items(annotation, len(value)), value, strict=True)
        ]
        same = all(a is b for a, b in zip(made, value, strict=True))
        return value if same else type(value)(made)
    if isinstance(value, dict):
        inner = next((get_args(t)[1] for t in _options(annotation) if get_origin(t) is dict), Any)
        new = {k: _changed(inner, formula, v, change) for k, v in value.items()}
        return value if all(new[k] is value[k] for k in value) else new
    return value


def _options(annotation: Any) -> Iterator[Any]:
    """What a type may be: the members of a union, without their marks."""
    origin = get_origin(annotation)
    if origin is Annotated:
        yield from _options(get_args(annotation)[0])
    elif origin in (Union, types.UnionType):
        for one in get_args(annotation):
            yield from _options(one)
    else:
        yield annotation


def _is_formula(annotation: Any) -> bool:
    origin = get_origin(annotation)
    if origin is Annotated:
        inner, *marks = get_args(annotation)
        return any(m is MARK for m in marks) or _is_formula(inner)
    if origin in (Union, types.UnionType):
        return any(_is_formula(one) for one in get_args(annotation))
    return False


def _of_items(annotation: Any, count: int) -> list[Any]:
    """The types of the items of a sequence."""
    for one in _options(annotation):
        if get_origin(one) in (tuple, list):
            args = get_args(one)
            if len(args) == count and Ellipsis not in args:
                return list(args)
            return [args[0] if args else Any] * count
    return [Any] * count


def formulas_in(model: BaseModel, but: Collection[str] = ()) -> list[str]:
    """Every formula in a model, in the order of its fields, without those of the fields named."""
    found: list[str] = []

    def note(formula: str) -> str:
        found.append(formula)
        return formula

    if not but:
        with_formulas(model, note)
        return found
    for name, (annotation, formula) in _marked(type(model)).items():
        if name not in but:
            _changed(annotation, formula, getattr(model, name), note)
    return found

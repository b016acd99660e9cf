"""Commands on parts: steps, marker, material."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from vireo.core.declared.step import checked_fields, kind_called
from vireo.core.documents.base import Document
from vireo.core.documents.commands.base import Command, command, place, replaced, update, without
from vireo.core.documents.kinds.part import Mended, Part, Step
from vireo.core.naming import Pick
from vireo.core.naming.grammar import is_body, makers_of, marks_of
from vireo.core.quantity import FormulaError, evaluate
from vireo.core.quantity.units import MASS, VOLUME
from vireo.core.trouble import BadInput, NotAllowed


def bodies_named(data: Any) -> set[str]:
    """Ids of steps whose bodies the fields of a step speak of."""
    found: set[str] = set()
    if isinstance(data, dict):
        body = data.get("body")
        if isinstance(body, str) and is_body(body):
            found |= set(marks_of(body))
        for name in data.get("name", ()) if isinstance(data.get("name"), list) else ():
            found |= makers_of([str(name)])
        for key, value in data.items():
            if key != "drawing":
                found |= bodies_named(value)
    elif isinstance(data, list | tuple):
        for value in data:
            if isinstance(value, str) and is_body(value):
                found |= set(marks_of(value))
            else:
                found |= bodies_named(value)
    return found


def needs(step: Step) -> set[str]:
    """Ids of the earlier steps a step names: sketches, bodies, and the makers of picked faces."""
    kind = kind_called(step.kind)
    try:
        named = kind.uses(kind.Fields.model_validate(step.fields))
    except ValidationError:  # it says so itself when it is built
        named = set()
    return (bodies_named(step.fields) | named) - {step.id}


def _in_order(part: Part) -> None:
    """Raises NotAllowed when a step stands before one it needs."""
    seen: set[str] = set()
    ids = {s.id: s.name for s in part.steps}
    for step in part.steps:
        late = [i for i in needs(step) if i in ids and i not in seen]
        if late:
            raise NotAllowed(
                f"{step.name} needs {', '.join(ids[i] for i in sorted(late))}, so it must stay after it",
                [f"step:{step.id}", *(f"step:{i}" for i in sorted(late))],
            )
        seen.add(step.id)


class _PartCommand(Command):
    on: ClassVar[tuple[str, ...]] = ("part",)


@command
class AddStep(_PartCommand):
    """Adds a step at the marker (or at `at`), so that it can be seen at once."""

    do: Literal["add_step"] = "add_step"
    kind: str
    name: str | None = None
    fields: dict[str, Any] = Field(default_factory=dict)
    at: int | None = None

    def apply(self, document: Part) -> Document:
        number = document.last_id + 1
        label = kind_called(self.kind).label
        same = sum(1 for s in document.steps if s.kind == self.kind)
        name = self.name or (label if not same else f"{label} {same + 1}")
        step = Step(
            id=f"s{number}",
            kind=self.kind,
            name=name,
            fields=checked_fields(self.kind, self.fields),
        )
        at = self.at if self.at is not None else document.marker
        at = len(document.steps) if at is None else min(max(at, 0), len(document.steps))
        steps = (*document.steps[:at], step, *document.steps[at:])
        marker = None if document.marker is None else document.marker + 1
        part = update(document, steps=steps, last_id=number, marker=marker)
        _in_order(part)
        return part

    def label(self) -> str:
        return f"add {self.name or self.kind}"


@command
class EditStep(_PartCommand):
    """Changes some fields of a step; the others stay."""

    do: Literal["edit_step"] = "edit_step"
    id: str
    fields: dict[str, Any]

    def apply(self, document: Part) -> Document:
        index = place(document.steps, self.id, "step")
        step = document.steps[index]
        fields = checked_fields(step.kind, merged(step.fields, self.fields))
        part = update(document, steps=replaced(document.steps, index, update(step, fields=fields)))
        _in_order(part)
        return part

    def label(self) -> str:
        return "edit step"


def merged(fields: dict[str, Any], changes: dict[str, Any]) -> dict[str, Any]:
    """Changes put in; a key with a dot reaches inside (``plane.face``)."""
    result = dict(fields)
    for key, value in changes.items():
        head, _, rest = key.partition(".")
        result[head] = merged(dict(result.get(head) or {}), {rest: value}) if rest else value
    return result


def picks_replaced(data: Any, changes: Sequence[tuple[Any, Any]]) -> Any:
    """Stored fields with some picks, wherever they stand, put in place of others."""
    for old, new in changes:
        if data == old:
            return new
    if isinstance(data, dict):
        return {k: picks_replaced(v, changes) for k, v in data.items()}
    if isinstance(data, list | tuple):
        return [picks_replaced(v, changes) for v in data]
    return data


class Swap(BaseModel):
    """A lost pick of a step and the one put in its place, how alike they are (0 to 1)."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    step: str
    old: Pick
    new: Pick
    score: float = 1.0


@command
class MendPicks(_PartCommand):
    """Puts picks in the place of lost ones; each is marked on its step until it was seen."""

    do: Literal["mend_picks"] = "mend_picks"
    swaps: tuple[Swap, ...] = Field(min_length=1, max_length=5000)

    def apply(self, document: Part) -> Document:
        for id in dict.fromkeys(s.step for s in self.swaps):
            index = place(document.steps, id, "step")
            step = document.steps[index]
            own = [s for s in self.swaps if s.step == id]
            changes = [(s.old.model_dump(mode="json"), s.new.model_dump(mode="json")) for s in own]
            fields = picks_replaced(step.fields, changes)
            if fields == step.fields:
                raise NotAllowed(f"{step.name} has no such pick any more", [f"step:{id}"])
            marks = tuple(Mended(was=s.old, now=s.new, score=s.score) for s in own)
            changed = update(
                step, fields=checked_fields(step.kind, fields), mended=(*step.mended, *marks)
            )
            document = update(document, steps=replaced(document.steps, index, changed))
        _in_order(document)
        return document

    def label(self) -> str:
        return f"mend {len(self.swaps)} picks" if len(self.swaps) > 1 else "mend pick"


@command
class SeenMends(_PartCommand):
    """Takes the marks of mended picks off a step: somebody looked at them."""

    do: Literal["seen_mends"] = "seen_mends"
    id: str

    def apply(self, document: Part) -> Document:
        index = place(document.steps, self.id, "step")
        seen = update(document.steps[index], mended=())
        return update(document, steps=replaced(document.steps, index, seen))

    def label(self) -> str:
        return "see mended picks"


@command
class RenameStep(_PartCommand):
    do: Literal["rename_step"] = "rename_step"
    id: str
    name: str

    def apply(self, document: Part) -> Document:
        index = place(document.steps, self.id, "step")
        step = update(document.steps[index], name=self.name.strip())
        return update(document, steps=replaced(document.steps, index, step))


@command
class SleepStep(_PartCommand):
    do: Literal["sleep_step"] = "sleep_step"
    id: str
    asleep: bool

    def apply(self, document: Part) -> Document:
        index = place(document.steps, self.id, "step")
        step = update(document.steps[index], asleep=self.asleep)
        return update(document, steps=replaced(document.steps, index, step))

    def label(self) -> str:
        return "put step to sleep" if self.asleep else "wake step"


@command
class SetTarget(_PartCommand):
    """The mass or volume the part should have after a step: a number is in grams, words carry
    their unit (``412 g``, ``24 cm**3``); null takes it off."""

    do: Literal["set_target"] = "set_target"
    id: str
    target: float | Annotated[str, Field(max_length=80)] | None

    def apply(self, document: Part) -> Document:
        index = place(document.steps, self.id, "step")
        given = self._given()
        step = update(document.steps[index], **{"target": None, "target_volume": None, **given})
        return update(document, steps=replaced(document.steps, index, step))

    def _given(self) -> dict[str, float]:
        if self.target is None:
            return {}
        if not isinstance(self.target, str):
            return {"target": self.target}
        try:
            found = evaluate(self.target, {})
        except FormulaError as error:
            raise BadInput(f"the target {error.text}") from error
        if found.dimension == MASS:
            return {"target": found.to("g")}
        if found.dimension == VOLUME:
            return {"target_volume": found.working}
        raise BadInput(
            f"a target is a mass or a volume, like 412 g or 24 cm**3; this is {found.dimension.name}"
        )


@command
class SetTemplate(_PartCommand):
    """Whether the part is offered as a start for new ones."""

    do: Literal["set_template"] = "set_template"
    on_offer: bool

    def apply(self, document: Part) -> Document:
        return update(document, template=self.on_offer)

    def label(self) -> str:
        return "offer as a start" if self.on_offer else "no longer offer as a start"


@command
class MoveStep(_PartCommand):
    """Moves a step so that it stands at index `to` afterwards, or just before another step."""

    do: Literal["move_step"] = "move_step"
    id: str
    to: int | None = None
    before: str | None = None

    def apply(self, document: Part) -> Document:
        index = place(document.steps, self.id, "step")
        rest = without(document.steps, index)
        if (self.to is None) == (self.before is None):
            raise NotAllowed("a step is moved to a place or before another step")
        wanted = self.to if self.to is not None else place(rest, self.before or "", "step")
        to = min(max(wanted, 0), len(rest))
        part = update(document, steps=(*rest[:to], document.steps[index], *rest[to:]))
        _in_order(part)
        return part


@command
class RemoveStep(_PartCommand):
    """Refused while other steps need it, unless `with_dependents`."""

    do: Literal["remove_step"] = "remove_step"
    id: str
    with_dependents: bool = False

    def apply(self, document: Part) -> Document:
        index = place(document.steps, self.id, "step")
        gone = {self.id}
        for step in document.steps[index + 1 :]:
            if needs(step) & gone:
                gone.add(step.id)
        users = [s.name for s in document.steps if s.id in gone - {self.id}]
        if users and not self.with_dependents:
            raise NotAllowed(
                f"{document.steps[index].name} is needed by {', '.join(users)}",
                [f"step:{i}" for i in sorted(gone - {self.id})],
            )
        steps = tuple(s for s in document.steps if s.id not in gone)
        marker = document.marker
        if marker is not None:
            marker -= sum(1 for s in document.steps[:marker] if s.id in gone)
        return update(document, steps=steps, marker=marker)


@command
class SetMarker(_PartCommand):
    do: Literal["set_marker"] = "set_marker"
    at: int | None

    def apply(self, document: Part) -> Document:
        at = self.at
        if at is not None and at >= len(document.steps):
            at = None
        return update(document, marker=at)


@command
class SetMaterial(_PartCommand):
    do: Literal["set_material"] = "set_material"
    material: str

    def apply(self, document: Part) -> Document:
        return update(document, material=self.material)

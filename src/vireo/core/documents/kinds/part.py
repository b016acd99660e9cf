"""A part: steps in order, what is kept of its bodies, its material."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from contextlib import suppress
from typing import Any, ClassVar, Literal

from pydantic import Field, ValidationError

from vireo.core.declared.step import KINDS, checked_fields, kind_called
from vireo.core.documents.base import Choice, Colour, Data, Document, Id, Name, dump, key_parts
from vireo.core.documents.kind import (
    CHECKS,
    MEMBERS,
    NOTES,
    Around,
    Command,
    DocumentKind,
    Faults,
    Group,
    Json,
    register,
)
from vireo.core.material import DEFAULT
from vireo.core.naming import Pick
from vireo.core.naming.grammar import marks_of
from vireo.core.quantity import with_formulas
from vireo.core.quantity.marked import by_schema
from vireo.core.trouble import BadInput, Trouble


class Mended(Data):
    """A pick that was put in place of a lost one, how alike they are (0 to 1)."""

    was: Pick
    now: Pick
    score: float = Field(ge=0, le=1, allow_inf_nan=False)


class Step(Data):
    id: Id
    kind: str = Field(max_length=24)
    name: Name
    asleep: bool = False
    fields: dict[str, Any] = Field(default_factory=dict)
    #: Mass in grams, or volume in mm3, the part should have after this step; the first miss is
    #: flagged.
    target: float | None = Field(default=None, gt=0, allow_inf_nan=False)
    target_volume: float | None = Field(default=None, gt=0, allow_inf_nan=False)
    #: Mended picks nobody has looked at yet.
    mended: tuple[Mended, ...] = Field(default=(), max_length=5000)

    def with_formulas(self, change: Callable[[str], str]) -> Step:
        """The step with its formulas put through a function: its kind says which those are. Of a
        kind that is not there, or fields it does not read, nothing is known."""
        kind = KINDS.get(self.kind)
        if kind is None:
            return self
        try:
            fields = kind.Fields.model_validate(self.fields)
        except (ValidationError, Trouble):
            return self
        made = with_formulas(fields, change)
        if made is fields:
            return by_schema(self, change)
        return self.model_copy(update={"fields": made.model_dump(mode="json")})


class Look(Data):
    """What is kept of a body besides its shape; what is None follows the part."""

    body: str = Field(min_length=1, max_length=60)
    name: Name | None = None
    material: str | None = Field(default=None, max_length=40)
    colour: Colour | None = None
    opacity: float = Field(default=1.0, ge=0.05, le=1.0, allow_inf_nan=False)
    #: Mass in grams it counts with instead of volume by density: bought-in parts.
    mass: float | None = Field(default=None, gt=0, le=1e9, allow_inf_nan=False)
    #: A tool has no mass and is not handed over; None is what made it says.
    tool: bool | None = None


class Paint(Data):
    """A colour on a face, or on all faces of a set."""

    pick: Pick
    colour: Colour


class Part(Document):
    kind: Literal["part"] = "part"
    #: Offered as a start for new parts.
    template: bool = False
    material: str = DEFAULT
    steps: tuple[Step, ...] = Field(default=(), max_length=5000)
    looks: tuple[Look, ...] = Field(default=(), max_length=2000)
    paints: tuple[Paint, ...] = Field(default=(), max_length=5000)
    #: How many steps are built; None is all of them.
    marker: int | None = Field(default=None, ge=0)

    def step(self, id: str) -> Step | None:
        return next((s for s in self.steps if s.id == id), None)

    def look(self, body: str) -> Look:
        """What is kept of a body; plain when nothing is."""
        return next((x for x in self.looks if x.body == body), Look(body=body))

    def body_name(self, body: str) -> str:
        """What a body is called: by its own name, else after the step it came from."""
        if own := self.look(body).name:
            return own
        maker, *rest = marks_of(body)
        step = self.step(maker)
        return " ".join([step.name if step else body, *rest])[:80]


def as_part(document: Document, why: str) -> Part:
    """A document that has to be a part. Raises BadInput with why it has to."""
    if not isinstance(document, Part):
        raise BadInput(why)
    return document


def taken_from(part: Part) -> set[str]:
    """The other parts, and members of parts, whose bodies a part takes, by what they are looked up by."""
    found = [KINDS[s.kind].documents(s.fields) for s in part.steps if s.kind in KINDS]
    return set().union(*found)


def files_of(part: Part) -> list[str]:
    """Ids of the stored files a part reads."""
    found = [KINDS[s.kind].files(s.fields) for s in part.steps if s.kind in KINDS]
    return sorted(set().union(*found))


def materials_of(part: Part) -> set[str]:
    """Ids of the materials of a part and its bodies."""
    return {part.material, *(x.material for x in part.looks if x.material)}


def part_request(
    part: Part,
    around: Around,
    upto: int | None = None,
    within: tuple[tuple[str, str], ...] = (),
) -> Json:
    """What a worker needs to build a part, the parts it takes bodies from included.

    `within` are ids and names of the parts that take from it, outermost first. Raises BadInput
    for a circle.
    """
    if within and within[-1] in within[:-1]:
        circle = within[within.index(within[-1]) :]
        names = " → ".join(name for _, name in circle)
        raise BadInput(f"these parts take bodies from each other in a circle: {names}")
    others = {
        id: part_request(inner, around, within=(*within, (id, inner.name)))
        for id in sorted(taken_from(part))
        if isinstance(inner := around.other(id), Part)
    }
    # Bodies may keep what they are made of where they are taken from.
    materials = {id: m for other in others.values() for id, m in other["materials"].items()}
    return {
        "document": dump(part),
        "materials": materials | around.materials(materials_of(part)),
        "files": {"project": around.project, "ids": files_of(part)},
        "others": others,
        "doomed": dict(around.doomed),
        "upto": upto,
    }


# Telling steps as a script


def _told(item: Json) -> Json:
    fields = item["fields"]
    for was, now in ((m["was"], m["now"]) for m in reversed(item["mended"])):
        fields = _swapped(fields, now, was)
    return {
        "kind": item["kind"],
        "name": item["name"],
        "fields": _plainest(item["kind"], fields),
    }


def _swapped(data: Any, old: Any, new: Any) -> Any:
    if data == old:
        return new
    if isinstance(data, dict):
        return {k: _swapped(v, old, new) for k, v in data.items()}
    return [_swapped(v, old, new) for v in data] if isinstance(data, list) else data


def _plainest(kind: str, fields: Json) -> Json:
    """Fields that are not as the kind has them by itself, and inside them only what is said."""
    try:
        specs = kind_called(kind).Fields.model_fields
    except Trouble:  # a kind that is not there any more keeps all its fields
        return dict(fields)
    kept = {}
    for name, value in fields.items():
        spec = specs.get(name)
        known = spec is not None and not spec.is_required()
        usual = spec.get_default(call_default_factory=True) if spec and known else ...
        usual = usual.model_dump(mode="json") if hasattr(usual, "model_dump") else usual
        usual = list(usual) if isinstance(usual, tuple) else usual
        if value != usual:
            kept[name] = value
    # A slim field is kept where it is read as the full one.
    for name, value in list(kept.items()):
        slim = _slim(value)
        with suppress(Trouble):
            if slim != value and checked_fields(kind, {**kept, name: slim}) == fields:
                kept[name] = slim
    return kept


def _slim(data: Any) -> Any:
    """Data without entries that say nothing: None, False, empty lists."""
    if isinstance(data, dict):
        return {
            k: _slim(v) for k, v in data.items() if v is not None and v is not False and v != []
        }
    return [_slim(v) for v in data] if isinstance(data, list) else data


def _after(item: Json) -> list[Command]:
    found: list[Command] = []
    if item["mended"]:
        swaps = [
            {"step": item["id"], "old": m["was"], "new": m["now"], "score": m["score"]}
            for m in item["mended"]
        ]
        found.append({"do": "mend_picks", "swaps": swaps})
    if item["asleep"]:
        found.append({"do": "sleep_step", "id": item["id"], "asleep": True})
    if item["target"] is not None:
        found.append({"do": "set_target", "id": item["id"], "target": item["target"]})
    if item["target_volume"] is not None:
        found.append(
            {"do": "set_target", "id": item["id"], "target": f"{item['target_volume']!r} mm**3"}
        )
    return found


@register
class PartKind(DocumentKind[Part]):
    kind = "part"
    model = Part
    label, icon = "Part", "part"
    line = "One thing to be made: sketches, shapes, holes, in one material"
    groups = (
        Group("steps", "s", "step", "add_step", _told, _after, ordered=True),
        CHECKS,
        NOTES,
        *MEMBERS,
    )
    exports: ClassVar[Mapping[str, str]] = {
        "step": "part_step", "brep": "part_brep", "stl": "part_mesh", "stl-text": "part_mesh",
        "3mf": "part_mesh",
        "glb": "part_glb",
    }  # fmt: skip
    picture = "part_thumbnail"
    alone = True
    placeable = True
    order = 10
    measurable = True
    template = True

    def refers(self, document: Part) -> set[str]:
        return {key_parts(key)[0] for key in taken_from(document)}

    def follows(self, document: Part) -> set[str]:
        found = map(key_parts, taken_from(document))
        return {id for id, choice in found if choice.revision is None}

    def chosen(self, document: Part) -> list[tuple[str, str, Choice]]:
        return [
            (s.name, *key_parts(key)) for s in document.steps if s.kind in KINDS
            for key in KINDS[s.kind].documents(s.fields) if "@" in key
        ]  # fmt: skip

    def redirected(self, data: Json, fresh: Mapping[str, str]) -> Json:
        steps = [
            {**s, "fields": {**s["fields"], "document": fresh.get(s["fields"]["document"], "")}}
            if "document" in s["fields"]
            else s
            for s in data["steps"]
        ]
        return {**data, "steps": steps}

    def files(self, document: Part) -> list[str]:
        return files_of(document)

    def materials(self, document: Part) -> set[str]:
        return materials_of(document)

    def content(self, document: Part) -> Json:
        """The steps that are built, and what weighs in them."""
        built = document.steps[: document.marker] if document.marker is not None else document.steps
        looks = [[x.body, x.material, x.mass, x.tool] for x in document.looks]
        plain = [None, None, None]
        return {
            "steps": [[s.id, s.kind, s.fields] for s in built if not s.asleep],
            "material": document.material,
            "looks": sorted(x for x in looks if x[1:] != plain),
        }

    def made(self, given: Mapping[str, Any], defaults: Mapping[str, Any]) -> Json:
        return {"material": defaults["material"]} if "material" in defaults else {}

    def request(self, document: Part, around: Around, upto: int | None = None) -> tuple[str, Json]:
        return "build", part_request(document, around, upto)

    def component(self, document: Part, around: Around) -> Json:
        return {"part": part_request(document, around)}

    def standing_for(self, document: str, choice: Choice, member: Part) -> list[Command]:
        fields = {
            "document": document, "choice": choice.model_dump(mode="json"), "material": "there",
        }  # fmt: skip
        return [
            {"do": "set_material", "material": member.material},
            {"do": "add_step", "kind": "taken", "name": member.name, "fields": fields},
        ]

    def faults(self, document: Part, built: Json) -> Faults:
        names = {s.id: s.name for s in document.steps}
        found: Faults = {}
        for step in built["steps"]:
            if step["error"]:
                found[f"step:{step['id']}"] = (names[step["id"]], step["error"]["text"])
            elif step["misses_target"]:
                found[f"step:{step['id']}"] = (names[step["id"]], "misses its target")
        return found

    def described(self, document: Part, built: Json) -> Json:
        return {
            "bodies": [
                {k: b[k] for k in ("name", "mass", "volume", "material")} for b in built["bodies"]
            ],
            "not_built": [
                {"step": step.name, "why": s["error"]["text"]}
                for step, s in zip(document.steps, built["steps"], strict=True)
                if s["error"]
            ],
        }

    def first(self, data: Json) -> list[Command]:
        if data["material"] == DEFAULT:
            return []
        return [{"do": "set_material", "material": data["material"]}]

    def last(self, data: Json) -> list[Command]:
        plain = ("opacity", 1.0)
        found: list[Command] = [
            {"do": "set_body", **{k: v for k, v in x.items() if v is not None and (k, v) != plain}}
            for x in data["looks"]
        ]
        found += [
            {"do": "paint_faces", "picks": [p["pick"]], "colour": p["colour"]}
            for p in data["paints"]
        ]
        if data["marker"] is not None:
            found.append({"do": "set_marker", "at": data["marker"]})
        if data["template"]:
            found.append({"do": "set_template", "on_offer": True})
        return found

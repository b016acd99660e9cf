"""An assembly: components, and the joints that hold them together."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import ClassVar, Literal, get_args

from pydantic import Field

from vireo.core.documents.base import Choice, Data, Document, Id, Name, dump, member_key
from vireo.core.documents.frames import JointEnd, Number, Placement
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
    all_but,
    kind_of,
    register,
)
from vireo.core.quantity import Formula
from vireo.core.trouble import BadInput

#: What the kinds of joint were called in documents of version 1.
FORMER_JOINTS = {"rigid": "fixed", "slider": "prismatic"}
#: The one coordinate that joints had then.
_FORMER_COORDINATE = {"revolute": "turn", "prismatic": "slide"}


class Component(Data):
    """An occurrence of a part or assembly. A `moving` assembly goes by its own joints here; `inside`
    tells where its components stand in it then, by the ids that lead to them (``c2``, ``c2/c4``).
    Where it does not tell they stand as they do in their own document. A `reference` is there to
    model against: it is drawn and joined to, but weighs nothing, is in nobody's way, is no part of
    what is listed or handed over. `choice` says which member of its document it is (None: as drawn). An
    `absent` one is not there at all, nor what holds it, until a variant has it again."""

    id: Id
    name: Name
    document: str = Field(max_length=40)
    anchored: bool = False
    placement: Placement = Placement()
    tag: str = Field(default="", max_length=40)
    moving: bool = False
    inside: dict[str, Placement] = Field(default_factory=dict, max_length=5000)
    reference: bool = False
    choice: Choice | None = None
    absent: bool = False

    @property
    def key(self) -> str:
        """What its document is looked up by: the member of it that stands here."""
        return member_key(self.document, self.choice)


class Motion(Data):
    """A coordinate of a joint: where it is driven to, and its limits, in mm or degrees as
    formulas. None lets it move, or has no limit."""

    value: Formula | None = None
    least: Formula | None = None
    most: Formula | None = None


#: What of a joint can be held: its two ends, the plane a symmetry mirrors in, and the other of two
#: faces each of them lies between.
JointSide = Literal["a", "a2", "b", "b2", "mirror", "mirror2"]
SIDES: tuple[JointSide, ...] = get_args(JointSide)


class Joint(Data):
    """A kinematic pair, a condition or a drive; `kind` names an entry of the registry of joints,
    `motions` say what is known of its coordinates, by name. `mirror` is what a symmetry mirrors in;
    `a2`, `b2` and `mirror2` are the other of two faces an end lies between, `factor` the number its
    kind asks for (a pitch, a ratio)."""

    id: Id
    kind: str = Field(max_length=24)
    name: Name
    a: JointEnd
    b: JointEnd
    a2: JointEnd | None = None
    b2: JointEnd | None = None
    mirror: JointEnd | None = None
    mirror2: JointEnd | None = None
    factor: Formula | None = None
    #: Against the sense of its ends, or on the other side; None leaves a condition as things stand.
    flip: bool | None = None
    offset: Formula = "0 mm"
    motions: dict[str, Motion] = Field(default_factory=dict, max_length=6)
    asleep: bool = False

    @property
    def ends(self) -> dict[JointSide, JointEnd]:
        """All it holds, by side."""
        return {s: end for s in SIDES if (end := getattr(self, s)) is not None}

    @property
    def components(self) -> set[str]:
        return {end.component for end in self.ends.values()}


#: What a share copy shows of a component.
ShareLevel = Literal["exact", "skin", "box", "out"]


class Bunch(Data):
    """Components that move as one: they stand to each other as they were put."""

    id: Id
    name: Name
    components: tuple[str, ...] = Field(max_length=5000)


class Copies(Data):
    """Components repeated; `kind` names an entry of the registry of ways to copy. What a copy is
    copied along, round or over is held by `of` on a component, or is the `axis` of the assembly;
    `left_out` are numbers of copies that are missing, the original has 1."""

    id: Id
    kind: str = Field(max_length=24)
    name: Name
    components: tuple[str, ...] = Field(min_length=1, max_length=2000)
    of: JointEnd | None = None
    axis: Literal["X", "Y", "Z"] = "X"
    count: Formula = "2"
    spacing: Formula | None = None
    reverse: bool = False
    left_out: tuple[int, ...] = Field(default=(), max_length=2000)
    asleep: bool = False


class ApartStep(Data):
    """Components that come off at one step of a view taken apart, and by how much in all (mm)."""

    components: tuple[str, ...] = Field(min_length=1, max_length=5000)
    by: tuple[Number, Number, Number]


class Explosion(Data):
    """A view taken apart, kept by name: what comes off, step by step."""

    id: Id
    name: Name
    steps: tuple[ApartStep, ...] = Field(default=(), max_length=2000)


class ShareRule(Data):
    """How much of some components a share copy shows: those called so (`*` for anything), those whose
    document or an own property says so (``name=value``), or picked ones by id."""

    by: Literal["name", "property", "pick"]
    what: str = Field(default="", max_length=200)
    components: tuple[str, ...] = Field(default=(), max_length=5000)
    level: ShareLevel


class Share(Data):
    """A share copy for outsiders, kept by name: what no rule speaks of shows `level`, the last rule
    that does decides. Holes up to `small` (mm) are closed in outer skins; `looks` keeps colours."""

    id: Id
    name: Name
    rules: tuple[ShareRule, ...] = Field(default=(), max_length=200)
    level: ShareLevel = "skin"
    small: float = Field(default=3.0, ge=0, le=1000, allow_inf_nan=False)
    looks: bool = True


#: What is weighed: the mass, a coordinate of the centre of gravity, a moment of inertia about that.
WeighedWord = Literal["mass", "x", "y", "z", "xx", "yy", "zz"]


class Weighed(Data):
    """A number of the mass properties of some components (none: of all) as they stand, or in a position
    kept by name; parameters, limits of checks and whoever asks for values use it by its name."""

    id: Id
    name: str = Field(max_length=40)
    what: WeighedWord = "mass"
    components: tuple[str, ...] = Field(default=(), max_length=5000)
    position: str | None = Field(default=None, max_length=40)


class Meant(Data):
    """An overlap that is meant, between what stands at two paths of component ids (``c2``, ``c2/c4``):
    a press fit, a thread, a seal; and how deep it may be."""

    id: Id
    a: str = Field(min_length=1, max_length=400)
    b: str = Field(min_length=1, max_length=400)
    reason: str = Field(default="", max_length=200)
    depth: Formula = "0.05 mm"


class Driver(Data):
    """A coordinate of a joint driven over a run (its first when none is named); `law` names an entry of
    the registry of laws, which asks for a `value`, a time `over` which, or `points` of times and values."""

    joint: str = Field(max_length=200)
    coordinate: str = Field(default="", max_length=24)
    law: str = Field(default="speed", max_length=24)
    value: Formula = ""
    over: Formula = ""
    points: tuple[tuple[Formula, Formula], ...] = Field(default=(), max_length=500)


class RunLoad(Data):
    """What acts over a run; `kind` names an entry of the registry of loads, which asks for a coordinate of
    a joint or for places on components, and for numbers: a strength, one at rest, a damping."""

    kind: str = Field(max_length=24)
    joint: str = Field(default="", max_length=200)
    coordinate: str = Field(default="", max_length=24)
    a: JointEnd | None = None
    b: JointEnd | None = None
    along: Literal["X", "Y", "Z", "-X", "-Y", "-Z"] = "-Z"
    value: Formula = ""
    rest: Formula = ""
    damping: Formula = ""


class Watch(Data):
    """Two components, by paths of ids (``c2``, ``c2/c4``), whose gap is followed all through a run."""

    a: str = Field(min_length=1, max_length=400)
    b: str = Field(min_length=1, max_length=400)


class Traced(Data):
    """A place on a component whose way, speed and acceleration are followed."""

    name: Name
    at: JointEnd


class Run(Data):
    """A motion over time, kept by name: what is driven how, what acts, what is followed. With `weighed`
    forces come of masses, and what is not driven moves by them; `gravity` is the way things fall."""

    id: Id
    name: Name
    duration: Formula = "2 s"
    frames: int = Field(default=120, ge=2, le=2000)
    drivers: tuple[Driver, ...] = Field(default=(), max_length=50)
    loads: tuple[RunLoad, ...] = Field(default=(), max_length=100)
    weighed: bool = True
    gravity: Literal["X", "Y", "Z", "-X", "-Y", "-Z", ""] = "-Z"
    clashes: bool = True
    watched: tuple[Watch, ...] = Field(default=(), max_length=50)
    traced: tuple[Traced, ...] = Field(default=(), max_length=50)


class Position(Data):
    """A stand of the components kept by name: where each is, and what held coordinates of joints
    are at there, by joint and coordinate."""

    id: Id
    name: Name
    placements: dict[str, Placement] = Field(default_factory=dict, max_length=5000)
    values: dict[str, dict[str, Formula]] = Field(default_factory=dict, max_length=5000)


class Assembly(Document):
    schema_version: Literal[2] = 2
    kind: Literal["assembly"] = "assembly"
    components: tuple[Component, ...] = Field(default=(), max_length=5000)
    joints: tuple[Joint, ...] = Field(default=(), max_length=5000)
    positions: tuple[Position, ...] = Field(default=(), max_length=200)
    bunches: tuple[Bunch, ...] = Field(default=(), max_length=500)
    copies: tuple[Copies, ...] = Field(default=(), max_length=500)
    explosions: tuple[Explosion, ...] = Field(default=(), max_length=100)
    shares: tuple[Share, ...] = Field(default=(), max_length=100)
    weighed: tuple[Weighed, ...] = Field(default=(), max_length=200)
    meant: tuple[Meant, ...] = Field(default=(), max_length=2000)
    runs: tuple[Run, ...] = Field(default=(), max_length=100)

    @property
    def numbers(self) -> frozenset[str]:
        return frozenset(w.name for w in self.weighed)

    def component(self, id: str) -> Component | None:
        return next((c for c in self.components if c.id == id), None)

    def joint(self, id: str) -> Joint | None:
        return next((j for j in self.joints if j.id == id), None)

    def run(self, id: str) -> Run | None:
        return next((r for r in self.runs if r.id == id), None)


def _textbook_joints(data: Json) -> Json:
    """Version 2: joints bear the names of the textbook's lower pairs, and have as many coordinates
    as those leave."""

    def lifted(joint: Json) -> Json:
        known = {k: joint.pop(k, None) for k in ("value", "least", "most")}
        said = {k: v for k, v in known.items() if v is not None}
        kind = FORMER_JOINTS.get(joint["kind"], joint["kind"])
        name = _FORMER_COORDINATE.get(str(kind))
        return {**joint, "kind": kind, "motions": {name: said} if name and said else {}}

    return {**data, "joints": [lifted(dict(j)) for j in data.get("joints", [])]}


def _after_component(item: Json) -> list[Command]:
    said = {
        k: item[k] for k in ("tag", "moving", "inside", "reference", "choice", "absent") if item[k]
    }
    return [{"do": "edit_component", "id": item["id"], **said}] if said else []


def _tell_joint(item: Json) -> Json:
    told = all_but("asleep", "motions")(item)
    motions = {
        name: {k: v for k, v in motion.items() if v is not None}
        for name, motion in item["motions"].items()
    }
    return told | ({"motions": motions} if motions else {})


def _after_copies(item: Json) -> list[Command]:
    return [{"do": "edit_copies", "id": item["id"], "asleep": True}] if item["asleep"] else []


def _after_joint(item: Json) -> list[Command]:
    if not item["asleep"]:
        return []
    return [{"do": "edit_joint", "id": item["id"], "fields": {"asleep": True}}]


def _standing(component: Component) -> Json:
    """What of a component decides where its bodies are."""
    found = component.model_dump(mode="json", exclude={"name", "tag"})
    unsaid = {"moving", "inside"} if not component.moving else set()
    unsaid |= {k for k in ("reference", "choice", "absent") if not found[k]}
    return {k: v for k, v in found.items() if k not in unsaid}


def without(document: Assembly, gone: set[str]) -> Assembly:
    """The assembly without some components, and without what holds, groups or copies them."""
    if not gone:
        return document
    bunches = [
        b.model_copy(update={"components": tuple(c for c in b.components if c not in gone)})
        for b in document.bunches
    ]
    return document.model_copy(
        update={
            "components": tuple(c for c in document.components if c.id not in gone),
            "joints": tuple(j for j in document.joints if not j.components & gone),
            "bunches": tuple(b for b in bunches if len(b.components) > 1),
            "copies": tuple(
                c
                for c in document.copies
                if not gone & {*c.components, *([c.of.component] if c.of else [])}
            ),
        }
    )


def looked_at_only(document: Assembly) -> set[str]:
    """Components that are there as a reference and that nothing holds, copies, traces or loads: what else
    stands, moves or clashes does not hang on them."""
    references = {c.id for c in document.components if c.reference}
    if not references:
        return references
    said = [
        *(j.components for j in document.joints),
        *(b.components for b in document.bunches),
        *({*c.components, *([c.of.component] if c.of else [])} for c in document.copies),
        *(_mentioned(r.model_dump(mode="json")) for r in document.runs),
    ]
    return references - set().union(*said)


def _mentioned(data: object) -> set[str]:
    """Every id in a text of data, those of a path (``c2/c4``) too."""
    if isinstance(data, str):
        return set(data.split("/"))
    held = data.values() if isinstance(data, dict) else data if isinstance(data, list) else ()
    return set().union(*map(_mentioned, held))


@register
class AssemblyKind(DocumentKind[Assembly]):
    kind = "assembly"
    version = 2
    lifts: ClassVar[Mapping[int, Callable[[Json], Json]]] = {1: _textbook_joints}
    model = Assembly
    label, icon = "Assembly", "assembly"
    line = "Parts and assemblies put together by joints, driven and checked for fit"
    groups = (
        Group(
            "components",
            "c",
            "component",
            "add_component",
            all_but("tag", "moving", "inside", "reference", "choice", "absent"),
            _after_component,
        ),
        Group("joints", "j", "joint", "add_joint", _tell_joint, _after_joint),
        Group("positions", "p", "position", "keep_position", all_but()),
        Group("bunches", "g", "group", "group_components", all_but()),
        Group("copies", "r", "copies", "add_copies", all_but("asleep"), _after_copies),
        Group("explosions", "x", "view taken apart", "keep_apart", all_but()),
        Group("shares", "k", "share copy", "keep_share", all_but()),
        Group("weighed", "w", "weighed number", "keep_weighed", all_but()),
        Group("meant", "f", "overlap that is meant", "mark_meant", all_but()),
        Group("runs", "m", "run", "keep_run", all_but()),
        CHECKS,
        NOTES,
        *MEMBERS,
    )
    exports: ClassVar[Mapping[str, str]] = {
        "step": "assembly_step",
        "glb": "assembly_glb",
    }
    picture = "assembly_thumbnail"
    measurable = True
    placeable = True
    order = 20

    def refers(self, document: Assembly) -> set[str]:
        return {c.document for c in document.components}

    def follows(self, document: Assembly) -> set[str]:
        return {
            c.document for c in document.components
            if c.choice is None or c.choice.revision is None
        }  # fmt: skip

    def present(self, document: Assembly) -> Assembly:
        return without(document, {c.id for c in document.components if c.absent})

    def chosen(self, document: Assembly) -> list[tuple[str, str, Choice]]:
        own = [(c.name, c.document, c.choice) for c in document.components if c.choice is not None]
        columns = {c.id: c.of["component"] for c in document.columns if c.drives == "member"}
        rows = [v.cells for v in document.variants]
        rows += [v.cells for o in document.options for v in o.values]
        rows += [{c.id: c.base} for c in document.columns]
        for cells in rows:
            for id, cell in cells.items():
                there = document.component(columns[id]) if id in columns else None
                if there is not None and isinstance(cell, Choice):
                    own.append((there.name, there.document, cell))
        return own

    def redirected(self, data: Json, fresh: Mapping[str, str]) -> Json:
        components = [
            {**c, "document": fresh.get(c["document"], c["document"])} for c in data["components"]
        ]
        return {**data, "components": components}

    def content(self, document: Assembly) -> Json:
        """Where components stand, what holds them, and their copies that are awake."""
        joints = [
            j.model_dump(mode="json", exclude={"name", "asleep"})
            for j in document.joints
            if not j.asleep
        ]
        components = [_standing(c) for c in document.components]
        copies = [
            c.model_dump(mode="json", exclude={"name", "asleep"})
            for c in document.copies
            if not c.asleep
        ]
        bunches = [list(b.components) for b in document.bunches]
        found = {"components": components, "joints": joints}
        return (
            found
            | ({"copies": copies} if copies else {})
            | ({"bunches": bunches} if bunches else {})
        )

    def standing_for(self, document: str, choice: Choice, member: Assembly) -> list[Command]:
        return [{
            "do": "add_component", "document": document, "name": member.name, "anchored": True,
            "choice": choice.model_dump(mode="json"),
        }]  # fmt: skip

    def request(
        self, document: Assembly, around: Around, upto: int | None = None
    ) -> tuple[str, Json]:
        """The assembly with every document it reaches."""
        found: Json = {}

        def gather(assembly: Document, path: tuple[str, ...]) -> None:
            if not isinstance(assembly, Assembly):
                return
            for component in assembly.components:
                id, key = component.document, component.key
                if id in path:
                    raise BadInput(f"{assembly.name} contains itself through {component.name}")
                if key in found or (inner := around.other(key)) is None:
                    continue
                entry = kind_of(inner).component(inner, around)
                if entry is not None:
                    found[key] = entry
                    gather(inner, (*path, id))

        document = self.present(document)
        gather(document, ())
        return "assemble", {"document": dump(document), "documents": found}

    def component(self, document: Assembly, around: Around) -> Json:
        return {"assembly": dump(self.present(document))}

    def faults(self, document: Assembly, built: Json) -> Faults:
        names = {j.id: j.name for j in document.joints}
        found: Faults = {
            f"joint:{j['id']}": (names[j["id"]], j["trouble"]["text"])
            for j in built["joints"]
            if j["trouble"]
        }
        for trouble in built["troubles"]:
            where = " ".join(trouble["where"]) or trouble["text"]
            found[where] = (document.name, trouble["text"])
        return found

"""Parts whose faces are known without looking at names: where each must lie follows from the
numbers it was built with. Random edits are made, picks held, and each is asked where it went."""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from tests.core.drawings import plate
from tests.core.parts import Maker
from vireo.core.naming import FaceInfo, Pick, Topology, make_pick, resolve
from vireo.core.trouble import Trouble

CELLS = [(i, j) for i in range(4) for j in range(3)]
HAIR = 1e-5
BODY = "b_s2"


@dataclass
class Feature:
    """A step with its own cell of the plate; `numbers` are its sizes in mm."""

    form: str
    cell: tuple[int, int]
    numbers: dict[str, float]
    step: str = ""


Seen = Callable[[FaceInfo], bool]


@dataclass(frozen=True)
class Face:
    """A face by what made it: ``plate``, side and generation, or a feature and the piece of it."""

    of: str
    piece: str
    generation: int = 0


@dataclass
class Held:
    """A pick with the one or two faces that say where it must be."""

    pick: Pick
    faces: tuple[Face, ...]


@dataclass
class Tally:
    edits: int = 0
    asked: int = 0
    lost: int = 0
    wrong: list[str] = field(default_factory=list)


class Part:
    """A plate with bosses, bores, pockets, rows of bores, rounded and bevelled corners."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)
        self.m = Maker()
        self.sizes = {"w": 160.0, "h": 120.0, "t": 12.0}
        for name, v in self.sizes.items():
            self.m.do("add_parameter", name=name, formula=f"{v} mm")
        s = plate("w", "h")
        self.lines = [e["id"] for e in s.entities if e["type"] == "line"]
        self.generation = [0, 0, 0, 0]
        self.m.sketch(s)
        self.m.step("extrude", sketch="s1", depth="t")
        self.features: dict[str, Feature] = {}
        self.held: list[Held] = []
        self.tally = Tally()
        self.topology = Topology()
        self.alive: set[str] = set()
        for _ in range(4):
            self.insert()
        self.look()

    # --- what is true

    def centre(self, f: Feature, k: int = 0) -> tuple[float, float]:
        i, j = f.cell
        step = f.numbers.get("spacing", 0.0) * k
        return self.sizes["w"] * (i + 0.5) / 4 + step, self.sizes["h"] * (j + 0.5) / 3

    def faces(self) -> list[Face]:
        """All faces there must be now."""
        found = [Face("plate", p) for p in ("top", "under")]
        found += [Face("plate", f"side{k}", g) for k, g in enumerate(self.generation)]
        for id in sorted(self.alive & set(self.features)):
            f = self.features[id]
            found += [Face(id, p) for p in self.pieces(f)]
        return found

    def pieces(self, f: Feature) -> list[str]:
        if f.form == "row":
            return [f"wall{k}" for k in range(3)]
        return {
            "boss": ["wall", "top"], "bore": ["wall"], "corner": ["round"],
            "pocket": ["floor", "left", "right", "front", "back"],
        }[f.form]  # fmt: skip

    def seen(self, face: Face) -> Seen | None:
        """What says of a face that it is the one meant; None when it must not be there."""
        w, h, t = (self.sizes[k] for k in "wht")
        if face.of == "plate":
            if face.piece in ("top", "under"):
                return flat((0, 0, 1), t) if face.piece == "top" else flat((0, 0, -1), 0.0)
            k = int(face.piece[4])
            if self.generation[k] != face.generation:
                return None
            return [
                flat((0, -1, 0), 0),
                flat((1, 0, 0), w),
                flat((0, 1, 0), h),
                flat((-1, 0, 0), 0),
            ][k]
        if face.of not in self.alive or face.of not in self.features:
            return None
        f = self.features[face.of]
        n = f.numbers
        if f.form == "corner":
            x, y = (w - n["r"] if f.cell[0] else n["r"]), (h - n["r"] if f.cell[1] else n["r"])
            return round_(x, y, n["r"])
        if f.form in ("bore", "row"):
            x, y = self.centre(f, int(face.piece[4:] or 0))
            return round_(x, y, n["d"] / 2)
        x, y = self.centre(f)
        if f.form == "boss":
            if face.piece == "wall":
                return round_(x, y, n["d"] / 2)
            return flat((0, 0, 1), t + n["e"], (x, y, t + n["e"]))
        a, deep = n["a"] / 2, t - n["e"]
        return {
            "floor": flat((0, 0, 1), deep, (x, y, deep)),
            "left": flat((1, 0, 0), x - a, (x - a, y, (t + deep) / 2)),
            "right": flat((-1, 0, 0), -(x + a), (x + a, y, (t + deep) / 2)),
            "front": flat((0, 1, 0), y - a, (x, y - a, (t + deep) / 2)),
            "back": flat((0, -1, 0), -(y + a), (x, y + a, (t + deep) / 2)),
        }[face.piece]

    # --- edits

    def insert(self) -> bool:
        taken = {f.cell for f in self.features.values() if f.form not in ("corner", "row")}
        rows = {f.cell[1] for f in self.features.values() if f.form == "row"}
        form = self.rng.choice(["boss", "bore", "pocket", "row", "corner"])
        r = self.rng
        if form == "corner":
            cell = (r.randrange(2), r.randrange(2))
            if any(f.form == "corner" and f.cell == cell for f in self.features.values()):
                return False
            numbers = {"r": r.uniform(3, 8)}
        elif form == "row":
            j = r.randrange(3)
            if j in rows or any(c[1] == j for c in taken):
                return False
            cell, numbers = (0, j), {"d": r.uniform(4, 10), "spacing": r.uniform(20, 35)}
        else:
            free = [c for c in CELLS if c not in taken and c[1] not in rows]
            if not free:
                return False
            cell = r.choice(free)
            numbers = {
                "boss": {"d": r.uniform(6, 18), "e": r.uniform(3, 9)},
                "bore": {"d": r.uniform(5, 16)},
                "pocket": {"a": r.uniform(8, 18), "e": r.uniform(2, 7)},
            }[form]
        f = Feature(form, cell, numbers)
        at = r.randint(2, len(self.m.part.steps))
        if form == "row":
            at = len(self.m.part.steps)
        kind, fields = self.stored(f)
        try:
            self.m.do("add_step", kind=kind, fields=fields, at=at)
        except Trouble:
            return False
        f.step = f"s{self.m.part.last_id}"
        if form == "row":
            self.m.do("add_step", kind="copies_linear", fields=self.copies(f), at=at + 1)
        self.features[f.step] = f
        return True

    def stored(self, f: Feature) -> tuple[str, dict[str, Any]]:
        n = f.numbers
        i, j = f.cell
        if f.form == "corner":
            sides = {(0, 0): (0, 3), (1, 0): (0, 1), (0, 1): (2, 3), (1, 1): (1, 2)}[f.cell]
            name = sorted(f"s2/side/{self.lines[k]}" for k in sides)
            pick = {"body": BODY, "kind": "edge", "name": name, "witness": {"kind": "line"}}
            return "fillet", {"edges": [pick], "radius": f"{n['r']!r} mm"}
        x, y = f"w*{(i + 0.5) / 4!r}", f"h*{(j + 0.5) / 3!r}"
        if f.form == "pocket":
            return "primitive", {
                "form": "box", "width": f"{n['a']!r} mm", "depth": f"{n['a']!r} mm", "height": "20 mm",
                "x": f"{x} - {n['a'] / 2!r} mm", "y": f"{y} - {n['a'] / 2!r} mm",
                "z": f"t - {n['e']!r} mm", "result": "cut",
            }  # fmt: skip
        boss = f.form == "boss"
        return "primitive", {
            "form": "cylinder", "diameter": f"{n['d']!r} mm",
            "height": f"t + {n['e']!r} mm" if boss else "t + 40 mm", "x": x, "y": y,
            "z": "0 mm" if boss else "-10 mm", "result": "add" if boss else "cut",
        }  # fmt: skip

    def copies(self, f: Feature) -> dict[str, Any]:
        return {"steps": [f.step], "count": "3", "spacing": f"{f.numbers['spacing']!r} mm"}

    def number(self) -> bool:
        if self.rng.random() < 0.4 or not self.features:
            name = self.rng.choice(["w", "h", "t"])
            low, high = {"w": (150, 260), "h": (110, 180), "t": (8.5, 25)}[name]
            self.sizes[name] = self.rng.uniform(low, high)
            self.m.do("edit_parameter", name=name, formula=f"{self.sizes[name]!r} mm")
            return True
        f = self.rng.choice(list(self.features.values()))
        name = self.rng.choice(list(f.numbers))
        low, high = {
            "d": (4, 10) if f.form == "row" else (5, 18), "e": (2, 8), "a": (8, 18), "r": (2, 9),
            "spacing": (20, 35),
        }[name]  # fmt: skip
        f.numbers[name] = self.rng.uniform(low, high)
        _, fields = self.stored(f)
        fields.pop("edges", None)
        self.m.do("edit_step", id=f.step, fields=fields)
        if f.form == "row":
            self.m.do(
                "edit_step", id=self.row_of(f), fields={"spacing": f"{f.numbers['spacing']!r} mm"}
            )
        return True

    def row_of(self, f: Feature) -> str:
        return next(s.id for s in self.m.part.steps if f.step in s.fields.get("steps", ()))

    def sleep(self) -> bool:
        steps = [s for s in self.m.part.steps if s.id in self.features]
        if not steps:
            return False
        step = self.rng.choice(steps)
        self.m.do("sleep_step", id=step.id, asleep=not step.asleep)
        return True

    def reorder(self) -> bool:
        if not self.features:
            return False
        try:
            self.m.do("move_step", id=self.rng.choice(list(self.features)),
                      to=self.rng.randint(2, len(self.m.part.steps) - 1))  # fmt: skip
        except Trouble:
            return False  # what needs it would come first
        return True

    def redraw(self) -> bool:
        """One line of the outline taken out and drawn anew: another curve in its place."""
        k = self.rng.randrange(4)
        old, new = self.lines[k], f"l{100 + self.tally.edits}"
        drawing = self.m.part.steps[0].fields["drawing"]
        text = {**drawing}
        text["entities"] = [{**e, "id": new} if e["id"] == old else e for e in drawing["entities"]]
        text["constraints"] = [
            {**c, "on": [new if o == old else o for o in c["on"]]} for c in drawing["constraints"]
        ]
        self.m.do("edit_step", id="s1", fields={"drawing": text})
        self.lines[k] = new
        self.generation[k] += 1
        return True

    def edit(self) -> None:
        """One random edit, then every held pick is asked where it went."""
        ways = [self.number] * 4 + [self.sleep, self.sleep, self.insert, self.reorder, self.redraw]
        while not self.rng.choice(ways)():
            pass
        self.tally.edits += 1
        self.look()
        self.ask()
        self.hold()

    # --- looking

    def look(self) -> None:
        found = self.m.build()
        self.alive = {s.id for s in found.steps if s.status == "ok"}
        # Without its copies a row has only its first bore; without its bore none.
        self.topology = self.m.topology(BODY)
        self.copied = {
            s.fields["steps"][0] for s in self.m.part.steps
            if s.kind == "copies_linear" and s.id in self.alive
        }  # fmt: skip

    def there(self, face: Face) -> Seen | None:
        f = self.features.get(face.of)
        if f and f.form == "row" and face.piece != "wall0" and face.of not in self.copied:
            return None
        return self.seen(face)

    def hold(self) -> None:
        """Pick a few faces and edges by where they lie, to be asked after every edit to come."""
        for face in self.rng.sample(self.faces(), 2):
            test = self.there(face)
            hits = [i for i, f in enumerate(self.topology.faces) if test and test(f)]
            if len(hits) != 1:
                continue
            self.held.append(Held(make_pick(self.topology, BODY, "face", hits[0]), (face,)))
            edges = [e for e in self.topology.edges if hits[0] in e.faces and len(e.faces) == 2]
            if not edges:
                continue
            edge = self.rng.choice(edges)
            other = next(i for i in edge.faces if i != hits[0])
            beside = [
                x for x in self.faces()
                if (seen := self.there(x)) and seen(self.topology.faces[other])
            ]  # fmt: skip
            index = self.topology.edges.index(edge)
            if len(beside) == 1:
                pick = make_pick(self.topology, BODY, "edge", index)
                self.held.append(Held(pick, (face, beside[0])))

    def ask(self) -> None:
        for held in self.held:
            self.tally.asked += 1
            index = resolve(held.pick, self.topology).index
            tests = [self.there(f) for f in held.faces]
            if index is None:
                meant = all(tests) and self.stands(held, tests)
                self.tally.lost += bool(meant)
                continue
            if held.pick.kind == "face":
                good = tests[0] is not None and tests[0](self.topology.faces[index])
            else:
                pair = [self.topology.faces[i] for i in self.topology.edges[index].faces]
                good = all(t is not None and any(t(f) for f in pair) for t in tests)
            if not good:
                self.tally.wrong.append(
                    f"edit {self.tally.edits}: {held.faces} -> {held.pick.name}"
                )

    def stands(self, held: Held, tests: list[Seen | None]) -> bool:
        """Whether what was picked is really there: its face, or an edge of both its faces."""
        hits = [
            {i for i, f in enumerate(self.topology.faces) if t is not None and t(f)} for t in tests
        ]
        if held.pick.kind == "face":
            return bool(hits[0])
        return any(
            len(e.faces) == 2 and any(a in hits[0] and b in hits[1] for a, b in (e.faces, e.faces[::-1]))
            for e in self.topology.edges
        )  # fmt: skip


def flat(n: tuple[float, ...], offset: float, near: tuple[float, ...] | None = None) -> Seen:
    """A flat face that looks along `n` at that distance from the origin, its middle near a place."""

    def seen(f: FaceInfo) -> bool:
        if f.kind != "plane" or f.direction is None or math.dist(f.direction, n) > 1e-6:
            return False
        on = abs(sum(a * b for a, b in zip(f.origin, n, strict=True)) - offset) < HAIR
        return on and (near is None or math.dist(f.at, near) < 0.5)

    return seen


def round_(x: float, y: float, radius: float) -> Seen:
    """An upright cylinder about a place."""

    def seen(f: FaceInfo) -> bool:
        at = math.dist(f.origin[:2], (x, y)) < HAIR
        return f.kind == "cylinder" and at and abs((f.radius or 0) - radius) < HAIR

    return seen

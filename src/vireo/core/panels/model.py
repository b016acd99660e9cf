"""The tree of panels and bends.

A panel lies in x, y of its own frame, z towards the top; the sheet fills 0 <= z <= t. A bend's line is
``p + s d`` in its parent; outward is to the left of `d`, so the parent's loop runs along -d there. The bend's
zone is stored as it lies flat: s along `d`, y outward from 0 to its allowance. The child's frame has its origin
at the far end of the zone at s = 0, x along `d`, y away. A positive angle bends towards the top.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, fields, replace
from typing import Any

from vireo.core.curves import CURVES, Pair
from vireo.core.panels.forms import Form, Found, Pressing, Section
from vireo.core.panels.loops import Loop, Motion2, Seg, area

Json = dict[str, Any]


@dataclass(frozen=True)
class Panel:
    """`forms` are pressed into it; its loops know nothing of them."""

    id: str
    loops: tuple[Loop, ...]
    forms: tuple[Form, ...] = ()


@dataclass(frozen=True)
class Bend:
    """`angle` in rad, signed; `radius` is the inner one, `allowance` the length of the zone in the flat (mm)."""

    id: str
    parent: str
    child: str
    p: Pair
    d: Pair
    angle: float
    radius: float
    allowance: float
    loops: tuple[Loop, ...]

    @property
    def width(self) -> float:
        """How long the bend is along its line (mm)."""
        s = [x for loop in self.loops for seg in loop for x, _ in seg.points()]
        return max(s) - min(s)


@dataclass(frozen=True)
class Sheet:
    """`thickness` in mm; `root` is the panel all others hang on."""

    thickness: float
    root: str
    panels: Mapping[str, Panel] = field(default_factory=dict)
    bends: Mapping[str, Bend] = field(default_factory=dict)

    def with_(self, *changed: Panel | Bend) -> Sheet:
        """The sheet with panels and bends put in, or put anew."""
        panels = {x.id: x for x in changed if isinstance(x, Panel)}
        bends = {x.id: x for x in changed if isinstance(x, Bend)}
        return replace(self, panels={**self.panels, **panels}, bends={**self.bends, **bends})

    def outward(self) -> Iterator[tuple[str, Bend | None]]:
        """Panels from the root on, with the bend that leads to each."""
        hang: dict[str, list[Bend]] = {}
        for bend in self.bends.values():
            hang.setdefault(bend.parent, []).append(bend)
        waiting: list[tuple[str, Bend | None]] = [(self.root, None)]
        while waiting:
            id, leads = waiting.pop()
            yield id, leads
            waiting += [(b.child, b) for b in reversed(hang.get(id, []))]

    @property
    def volume(self) -> float:
        """In mm3, by closed form: panels by their area and forms, zones by that of their middle surface."""
        t = self.thickness
        flat = sum(area(p.loops) for p in self.panels.values()) * t
        flat += sum(f.pressing.gains for p in self.panels.values() for f in p.forms)
        bent = sum(
            area(b.loops) / b.allowance * abs(b.angle) * t * (b.radius + t / 2)
            for b in self.bends.values()
        )
        return flat + bent

    def to_json(self) -> Json:
        return {
            "thickness": self.thickness, "root": self.root,
            "panels": [
                [p.id, _loops_told(p.loops), [_form_told(f) for f in p.forms]]
                for p in self.panels.values()
            ],
            "bends": [
                [b.id, b.parent, b.child, b.p, b.d, b.angle, b.radius, b.allowance, _loops_told(b.loops)]
                for b in self.bends.values()
            ],
        }  # fmt: skip

    @staticmethod
    def of(data: Json) -> Sheet:
        # Sheets kept before there were forms have none.
        panels = [
            Panel(id, _loops_read(loops), tuple(map(_form_read, forms[0] if forms else ())))
            for id, loops, *forms in data["panels"]
        ]
        bends = [
            Bend(
                id, parent, child, tuple(p), tuple(d), angle, radius, allowance, _loops_read(loops)
            )
            for id, parent, child, p, d, angle, radius, allowance, loops in data["bends"]
        ]
        return Sheet(
            data["thickness"], data["root"], {p.id: p for p in panels}, {b.id: b for b in bends}
        )


def _form_told(form: Form) -> Json:
    made, m = form.pressing, form.at
    if isinstance(made, Found):
        return {
            "id": form.id, "at": [m.c, m.s, m.x, m.y], "thickness": made.thickness, "shape": made.shape,
            "taken": _loops_told(made.taken), "gains": made.gains, "spans": made.spans, "mirrored": made.mirrored,
            "kind": made.kind,
        }  # fmt: skip
    section = made.section
    return {
        "id": form.id, "at": [m.c, m.s, m.x, m.y], "up": form.up, "kind": made.kind,
        "thickness": made.thickness, "section": [_loops_told((section.loop,)), section.reach, section.rise],
        "path": _loops_told((made.path,)), "side": made.side, "ends": made.ends, "pilot": made.pilot,
    }  # fmt: skip


def _form_read(data: Json) -> Form:
    if "shape" in data:
        loops = _loops_read(data["taken"])
        below, above = data["spans"]
        found = Found(
            data["thickness"],
            data["shape"],
            loops,
            data["gains"],
            (below, above),
            data["mirrored"],
            data["kind"],
        )
        return Form(data["id"], found, Motion2(*data["at"]))
    outline, reach, rise = data["section"]
    (loop,) = _loops_read(outline)
    (path,) = _loops_read(data["path"])
    pressing = Pressing(
        data["kind"], data["thickness"], Section(loop, reach, rise), path, data["side"], data["ends"], data["pilot"]
    )  # fmt: skip
    return Form(data["id"], pressing, Motion2(*data["at"]), data["up"])


def _loops_told(loops: tuple[Loop, ...]) -> list[list[Json]]:
    return [
        [{"form": s.curve.form, **_made_of(s), "name": s.name, "back": s.back} for s in loop]
        for loop in loops
    ]


def _made_of(seg: Seg) -> Json:
    """What makes the curve of a piece, by name."""
    return {f.name: getattr(seg.curve, f.name) for f in fields(seg.curve)}


def _loops_read(loops: list[list[Json]]) -> tuple[Loop, ...]:
    return tuple(tuple(_seg_read(dict(seg)) for seg in loop) for loop in loops)


def _seg_read(data: Json) -> Seg:
    form, name, back = data.pop("form"), data.pop("name"), data.pop("back")
    return Seg(CURVES[form](**{k: _frozen(v) for k, v in data.items()}), name, back)


def _frozen(value: Any) -> Any:
    return tuple(_frozen(v) for v in value) if isinstance(value, list) else value

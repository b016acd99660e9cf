"""The reference of what scripts can say, written from the registries."""

from __future__ import annotations

import typing
from collections.abc import Iterator
from typing import Any

from vireo.core.declared.step import StepKind, all_kinds
from vireo.core.documents.commands.base import REGISTRY
from vireo.core.quantity.units import ANGLE
from vireo.core.sketch.constraints import KINDS
from vireo.core.sketch.model import Entity
from vireo.core.sketch.tools import TOOLS

_LEAD = """# Reference for scripts

Written by `vireo reference` from what the program knows of itself; the examples are run by its
tests. A script sees `project` and the names below, plain Python, and the folder it lies in. What
it does is kept as one edit per document when it has run to its end, else not at all.

## Values

A number is in mm, of angles in degrees; a string is a formula with units and parameters, stored as
typed. `part.values()` answers in mm, degrees, kg and so on; masses of bodies are in g, volumes in
mm3.

```python
part = project.part("Cover", material="1.4301")
part.parameter("w", "60 mm")
part.parameter("lean", "1/8 * 16 deg")
assert part.values() == {"w": 60.0, "lean": 2.0}
```

## Sketches

`Sketch` is built up by coordinates and held by constraints. `point`, `line`, `circle`, `arc`, `box`,
`polygon` and `add(type, ...)` return the ids of what they draw, `put(type, *on, formula=...)` that
of a constraint or dimension. `solve(part)` moves the points to where the constraints put them and
says what is still free; `use(tool, sketch, places, sizes, selected)` or `sketch.use(...)` uses a tool
of the sketcher.

```python
s = Sketch()
corners = s.box(0, 0, 50, 30)
s.put("coincident", corners[0], "origin")
s.put("distance_x", corners[0], corners[1], formula="w")
found = s.solve(part)
assert found.holds and found.freedom == 1  # its height is open
s.put("distance_y", corners[0], corners[3], formula=40)
sides = [e["id"] for e in s.entities if e["type"] == "line"]
inner = use("offset", s, [(20, 20)], {"gap": 5}, sides)
assert s.solve(part).freedom == 0 and len(inner) > 4
```

## Regions and linked curves

`part.regions(sketch)` gives the regions of a sketch step, the largest first, each with `area`, `at`,
`depth` and the `curves` round it; steps take them as `regions=`, without them all that are not holes
count. `part.outlines(sketch)` gives everything inside an outline, whatever is drawn in it. What is
taken stays whole through curves drawn in it later. `part.curves(sketch)` gives all its curves by
id, also those linked from edges or other sketches.

```python
outline = part.sketch("Outline", drawing=s)
everywhere = part.regions(outline)
plate = part.extrude("Plate", sketch=outline, regions=everywhere, depth=6)
within = [r for r in everywhere if set(r.curves) <= set(inner)]
pocket = part.extrude(
    "Pocket", sketch=outline, regions=within, start=3, depth=9, draft="lean", result="cut"
)
assert len(part.curves(outline)) == 8
```

## Bodies, faces, edges

`part.bodies` (or `part.body`, when there is one) have `faces`, `edges`, `vertices`, `mass`, `volume`. A
face has `kind` (plane, cylinder, cone, sphere, torus, freeform), `area`, `radius`, `normal`, `at`,
`edges`; an edge `kind` (line, circle, curve), `length`, `radius`, `direction`, `at`, `faces`.
`body.face_at(x, y, z)` and `body.edge_at(x, y, z)` give the nearest by its middle. Steps take them
where they take picks. `project.picked` is what was picked on the screen.

```python
rim = [e for e in part.body.edges if e.kind == "line" and abs(e.at[2]) < 1e-6]
part.chamfer("Rim", edges=rim, size=0.5)
top = max(part.body.faces, key=lambda f: f.at[2])
assert top.kind == "plane" and top.normal == (0.0, 0.0, 1.0)
part.edit(pocket, depth=4)
assert part.build()["steps"][-1]["status"] == "ok"
```

## Checks and files

```python
part.check("mass", "Light enough", "200 g")
part.export("cover.step")
print(part.mass)
```
"""


#: What every example of a step begins with.
BEFORE = """part = project.part("Example")
block = part.primitive("Block", width=60, depth=40, height=20)
body = part.body
top, rim = body.face_at(30, 20, 20), body.edge_at(30, 0, 20)
"""

_STEPS = f"""## Steps

Every kind of step is a method of a part: `part.extrude("Name", ...)`; its id comes back. A name that
is taken goes by `part.step("set", "Name", ...)`. The examples begin with

```python
{BEFORE.strip()}
```
"""


def reference() -> str:
    """The whole page as Markdown."""
    return "\n".join([_LEAD, *_steps(), *_entities(), *_constraints(), *_tools(), *_commands()])


def _steps() -> Iterator[str]:
    yield _STEPS
    for kind in all_kinds():
        yield f"### {kind.kind}\n\n{kind.label}: {_lower(kind.line)}.\n"
        yield from _fields(kind)
        yield ""
        if kind.example:
            yield f"```python\n{kind.example.strip()}\n```\n"


def _fields(kind: StepKind[Any]) -> Iterator[str]:
    yield "| field | | takes | usual |\n|---|---|---|---|"
    for name, field in kind.Fields.model_fields.items():
        extra = field.json_schema_extra
        meta = extra.get("vireo") if isinstance(extra, dict) else None
        if not isinstance(meta, dict):
            continue
        usual = "" if field.is_required() or field.default in ((), "", None) else field.default
        shown = f"`{usual!r}`" if isinstance(usual, str | bool) and usual != "" else ""
        label = meta.get("label", "")
        yield f"| `{field.alias or name}` | {label} | {_takes(meta)} | {shown} |"


def _takes(meta: dict[str, Any]) -> str:
    """What a field takes, in words."""
    kind = meta["type"]
    if kind == "quantity":
        limits = [
            f"{word} {meta[key]:g}"
            for key, word in (("above", "more than"), ("least", "at least"), ("most", "at most"))
            if meta.get(key) is not None
        ]
        return ", ".join([str(meta["dimension"]), *limits])
    if kind == "choice":
        return ", ".join(f"`{w}`" for w in meta["words"])
    if kind == "picks":
        return f"picked {'things' if meta['accepts'] == 'any' else str(meta['accepts']) + 's'}"
    return {
        "toggle": "True or False", "sketch": "the id of a sketch step",
        "sketches": "ids of sketch steps", "regions": "`part.regions(...)`",
        "curves": "ids of curves", "points": "ids of points", "axis": "a line of the sketch, or an axis",
        "bodies": "ids of bodies", "steps": "ids of steps", "numbers": "whole numbers",
    }.get(kind, str(kind).replace("_", " "))  # fmt: skip


def _lower(line: str) -> str:
    return line[:1].lower() + line[1:]


def _entities() -> Iterator[str]:
    yield "## Entities of sketches\n\n`sketch.add(type, ...)`; where a point is asked for, its id.\n"
    yield "| type | fields |\n|---|---|"
    common = {"id", "type", "construction", "source"}
    for cls in typing.get_args(typing.get_args(Entity)[0]):
        fields = ", ".join(f"`{n}`" for n in cls.model_fields if n not in common)
        yield f"| `{cls.model_fields['type'].default or cls.__name__.lower()}` | {fields} |"
    yield ""


def _constraints() -> Iterator[str]:
    yield "## Constraints\n\n`sketch.put(type, *ids)`, dimensions with `formula=`.\n"
    yield "| type | | on | value |\n|---|---|---|---|"
    for kind in KINDS.values():
        if not kind.offered:
            continue
        on = "; ".join(", ".join(form) for form in kind.forms)
        value = "" if kind.dimension is None else kind.dimension.name
        unit = " (plain: deg)" if kind.dimension == ANGLE else ""
        yield f"| `{kind.type}` | {kind.label} | {on} | {value}{unit} |"
    yield ""


def _tools() -> Iterator[str]:
    yield "## Tools of sketches\n\n`sketch.use(tool, places, selected=..., ...)`.\n"
    yield "| tool | | sizes |\n|---|---|---|"
    for tool in TOOLS.values():
        sizes = ", ".join(f"`{s.name}` ({s.kind})" for s in tool.sizes)
        yield f"| `{tool.name}` | {tool.line} | {sizes} |"
    yield ""


def _commands() -> Iterator[str]:
    yield "## Everything else\n\n`document.do(command, ...)` runs any command there is:\n"
    for name, cls in sorted(REGISTRY.items()):
        fields = ", ".join(n for n in cls.model_fields if n != "do")
        yield f"- `{name}` ({fields})"
    yield ""

"""Documents and edits told as the scripts that make them."""

from __future__ import annotations

import keyword
import re
from collections.abc import Iterable, Mapping
from contextlib import suppress
from typing import Any

from vireo.core.documents.commands.part import checked_fields
from vireo.core.documents.model import Assembly, Part, Study, dump
from vireo.core.material import DEFAULT
from vireo.core.part.kind import kind_called
from vireo.core.quantity.shown import PLAIN
from vireo.core.trouble import Trouble
from vireo.script import api

Command = dict[str, Any]

#: How wide a line of a told script may be before it is broken.
_WIDE = 100


def commands_of(document: Part | Assembly | Study) -> list[Command]:
    """The commands that make a document out of an empty one of its name, ids included."""
    data = dump(document)
    found: list[Command] = []
    if isinstance(document, Part) and document.material != DEFAULT:
        found.append({"do": "set_material", "material": document.material})
    if document.units != PLAIN:
        given = {k: v for k, v in data["units"].items() if v != getattr(PLAIN, k)}
        found.append({"do": "set_units", "units": given})
    found += [
        {"do": "add_parameter", **_given(p, ("unit", "note", "group", "limits"))}
        for p in data["parameters"]
    ]
    made = [(int(item["id"][1:]), group, item) for group in _MAKERS for item in data.get(group, [])]
    last = 0
    done: list[str] = []
    for number, group, item in sorted(made, key=lambda m: m[0]):
        if number > last + 1:
            found.append({"do": "skip_ids", "to": number - 1})
        last = number
        order = [x["id"] for x in data[group]]
        command = _MAKERS[group](item)
        if group == "steps":
            # Steps stand in build order, not in the order they were made.
            before = sum(order.index(d) < order.index(item["id"]) for d in done)
            if before < len(done):
                command["at"] = before
            done.append(item["id"])
        found.append(command)
        if group == "steps":
            found += _after_step(item)
        if group == "joints" and item["asleep"]:
            found.append({"do": "edit_joint", "id": item["id"], "fields": {"asleep": True}})
        if group == "components" and item["tag"]:
            found.append({"do": "edit_component", "id": item["id"], "tag": item["tag"]})
    if data["last_id"] > last:
        found.append({"do": "skip_ids", "to": data["last_id"]})
    for look in data.get("looks", []):
        found.append(
            {
                "do": "set_body",
                **{k: v for k, v in look.items() if v is not None and (k, v) != ("opacity", 1.0)},
            }
        )
    for paint in data.get("paints", []):
        found.append({"do": "paint_faces", "picks": [paint["pick"]], "colour": paint["colour"]})
    found += [{"do": "keep_view", "view": v} for v in data["views"]]
    if data.get("marker") is not None:
        found.append({"do": "set_marker", "at": data["marker"]})
    if data.get("template"):
        found.append({"do": "set_template", "on_offer": True})
    if data.get("mesh_size") is not None:
        found.append({"do": "set_mesh", "size": data["mesh_size"]})
    return found


def _given(item: Mapping[str, Any], optional: Iterable[str]) -> dict[str, Any]:
    """An item without what is empty among its optional fields."""
    return {k: v for k, v in item.items() if k not in optional or v not in (None, "", [], ())}


def _step(item: Mapping[str, Any]) -> Command:
    fields = item["fields"]
    for was, now in ((m["was"], m["now"]) for m in reversed(item["mended"])):
        fields = _swapped(fields, now, was)
    return {
        "do": "add_step",
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


def _plainest(kind: str, fields: dict[str, Any]) -> dict[str, Any]:
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


def _after_step(item: Mapping[str, Any]) -> list[Command]:
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


def _plain(do: str, *left: str) -> Any:
    return lambda item: {
        "do": do,
        **{k: v for k, v in item.items() if k not in ("id", *left) and v is not None},
    }


_MAKERS: dict[str, Any] = {
    "steps": _step,
    "checks": _plain("add_check"),
    "components": _plain("add_component", "tag"),
    "joints": _plain("add_joint", "asleep"),
    "supports": _plain("add_support"),
    "loads": _plain("add_load"),
    "notes": _plain("add_note"),
}
#: The letter before the number of what a command makes.
_LETTERS = {"add_step": "s", "add_check": "k", "add_component": "c", "add_joint": "j",
            "add_support": "u", "add_load": "f",
            "add_note": "n"}  # fmt: skip


class Teller:
    """Writes commands as lines of a script. `documents` are ids told as variables."""

    def __init__(
        self, variable: str, kind: str, documents: Mapping[str, str] | None = None
    ) -> None:
        self.variable, self.kind = variable, kind
        self._documents = dict(documents or {})
        self._made: set[str] = set()
        self._last = 0

    def starts_at(self, last: int) -> None:
        """The number of the newest thing that is there already."""
        self._last = last

    def lines(self, commands: Iterable[Command]) -> list[str]:
        return [line for c in commands for line in self._told(c)]

    def _told(self, command: Command) -> list[str]:
        do = command["do"]
        if do == "skip_ids":
            self._last = command["to"]
        call = self._call(command)
        letter = _LETTERS.get(do)
        if letter is None:
            return _broken("", *call)
        self._last += 1
        id = f"{letter}{self._last}"
        told = _broken(f"{id} = ", *call)
        self._made.add(id)
        return told

    def _call(self, command: Command) -> tuple[str, list[str]]:
        """What is called, and its arguments as text."""
        do = command["do"]
        rest = {k: v for k, v in command.items() if k != "do"}
        v = self.variable
        if do == "add_step":
            kind, fields = rest["kind"], rest.get("fields", {})
            given = [self._text(rest["name"])] if rest.get("name") else []
            clash = keyword.iskeyword(kind) or hasattr(api.Part, kind)
            call = f"{v}.step" if clash else f"{v}.{kind}"
            given = ([repr(kind)] if clash else []) + given
            if rest.get("at") is not None:
                fields = {"position": rest["at"], **fields}
            return call, [*given, *self._named(fields)]
        if do == "edit_step" and not any("." in k for k in rest["fields"]):
            return f"{v}.edit", [self._text(rest["id"]), *self._named(rest["fields"])]
        if do == "add_parameter":
            name, formula = rest.pop("name"), rest.pop("formula")
            more = {k: x for k, x in rest.items() if x not in (None, "")}
            return f"{v}.parameter", [repr(name), repr(formula), *self._named(more)]
        if (
            do == "edit_parameter"
            and set(rest) == {"name", "formula"}
            and not keyword.iskeyword(rest["name"])
        ):
            return f"{v}.set", [f"{rest['name']}={rest['formula']!r}"]
        if do == "add_check":
            first = [self._text(rest.pop(k)) for k in ("kind", "name", "limit")]
            return f"{v}.check", [*first, *self._named({k: x for k, x in rest.items() if x != {}})]
        if do == "add_component":
            document, name = rest.pop("document"), rest.pop("name")
            return f"{v}.place", [self._text(document), repr(name), *self._named(rest)]
        if do == "add_joint" and rest.get("name"):
            kind, name = rest.pop("kind"), rest.pop("name")
            return f"{v}.join", [repr(kind), repr(name), *self._named(rest)]
        return f"{v}.do", [repr(do), *self._named(rest)]

    def _named(self, fields: Mapping[str, Any]) -> list[str]:
        plain = {k: x for k, x in fields.items() if k.isidentifier() and not keyword.iskeyword(k)}
        other = {k: x for k, x in fields.items() if k not in plain}
        found = [f"{k}={self._text(x, k)}" for k, x in plain.items()]
        return [*found, f"**{self._text(other)}"] if other else found

    def _text(self, value: Any, key: str = "") -> str:
        """A value as Python, ids of what the script made as their variables."""
        if isinstance(value, dict):
            return "{" + ", ".join(f"{k!r}: {self._text(x, k)}" for k, x in value.items()) + "}"
        if isinstance(value, list | tuple):
            return "[" + ", ".join(self._text(x) for x in value) + "]"
        if not isinstance(value, str) or key in ("name", "note", "formula"):
            return repr(value)
        if value in self._documents:
            return self._documents[value]
        if value in self._made:
            return value
        return self._with_ids(value)

    def _with_ids(self, value: str) -> str:
        """A text in which ids stand inside, as body and face names have them."""
        parts = re.split(r"(?<![A-Za-z0-9])([a-z]\d+)(?![A-Za-z0-9])", value)
        if not any(p in self._made for p in parts[1::2]):
            return repr(value)
        inside = "".join(
            "{" + p + "}" if i % 2 and p in self._made else p.replace("{", "{{").replace("}", "}}")
            for i, p in enumerate(parts)
        )
        return "f" + repr(inside)


def _broken(start: str, call: str, given: list[str]) -> list[str]:
    """A call on one line, or an argument a line; long lists an item a line."""
    whole = f"{start}{call}({', '.join(given)})"
    if len(whole) <= _WIDE:
        return [whole]
    lines = [f"{start}{call}("]
    for text in given:
        lines += [f"    {line}" for line in _spread(text)]
        lines[-1] += ","
    return [*lines, ")"]


def _spread(text: str) -> list[str]:
    """An argument over several lines where it is too long for one."""
    if len(text) <= _WIDE - 5:
        return [text]
    head, open_, body = _opened(text)
    if not open_:
        return [text]
    lines = [head + open_]
    for item in _items(body):
        lines += [f"    {line}" for line in _spread(item)]
        lines[-1] += ","
    return [*lines, {"[": "]", "{": "}"}[open_]]


def _opened(text: str) -> tuple[str, str, str]:
    """What stands before the first bracket, the bracket, and what is inside."""
    found = re.match(r"^((?:[A-Za-z_]\w*=|'[^']*': |\*\*)?)([\[{])(.*)[\]}]$", text, re.S)
    return (found[1], found[2], found[3]) if found else (text, "", "")


def _items(body: str) -> list[str]:
    """Parts between the commas that stand outside of brackets and texts."""
    found, depth, start, quote, i = [], 0, 0, "", 0
    while i < len(body):
        c = body[i]
        if quote:
            if c == "\\":
                i += 1
            elif c == quote:
                quote = ""
        elif c in "'\"":
            quote = c
        elif c in "[{(":
            depth += 1
        elif c in "]})":
            depth -= 1
        elif c == "," and depth == 0:
            found.append(body[start:i].strip())
            start = i + 1
        i += 1
    found.append(body[start:].strip())
    return [f for f in found if f]


def variable_for(name: str, taken: Iterable[str] = ()) -> str:
    """A variable's name for a document's."""
    plain = re.sub(r"\W+", "_", name.strip().lower(), flags=re.ASCII).strip("_") or "document"
    plain = (
        f"d_{plain}"
        if plain[0].isdigit() or keyword.iskeyword(plain) or plain == "project"
        else plain
    )
    # What steps are called must not be taken by a document.
    plain = f"{plain}_" if re.fullmatch(r"[a-z]\d+", plain) else plain
    found, count = plain, 1
    while found in taken:
        count += 1
        found = f"{plain}_{count}"
    return found


def script_of(
    documents: Iterable[tuple[str, Part | Assembly | Study]],
    others: Mapping[str, str] | None = None,
) -> str:
    """The script that makes some documents, in an order in which each comes after what it needs.

    `documents` are ids and documents, `others` what stands in the script for ids of documents
    that are not among them.
    """
    variables: dict[str, str] = dict(others or {})
    told: list[str] = []
    for id, document in _ordered(list(documents)):
        v = variable_for(document.name, variables.values())
        lines = [f"# {document.name}"]
        if isinstance(document, Study):
            part = variables.get(document.part, repr(document.part))
            lines.append(f"{v} = project.study({document.name!r}, {part})")
        else:
            lines.append(f"{v} = project.{document.kind}({document.name!r})")
        teller = Teller(v, document.kind, variables)
        lines += teller.lines(commands_of(document))
        variables[id] = v
        told.append("\n".join(lines))
    return "\n\n".join(told) + "\n"


def _ordered(
    documents: list[tuple[str, Part | Assembly | Study]],
) -> list[tuple[str, Part | Assembly | Study]]:
    """Documents after those they name."""
    known = dict(documents)
    found: dict[str, Part | Assembly | Study] = {}

    def put(id: str, above: tuple[str, ...]) -> None:
        if id in found or id not in known or id in above:
            return
        document = known[id]
        named = {document.part} if isinstance(document, Study) else set()
        if isinstance(document, Assembly):
            named = {c.document for c in document.components}
        if isinstance(document, Part):
            named = {str(s.fields["document"]) for s in document.steps if "document" in s.fields}
        for other in sorted(named):
            put(other, (*above, id))
        found[id] = document

    for id, _ in documents:
        put(id, ())
    return list(found.items())

"""Documents and edits told as the scripts that make them."""

from __future__ import annotations

import keyword
import re
from collections.abc import Iterable, Mapping
from typing import Any

from vireo.core.documents import DOCUMENT_KINDS, Document, dump, kind_of
from vireo.core.quantity.shown import PLAIN
from vireo.script import api

Command = dict[str, Any]

#: How wide a line of a told script may be before it is broken.
_WIDE = 100


def commands_of(document: Document) -> list[Command]:
    """The commands that make a document out of an empty one of its name, ids included."""
    kind = kind_of(document)
    data = dump(document)
    found = kind.first(data)
    if document.units != PLAIN:
        given = {k: v for k, v in data["units"].items() if v != getattr(PLAIN, k)}
        found.append({"do": "set_units", "units": given})
    found += [
        {"do": "set_property", **{k: v for k, v in p.items() if (k, v) != ("kind", "text")}}
        for p in data["properties"]
    ]
    found += [
        {"do": "add_parameter", **_given(p, ("unit", "note", "group", "limits"))}
        for p in data["parameters"]
    ]
    made = [(int(x["id"][1:]), group, x) for group in kind.groups for x in data[group.name]]
    last = 0
    done: list[str] = []
    for number, group, item in sorted(made, key=lambda m: m[0]):
        if number > last + 1:
            found.append({"do": "skip_ids", "to": number - 1})
        last = number
        command = {"do": group.command, **group.tell(item)}
        if group.ordered:
            order = [x["id"] for x in data[group.name]]
            before = sum(order.index(d) < order.index(item["id"]) for d in done)
            if before < len(done):
                command["at"] = before
            done.append(item["id"])
        found += [command, *group.after(item)]
    if data["last_id"] > last:
        found.append({"do": "skip_ids", "to": data["last_id"]})
    found += [{"do": "keep_view", "view": v} for v in data["views"]]
    return [*found, *kind.last(data), *_members(data)]


def _members(data: Mapping[str, Any]) -> list[Command]:
    """What its members are, told when all is there that they speak of."""
    found: list[Command] = []
    if data["columns"]:
        found.append({"do": "set_cells", "cells": {c["id"]: c["base"] for c in data["columns"]}})
    found += [
        {"do": "set_cells", "id": v["id"], "cells": v["cells"]}
        for v in data["variants"]
        if v["cells"]
    ]
    found += [
        {"do": "set_option_cells", "id": o["id"], "value": v["name"], "cells": v["cells"]}
        for o in data["options"]
        for v in o["values"]
        if v["cells"]
    ]
    if data["active"]["variant"] or data["active"]["options"]:
        found.append({"do": "choose", **data["active"]})
    return found


def _given(item: Mapping[str, Any], optional: Iterable[str]) -> dict[str, Any]:
    """An item without what is empty among its optional fields."""
    return {k: v for k, v in item.items() if k not in optional or v not in (None, "", [], ())}


def _letters() -> dict[str, str]:
    """The letter before the number of what a command makes."""
    return {g.command: g.letter for kind in DOCUMENT_KINDS.values() for g in kind.groups}


class Teller:
    """Writes commands as lines of a script. `documents` are ids told as variables."""

    def __init__(
        self, variable: str, kind: str, documents: Mapping[str, str] | None = None
    ) -> None:
        self.variable, self.kind = variable, kind
        self._documents = dict(documents or {})
        self._made: set[str] = set()
        self._last = 0
        self._letters = _letters()

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
        letter = self._letters.get(do)
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
    documents: Iterable[tuple[str, Document]],
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
        given = [repr(document.name), *kind_of(document).given(document, variables)]
        lines.append(f"{v} = project.{document.kind}({', '.join(given)})")
        teller = Teller(v, document.kind, variables)
        lines += teller.lines(commands_of(document))
        variables[id] = v
        told.append("\n".join(lines))
    return "\n\n".join(told) + "\n"


def _ordered(
    documents: list[tuple[str, Document]],
) -> list[tuple[str, Document]]:
    """Documents after those they name."""
    known = dict(documents)
    found: dict[str, Document] = {}

    def put(id: str, above: tuple[str, ...]) -> None:
        if id in found or id not in known or id in above:
            return
        for other in sorted(kind_of(known[id]).refers(known[id])):
            put(other, (*above, id))
        found[id] = known[id]

    for id, _ in documents:
        put(id, ())
    return list(found.items())

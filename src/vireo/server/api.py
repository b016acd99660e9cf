"""Routes that check what comes in and say in OpenAPI what goes out.

A route is declared once, with its models; validation, error shapes and the schema the web
types are made from all follow.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from flask import Blueprint, Response, current_app, jsonify, request
from pydantic import BaseModel, ValidationError
from pydantic.json_schema import models_json_schema

from vireo import __version__
from vireo.core.trouble import BadInput, Report, Trouble, first_said
from vireo.store import NotFound, Stale

STATUS = {"not_found": 404, "stale": 409, "cancelled": 409, "worker_lost": 503}


class ErrorView(BaseModel):
    """Every refusal: a report, and for stale edits the newest revision and what was done."""

    error: Report
    head: int | None = None
    changes: list[str] = []


@dataclass(frozen=True)
class Route:
    method: str
    path: str
    name: str
    body: type[BaseModel] | None
    answer: type[BaseModel] | None
    query: dict[str, type] = field(default_factory=dict)
    summary: str = ""


ROUTES: list[Route] = []

#: What may stand at a placeholder of an address, by the segment before it. Checked before a view
#: runs, so that no id from outside reaches a file, a table or a worker unless it can be one; a
#: route with a placeholder that is not listed here cannot be declared.
ID_PATTERNS = {
    "projects": r"p[0-9a-f]{12}",
    "documents": r"d[0-9a-f]{12}",
    "jobs": r"j[0-9a-f]{12}",
    "steps": r"[a-z][a-z0-9_]{0,31}",
    "sketches": r"[a-z][a-z0-9_]{0,31}",
    "layouts": r"[0-9a-f]{64}",
    "step-files": r"[0-9a-f]{64}",
    "products": r"[0-9]{1,9}",
    "meshes": r"[0-9a-f]{32}",
    "fields": r"[0-9a-f]{32}",
    "envelopes": r"[0-9a-f]{32}",
    "maps": r"[a-z][a-z_]{0,31}",
    "revisions": r"[0-9]{1,9}",
    "checks": r"[a-z][a-z0-9_]{0,23}",
    "pictures": r"[a-z][a-z0-9_]{0,63}",
    # Scripts are kept under names of people's own choosing, never in files.
    "scripts": r"[^/\\\x00-\x1f]{1,60}",
}
_PLACEHOLDER = re.compile(r"([a-z_-]+)/<(?:[a-z]+:)?([a-z_]+)>")


def id_checks(path: str) -> dict[str, re.Pattern[str]]:
    """The pattern of every placeholder of a route, by its name. Raises KeyError for one whose
    ids nobody has described."""
    found = {name: re.compile(ID_PATTERNS[before]) for before, name in _PLACEHOLDER.findall(path)}
    if len(found) != path.count("<"):
        raise KeyError(f"a placeholder of {path} has no pattern")
    return found


class Room:
    """A blueprint whose routes are declared with models."""

    def __init__(self, name: str) -> None:
        self.blueprint = Blueprint(name, __name__, url_prefix="/api")

    def route(
        self,
        method: str,
        path: str,
        *,
        body: type[BaseModel] | None = None,
        answer: type[BaseModel] | None = None,
        query: dict[str, type] | None = None,
    ) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
        def add(function: Callable[..., Any]) -> Callable[..., Any]:
            name = function.__name__
            doc = (function.__doc__ or "").strip().split("\n")[0]
            ROUTES.append(Route(method, path, name, body, answer, query or {}, doc))
            patterns = id_checks(path)

            def view(**arguments: Any) -> Any:
                for key, pattern in patterns.items():
                    if not pattern.fullmatch(arguments[key]):
                        raise NotFound("there is nothing at this address")
                if body is not None:
                    arguments["body"] = _parsed(body)
                for key, kind in (query or {}).items():
                    arguments[key] = _query(key, kind)
                found = function(**arguments)
                if isinstance(found, Response):
                    return found
                if isinstance(found, BaseModel):
                    return Response(found.model_dump_json(), mimetype="application/json")
                return jsonify(found)

            self.blueprint.add_url_rule(path, name, view, methods=[method])
            return function

        return add


def _parsed(model: type[BaseModel]) -> BaseModel:
    if not request.is_json:
        raise BadInput("this request needs a JSON body")
    try:
        return model.model_validate_json(request.get_data())
    except ValidationError as error:
        place, said = first_said(error)
        raise BadInput(f"{place}: {said}" if place else said) from error
    except RecursionError as error:
        raise BadInput("the request is nested too deeply") from error


def _query(key: str, kind: type) -> Any:
    raw = request.args.get(key)
    if raw is None or raw == "":
        return None
    try:
        return kind(raw)
    except ValueError as error:
        raise BadInput(f"{key} must be {kind.__name__}, not {raw}") from error


def on_trouble(trouble: Trouble) -> tuple[Response, int]:
    view = ErrorView(error=trouble.report())
    if isinstance(trouble, Stale):
        view.head, view.changes = trouble.head, trouble.changes
    code = STATUS.get(trouble.code, 422)
    if isinstance(trouble, NotFound):
        code = 404
    return Response(view.model_dump_json(), mimetype="application/json"), code


def services() -> Any:
    """The application's services (store, builds, jobs, events)."""
    return current_app.extensions["vireo"]


def openapi() -> dict[str, Any]:
    """The OpenAPI 3.1 document of all declared routes."""
    models: dict[str, type[BaseModel]] = {"ErrorView": ErrorView}
    for route in ROUTES:
        for model in (route.body, route.answer):
            if model is not None:
                models[model.__name__] = model
    pairs: Any = [(m, "validation") for m in models.values()]
    _, schema = models_json_schema(pairs, ref_template="#/components/schemas/{model}")
    paths: dict[str, Any] = {}
    if len({r.name for r in ROUTES}) < len(ROUTES):
        twice = sorted(n for n, k in Counter(r.name for r in ROUTES).items() if k > 1)
        raise ValueError(f"routes are known by their names; two are called {', '.join(twice)}")
    for route in sorted(ROUTES, key=lambda r: (r.path, r.method)):
        path = "/api" + route.path.replace("<", "{").replace(">", "}").replace("int:", "")
        names = [p.split("}")[0] for p in path.split("{")[1:]]
        parameters = [
            {"name": n, "in": "path", "required": True, "schema": {"type": "string"}} for n in names
        ] + [
            {"name": n, "in": "query", "required": False,
             "schema": {"type": "integer" if kind is int else "string"}}
            for n, kind in route.query.items()
        ]  # fmt: skip
        operation: dict[str, Any] = {
            "operationId": route.name,
            "summary": route.summary,
            "parameters": parameters,
            "responses": {
                "200": {"description": "done", **_content(route.answer)},
                "default": {"description": "refused", **_content(ErrorView)},
            },
        }
        if route.body is not None:
            operation["requestBody"] = {"required": True, **_content(route.body)}
        paths.setdefault(path, {})[route.method.lower()] = operation
    return {
        "openapi": "3.1.0",
        "info": {"title": "Vireo", "version": __version__},
        "paths": paths,
        "components": {"schemas": dict(sorted(schema.get("$defs", {}).items()))},
    }


def _content(model: type[BaseModel] | None) -> dict[str, Any]:
    if model is None:
        return {}
    ref = {"$ref": f"#/components/schemas/{model.__name__}"}
    return {"content": {"application/json": {"schema": ref}}}

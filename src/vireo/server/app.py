"""The Flask application: rooms, guards, the built web site."""

from __future__ import annotations

import hmac
import ipaddress
from pathlib import Path
from typing import Any

from flask import Flask, Response, request, send_from_directory
from werkzeug.exceptions import HTTPException

from vireo.core.trouble import Report, Trouble
from vireo.server.api import ErrorView, on_trouble, openapi
from vireo.server.rooms import ROOMS
from vireo.work.services import Services

SITE = Path(__file__).parent / "site"
MOST_BYTES = 64 * 1024**2

POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        # The component library writes its styles into the page as it mounts.
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "font-src 'self' data:",
        "worker-src 'self' blob:",
        "connect-src 'self'",
        "frame-ancestors 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "object-src 'none'",
    )
)


def create_app(services: Services, token: str | None = None) -> Flask:
    """The application. With a `token` every request must carry it (see `_signed_in`)."""
    app = Flask("vireo", static_folder=None)
    app.config["MAX_CONTENT_LENGTH"] = MOST_BYTES
    app.extensions["vireo"] = services
    app.json.sort_keys = False  # type: ignore[attr-defined]
    for room in ROOMS:
        app.register_blueprint(room.blueprint)
    app.register_error_handler(Trouble, on_trouble)
    app.register_error_handler(HTTPException, _on_http)
    app.before_request(lambda: _guard(token))
    app.after_request(_with_headers)
    app.add_url_rule("/api/openapi.json", "openapi", openapi)
    app.add_url_rule("/", "site", _site, defaults={"path": ""})
    app.add_url_rule("/<path:path>", "site_path", _site)
    return app


def _refuse(code: str, text: str, status: int) -> Response:
    view = ErrorView(error=Report(code=code, text=text))
    return Response(view.model_dump_json(), status, mimetype="application/json")


def _on_http(error: HTTPException) -> Response:
    words = {
        404: "there is nothing at this address",
        413: f"this upload is larger than the limit of {MOST_BYTES // 1024**2} MB",
    }
    status = error.code or 500
    return _refuse("http", words.get(status, error.name), status)


def is_loopback(host: str) -> bool:
    name = host.rsplit(":", 1)[0].strip("[]") if not host.endswith("]") else host.strip("[]")
    if name == "localhost":
        return True
    try:
        return ipaddress.ip_address(name).is_loopback
    except ValueError:
        return False


def _guard(token: str | None) -> Response | None:
    """Keep other sites' pages out: a foreign Host or Origin is refused before anything runs."""
    if token is None and not is_loopback(request.host):
        return _refuse("host", "this server answers on this machine only", 403)
    origin = request.headers.get("Origin")
    if origin is not None and origin != f"{request.scheme}://{request.host}":
        return _refuse("origin", "requests from other sites are refused", 403)
    if request.headers.get("Sec-Fetch-Site") in ("cross-site", "same-site") and (
        request.path.startswith("/api")
    ):
        return _refuse("origin", "requests from other sites are refused", 403)
    if token is not None:
        return _signed_in(token)
    return None


def _signed_in(token: str) -> Response | None:
    """A token in the address signs the browser in for the session."""
    given = request.args.get("token") or request.cookies.get("vireo") or ""
    if not hmac.compare_digest(given.encode(), token.encode()):
        return _refuse("sign_in", "sign in with the address the server printed at its start", 401)
    if request.args.get("token"):
        answer = Response(status=303, headers={"Location": request.path})
        answer.set_cookie("vireo", token, httponly=True, samesite="Strict")
        return answer
    return None


def _with_headers(response: Response) -> Response:
    response.headers["Content-Security-Policy"] = POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "no-referrer"
    response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    response.headers.setdefault("Cache-Control", "no-store")
    return response


def _site(path: str = "") -> Any:
    """The built web application; unknown addresses are its own routes."""
    if path.startswith("api/"):
        return _refuse("http", "there is nothing at this address", 404)
    if path and (SITE / path).is_file():
        response = send_from_directory(SITE, path)
        lasting = "public, max-age=31536000, immutable"
        response.headers["Cache-Control"] = lasting if path.startswith("assets/") else "no-cache"
        return response
    if not (SITE / "index.html").is_file():
        return _refuse("site", "the web application is not built yet: run make demo", 503)
    response = send_from_directory(SITE, "index.html")
    response.headers["Cache-Control"] = "no-cache"
    return response

"""The command line: vireo serve | demo | check | openapi."""

from __future__ import annotations

import argparse
import json
import os
import secrets
import signal
import sys
import tempfile
from pathlib import Path
from types import FrameType


def _serve(arguments: argparse.Namespace) -> int:
    from waitress.server import create_server

    from vireo.server.app import Services, create_app, is_loopback

    data = Path(arguments.data)
    services = Services.open(data)
    try:
        if arguments.demo:
            from vireo.demo import make_demo

            make_demo(services)
        services.supervisor.start()
        services.builds.user_kinds()
        services.jobs.resume()
        token = None if is_loopback(arguments.host) else secrets.token_urlsafe(16)
        app = create_app(services, token)
        server = create_server(
            app, host=arguments.host, port=arguments.port, threads=32, ident=None,
            outbuf_overflow=256 * 1024**2,
        )  # fmt: skip

        def stop(_signal: int, _frame: FrameType | None) -> None:
            raise KeyboardInterrupt

        signal.signal(signal.SIGTERM, stop)
        query = f"/?token={token}" if token else "/"
        print(f"Vireo is at http://{arguments.host}:{arguments.port}{query}", flush=True)
        try:
            server.run()
        except KeyboardInterrupt:
            print("\nstopped", flush=True)
        finally:
            server.close()
    finally:
        services.close()
    # Worker threads may still hold event streams; everything is on disk already.
    sys.stdout.flush()
    os._exit(0)


def _check(arguments: argparse.Namespace) -> int:
    """Run all checks of an exported project. 0 all hold, 1 one fails, 2 it cannot be read."""
    from vireo.core.trouble import Trouble
    from vireo.server.app import Services
    from vireo.work.archive import import_project

    with tempfile.TemporaryDirectory(prefix="vireo-check-") as folder:
        services = Services.open(Path(folder))
        try:
            project = import_project(services.store, Path(arguments.file).read_bytes())
            failed = 0
            for record in services.store.documents_of(project):
                names = {c.id: c for c in record.document.checks}
                for answer in services.checks.run(record.id, wait=True):
                    check = names[answer["id"]]
                    sign = "at most" if check.relation == "at_most" else "at least"
                    trouble = (answer.get("trouble") or {}).get("text", "")
                    found = (
                        f"{answer['shown']}, {sign} {answer.get('limit')}"
                        if answer["shown"]
                        else trouble
                    )
                    word = "holds" if answer["state"] == "holds" else "FAILS"
                    failed += answer["state"] != "holds"
                    print(f"{word}  {record.document.name} / {check.name}: {found}")
            print(f"{failed} of the checks fail" if failed else "all checks hold")
            return 1 if failed else 0
        except (Trouble, OSError) as error:
            print(f"vireo check: {error}", file=sys.stderr)
            return 2
        finally:
            services.close()


def _openapi(arguments: argparse.Namespace) -> int:
    import vireo.server.rooms  # noqa: F401  (declares the routes)
    from vireo.server.api import openapi

    text = json.dumps(openapi(), indent=1, sort_keys=True) + "\n"
    Path(arguments.out).write_text(text)
    return 0


def main(argv: list[str] | None = None) -> int:
    """Parse arguments and run; returns the exit code."""
    parser = argparse.ArgumentParser(prog="vireo", description=__doc__)
    commands = parser.add_subparsers(required=True)
    for name, demo in (("serve", False), ("demo", True)):
        serve = commands.add_parser(name, help="start the server" + (" with the demo" * demo))
        serve.add_argument("--host", default="127.0.0.1")
        serve.add_argument("--port", type=int, default=8765)
        serve.add_argument("--data", default="data")
        serve.set_defaults(run=_serve, demo=demo)
    check = commands.add_parser("check", help="run the checks of an exported project")
    check.add_argument("file", help="a project zip")
    check.set_defaults(run=_check)
    schema = commands.add_parser("openapi", help="write the OpenAPI document")
    schema.add_argument("out")
    schema.set_defaults(run=_openapi)
    arguments = parser.parse_args(argv)
    return int(arguments.run(arguments))


if __name__ == "__main__":
    sys.exit(main())

"""The command line: vireo serve | demo | lend | run | check | info | export | openapi |
reference."""

from __future__ import annotations

import argparse
import json
import os
import secrets
import signal
import sys
from pathlib import Path
from types import FrameType
from typing import Any

from vireo.work.diskcache import MOST_BYTES


def _warm() -> None:
    """Begin the process workers are forked from: it imports the kernel while this one does."""
    from multiprocessing import forkserver

    forkserver.set_forkserver_preload(["vireo.work.tasks"])
    forkserver.ensure_running()


def _serve(arguments: argparse.Namespace) -> int:
    from waitress.server import create_server

    from vireo.server.app import create_app, is_loopback
    from vireo.work.services import Services

    data = Path(arguments.data)
    services = Services.open(data, kept=int(arguments.cache * 1024**3), cluster=arguments.cluster)
    try:
        if arguments.demo:
            from vireo.demo import make_demo

            make_demo(services)
        services.queue.start()
        services.builds.user_kinds()
        services.jobs.resume()
        services.standing.begin()
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
    from vireo import headless

    def run() -> int:
        found = headless.checks(arguments.file, arguments.variant)
        if arguments.junit:
            Path(arguments.junit).write_text(headless.junit(found), encoding="utf-8")
        if arguments.json:
            print(json.dumps(found, indent=1))
            return 1 if found["failed"] else 0
        for row in found["checks"]:
            word = "holds" if row["holds"] else "FAILS" if row["severity"] == "must" else "doubt"
            name = f"{row['document']} {row['variant']}".strip()
            print(f"{word}  {name} / {row['check']}: {headless.said_of(row)}")
        failed, doubtful = found["failed"], found["doubtful"]
        should = f", {doubtful} that should hold do not" if doubtful else ""
        print((f"{failed} of the checks fail" if failed else "all checks hold") + should)
        return 1 if failed else 0

    return headless.guarded("check", run)


def _info(arguments: argparse.Namespace) -> int:
    """What a project holds. 0 all steps are built, 1 some are not, 2 it cannot be read."""
    from vireo import headless

    def run() -> int:
        found = headless.info(arguments.file)
        if arguments.json:
            print(json.dumps(found, indent=1))
            return 1 if found["not_built"] else 0
        for d in found["documents"]:
            weight = f"{d['mass']:.1f} g" if "mass" in d else ""
            print(f"{d['kind']:9} {d['name']:30} {weight}".rstrip())
            for step in d.get("not_built", ()):
                print(f"          not built: {step['step']}: {step['why']}")
        return 1 if found["not_built"] else 0

    return headless.guarded("info", run)


def _export(arguments: argparse.Namespace) -> int:
    """Write a document as a file. 0 written, 2 it cannot be."""
    from vireo import headless

    def run() -> int:
        form = arguments.to or Path(arguments.out).suffix.lstrip(".").lower()
        data = headless.export(arguments.file, arguments.document, form, arguments.deviation)
        Path(arguments.out).write_bytes(data)
        print(f"{arguments.out}: {len(data)} bytes")
        return 0

    return headless.guarded("export", run)


def _run(arguments: argparse.Namespace) -> int:
    """Run a script. 0 it ran to its end, 1 it stopped, 2 it cannot be run."""
    from vireo import headless

    def run() -> int:
        def say(text: str, _line: int) -> None:
            if not arguments.json:
                print(text, flush=True)

        ran, names = headless.run(
            arguments.script, arguments.project, arguments.out, arguments.seconds, say
        )
        if arguments.json:
            printed = [{"text": t, "line": n} for t, n in ran.printed]
            told: dict[str, Any] = {"ok": ran.trouble is None, "changed": names, "printed": printed}
            if ran.trouble is not None:
                told |= {"trouble": ran.trouble[0], "line": ran.trouble[1]}
            print(json.dumps(told, indent=1))
        elif ran.trouble is not None:
            at = f"line {ran.trouble[1]}: " if ran.trouble[1] else ""
            print(f"{arguments.script}: {at}{ran.trouble[0]}", file=sys.stderr)
        return 0 if ran.trouble is None else 1

    return headless.guarded("run", run)


def _openapi(arguments: argparse.Namespace) -> int:
    import vireo.server.rooms  # noqa: F401  (declares the routes)
    from vireo.server.api import openapi

    text = json.dumps(openapi(), indent=1, sort_keys=True) + "\n"
    Path(arguments.out).write_text(text)
    return 0


def _reference(arguments: argparse.Namespace) -> int:
    from vireo.work.reference import reference

    Path(arguments.out).write_text(reference())
    return 0


def _lend(arguments: argparse.Namespace) -> int:
    import asyncio

    from vireo.work.lanes.lend import lend

    asyncio.run(lend(arguments.scheduler))
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
        serve.add_argument("--cache", type=float, default=MOST_BYTES / 1024**3, metavar="GB",
                           help="how much may be kept of results that can be made again")  # fmt: skip
        serve.add_argument("--cluster", metavar="tcp://HOST:PORT",
                           help="a Dask scheduler: jobs run there (see `vireo lend`)")  # fmt: skip
        serve.set_defaults(run=_serve, demo=demo)
    lend = commands.add_parser("lend", help="lend this machine to a cluster's jobs, until stopped")
    lend.add_argument("scheduler", help="where its Dask scheduler is, tcp://host:port")
    lend.set_defaults(run=_lend)
    check = commands.add_parser("check", help="run the checks of an exported project")
    check.add_argument(
        "--variant", help="run them of the variants of this name; of each with “all”"
    )
    check.add_argument("--junit", metavar="FILE", help="write what they found as JUnit XML, too")
    check.set_defaults(run=_check)
    about = commands.add_parser("info", help="tell what an exported project holds")
    about.set_defaults(run=_info)
    for command in (check, about):
        command.add_argument("file", help="a project zip")
        command.add_argument("--json", action="store_true", help="for programs to read")
    script = commands.add_parser("run", help="run a script on a project, or make one by it")
    script.add_argument("script", help="a Python file; its folder is all it can reach")
    script.add_argument("--project", help="a project zip to work on; an empty one without")
    script.add_argument("--out", help="the project zip to write when it ran to its end")
    script.add_argument("--seconds", type=float, default=600.0, help="how long it may take")
    script.add_argument("--json", action="store_true", help="for programs to read")
    script.set_defaults(run=_run)
    out = commands.add_parser("export", help="write a document of a project as STEP, 3MF or STL")
    out.add_argument("file", help="a project zip")
    out.add_argument("document", help="its name")
    out.add_argument("out", help="the file to write; its ending tells the format")
    out.add_argument("--to", help="step, 3mf, stl or stl-text")
    out.add_argument("--deviation", type=float, default=0.05, help="of meshes, mm")
    out.set_defaults(run=_export)
    schema = commands.add_parser("openapi", help="write the OpenAPI document")
    schema.add_argument("out")
    schema.set_defaults(run=_openapi)
    page = commands.add_parser("reference", help="write the reference for scripts")
    page.add_argument("out")
    page.set_defaults(run=_reference)
    arguments = parser.parse_args(argv)
    if arguments.run is _serve:
        _warm()
    return int(arguments.run(arguments))


def entry() -> None:
    """Run and leave at once: all is on disk, and taking the kernel down takes a second."""
    code = main()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)


if __name__ == "__main__":
    entry()

"""A real server of its own for tests: own port, own data, ended by its process id."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port: int = s.getsockname()[1]
        return port


class Server:
    def __init__(self, data: Path, command: str = "serve", **env: str) -> None:
        self.data, self.port, self.command, self.env = data, free_port(), command, env
        self.base = f"http://127.0.0.1:{self.port}"
        self.start()

    def start(self) -> None:
        self.log = (self.data.parent / "server.log").open("a")
        self.process = subprocess.Popen(
            [sys.executable, "-m", "vireo.cli", self.command, "--port", str(self.port),
             "--data", str(self.data)],
            stdout=self.log, stderr=self.log, env={**os.environ, **self.env},
        )  # fmt: skip
        for _ in range(2400):
            if self.process.poll() is not None:
                raise RuntimeError((self.data.parent / "server.log").read_text())
            try:
                urllib.request.urlopen(self.base + "/api/shelf", timeout=5).read()
                return
            except OSError:
                time.sleep(0.05)
        raise RuntimeError("the server did not start")

    def kill(self) -> None:
        """SIGKILL: no chance to tidy up."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait(10)

    def stop(self) -> None:
        self.process.terminate()
        try:
            self.process.wait(10)
        except subprocess.TimeoutExpired:
            self.kill()
        self.log.close()

    def call(self, method: str, path: str, body: Any = None, raw: bytes | None = None,
             headers: dict[str, str] | None = None) -> tuple[int, Any]:  # fmt: skip
        """Status and parsed JSON (or bytes)."""
        data = raw if raw is not None else (json.dumps(body).encode() if body is not None else None)
        given = {"Content-Type": "application/json"} if body is not None else {}
        request = urllib.request.Request(
            self.base + path, data, {**given, **(headers or {})}, method=method
        )
        try:
            with urllib.request.urlopen(request, timeout=120) as answer:
                return answer.status, _read(answer)
        except urllib.error.HTTPError as error:
            return error.code, _read(error)


def _read(answer: Any) -> Any:
    content = answer.read()
    if "json" in (answer.headers.get("Content-Type") or ""):
        return json.loads(content)
    return content

"""The process a script runs in: no network, no other processes, no files but its folder's.

Run as ``python -I -m vireo.script.sandbox IN OUT`` with two pipes: a line of JSON each way for
every question and answer. It holds no kernel and no store: all it can do is ask.
"""

from __future__ import annotations

import ast
import builtins
import importlib
import json
import linecache
import os
import resource
import signal
import sys
from pathlib import Path
from types import CodeType, FrameType
from typing import Any

#: What a script may import.
MODULES = (
    "bisect", "calendar", "cmath", "collections", "copy", "csv", "dataclasses", "datetime",
    "decimal", "enum", "fractions", "functools", "heapq", "itertools", "json", "math",
    "numbers", "operator", "random", "re", "statistics", "string", "textwrap", "time", "typing",
    "vireo.script",
)  # fmt: skip
#: Ways round the fence: attributes that lead from any object to the interpreter.
_FRAMES = frozenset({
    "gi_frame", "gi_code", "cr_frame", "cr_code", "ag_frame", "ag_code", "tb_frame", "tb_next",
    "f_back", "f_builtins", "f_code", "f_globals", "f_locals", "func_globals", "mro",
})  # fmt: skip
_DUNDERS = frozenset({"__name__", "__doc__", "__init__", "__repr__", "__str__", "__len__",
                      "__iter__", "__next__", "__eq__", "__lt__", "__hash__", "__enter__",
                      "__exit__", "__call__", "__getitem__", "__post_init__", "__add__",
                      "__sub__", "__mul__", "__neg__", "__contains__", "__bool__"})  # fmt: skip
_BUILTINS = """
    abs all any ascii bin bool bytes callable chr complex dict dir divmod enumerate filter float
    format frozenset hasattr hash hex id int isinstance issubclass iter len list map max min next
    object oct ord pow property range repr reversed round set slice sorted staticmethod classmethod
    str sum super tuple type zip __build_class__ NotImplemented Ellipsis
    BaseException Exception ArithmeticError AssertionError AttributeError EOFError ImportError
    IndexError KeyError LookupError MemoryError NameError NotImplementedError OSError OverflowError
    PermissionError FileNotFoundError RecursionError RuntimeError StopIteration SyntaxError
    TypeError ValueError ZeroDivisionError UnicodeError TimeoutError
"""
_OUTPUT = 200_000


class TookTooLong(BaseException):
    """Not an Exception, so that scripts do not catch it by the way."""


class Link:
    """Questions to the program around the script."""

    def __init__(self, reading: int, writing: int) -> None:
        self._in = os.fdopen(reading, "r", encoding="utf-8")
        self._out = os.fdopen(writing, "w", encoding="utf-8")
        self._said = 0

    def receive(self) -> Any:
        line = self._in.readline()
        if not line:
            raise TookTooLong("the program around the script has gone")
        return json.loads(line)

    def send(self, kind: str, **data: Any) -> None:
        self._out.write(json.dumps({"kind": kind, **data}) + "\n")
        self._out.flush()

    def ask(self, method: str, /, **given: Any) -> Any:
        """Raises Refused when the answer is a refusal."""
        from vireo.script.api import Refused

        try:
            self.send("ask", method=method, given=given, line=_line())
        except TypeError as error:
            raise Refused(f"what was given cannot be stored: {error}") from error
        answer = self.receive()
        if "refused" in answer:
            raise Refused(answer["refused"])
        return answer["value"]

    def say(self, *parts: Any, sep: str = " ", end: str = "\n") -> None:
        """What `print` does in a script."""
        text = sep.join(str(p) for p in parts) + ("" if end == "\n" else end)
        self._said += len(text) + 1
        if self._said > _OUTPUT:
            raise RuntimeError(f"a script prints at most {_OUTPUT // 1000} kB")
        self.send("print", text=text, line=_line())


_NAME = "<script>"


def _line() -> int:
    """The line of the script that is being run."""
    frame: FrameType | None = sys._getframe(1)
    while frame is not None:
        if frame.f_code.co_filename == _NAME:
            return frame.f_lineno
        frame = frame.f_back
    return 0


def main() -> None:
    link = Link(int(sys.argv[1]), int(sys.argv[2]))
    job = link.receive()
    for name in MODULES:
        importlib.import_module(name)
    folder = Path(job["folder"]).resolve() if job["folder"] else None
    text = job["text"]
    # Lines of the script for tracebacks, before files are out of reach.
    linecache.cache[_NAME] = (len(text), None, text.splitlines(True), _NAME)
    try:
        code = _compiled(text)
        names = _names(link, job, folder)
        _limit(job["seconds"], job["memory"])
        _fence(folder)
        exec(code, names)
    except BaseException as error:
        signal.setitimer(signal.ITIMER_REAL, 0)
        link.send("failed", text=_words(error), line=_where(error))
    else:
        signal.setitimer(signal.ITIMER_REAL, 0)
        link.send("done")
    os._exit(0)


def _compiled(text: str) -> CodeType:
    """Raises SyntaxError, also for attributes that lead out of the fence."""
    tree = ast.parse(text, _NAME)
    for node in ast.walk(tree):
        name = getattr(node, "attr", None) or (node.id if isinstance(node, ast.Name) else None)
        if isinstance(name, str) and (
            name in _FRAMES or (name.startswith("__") and name not in _DUNDERS)
        ):
            raise SyntaxError(
                f"a script cannot use {name}",
                (_NAME, getattr(node, "lineno", 0), 0, None),
            )
    return compile(tree, _NAME, "exec")


def _names(link: Link, job: dict[str, Any], folder: Path | None) -> dict[str, Any]:
    from vireo import script

    def guarded_import(name: str, *rest: Any, **more: Any) -> Any:
        if name not in MODULES:
            raise ImportError(f"a script cannot import {name}; it may import {', '.join(MODULES)}")
        return importlib.__import__(name, *rest, **more)

    def guarded_getattr(thing: Any, name: str, *default: Any) -> Any:
        if name in _FRAMES or (name.startswith("__") and name not in _DUNDERS):
            raise AttributeError(f"a script cannot use {name}")
        return getattr(thing, name, *default)

    def guarded_open(
        file: str, mode: str = "r", encoding: str | None = None, newline: str | None = None
    ) -> Any:
        if folder is None:
            raise PermissionError("this script has no folder of its own for files")
        path = (folder / file).resolve()
        if not path.is_relative_to(folder):
            raise PermissionError(f"{file} is outside the script's folder")
        return open(
            path, mode, encoding=encoding or (None if "b" in mode else "utf-8"), newline=newline
        )

    own = {n: getattr(builtins, n) for n in _BUILTINS.split()}
    own |= {"print": link.say, "open": guarded_open, "getattr": guarded_getattr,
            "__import__": guarded_import, "__name__": "__main__"}  # fmt: skip
    script.Sketch.ask = staticmethod(link.ask)
    project = script.Project(link.ask, job["picks"])
    names = {n: getattr(script, n) for n in script.__all__}
    return {**names, "project": project, "__builtins__": own, "__name__": "__main__"}


def _limit(seconds: float, memory: int) -> None:
    def late(_signal: int, _frame: Any) -> None:
        raise TookTooLong(f"it took longer than {seconds:g} s and was stopped")

    signal.signal(signal.SIGALRM, late)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_FSIZE, (200 * 1024**2, 200 * 1024**2))
    resource.setrlimit(resource.RLIMIT_NOFILE, (64, 64))


#: Events of the interpreter that a script may cause; the rest of these families are refused.
_REFUSED = ("socket.", "subprocess.", "os.", "shutil.", "ctypes.", "mmap.", "winreg.", "ftplib.",
            "http.", "urllib.", "smtplib.", "sqlite3.", "pty.", "fcntl.", "signal.", "syslog.",
            "tempfile.", "glob.", "pathlib.", "resource.", "sys.setprofile", "sys.settrace",
            "sys._current", "gc.", "cpython.", "code.", "builtins.breakpoint", "marshal.", "pickle.")  # fmt: skip


def _fence(folder: Path | None) -> None:
    """Refuse, for good, whatever reaches out: an audit hook cannot be taken off again (PEP 578)."""

    def hook(event: str, given: tuple[Any, ...]) -> None:
        if event == "open":
            path = given[0]
            if isinstance(path, int):
                return
            # A folder's own path may be a link; what counts is where it leads.
            at = Path(os.path.realpath(os.fsdecode(path)))
            if folder is None or not at.is_relative_to(folder):
                raise PermissionError(f"{at.name} is outside the script's folder")
        elif event == "import":
            if given[0] not in sys.modules:
                raise ImportError(f"a script cannot import {given[0]}")
        elif event.startswith(_REFUSED) and event not in ("os.fspath",):
            raise PermissionError(f"a script cannot do this ({event})")

    sys.addaudithook(hook)


def _words(error: BaseException) -> str:
    from vireo.script.api import Refused

    if isinstance(error, Refused | TookTooLong):
        return str(error)
    if isinstance(error, SyntaxError):
        return f"it cannot be read: {error.msg}"
    if isinstance(error, MemoryError):
        return "it needs more memory than a script may use"
    if isinstance(error, RecursionError):
        return "it calls itself without end"
    said = str(error)
    return f"{type(error).__name__}: {said}" if said else type(error).__name__


def _where(error: BaseException) -> int:
    """The last line of the script the error came through."""
    if isinstance(error, SyntaxError) and error.filename == _NAME:
        return error.lineno or 0
    line, at = 0, error.__traceback__
    while at is not None:
        if at.tb_frame.f_code.co_filename == _NAME:
            line = at.tb_lineno
        at = at.tb_next
    return line


if __name__ == "__main__":
    main()

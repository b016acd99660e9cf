"""Runs `vireo demo` and starts it again whenever a Python file changes."""

import subprocess
import sys
import time
from pathlib import Path

SOURCE = Path(__file__).parent.parent / "src"


def newest() -> float:
    return max(p.stat().st_mtime for p in SOURCE.rglob("*.py"))


def main() -> None:
    while True:
        seen = newest()
        process = subprocess.Popen([sys.executable, "-m", "vireo.cli", "demo", *sys.argv[1:]])
        try:
            while newest() == seen:
                time.sleep(0.5)
        finally:
            process.terminate()
            process.wait(10)


if __name__ == "__main__":
    try:
        main()
    except KeyboardInterrupt:
        sys.exit(0)

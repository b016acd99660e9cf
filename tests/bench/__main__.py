"""Runs all benches and writes docs/benchmarks.md."""

from __future__ import annotations

import platform
import sys
from pathlib import Path

from tests.bench import cases

OUT = Path(__file__).parents[2] / "docs" / "benchmarks.md"


def main() -> int:
    rows = []
    for name, reach, run in cases.ALL:
        try:
            found = run()
        except Exception as error:  # one bench that cannot run must not hide the others
            found = f"could not run: {error!r}"[:120]
        rows.append((name, reach, found))
        print(f"{name}\n    reach {reach}\n    found {found}", flush=True)
    lines = [
        "# Benchmarks",
        "",
        f"Written by `make bench` on {platform.machine()}, 2 cores, Python {platform.python_version()}.",
        "Ratios are measured side by side in one run; times include whatever else the machine did.",
        "",
        "| what | reach | found |",
        "|---|---|---|",
        *(f"| {name} | {reach} | {found} |" for name, reach, found in rows),
        "",
    ]
    OUT.write_text("\n".join(lines))
    return 0


if __name__ == "__main__":
    sys.exit(main())

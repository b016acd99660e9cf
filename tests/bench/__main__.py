"""Runs all benches and writes docs/benchmarks.md; with words given, only prints those rows."""

from __future__ import annotations

import platform
import sys
from pathlib import Path

from tests.bench import cases

OUT = Path(__file__).parents[2] / "docs" / "benchmarks.md"


def main() -> int:
    rows = []
    wanted = sys.argv[1:]
    chosen = [c for c in cases.ALL if not wanted or any(w in c[0] for w in wanted)]
    for name, reach, run in chosen:
        try:
            found = run()
        except Exception as error:  # one bench that cannot run must not hide the others
            found = f"could not run: {error!r}"[:120]
        rows.append((name, reach, found))
        print(f"{name}\n    reach {reach}\n    found {found}", flush=True)
    if wanted:
        return 0
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

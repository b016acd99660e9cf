"""Runs all benches and writes docs/benchmarks.md; with words given, only the rows that
hold one of them."""

from __future__ import annotations

import platform
import sys
from pathlib import Path

from tests.bench import cases

OUT = Path(__file__).parents[2] / "docs" / "benchmarks.md"


def _kept() -> dict[str, tuple[str, str]]:
    """Reach and finding of every row of the table as it stands."""
    rows = [line.strip("| \n").split(" | ") for line in OUT.read_text().splitlines()]
    return {r[0]: (r[1], r[2]) for r in rows if len(r) == 3 and r[0] != "what"}


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
    # Rows not run this time stay as they were last found.
    found = {name: (reach, text) for name, reach, text in rows}
    kept = _kept() if wanted else {}
    order = [name for name, _, _ in cases.ALL if name in found or name in kept]
    lines = [
        "# Benchmarks",
        "",
        f"Written by `make bench` on {platform.machine()}, 2 cores, Python {platform.python_version()}.",
        "Ratios are measured side by side in one run; times include whatever else the machine did.",
        "",
        "| what | reach | found |",
        "|---|---|---|",
        *(
            "| {} | {} | {} |".format(name, *found.get(name, kept.get(name, ("", ""))))
            for name in order
        ),
        "",
    ]
    OUT.write_text("\n".join(lines))
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""Jobs that are many questions of the same make, answered in any order: by the processes of one machine, or
by the machines of a cluster. Who answers which decides nothing."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar

from vireo.work.forking import shared_out
from vireo.work.worker import Bench

Json = dict[str, Any]


class Pieces:
    """What a subclass says: how many questions there are, what answers them, and what is told of it all."""

    #: What one of them is called: told as progress ("3 of 24 members").
    noun: ClassVar[str]

    def count(self, request: Json) -> int:
        raise NotImplementedError

    def answering(self, bench: Bench, request: Json, options: Any) -> Callable[[int], Json]:
        """What answers a question by its number: a row. Names of what it keeps stand under ``kept``."""
        raise NotImplementedError

    def lost(self, request: Json, number: int) -> Json:
        """The row of a question over which the kernel ended."""
        raise NotImplementedError

    def ended(self, request: Json, rows: list[Json], seconds: float) -> Json:
        """The answer of the whole, of its rows in order."""
        return {"rows": rows, "count": len(rows), "seconds": seconds}

    # What follows is the same for all.

    def run(self, bench: Bench, request: Json, options: Any) -> Json:
        """All of them, in the processes of this machine; rows are told as they come."""
        started, count, rows = time.perf_counter(), self.count(request), dict[int, Json]()

        def keep(number: int, row: Json) -> None:
            rows[number] = row
            bench.report(self.news(rows, count))

        self.some(bench, request, options, range(count), keep)
        return self.ended(request, in_order(rows), time.perf_counter() - started)

    def some(
        self, bench: Bench, request: Json, options: Any, numbers: Sequence[int],
        keep: Callable[[int, Json], None],
    ) -> None:  # fmt: skip
        """Some of them, each handed to `keep` as it comes. What they share is built once, with the first,
        before they part."""
        bench.bring(request)
        answer = self.answering(bench, request, options)

        def done(number: int, row: Json) -> None:
            for name in row.pop("kept", ()):
                bench.report({"kept": name})
            keep(number, row)

        if numbers:
            done(numbers[0], answer(numbers[0]))
        for number, row in shared_out(numbers[1:], answer, worth=1):
            done(number, row if row is not None else self.lost(request, number))

    def news(self, rows: Mapping[int, Json], count: int) -> Json:
        """What is told while they come."""
        return {
            "share": len(rows) / max(count, 1), "stage": f"{len(rows)} of {count} {self.noun}",
            "partial": {"rows": in_order(rows), "count": count},
        }  # fmt: skip


def in_order(rows: Mapping[int, Json]) -> list[Json]:
    return [rows[number] for number in sorted(rows)]

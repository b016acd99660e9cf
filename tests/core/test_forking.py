"""Questions shared out among forked processes."""

import os
from pathlib import Path

import pytest

from vireo.work.forking import shared_out


@pytest.mark.parametrize("count", [1, 2, 3])
def test_every_question_is_answered_once_wherever_it_is_asked(count):
    found = dict(shared_out(list(range(40)), lambda n: n * n, count))
    assert found == {n: n * n for n in range(40)}


def test_a_process_that_ends_over_a_question_costs_that_one_alone():
    def answer(n):
        if n in (3, 17):
            os._exit(11)
        return -n

    found = dict(shared_out(list(range(30)), answer, 2))
    assert found == {n: None if n in (3, 17) else -n for n in range(30)}


def test_what_an_answer_raises_is_raised_and_leaves_no_process_behind():
    def answer(n):
        if n == 5:
            raise ValueError("five")
        return n

    before = children()
    with pytest.raises(ValueError, match="five"):
        list(shared_out(list(range(30)), answer, 2))
    assert children() == before


def children():
    return Path(f"/proc/{os.getpid()}/task/{os.getpid()}/children").read_text()

"""The store remembers what it has read: whatever is done, it tells what is on disk."""

from __future__ import annotations

import contextlib
import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vireo.core.documents import new_document
from vireo.core.documents.commands import apply_all
from vireo.core.lately import Lately
from vireo.core.registry import Registry
from vireo.core.trouble import BadInput, Trouble
from vireo.store import Store
from vireo.store.store import Change

_NUMBER = itertools.count(1)
#: What may be done: to which document, and how.
STEPS = st.lists(
    st.tuples(
        st.sampled_from(["edit", "stale", "undo", "redo", "both", "half", "delete"]),
        st.integers(0, 2),
    ),
    min_size=1, max_size=14,
)  # fmt: skip


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    return tmp_path_factory.mktemp("stores")


def _edited(document):
    command = {"do": "add_parameter", "name": f"p{next(_NUMBER)}", "formula": "1 mm"}
    return apply_all(document, [command])[0]


def _told(store, project):
    return {
        (d.id, r["number"]): store.document(d.id, r["number"])
        for d in store.documents_of(project)
        for r in store.revisions(d.id)
    }


@given(STEPS)
@settings(max_examples=25, deadline=None)
def test_a_store_that_remembers_tells_what_a_fresh_one_reads(folder, steps):
    path = folder / f"{next(_NUMBER)}.db"
    store = Store(path)
    project = store.create_project("One")
    ids = [store.create_document(project, new_document("part", f"D{k}")) for k in range(3)]
    for what, which in steps:
        id, other = ids[which], ids[(which + 1) % 3]
        # Deleted ones, stale bases, nothing to undo: refused, and nothing is left of it.
        with contextlib.suppress(Trouble):
            now, beside = store.document(id), store.document(other)
            after = _edited(now.document)
            if what == "edit":
                assert store.commit(id, now.revision, after, "e", None).document == after
            elif what == "stale":
                store.commit(id, now.revision + 1, after, "e", None)
            elif what in ("undo", "redo"):
                getattr(store, what)(id, now.revision)
            elif what == "delete":
                store.delete_document(id)
            else:
                wrong = what == "half"
                changes = [
                    Change(id, now.revision, after, "e", None),
                    Change(other, beside.revision + wrong, _edited(beside.document), "e", None),
                ]
                store.commit_all(project, [], changes)
                assert not wrong
            _told(store, project)
    fresh = Store(path)
    try:
        assert _told(store, project) == _told(fresh, project)
        assert store.documents_of(project) == fresh.documents_of(project)
    finally:
        store.close()
        fresh.close()


@given(st.integers(1, 6), st.lists(st.integers(0, 9), max_size=60))
def test_a_bounded_table_gives_what_was_made_and_drops_what_was_not_asked_for_longest(most, asked):
    table: Lately[int, int] = Lately(most)
    made: list[int] = []
    order: list[int] = []
    for key in asked:
        known = key in order[-most:]
        before = len(made)
        assert table.get(key, lambda k=key: made.append(k) or k * k) == key * key
        assert (len(made) == before) == known
        order = [k for k in order if k != key] + [key]
        assert len(table) == min(most, len(order))


def test_a_registry_says_what_was_meant_or_what_there_is():
    shapes: Registry[int] = Registry("shape", "vireo.core.assembly.joints")
    shapes.add("square", 4)
    shapes.enter("circle")(0)
    assert dict(shapes) == {"square": 4, "circle": 0}
    with pytest.raises(BadInput, match="did you mean square"):
        shapes.called("sqare")
    with pytest.raises(BadInput, match="known: circle, square"):
        shapes.called("blob")
    with pytest.raises(ValueError, match="already"):
        shapes.add("square", 5)
    shapes.discard("square")
    shapes.discard("square")
    assert "square" not in shapes

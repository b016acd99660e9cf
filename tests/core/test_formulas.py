"""Renaming a parameter changes its uses and nothing else, in every kind of document, also where its
name is a word that choices, kinds and names of the document use."""

from __future__ import annotations

import itertools
from functools import lru_cache

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vireo.core.checks.kind import CHECK_KINDS
from vireo.core.declared.fields import told_of
from vireo.core.declared.joint import JOINTS
from vireo.core.declared.step import KINDS
from vireo.core.documents import DOCUMENT_KINDS, dump, load_document, new_document
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.documents.kinds.part import PartKind
from vireo.core.documents.uses import uses
from vireo.core.quantity import formulas_in, with_formulas
from vireo.core.quantity.formula import reserved
from vireo.core.quantity.marked import MARK
from vireo.core.samples.ways import ground, ways
from vireo.core.sketch.model import Link
from vireo.core.sketch.tools import TOOLS
from vireo.core.sketch.tools.copies import CircularCopies, LinearCopies


def all_words():
    """Words that stand in documents: of choices, kinds, ids, layers of views."""
    found = {"one", "two", "dia", "s1", "b_s1", "y_axis", "top", "face", "all", "shaded"}
    for kind in KINDS.values():
        found.add(kind.kind)
        for name, meta in told_of(kind.Fields).items():
            found |= {name, *meta.get("words", {})}
    for registry in (JOINTS, CHECK_KINDS, TOOLS, DOCUMENT_KINDS):
        found |= set(registry)
    found |= {"force", "pressure", "gravity", "across", "chosen", "at_most", "turn", "slide"}
    return sorted(w for w in found if not reserved(w))


WORDS = all_words()


def do(it, command, /, **fields):
    return run(parse({"do": command, **fields}), it)


@lru_cache
def part():
    """Every kind of step in all its sample ways; what it builds is no matter here."""
    m = ground()
    for kind, given_ in ways().items():
        for fields in given_:
            m.step(kind, **fields)
    return m.part


@lru_cache
def assembly():
    """Every kind of joint with every coordinate driven and limited."""
    a = new_document("assembly", "Turn")
    for name in ("one", "two", "three"):
        a = do(a, "add_component", document="d0", name=name)
    pick = {"body": "b_s1", "kind": "face", "name": ["s1/top"]}
    for kind in JOINTS.values():
        motions = {
            c.name: {"value": "1 deg", "least": "0 deg", "most": "2 deg"} for c in kind.coordinates
        }
        a = do(a, "add_joint", kind=kind.kind, a={"component": "c1", "pick": pick},
               b={"component": "c2", "pick": pick}, motions=motions,
               mirror={"component": "c1", "pick": pick} if kind.mirrors else None)  # fmt: skip
    return checked(a)


@lru_cache
def study():
    s = new_document("study", "Force", part="d0")
    pick = {"body": "b_s1", "kind": "face", "name": ["s1/top"]}
    s = do(s, "add_support", faces=[pick], hold="across")
    for kind in ("force", "pressure", "gravity"):
        s = do(s, "add_load", kind=kind, faces=[pick], size="1 N")
    return checked(do(s, "set_mesh", size="2 mm"))


def checked(document):
    for kind in CHECK_KINDS.values():
        document = do(document, "add_check", kind=kind.kind, name=kind.kind, limit="1 mm")
    return document


DOCUMENTS = {"part": lambda: checked(part()), "assembly": assembly, "study": study}
names = st.lists(st.sampled_from(WORDS), min_size=2, max_size=2, unique=True)


@pytest.mark.parametrize("kind", DOCUMENTS)
@given(names)
@settings(max_examples=15, deadline=None)
def test_a_name_that_only_looks_like_one_is_left_alone(kind, names):
    old, new = names
    before = do(DOCUMENTS[kind](), "add_parameter", name=old, formula="5 mm")
    if uses(before)[old]:  # a sample truly uses it
        return
    after = do(before, "rename_parameter", name=old, new=new)
    assert after.model_copy(update={"parameters": before.parameters}) == before
    assert load_document(dump(after)) == after
    assert do(after, "remove_parameter", name=new).parameters == before.parameters[:-1]


@pytest.mark.parametrize("kind", DOCUMENTS)
@given(names, st.data())
@settings(max_examples=25, deadline=None)
def test_every_use_follows_and_is_told(kind, names, data):
    """One formula of the document names the parameter: that one changes, and is its one use."""
    old, new = names
    before = do(DOCUMENTS[kind](), "add_parameter", name=old, formula="5 mm")
    count = len(formulas_in(before)) - 1
    at = data.draw(st.integers(0, count - 1))
    using = put(before, at, f"2*{old} + 1 mm")
    found = uses(using)[old]
    assert len(found) >= 1
    after = do(using, "rename_parameter", name=old, new=new)
    assert put(after, at, "@") == put(do(before, "rename_parameter", name=old, new=new), at, "@")
    assert formulas_in(after)[formulas_in(using).index(f"2*{old} + 1 mm")] == f"2*{new} + 1 mm"
    assert uses(after)[new] == found


def put(document, at, formula):
    """The document with its at-th formula replaced, counting from the first that is no
    parameter's own."""
    skip = len([f for p in document.parameters for f in formulas_in(p)])
    turn = itertools.count()
    return with_formulas(document, lambda f: formula if next(turn) == at + skip else f)


def test_every_quantity_of_the_own_steps_is_a_marked_formula():
    for kind in KINDS.values():
        for name, meta in told_of(kind.Fields).items():
            marked = any(m is MARK for m in kind.Fields.model_fields[name].metadata)
            assert marked == (meta.get("type") == "quantity"), (kind.kind, name)


def test_what_a_link_keeps_as_words_is_what_its_tools_take_as_words():
    tools = [t for t in TOOLS.values() if isinstance(t, LinearCopies | CircularCopies)]
    assert tools
    words = {s.name for t in tools for s in t.sizes if s.kind in ("flag", "number", "text")}
    assert words == Link.PLAIN


def test_the_groups_of_a_kind_are_all_its_named_items():
    """What has ids in a document stands in one of its groups: nothing is forgotten in renaming,
    telling or finding."""
    for kind in DOCUMENT_KINDS.values():
        listed = {g.name for g in kind.groups}
        for name, spec in kind.model.model_fields.items():
            inner = getattr(spec.annotation, "__args__", (None,))[0]
            if "id" in getattr(inner, "model_fields", {}):
                assert name in listed, (kind.kind, name)
    assert PartKind.groups[0].name == "steps"

"""Variants and options: every member is what its cells say, whatever is edited as which."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.parts import Maker
from tests.core.test_telling import again
from vireo.core.documents.base import Amount, Choice
from vireo.core.documents.members import applied, called, combinations, pairs, rows
from vireo.core.documents.membertable import cells_of, incoming, written
from vireo.core.tables import csv_of, xlsx_of
from vireo.core.trouble import BadInput, NotAllowed


def no_member(owner, choice):
    raise AssertionError("a part has no members of others")


def bracket():
    m = Maker()
    m.do("add_parameter", name="wide", formula="40 mm")
    m.do("add_parameter", name="thick", formula="wide / 10")
    m.do("set_property", name="number", value="B-00")
    s = m.step("primitive", form="box", width="wide", depth="20 mm", height="thick")
    m.step("fillet", edges=m.pick("edge", lambda e: e.kind == "line"), radius="1 mm")
    return m, s


def column(m, drives, option=None, **of):
    m.do("add_column", drives=drives, of=of, option=option)
    return m.part.columns[-1].id


def amount(m, name):
    return next(p.formula for p in m.part.parameters if p.name == name)


def test_rows_differ_in_their_cells_and_in_nothing_else():
    m, s = bracket()
    wide = column(m, "parameter", name="wide")
    deep = column(m, "field", step=s, field="depth")
    sleeps = column(m, "asleep", group="steps", id="s2")
    number = column(m, "property", name="number")
    drawn = m.part
    m.do("add_variant", name="Large", cells={wide: {"formula": "60 mm"}, number: "B-60"})
    m.do(
        "add_variant",
        name="Plain",
        cells={wide: {"formula": "2 in"}, sleeps: "yes", deep: "1.5 cm"},
    )
    large, plain = m.part.variants
    assert m.part.model_copy(update={"variants": (), "last_id": drawn.last_id}) == drawn
    m.do("choose", variant=large.id)
    assert (amount(m, "wide"), m.part.properties[0].value) == ("60 mm", "B-60")
    assert m.part.step(s).fields["depth"] == "20 mm"
    m.do("choose", variant=plain.id)
    assert (amount(m, "wide"), m.part.step("s2").asleep) == ("2 in", True)
    assert m.part.step(s).fields["depth"] == "1.5 cm"
    m.do("choose")
    assert m.part.model_copy(update={"variants": (), "last_id": drawn.last_id}) == drawn


EDITS = st.lists(
    st.tuples(
        st.sampled_from(["choose", "edit", "cell", "base", "option", "other"]),
        st.integers(0, 3),
        st.integers(1, 99),
    ),
    max_size=14,
)


@settings(max_examples=60, deadline=None)
@given(EDITS)
def test_whatever_is_edited_each_member_is_what_was_said_of_it(edits):
    """Against a table kept by hand: what is edited as a member is of that member only."""
    m, s = bracket()
    wide = column(m, "parameter", name="wide")
    m.do("add_option", name="Side", values=["left", "right", "both"])
    side = m.part.options[0].id
    deep = column(m, "field", side, step=s, field="depth")
    for k in range(3):
        m.do("add_variant", name=f"V{k}")
    ids = [None, *(v.id for v in m.part.variants)]
    names = ["left", "right", "both"]
    row, value = None, "left"
    table, options, base, other = {}, {}, ["40 mm", "20 mm"], "wide / 10"
    for what, k, x in edits:
        text = f"{x} mm"
        if what == "choose":
            row = ids[k]
            m.do("choose", variant=row, options={side: value})
        elif what == "option":
            value = names[k % 3]
            m.do("choose", variant=row, options={side: value})
        elif what == "edit" and k % 2:
            # What is as it was already makes no cell.
            if not row:
                base[0] = text
            elif table.get(row, base[0]) != text:
                table[row] = text
            m.do("edit_parameter", name="wide", formula=text)
        elif what == "edit":
            if options.get(value, base[1]) != text:
                options[value] = text
            m.do("edit_step", id=s, fields={"depth": text})
        elif what == "cell" and ids[k]:
            m.do("set_cells", id=ids[k], cells={wide: {"formula": text}})
            table[ids[k]] = text
        elif what == "base":
            m.do("set_cells", cells={wide: {"formula": text}, deep: {"formula": text}})
            base = [text, text]
        elif what == "other":
            m.do("edit_parameter", name="thick", formula=text)
            other = text
        for id in ids:
            for name in names:
                member = applied(m.part, Choice(variant=id, options={side: name}))
                assert member.parameters[0].formula == table.get(id, base[0])
                assert member.parameters[1].formula == other
                assert member.step(s).fields["depth"] == options.get(name, base[1])
        # What it stands as is what it is as that member; told and made again it is the same.
        assert applied(m.part, m.part.active) == m.part
    assert again(m.part) == m.part


def test_what_is_wrong_is_refused_in_words_and_nothing_changes():
    m, s = bracket()
    wide = column(m, "parameter", name="wide")
    m.do("add_variant", name="Large", cells={wide: {"formula": "60 mm"}})
    before = m.part
    for do, words, why in (
        ("add_variant", {"name": " large "}, "already is a variant called large"),
        ("add_variant", {"name": "as drawn"}, "already is a variant called as drawn"),
        ("add_variant", {"name": "  "}, "a variant needs a name"),
        ("set_cells", {"id": "v6", "cells": {wide: {"formula": "12 deg"}}}, "takes a length; 12 deg is an angle"),
        ("set_cells", {"id": "v6", "cells": {wide: {"formula": "depth +"}}}, "wide: "),
        ("add_column", {"drives": "parameter", "of": {"name": "wide"}}, "driven by the variants already"),
        ("add_column", {"drives": "parameter", "of": {"name": "tall"}}, "not there"),
        ("add_column", {"drives": "field", "of": {"step": s, "field": "form.x"}}, "not there"),
        ("choose", {"variant": "v99"}, "has no such variant; there is Large"),
        ("remove_parameter", {"name": "wide"}, "let its column go first"),
    ):  # fmt: skip
        with pytest.raises((BadInput, NotAllowed), match=why):
            m.do(do, **words)
        assert m.part == before


def test_names_follow_what_is_gone_goes_and_a_removed_row_falls_back():
    m, s = bracket()
    wide = column(m, "parameter", name="wide")
    deep = column(m, "field", step=s, field="depth")
    m.do("add_parameter", name="gap", formula="2 mm")
    m.do("add_variant", name="Large", cells={wide: {"formula": "60 mm + gap"}, deep: "gap * 9"})
    m.do("choose", variant=m.part.variants[0].id)
    m.do("rename_parameter", name="gap", new="play")
    m.do("rename_parameter", name="wide", new="width")
    assert m.part.variants[0].cells[wide] == Amount(formula="60 mm + play")
    assert amount(m, "width") == "60 mm + play"
    with pytest.raises(NotAllowed, match="used by"):
        m.do("remove_parameter", name="play")
    m.do("remove_step", id=s, with_dependents=True)
    assert [c.id for c in m.part.columns] == [wide]
    assert set(m.part.variants[0].cells) == {wide}
    m.do("remove_variant", id=m.part.variants[0].id)
    assert (amount(m, "width"), m.part.active) == ("40 mm", Choice())


@given(st.lists(st.tuples(st.sampled_from("abc"), st.sampled_from("abcdeABC")), max_size=8))
def test_values_of_options_are_renamed_and_what_was_chosen_before_stays(renames):
    """Whatever values are called meanwhile, a choice by the name of its time is the same member; a name that
    others may mean is not given away."""
    m, s = bracket()
    m.do("add_option", name="Form", values=["a", "b", "c"])
    form = m.part.options[0].id
    deep = column(m, "field", form, step=s, field="depth")
    for k, name in enumerate("abc"):
        m.do("set_option_cells", id=form, value=name, cells={deep: {"formula": f"{20 + k} mm"}})
    m.do("choose", options={form: "b"})
    now, chosen = dict(zip("abc", "abc", strict=True)), [(n, k) for k, n in enumerate("abc")]
    for value, name in renames:
        k = "abc".index(value)
        if any(w.casefold() == name.casefold() and j != k for w, j in chosen):
            with pytest.raises(BadInput, match=r"before|already is"):
                m.do("edit_option", id=form, renames={now[value]: name})
            continue
        m.do("edit_option", id=form, renames={now[value]: name})
        now[value] = name
        chosen.append((name, k))
    assert [v.name for v in m.part.options[0].values] == list(now.values())
    for name, k in chosen:
        assert (
            applied(m.part, Choice(options={form: name})).step(s).fields["depth"] == f"{20 + k} mm"
        )
    assert m.part.step(s).fields["depth"] == "21 mm"
    assert called(m.part, m.part.active) == now["b"]
    assert again(m.part) == m.part


def test_numbers_and_lists_of_options_combine_and_all_pairs_are_few():
    m, s = bracket()
    m.do("add_option", name="Reach", kind="number", default="20 mm", least="10 mm", most="wide")
    m.do("add_option", name="Wired", kind="yes_no")
    for k in range(3):
        m.do("add_option", name=f"O{k}", values=[f"{k}{x}" for x in "abcd"])
    reach = m.part.options[0].id
    column(m, "field", reach, step=s, field="depth")
    with pytest.raises(BadInput, match="at most wide, not 41 mm"):
        m.do("choose", options={reach: "41 mm"})
    m.do("choose", options={reach: "30 mm", m.part.options[1].id: "YES"})
    assert m.part.step(s).fields["depth"] == "30 mm"
    assert called(m.part, m.part.active) == "30 mm · Wired · 0a · 1a · 2a"
    m.do("edit_step", id=s, fields={"depth": "25 mm"})
    assert m.part.active.options[reach] == "25 mm"
    m.do("add_variant", name="Large")
    every = list(combinations(m.part, [c.variant for c in rows(m.part)]))
    assert len(every) == len({repr(c) for c in every}) == 2 * 3 * 2 * 4**3
    few = pairs(m.part, [c.variant for c in rows(m.part)])
    assert len(few) < 40

    def met(choices):
        full = [
            {"": c.variant, **{o.id: c.options.get(o.id, o.default) for o in m.part.options}}
            for c in choices
        ]
        return {(a, x[a], b, x[b]) for x in full for a in x for b in x if a < b}

    assert met(few) == met(every)
    assert again(m.part) == m.part


TEXTS = st.text(
    st.characters(codec="utf-8", exclude_categories=["C", "Z"]), min_size=1, max_size=12
)


@settings(max_examples=25, deadline=None)
@given(
    st.lists(
        st.tuples(TEXTS, TEXTS | st.none(), st.integers(-99, 99), st.booleans() | st.none()),
        max_size=8,
    ),
    st.sampled_from(["csv", "xlsx"]),
)
def test_a_table_that_goes_out_and_comes_in_changes_nothing_whatever_stands_in_it(lines, form):
    """Names and texts that look like formulas of a spreadsheet, signs, other alphabets: the same again;
    into another document it makes the same rows."""
    m, s = bracket()
    number = column(m, "property", name="number")
    x = column(m, "field", step=s, field="x")
    sleeps = column(m, "asleep", group="steps", id="s2")
    empty = m.part
    taken = set()
    for name, text, size, flag in [*lines, ("'=1+1", "-5", 1, None), ("''@x", "'", 2, True)]:
        if name.casefold() in taken or name.casefold() == "as drawn":
            continue
        taken.add(name.casefold())
        cells = {number: text, x: {"formula": f"{size} mm"}, sleeps: flag}
        m.do("add_variant", name=name, cells={k: c for k, c in cells.items() if c is not None})
    head, rows_out = written(m.part, no_member)
    data = csv_of(head, rows_out) if form == "csv" else xlsx_of("T", head, rows_out)
    back = incoming(m.part, cells_of(data), no_member)
    assert (back.rows, back.changes, back.adds, back.bad, back.passed, back.missing) == (
        [],
        [],
        [],
        [],
        [],
        [],
    )
    fresh = incoming(empty, cells_of(data), no_member)
    assert (fresh.bad, len(fresh.adds)) == ([], len(taken))
    m.part = empty
    if fresh.rows:
        m.do("put_rows", rows=fresh.rows)
    assert written(m.part, no_member) == (head, rows_out)


def test_what_a_table_would_do_is_told_and_bad_cells_by_address():
    m, _ = bracket()
    column(m, "parameter", name="wide")
    column(m, "asleep", group="steps", id="s2")
    m.do("add_variant", name="Large", cells={m.part.columns[0].id: {"formula": "60 mm"}})
    text = (
        "Variant;wide [in];Fillet · asleep;Colour\nlarge;2,5;yes;red\nAs drawn;;no;\n"
        "Huge;3 kg;maybe;\n;1;;\nHuge;4;;\nSmall;10;;\n"
    )
    found = incoming(m.part, cells_of(text.encode()), no_member)
    assert (found.adds, found.passed) == (["Huge", "Small"], ["Colour"])
    assert [(c.row, c.column, c.was, c.now) for c in found.changes] == [
        ("Large", "wide", "60 mm", "2.5 in"), ("Large", "Fillet · asleep", "as drawn", "yes"),
    ]  # fmt: skip
    assert dict(found.bad).keys() == {"B3", "B4", "C4", "A5", "A6"}
    assert "takes a length; 3 kg is a mass" in dict(found.bad)["B4"]
    for data, why in (
        (b"", "nothing in this table"),
        (b"a,b\nc,d", "names no column of this table: there is wide"),
        (b"PK\x03\x04 no zip at all", "cannot be read"),
        (b"\x00\x01\x02", "holds no text"),
        (
            b"Variant,wide\n" + b"".join(b"v%d,1\n" % k for k in range(2500)),
            "at most 2000 rows; this has more",
        ),
    ):
        with pytest.raises(BadInput, match=why):
            incoming(m.part, cells_of(data), no_member)


@pytest.mark.parametrize(
    ("text", "why"),
    [("60", "Reach is a length; 60 is a plain number"), ("60 deg", "60 deg is an angle"),
     ("wide / 2", "no parameter or unit called wide"), ("-30 mm", "at least 10 mm, not -30 mm")],
)  # fmt: skip
def test_a_number_of_an_option_is_of_its_kind_however_it_is_set(text, why):
    """Chosen, made usual, or typed over the parameter it sets."""
    m, s = bracket()
    m.do("add_parameter", name="lean", formula="10 deg")
    m.do("add_option", name="Reach", kind="number", default="20 mm", least="10 mm", most="50 mm")
    reach = m.part.options[0].id
    column(m, "field", reach, step=s, field="depth")
    before = m.part
    for do, words in (
        ("choose", {"options": {reach: text}}), ("edit_option", {"id": reach, "default": text}),
        ("edit_step", {"id": s, "fields": {"depth": text}}),
    ):  # fmt: skip
        with pytest.raises((BadInput, NotAllowed), match="Reach" if do == "edit_option" else why):
            m.do(do, **words)
        assert m.part == before
    with pytest.raises(BadInput, match="takes an angle; 20 mm is a length"):
        m.do("add_column", drives="parameter", of={"name": "lean"}, option=reach)


def test_formulas_that_go_in_a_circle_in_a_row_are_refused_and_those_that_only_would_elsewhere_are_not():
    m, _ = bracket()
    m.do("add_parameter", name="tall", formula="30 mm")
    wide, tall = column(m, "parameter", name="wide"), column(m, "parameter", name="tall")
    # Each names the other, in rows of their own.
    m.do("add_variant", name="A", cells={wide: {"formula": "2 * tall"}})
    m.do("add_variant", name="B", cells={tall: {"formula": "wide / 2"}})
    rows_of = m.part.variants
    for id, cells in ((rows_of[0].id, {tall: {"formula": "wide + 1 mm"}}),
                      (rows_of[1].id, {wide: {"formula": "wide"}}), (None, {wide: {"formula": "thick"}})):  # fmt: skip
        with pytest.raises(BadInput, match="depends on itself"):
            m.do("set_cells", id=id, cells=cells)
    with pytest.raises(BadInput, match="depends on itself"):
        m.do(
            "put_rows",
            rows=[{"name": "C", "cells": {wide: {"formula": "tall"}, tall: {"formula": "wide"}}}],
        )
    m.do("choose", variant=rows_of[0].id)
    m.do("choose", variant=rows_of[1].id)
    assert (amount(m, "wide"), amount(m, "tall")) == ("40 mm", "wide / 2")

"""Lists of parts against counting by hand, properties, and tables that stay still."""

import csv
import io
from collections import Counter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import load_workbook

from vireo.core.assembly.listing import Around, parts_list
from vireo.core.documents import load_document, new_document
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.tables import csv_of, xlsx_of
from vireo.core.telling import commands_of
from vireo.core.trouble import BadInput, NotAllowed


def do(document, command, /, **fields):
    return run(parse({"do": command, **fields}), document)


#: For each of up to five assemblies, what it holds: parts p0 to p3, or assemblies made before it.
contents = st.lists(
    st.lists(st.tuples(st.booleans(), st.integers(0, 3), st.sampled_from(["", "A1", "B2"])), max_size=6),
    min_size=1, max_size=5,
)  # fmt: skip


def world(contents):
    documents = {f"p{k}": new_document("part", f"Part {k}") for k in range(4)}
    for n, holds in enumerate(contents):
        made = new_document("assembly", f"Assembly {n}")
        for is_part, k, tag in holds:
            id = f"p{k}" if is_part or n == 0 else f"a{k % n}"
            made = do(made, "add_component", document=id, name=documents[id].name)
            if tag:
                made = do(made, "edit_component", id=made.components[-1].id, tag=tag)
        documents[f"a{n}"] = made
    mass = {f"p{k}": 10.0**k for k in range(4)}

    def weigh(id):
        if id not in mass:
            mass[id] = sum(weigh(c.document) for c in documents[id].components)
        return mass[id]

    top = f"a{len(contents) - 1}"
    weigh(top)
    return documents, documents[top], mass


def leaves(documents, assembly):
    """Every part that stands in it, one by one."""
    for c in assembly.components:
        inner = documents[c.document]
        if inner.kind == "assembly":
            yield from leaves(documents, inner)
        else:
            yield c.document


@given(contents)
@settings(max_examples=120, deadline=None)
def test_every_list_counts_what_stands_there(contents):
    documents, top, mass = world(contents)
    counted = Counter(leaves(documents, top))
    whole = sum(mass[id] * n for id, n in counted.items())
    parts = parts_list(top, Around(documents.get, mass), "parts")
    assert {line.document: line.quantity for line in parts} == counted
    assert sum(line.total for line in parts) == pytest.approx(whole)
    assert all(len(line.paths) == len(set(line.paths)) == line.quantity for line in parts)
    level = parts_list(top, Around(documents.get, mass), "top")
    assert Counter({x.document: x.quantity for x in level}) == Counter(
        c.document for c in top.components
    )
    assert sum(line.total for line in level) == pytest.approx(whole)
    assert sorted(t for x in level for t in x.tags) == sorted(
        c.tag for c in top.components if c.tag
    )
    # Structured: quantities multiplied down the levels count the same parts.
    deep = parts_list(top, Around(documents.get, mass), "structured")
    product, again = [], Counter()
    for line in deep:
        product = [*product[: line.level], line.quantity]
        if line.kind == "part":
            n = 1
            for q in product:
                n *= q
            again[line.document] += n
    assert again == counted
    assert [line.document for line in deep if line.level == 0] == [x.document for x in level]


def test_what_is_gone_still_stands_in_the_list():
    documents, top, mass = world([[(True, 0, ""), (True, 1, "")]])
    del documents["p1"]
    gone = parts_list(top, Around(documents.get, mass), "parts")[1]
    assert (gone.kind, gone.name, gone.quantity) == ("gone", "Part 1", 1)


def test_properties_are_set_anew_checked_told_and_removed():
    part = new_document("part", "Drum")
    part = do(part, "set_property", name="Part number", value="  R-100 ")
    part = do(part, "set_property", name="Weight class", value="3.5", kind="number")
    part = do(part, "set_property", name="Bought", value="yes", kind="yes_no")
    part = do(part, "set_property", name="Part number", value="R-101")
    assert [(p.name, p.value) for p in part.properties] == [
        ("Part number", "R-101"), ("Weight class", "3.5"), ("Bought", "yes"),
    ]  # fmt: skip
    with pytest.raises(BadInput, match="Weight class is a number, not “heavy”"):
        do(part, "set_property", name="Weight class", value="heavy")
    with pytest.raises(BadInput, match="yes or no"):
        do(part, "set_property", name="Bought", value="maybe")
    with pytest.raises(NotAllowed, match="there is Part number"):
        do(part, "remove_property", name="Colour")
    again = new_document("part", "Drum")
    for command in commands_of(part):
        again = run(parse(command), again)
    assert again == part
    assert do(part, "remove_property", name="Bought").properties == part.properties[:2]
    assert load_document(part.model_dump(mode="json")) == part


ANY = st.one_of(
    st.floats(-1e6, 1e6), st.integers(-1000, 1000),
    st.text(st.characters(codec="utf-8", exclude_categories=("Cs",)), max_size=30),
    st.sampled_from(["=1+1", "@SUM(A1)", "+49 30", "-5", "=HYPERLINK(\"http://x\")", "\t=1"]),
)  # fmt: skip


@given(st.lists(st.lists(ANY, min_size=3, max_size=3), max_size=8), st.text(max_size=40))
@settings(max_examples=60, deadline=None)
def test_tables_come_back_as_they_were_and_nothing_in_them_is_a_formula(rows, title):
    header = ["=Name", "Quantity", "Tags"]
    back = list(csv.reader(io.StringIO(csv_of(header, rows).decode("utf-8-sig"))))
    assert back[0] == ["'=Name", "Quantity", "Tags"]
    for cells, row in zip(back[1:], rows, strict=True):
        for cell, value in zip(cells, row, strict=True):
            if isinstance(value, str):
                assert not cell.startswith(("=", "+", "-", "@", "\t"))
                assert cell.removeprefix("'").replace("\r\n", "\n") in (
                    value.replace("\r\n", "\n"), value.removeprefix("'").replace("\r\n", "\n"),
                )  # fmt: skip
            else:
                assert float(cell) == value
    sheet = load_workbook(io.BytesIO(xlsx_of(title, header, rows))).active
    found = list(sheet.iter_rows())
    assert len(found) == len(rows) + 1
    for cells, row in zip(found, [header, *rows], strict=True):
        for cell, value in zip(cells, row, strict=True):
            assert cell.data_type != "f"
            assert cell.hyperlink is None
            if not isinstance(value, str):
                assert cell.value == pytest.approx(value)
            elif value.isprintable() and value:
                assert cell.value == value

"""The products of STEP files: read off the text, and taken apart with their places."""

import re

import numpy as np
import pytest

from tests.core.test_handover import cube, machine, placed
from vireo.core.exchange.steppart import step_part
from vireo.core.exchange.steptree import step_tree, step_unit
from vireo.core.kernel import products
from vireo.core.kernel.exchange import write_step
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.measure import mass_properties, volume_of
from vireo.core.kernel.products import taken_apart
from vireo.core.trouble import BadInput


def written(tmp_path, parts, name="Whole"):
    path = tmp_path / "a.step"
    write_step(name, parts, str(path))
    return path.read_bytes()


def test_the_tree_of_a_written_file_is_what_was_written(tmp_path):
    data = written(tmp_path, machine())
    tree = step_tree(data)
    rows = [(r.name, r.level, r.count, r.holds) for r in tree.rows()]
    assert rows[0] == ("Whole", 0, 1, True)
    assert sorted(rows[1:]) == sorted(
        [("Door", 1, 2, True), ("Frame", 2, 1, False), ("Pin", 2, 2, False), ("Pin", 1, 1, False)]
    )
    assert tree.faults == ()
    single = step_tree(written(tmp_path, [placed("Żaba “alone” it's", cube(3.0))]))
    assert [r.name for r in single.rows()] == ["Żaba “alone” it's"]


def step(*statements):
    body = "\n".join(f"{s};" for s in statements)
    return f"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n{body}\nENDSEC;\nEND-ISO-10303-21;\n".encode()


def product(n, name):
    """A product with its formation and definition: the definition is number n."""
    return (
        f"#{n + 1000} = PRODUCT ( 'id', {name}, '', ( #1 ) )",
        f"#{n + 2000}=PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE('','',#{n + 1000},.NOT_KNOWN.)",
        f"#{n}=PRODUCT_DEFINITION('design','',#{n + 2000},#3)",
    )


def use(n, above, below):
    return f"#{n}=NEXT_ASSEMBLY_USAGE_OCCURRENCE('{n}','=> x','',#{above},#{below},$)"


def test_texts_of_every_notation_and_what_only_looks_like_a_product():
    data = step(
        *product(10, "'It''s (a) \\X2\\00DF\\X0\\, \\S\\d'"),
        *product(11, "'#9=PRODUCT(''x'',''trap'','''',(#1))'"),
        "/* a note */ " + product(12, "''")[0],
        *product(12, "''")[1:],
        use(90, 10, 11), use(91, 10, 11), use(92, 10, 12),
    )  # fmt: skip
    tree = step_tree(data)
    rows = {(r.name, r.count) for r in tree.rows()}
    assert rows == {("It's (a) ß, ä", 1), ("#9=PRODUCT('x','trap','',(#1))", 2), ("id", 1)}


def test_what_a_file_refers_to_and_has_not_and_circles_are_told():
    tree = step_tree(step(*product(10, "'A'"), *product(11, "'B'"), use(90, 10, 11), use(91, 11, 10),
                          use(92, 10, 77)))  # fmt: skip
    assert any("#77, which is not in the file" in f for f in tree.faults)
    assert any("would contain itself through" in f for f in tree.faults)
    assert len(tree.rows()) == 2
    for bad, words in (
        (b"solid x", "no STEP file"),
        (step("#1=CARTESIAN_POINT('',(0.,0.,0.))"), "no product"),
    ):
        with pytest.raises(BadInput, match=words):
            step_tree(bad)


def test_twenty_thousand_parts_are_a_tree():
    many = [s for n in range(20_000) for s in product(10_000 + 10 * n, f"'P{n}'")[:1]]
    # Numbers of formations and definitions of their own, so that none meet.
    statements = list(many)
    for n in range(20_000):
        statements.append(f"#{300_000 + n}=PRODUCT_DEFINITION_FORMATION('','',#{11_000 + 10 * n})")
        statements.append(f"#{400_000 + n}=PRODUCT_DEFINITION('','',#{300_000 + n},#3)")
    statements += [use(500_000 + n, 400_000, 400_000 + n) for n in range(1, 20_000)]
    tree = step_tree(step(*statements))
    assert len(tree.products) == 20_000
    assert len(tree.rows()) == 20_000


def test_a_file_is_taken_apart_with_every_part_where_it_stood(tmp_path):
    data = written(tmp_path, machine(at=7.0, turn=0.4))
    found = taken_apart(data)
    assert found.faults == []
    assert sorted(found.names[k] for k in found.bodies) == ["Frame", "Pin"]
    (root,) = found.roots

    def stood(key, rotation, position):
        for body in found.bodies.get(key, ()):
            yield round(volume_of(body.body.shape), 6), np.round(position, 5).tolist()
        for s in found.holds.get(key, ()):
            yield from stood(s.key, rotation @ s.rotation, rotation @ s.position + position)

    there = sorted(stood(root, np.eye(3), np.zeros(3)))
    meant = sorted(
        (round(volume_of(p.body.shape), 6), np.round(p.position, 5).tolist())
        for p in machine(at=7.0, turn=0.4)
    )
    for (v, at), (w, want) in zip(there, meant, strict=True):
        assert v == pytest.approx(w)
        assert at == pytest.approx(want, abs=2e-5)
    assert {b.colour for bodies in found.bodies.values() for b in bodies} == {"#aa3311"}


def stands_of(found):
    """Volume and place of all solids, each where it stands, by what their parts are called."""
    there = []

    def stood(key, rotation, position):
        for body in found.bodies.get(key, ()):
            middle = rotation @ np.array(mass_properties(body.body).centre) + position
            there.append((found.names[key], body.colour, round(volume_of(body.body.shape), 6),
                          *np.round(middle, 4).tolist()))  # fmt: skip
        for s in found.holds.get(key, ()):
            stood(s.key, rotation @ s.rotation, rotation @ s.position + position)

    for root in found.roots:
        stood(root, np.eye(3), np.zeros(3))
    return sorted(there)


@pytest.mark.parametrize("schema", ["AP214", "AP242"])
def test_some_products_are_cut_out_of_a_file_as_they_are_in_the_whole(tmp_path, schema):
    """Doors with frames and pins, two parts of one name and two colours, titles full of marks."""
    odd = [
        placed("Pin", cube(3.0), 60.0, "#22aa44"),
        placed("#12; it's 'A'", cube(4.0), 80.0, "#2244aa"),
        placed("Żaba / 50 %", cube(6.0), 100.0, "#aa8811", paints={0: "#ffffff"}),
    ]
    path = tmp_path / "a.step"
    write_step("Whole", [*machine(at=7.0, turn=0.4), *odd], str(path), schema)
    data = path.read_bytes()
    tree = step_tree(data)
    whole = stands_of(taken_apart(data))
    assert len(whole) == 10
    everything, faults = step_part(data, set(tree.products))
    assert faults == []
    assert stands_of(taken_apart(everything)) == whole
    (root,) = tree.roots
    for number, product in tree.products.items():
        if number == root:
            continue
        alone = taken_apart(step_part(data, tree.below(number))[0])
        assert next(iter(alone.names.values())) == product.name or product.holds
        # Without it, the rest stands where it stood.
        without = taken_apart(step_part(data, set(tree.products) - tree.below(number))[0])
        left = stands_of(without)
        assert set(left) < set(whole)
        apart = {x[:3] for x in stands_of(alone)}
        assert {x[:3] for x in whole} == apart | {x[:3] for x in left}
        assert len(step_part(data, tree.below(number))[0]) < len(data)
    with pytest.raises(BadInput, match="cut short"):
        step_part(data[: len(data) // 2], {root})
    # What a chosen product needs and the file has not is told.
    n = next(n for n, p in tree.products.items() if not p.holds)
    face = re.search(rb"#(\d+) = ADVANCED_FACE", step_part(data, {n})[0])
    torn = re.sub(rb"#%s = ADVANCED_FACE[^;]*;" % face[1], b"", data)
    assert any(f"#{face[1].decode()}, which is not" in f for f in step_part(torn, {n})[1])


def test_texts_of_the_header_are_no_statements(tmp_path):
    data = written(tmp_path, machine())
    trap = data.replace(
        b"FILE_DESCRIPTION((", b"FILE_DESCRIPTION(('#1=(a);','#99999999=X(#1);',", 1
    )
    assert trap != data
    whole = stands_of(taken_apart(data))
    cut, faults = step_part(trap, set(step_tree(trap).products))
    assert faults == []
    assert stands_of(taken_apart(cut)) == whole


def test_the_unit_of_a_file_is_told(tmp_path):
    data = written(tmp_path, [placed("A", cube(3.0))])
    assert step_unit(data) == "mm"
    inch = b"#5=(CONVERSION_BASED_UNIT('INCH',#6)LENGTH_UNIT()NAMED_UNIT(#7));#6=(LENGTH_UNIT()SI_UNIT($,.METRE.));"
    assert step_unit(inch) == "inch"
    assert step_unit(b"(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT($,.METRE.))") == "m"
    assert step_unit(b"nothing") == ""


def test_products_that_would_stand_elsewhere_are_not_brought_in(tmp_path, monkeypatch):
    data = written(tmp_path, machine())
    right = products.Stand
    monkeypatch.setattr(products, "Stand", lambda k, n, r, p: right(k, n, r.T, p))
    with pytest.raises(KernelTrouble, match="as one part"):
        taken_apart(data)

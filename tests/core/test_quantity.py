"""Formulas, units, parameters."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vireo.core.quantity import (
    ANGLE,
    LENGTH,
    FormulaError,
    Parameter,
    Quantity,
    evaluate,
    evaluate_parameters,
    format_quantity,
    names_in,
    rename_in,
)
from vireo.core.quantity.formula import FUNCTIONS
from vireo.core.quantity.help import words
from vireo.core.quantity.parameters import ListLimits, RangeLimits
from vireo.core.quantity.tables import limits_of, read_table, write_table
from vireo.core.quantity.units import FORCE, NUMBER, PRESSURE, UNITS
from vireo.core.trouble import BadInput

WALL = {"wall": Quantity(4.0, LENGTH), "cone": Quantity(math.radians(30), ANGLE)}


@pytest.mark.parametrize(
    ("text", "value", "dimension"),
    [
        ("wall*2 + 0.5 mm", 8.5, LENGTH),
        ("10 mm / 2 mm", 5.0, NUMBER),
        ("2 mm**2", 2.0, LENGTH**2),
        ("14 mm if wall > 3 mm else 10 mm", 14.0, LENGTH),
        ("2*wall*tan(45 deg)", 8.0, LENGTH),
        ("sin(cone)", 0.5, NUMBER),
        ("1 in + 1 ft", 25.4 + 304.8, LENGTH),
        ("hypot(3 mm, 4 mm)", 5.0, LENGTH),
        ("round(7.3 mm, 0.5 mm)", 7.5, LENGTH),
        ("ceil(4.2)", 5.0, NUMBER),
        ("atan2(1 mm, 1 mm)", math.pi / 4, ANGLE),
        ("max(wall, 6 mm) - min(wall, 6 mm)", 2.0, LENGTH),
        ("10 N / (2 mm * 5 mm)", 1000.0, PRESSURE),
        ("2 kg * 9.81 m/s**2", 19620.0, FORCE),
        ("-wall % 3 mm", 2.0, LENGTH),
    ],
)
def test_formulas_mean_what_they_say(text, value, dimension):
    found = evaluate(text, WALL)
    assert found.value == pytest.approx(value)
    assert found.dimension == dimension


def test_pound_force_per_square_inch_agrees_with_its_definition():
    # NIST SP 811: 1 psi = 6.894757 kPa.
    assert evaluate("1 psi").to("Pa") == pytest.approx(6894.757, rel=1e-7)
    assert evaluate("60 rpm").value == pytest.approx(2 * math.pi)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("5 mm + 3 deg", "a length + an angle"),
        ("wal * 2", "wall"),
        ("sin(20)", "20 deg"),
        ("1/0", "divides by zero"),
        ("9**9**9", "at most"),
        ("(((", "bracket"),
        ("", "needed"),
        ("1e308 * 1e308", "too large"),
        ("__import__('os').system('true')", "no function"),
        ("[x for x in (1, 2)]", "not allowed"),
        ("(lambda: 1)()", "no function"),
        ("wall.real", "not allowed"),
        ("5 mm if 3 else 4 mm", "yes/no"),
        ("sqrt(5 mm)", "area"),
        ("asin(2)", "-1 to 1"),
        ("1 mm if wall > 1 mm else 2", "cannot mix"),
        ("(" * 60 + "1" + ")" * 60 + "+1" * 400, "at most"),
        ("-" * 200 + "1", "deeply"),
    ],
)
def test_bad_formulas_say_why(text, says):
    with pytest.raises(FormulaError, match=r"(?i)" + says.replace("+", r"\+")):
        evaluate(text, WALL)


@given(st.text(max_size=60))
def test_no_text_does_anything_but_give_a_value_or_a_formula_error(text):
    try:
        found = evaluate(text, WALL)
    except FormulaError:
        return
    assert math.isfinite(found.value)


@given(st.sampled_from(sorted(UNITS)), st.floats(-1e6, 1e6))
def test_a_value_survives_its_unit(unit, number):
    assert evaluate(f"{number!r} {unit}").to(unit) == pytest.approx(number, rel=1e-12, abs=1e-12)


@given(st.sampled_from(["wall", "a", "deep", "hub_d"]), st.sampled_from(["rim", "z9"]))
def test_renaming_changes_only_that_name(old, new):
    text = f"{old}*2 + wallpaper - sin({old}/(1 mm)*1 deg)"
    renamed = rename_in(text, old, new)
    assert names_in(renamed) == (names_in(text) - {old}) | {new}
    assert rename_in(renamed, new, old) == text


def test_parameters_report_loops_limits_and_what_depends_on_them():
    found = evaluate_parameters(
        [
            Parameter(name="a", formula="b + 1 mm"),
            Parameter(name="b", formula="a"),
            Parameter(name="c", formula="a * 2"),
            Parameter(
                name="size", formula="27 mm", limits={"kind": "list", "values": ["20 mm", "26 mm"]}
            ),
            Parameter(
                name="high",
                formula="90 mm",
                limits={"kind": "range", "least": "30 mm", "most": "size*3"},
            ),
            Parameter(name="odd", formula="5 mm", unit="deg"),
        ]
    )
    assert "a → b → a" in found["a"].trouble.text
    assert found["c"].trouble.code == "needs"
    assert "20 mm, 26 mm" in found["size"].trouble.text
    assert found["size"].value.value == 27.0
    assert "81 mm (size*3)" in found["high"].trouble.text
    assert "cannot be shown" in found["odd"].trouble.text


def test_every_function_is_reachable():
    for name, (_, least, _most) in FUNCTIONS.items():
        unit = " deg" if name in ("sin", "cos", "tan") else ""
        arguments = ", ".join([f"0.5{unit}"] * least)
        assert math.isfinite(evaluate(f"{name}({arguments})").value)


# --- tables and help


def test_every_function_and_unit_is_told_with_an_example_that_works():
    found = words()
    assert {w.word for w in found} >= {*FUNCTIONS, *UNITS, "pi"}
    for w in found:
        given = evaluate(w.gives.replace("³", "**3"))
        assert format_quantity(evaluate(w.example)) == format_quantity(given), w


TABLES = {
    "tabs": "name\tvalue\tunit\tcomment\nwall\t2.5\tmm\tall round\nturn\t30\tdeg\t\n",
    "commas": "name,formula,note\nwall,2.5 mm,all round\nturn,30 deg,\n",
    "semicolons": "Parameter;Value;Description\nwall;2.5 mm;all round\nturn;30 deg;\n",
    "bare": "wall\t2.5 mm\t\t\tall round\nturn\t30 deg\n",
}


@pytest.mark.parametrize("form", TABLES)
def test_tables_are_read_as_spreadsheets_write_them(form):
    rows = read_table(TABLES[form])
    assert [(r.name, r.said["formula"], r.said.get("note", "")) for r in rows] == [
        ("wall", "2.5 mm", "all round"), ("turn", "30 deg", ""),
    ]  # fmt: skip


_NOTES = st.text(
    st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Zl", "Zp")), max_size=30
).map(str.strip)
_LIMITS = [
    None, ListLimits(values=["2 mm", "max(3 mm, 4 mm)"]), RangeLimits(least="1 mm", most="9 mm"),
    RangeLimits(most="9 mm"), RangeLimits(least="1 mm"),
]  # fmt: skip


@given(st.lists(
    st.builds(
        Parameter,
        name=st.from_regex(r"[a-z][a-z0-9_]{0,8}", fullmatch=True),
        formula=st.sampled_from(["2 mm", "max(3 mm, 4 mm)", "30 deg"]),
        note=_NOTES,
        group=st.sampled_from(["", "Plate", "Bolts, and nuts"]),
        limits=st.sampled_from(_LIMITS),
    ), min_size=1, max_size=5, unique_by=lambda p: p.name))  # fmt: skip
def test_a_written_table_reads_back(parameters):
    rows = read_table(write_table(parameters, {}))
    back = [
        Parameter(name=r.name, formula=r.said["formula"], note=r.said.get("note", ""),
                  group=r.said.get("group", ""), limits=limits_of(r.said.get("limits", "")))
        for r in rows
    ]  # fmt: skip
    assert back == list(parameters)


@pytest.mark.parametrize(("text", "why"), [
    ("", "nothing"), ("name,formula\n,2 mm\n", "line 2 names no"), ("a,1\na,2\n", "stands in the table twice"),
    ("name,value,unit\na,1,smoot\n", "no unit smoot"), ("a,1\n" * 2002, "at most 2000"),
])  # fmt: skip
def test_tables_that_cannot_be_read_say_why(text, why):
    with pytest.raises(BadInput, match=why):
        read_table(text)


@pytest.mark.parametrize(("typed", "meant"), [
    ("1 mm .. 2.5 mm", RangeLimits(least="1 mm", most="2.5 mm")), (">= 3 mm", RangeLimits(least="3 mm")),
    ("<= wall", RangeLimits(most="wall")), ("… 4 mm", RangeLimits(most="4 mm")),
    ("max(1 mm, wall), 3 mm", ListLimits(values=["max(1 mm, wall)", "3 mm"])), ("  ", None),
])  # fmt: skip
def test_limits_are_read_as_they_are_typed(typed, meant):
    assert limits_of(typed) == meant


@pytest.mark.parametrize(
    "typed", [",", "..", " … ", ">=", "≤ ", "1 mm, " * 201 + "1 mm", "9" * 501]
)
def test_limits_that_say_nothing_or_too_much_are_refused(typed):
    with pytest.raises(BadInput, match="limit"):
        limits_of(typed)

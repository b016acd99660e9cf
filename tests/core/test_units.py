"""Units as engineers write them, and a document that shows its own."""

import math
import random
from fractions import Fraction

import pytest

from vireo.core.quantity import FormulaError, Quantity, evaluate
from vireo.core.quantity.shown import (
    PLAIN,
    Units,
    in_kind,
    length,
    localised,
    rounded,
    shown_in,
    told,
)
from vireo.core.quantity.units import AREA, LENGTH, MASS, PRESSURE, UNITS

INCH = 25.4


@pytest.mark.parametrize(
    ("typed", "mm"),
    [
        ("1/4 in", INCH / 4), ("1 1/4 in", 1.25 * INCH), ("-3/8 in", -0.375 * INCH),
        ("5'-3 1/2\"", 63.5 * INCH), ("5' 3\"", 63 * INCH), ("5'", 60 * INCH),
        ("0.25\"", INCH / 4), ("3/8\"", 0.375 * INCH), ("1 ft 3 1/2 in", 15.5 * INCH),
        ("1/2 in + 1/4 in", 0.75 * INCH), ("2*(1 1/2 in)", 3 * INCH), (".5 in", INCH / 2),
        ("10 mm / 2 mm * 1 in", 5 * INCH), ("(1+2) in", 3 * INCH), ("max(1/2 in, 10 mm)", INCH / 2),
    ],
)  # fmt: skip
def test_inches_as_written(typed, mm):
    found = evaluate(typed)
    assert found.dimension == LENGTH
    assert found.value == pytest.approx(mm)


@pytest.mark.parametrize(
    ("typed", "value", "name"),
    [
        ("0.034 lb/in**3", 0.034 * 0.45359237 / INCH**3, "density"),
        ("0.034 lb/in3", 0.034 * 0.45359237 / INCH**3, "density"),
        ("7.85 g/cm3", 7.85e-6, "density"), ("7850 kg/m3", 7.85e-6, "density"),
        ("50 W/mK", 5e4, "conductivity"), ("50 W/(m*K)", 5e4, "conductivity"),
        ("9.81 m/s2", 9810, "acceleration"), ("3 N/mm²", 3e3, "pressure"),
        ("30 ksi", 30e3 * UNITS["psi"][0], "pressure"), ("16 oz", 0.45359237, "mass"),
    ],
)  # fmt: skip
def test_units_of_units(typed, value, name):
    found = evaluate(typed)
    assert found.dimension.name == name
    assert found.value == pytest.approx(value)


@pytest.mark.parametrize("typed", ["0,5 in", "1,25", "12,7 mm"])
def test_a_decimal_comma_is_refused_with_the_right_word(typed):
    with pytest.raises(FormulaError, match=f"write {typed.replace(',', '.')}: a point stands"):
        evaluate(typed)


@pytest.mark.parametrize("seed", range(20))
def test_what_is_shown_reads_back_as_what_it_was(seed):
    """Any value in any unit: within half of the last place, fractions within half a part."""
    rng = random.Random(seed)
    mm = rng.choice([-1, 1]) * 10 ** rng.uniform(-2, 4)
    for unit in ("mm", "cm", "m", "in", "ft"):
        for fractions in (0, 16, 64):
            units = Units(length=unit, fractions=fractions, places=rng.randint(2, 6))
            text = length(mm, units)
            sign = -1 if text.startswith("-") else 1
            back = sign * evaluate(text.lstrip("-")).value
            inch = unit in ("in", "ft") and fractions
            step = INCH / fractions if inch else UNITS[unit][0] * 10**-units.places
            assert abs(back - mm) <= step / 2 + 1e-9, (text, mm)


def test_fractions_are_in_lowest_terms():
    for k in range(1, 64):
        text = length(INCH * k / 64, Units(length="in", fractions=64)).removesuffix(" in")
        assert Fraction(text) == Fraction(k, 64)
        assert text == str(Fraction(k, 64))


def test_places_and_kinds():
    assert rounded(1234.5678, Units(rounding="significant", places=3)) == "1235"
    assert rounded(0.00123456, Units(rounding="significant", places=3)) == "0.00123"
    assert in_kind("length", INCH**3, Units(length="in"), 3) == "1 in³"
    assert in_kind("mass", 453.59237, Units(mass="lb")) == "1 lb"
    assert in_kind("stress", 6.894757293168, Units(stress="ksi")) == "1 ksi"
    assert shown_in(Quantity(0.45359237, MASS), Units(mass="oz")) == "16 oz"
    assert shown_in(Quantity(645.16, AREA), Units(length="in")) == "1 in²"
    assert shown_in(Quantity(1e3, PRESSURE), PLAIN) == "1 MPa"
    assert shown_in(Quantity(math.pi / 4, evaluate("1 deg").dimension), PLAIN) == "45 deg"


def test_messages_are_told_in_the_units_of_the_document():
    inch = Units(length="in", mass="lb", stress="psi", places=3)
    said = "a fillet of 12.7 mm does not fit near (25.4, 0, -50.8): the largest is 6.35 mm"
    assert told(said, inch) == (
        "a fillet of 0.5 in does not fit near (1 in, 0 in, -2 in): the largest is 0.25 in"
    )
    assert told("removes 16387.064 mm³, 100 kg/m and 30 mm/s stay", inch) == (
        "removes 1 in³, 100 kg/m and 30 mm/s stay"
    )
    report = {"code": "step", "text": said, "offers": [
        {"label": "Use 6.35 mm", "fields": {"radius": "6.35 mm"}, "commands": []}]}  # fmt: skip
    found = localised(report, inch)
    assert found["offers"][0]["label"] == "Use 0.25 in"
    assert found["offers"][0]["fields"] == {"radius": "6.35 mm"}
    assert localised(report, PLAIN) == report

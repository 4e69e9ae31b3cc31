"""Formulas: arithmetic with units, and what is refused."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uhrwerk.core.quantity import FormulaError, Scope, display, in_unit, order, ureg, value
from uhrwerk.core.quantity.units import DIMENSIONS

KNOWN = {"hub_od": ureg.Quantity(12, "mm"), "n": ureg.Quantity(5), "tilt": ureg.Quantity(30, "deg")}


@pytest.mark.parametrize(
    ("text", "dimension", "si"),
    [
        ("0.69 in * 2", "length", 0.69 * 0.0254 * 2),
        ("360 deg / n", "angle", 2 * math.pi / 5),
        ("hub_od - 4 mm", "length", 0.008),
        ("10 mm / 2 mm", "number", 5.0),  # a unit binds tighter than the division
        ("3 rev / (120 rpm)", "time", 1.5),
        ("40 rev/min", "turning speed", 40 * 2 * math.pi / 60),
        ("7.85 g/cm^3", "density", 7850.0),
        ("1 lb", "mass", 0.45359237),
        ("1 ft + 1 in", "length", 0.3302),
        ("62", "length", 0.062),  # a bare number takes the document's unit
        ("2*31", "length", 0.062),
        ("-(3 mm)", "length", -0.003),
        ("hub_od * sin(tilt)", "length", 0.006),
        ("atan2(3 mm, 4 mm)", "angle", math.atan2(3, 4)),
        ("sqrt((3 mm)^2 + (4 mm)^2)", "length", 0.005),
        ("max(3 mm, 1 in)", "length", 0.0254),
        ("round(12.34 mm, 0.5 mm)", "length", 0.0125),
        ("2^3", "number", 8.0),
        ("45°", "angle", math.pi / 4),
        ("3 N m", "torque", 3.0),
        ("10 lbf in", "torque", 10 * 4.4482216152605 * 0.0254),
        ("20 ksi", "stress", 137.89514586336e6),
        ("500 N mm / (2 N mm)", "number", 250.0),
        ("2 g mm^2 + 1 kg m^2", "couple", 1.000000002),
        ("5 µm", "length", 5e-6),
        ("pi * 2 mm", "length", math.pi * 2e-3),
        ("floor(2.7) + ceil(2.1)", "number", 5.0),
    ],
)
def test_value(text: str, dimension: str, si: float) -> None:
    assert value(text, dimension, KNOWN) == pytest.approx(si, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "dimension", "words"),
    [
        ("hub_od - 4", "length", "mixes units"),
        ("360 deg", "length", "gives angle, but length"),
        ("3 mm", "angle", "gives length, but angle"),
        ("wide + 1 mm", "length", "'wide'"),
        ("sin(3)", "number", "needs an angle"),
        ("5 mm h", "length", "an operator is missing"),
        ("5 N mm mm", "torque", "an operator is missing"),
        ("(3 mm", "length", "never closed"),
        ("3 mm +", "length", "cannot be read"),
        ("", "length", "is empty"),
        ("1 mm / 0", "length", "divides by zero"),
        ("9^9^9", "number", "exponent"),
        ("10^400", "number", "exponent"),
        ("sqrt(-1)", "number", ""),
        ("a.b", "number", "not arithmetic"),
        ("x = 3", "number", "not arithmetic"),
        ("__import__('os')", "number", "not arithmetic"),
        ("open(3)", "number", "calls 'open'"),
        ("[1, 2]", "number", "not arithmetic"),
        ("1" * 500, "number", "longer than"),
        ("lambda: 3", "number", ""),
        ("3 if 1 else 2", "number", ""),
    ],
)
def test_refused(text: str, dimension: str, words: str) -> None:
    with pytest.raises(FormulaError) as error:
        value(text, dimension, KNOWN)
    assert words in str(error.value)


def test_parameters_in_order_of_dependency() -> None:
    formulas = {"c": "a + b", "b": "2 * a", "a": "3 mm"}
    assert order(formulas).index("a") < order(formulas).index("b") < order(formulas).index("c")
    assert Scope.of(formulas).value("c", "length") == pytest.approx(0.009)


def test_cycle_is_named() -> None:
    with pytest.raises(FormulaError, match=r"goes round in a circle: .*a.*b.*c"):
        Scope.of({"a": "b + 1 mm", "b": "c", "c": "a"})


@pytest.mark.parametrize("name", ["mm", "sin", "2wide", "a-b", "", "pi", "x" * 41])
def test_parameter_names_that_formulas_could_not_use(name: str) -> None:
    with pytest.raises(FormulaError):
        Scope.of({name: "3 mm"})


def test_bare_numbers_take_the_documents_unit() -> None:
    assert Scope.of({}, {"length": "in"}).value("2", "length") == pytest.approx(0.0508)


@given(st.floats(min_value=-1e6, max_value=1e6), st.sampled_from(["mm", "in", "m", "cm", "ft"]))
def test_units_go_in_and_out(number: float, unit: str) -> None:
    si = value(f"{number!r} {unit}", "length")
    if unit in ("mm", "in", "m", "cm"):
        assert in_unit(si, "length", unit) == pytest.approx(number, rel=1e-12, abs=1e-12)


@given(st.text(max_size=60))
def test_any_text_is_a_value_or_a_plain_refusal(text: str) -> None:
    try:
        assert math.isfinite(value(text, "length", KNOWN))
    except FormulaError as error:
        assert str(error)


@pytest.mark.parametrize(
    ("si", "dimension", "unit", "text"),
    [(0.005, "length", None, "5.00 mm"), (5e-6, "length", None, "0.005 mm"), (0.0254, "length", "in", "1.0000 in"), (-1e-12, "length", None, "0.000 mm"), (math.pi, "angle", None, "180.00 deg"), (0.3488, "mass", "g", "348.8 g")],
)  # fmt: skip
def test_display(si: float, dimension: str, unit: str | None, text: str) -> None:
    assert display(si, dimension, unit) == text


def test_formulas_are_read_in_many_threads_at_once() -> None:
    """Syntax trees cannot be built in two threads at once in CPython 3.11; formulas are read in as many as ask."""
    import sys
    from concurrent.futures import ThreadPoolExecutor

    before = sys.getswitchinterval()
    sys.setswitchinterval(1e-6)
    try:
        with ThreadPoolExecutor(8) as pool:
            found = list(pool.map(lambda n: value(f"{n} mm + {n} * (1 mm + {n} mm) / 2", "length") * 1e3, range(400)))
    finally:
        sys.setswitchinterval(before)
    assert found == pytest.approx([n + n * (1 + n) / 2 for n in range(400)])


@pytest.mark.parametrize("dimension", [d for d in DIMENSIONS if d != "text"])
def test_what_is_shown_can_be_written(dimension: str) -> None:
    shown = display(0.7853, dimension, digits=14)
    assert value(shown, dimension, {}) == pytest.approx(0.7853, rel=1e-6), shown


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("1;2", "';' at character 2"), ("1 # x", "'# x' at character 3"), ("1|2", "'|' at character 2"), ("~1", "'~' at character 1"),
        ("1 mm @ 2", "'@' at character 6"), ("2 mm\n+ 3 mm", "in a second line"), ("a.b", "'.' at character 2"), ("1 & 1", "'&' at character 3"),
        ("[1 mm]", "'[' at character 1"), ("1 mm if 1 else 2 mm", ""), ("1 < 2", "'<' at character 3"), ("'x'", "at character 1"),
    ],
)  # fmt: skip
def test_what_is_no_arithmetic_is_refused_with_its_place(text: str, told: str) -> None:
    """`1;2`, `1 # x`, `1|2` and `~1` were accepted, and the rest dropped."""
    with pytest.raises(FormulaError) as refused:
        value(text, "length", {})
    assert told in str(refused.value)


@pytest.mark.parametrize(
    ("text", "mm"),
    [("(1/8) in", 3.175), ("2*(1/8) in + 1 mm", 7.35), ("((1/2)) in", 12.7), ("max(1, 2) mm", 2), ("sqrt(16) mm", 4), ("6 mm / (1 + 2) mm * (1) mm", 2)],
)  # fmt: skip
def test_a_unit_after_a_bracket_binds_to_it(text: str, mm: float) -> None:
    assert value(text, "length") == pytest.approx(mm * 1e-3, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("1/8 in", r"a fraction of a unit is written \(1/8\)"),
        ("0/8 in", r"a fraction of a unit is written \(1/8\)"),
        ("(3 mm) mm", "length is required$"),
        ("(1/8) foo", "not a unit"),
        ("(1/0) in", "divides by zero"),
    ],
)
def test_what_a_unit_after_a_fraction_may_not_be(text: str, words: str) -> None:
    with pytest.raises(FormulaError, match=words):
        value(text, "length")

"""The units of a mechanism are changed in the page: what is shown changes, no size does."""

from __future__ import annotations

import pytest

from uhrwerk import At, CurveLimit, Draft, LinkBar, MassLimit, Pin, ValidationFailed, curves
from uhrwerk.core.document import Document, apply
from uhrwerk.core.document.command import AddCurve, parse
from uhrwerk.core.elements.like import Like
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import formulas
from uhrwerk.core.quantity.size_limits import deviations


def changed(document: Document, what: str, unit: str) -> Document:
    return apply(document, parse({"kind": "set_value", "path": f"units.{what}", "value": unit}))


def draft() -> Draft:
    d = Draft("Units")
    d.parameter("arm", "40")
    d.parameter("half", "arm / 2")
    d.part("Bar", "steel", LinkBar(distance="arm", width="2 * 6", thickness="4", bore_1="0.2 in"))
    d.part("Pin", "steel", Pin(diameter="5", length="half + 1"), x="10", y="-3.5 mm")
    d.require(MassLimit(name="Light", at_most="400"))
    return d


def values(d: Document) -> dict[str, float]:
    return {path: d.scope().value(text, mark.name) for path, text, mark in formulas(d) if not mark.over_time}


@pytest.mark.parametrize(("length", "mass"), [("in", "lb"), ("m", "kg"), ("cm", "oz"), ("mm", "g")])
def test_no_size_changes(length: str, mass: str) -> None:
    before = draft().document
    after = changed(changed(before, "length", length), "mass", mass)
    assert (after.units.length, after.units.mass) == (length, mass)
    assert values(after) == pytest.approx(values(before), rel=1e-12, abs=1e-15)
    back = changed(changed(after, "length", "mm"), "mass", "g")
    assert values(back) == pytest.approx(values(before), rel=1e-12, abs=1e-15)


def test_only_what_would_change_is_written_out() -> None:
    before = draft().document
    after = changed(before, "length", "in")
    bar = after.parts["bar"].element
    assert isinstance(bar, LinkBar)
    assert (bar.distance, bar.width, bar.thickness, bar.bore_1) == ("(arm) * 1 mm", "(2 * 6) * 1 mm", "4 mm", "0.2 in")
    assert after.placed["pin"].start.x == "10 mm"
    assert after.placed["pin"].start.y == "-3.5 mm"
    assert after.parameters["arm"].formula == "40"  # a plain number, until it is used as a length
    assert changed(before, "length", "mm") == before


def test_a_part_like_another_keeps_its_numbers(evaluator: Evaluator) -> None:
    d = draft()
    d.part("Other", "steel", Like(part="pin", changes={"a": {"path": "element.length", "formula": "31"}}), x="60")  # type: ignore[dict-item]
    before = d.document
    after = changed(before, "length", "in")
    assert after.parts["other"].element.changes["a"].formula == "31 mm"  # type: ignore[attr-defined]
    volumes = [evaluator.evaluate(x).solids["other"].volume for x in (before, after)]
    assert volumes[0] == pytest.approx(volumes[1], rel=1e-12)


def test_a_limit_whose_dimension_is_that_of_a_curve_is_not_guessed() -> None:
    d = draft()
    d.do(AddCurve(curve=curves.PointCurve(name="Tip", at=At(placed="pin", datum="axis"))))
    d.require(CurveLimit(name="Low", curve="tip", at_most="12"))
    with pytest.raises(ValidationFailed, match="12 has no unit: write one first") as refused:
        changed(d.document, "length", "in")
    assert refused.value.faults[0][0] == "requirements.low.at_most"


def test_deviations_of_a_fit_need_their_units() -> None:
    """Without one they were read in millimetres, in a mechanism of inches too."""
    assert deviations("0 / 0.001 in", 0.01) == pytest.approx((0.0, 25.4e-6))
    with pytest.raises(ValueError, match="give each deviation its unit"):
        deviations("0 / 0.001", 0.01)


@pytest.mark.parametrize(
    ("si", "unit", "text"),
    [(2e-6, "in", "0.0000787 in"), (5e-7, "mm", "0.0005 mm"), (1.2345678e-3, "mm", "1.2345678 mm")],
)
def test_a_small_limit_is_written_without_powers_of_ten(si: float, unit: str, text: str) -> None:
    draft = Draft("x")
    draft.set("units.length", unit)
    assert draft.document.limit(si, "length") == text

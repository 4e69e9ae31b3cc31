"""Sheet with bends against closed forms: its box, its volume, its flat length."""

from __future__ import annotations

import numpy as np
import pytest

from uhrwerk import BentSheet
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.core.quantity import Scope


@pytest.mark.parametrize("form", ["angle", "channel", "offset"])
def test_legs_of_sheet_measured_inside_are_so_on_the_solid(evaluator: Evaluator, form: str) -> None:
    """The box round the solid is the legs and a thickness for every bend; its volume is the middle line's length times the section
    (Pappus' second theorem, for even bends of a quarter)."""
    sheet = BentSheet(
        form=form,
        measured="inside",
        first="30 mm",
        second="20 mm",
        third="25 mm",
        thickness="1.5 mm",
        inside_radius="2 mm",
    )
    n = numbers(sheet, Scope({}))
    solid = evaluator.kernel_pool.build(BentSheet.solid(n))
    corners = np.concatenate([b.vertices for b in solid.bodies.values()]) * 1e3
    size = corners.max(axis=0) - corners.min(axis=0)
    bends = 1 if form == "angle" else 2
    long = {"angle": 31.5, "channel": 31.5, "offset": 31.5 + 25}[form]
    np.testing.assert_allclose(size, [long, 20 + bends * 1.5, 50], atol=1e-3)
    straight = 30 - 2 + (20 - 2 * bends) + (25 - 2 if bends == 2 else 0)
    middle = straight + bends * np.pi / 2 * (2 + 0.75)
    assert solid.volume * 1e9 == pytest.approx(middle * 1.5 * 50, rel=1e-6)
    flat = next(v for name, v, _ in BentSheet.derived(n) if name == "Flat length")
    assert flat * 1e3 == pytest.approx(middle, rel=1e-12)


def test_a_leg_shorter_than_its_bend_inside_is_refused() -> None:
    n = numbers(BentSheet(measured="inside", first="1.9 mm", inside_radius="2 mm"), Scope({}))
    assert BentSheet.faults(n) == [("first", "is shorter than its bend")]

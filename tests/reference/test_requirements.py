"""Requirements that read the motion, against closed forms."""

from __future__ import annotations

import numpy as np
import pytest

from tests.mechanisms import four_bar, four_bar_closed_form
from uhrwerk import TurningSpeedLimit
from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Evaluator

SIZES = (0.03, 0.09, 0.06, 0.08)


def asked(limit: str, joint: str = "rocker_in_ground") -> Document:
    document = four_bar(*SIZES)
    made = TurningSpeedLimit(name="Not too fast", joint=joint, at_most=limit)
    return document.model_copy(update={"requirements": {"speed": made}})


def rocker_speed() -> float:
    """The greatest speed of the rocker, rad/s: Norton, Design of Machinery, section 6.7 (from memory), 200,000 crank angles."""
    turn = 2 * np.pi  # the crank of `four_bar` makes one turn a second
    return float(np.abs(four_bar_closed_form(*SIZES, np.linspace(0, turn, 200_001), turn, False).rocker_rate).max())


def test_the_greatest_turning_speed_of_a_rocker(evaluator: Evaluator) -> None:
    true = rocker_speed()
    v = evaluator.evaluate(asked("1000 rpm")).verdicts["speed"]
    assert v.holds
    assert v.value == pytest.approx(true, abs=v.error)
    assert v.error < 1e-3 * true


@pytest.mark.parametrize(("part", "holds"), [(0.99, False), (1.01, True)])
def test_a_limit_on_either_side_of_it(evaluator: Evaluator, part: float, holds: bool) -> None:
    assert evaluator.evaluate(asked(f"{part * rocker_speed()!r} rad/s")).verdicts["speed"].holds is holds


def test_the_crank_turns_as_fast_as_it_is_driven(evaluator: Evaluator) -> None:
    assert evaluator.evaluate(asked("60 rpm", "crank_in_ground")).verdicts["speed"].holds is True
    assert evaluator.evaluate(asked("59.999 rpm", "crank_in_ground")).verdicts["speed"].holds is False

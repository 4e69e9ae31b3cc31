"""A slice of the attack, and that no kind is forgotten: `python -m tests.reference.attack` runs the whole."""

from __future__ import annotations

import pytest

from tests.reference.attack.assemblies import JOINTS, NOT_YET, PAIRS, RELATIONS, WITHOUT_BODY, attacked
from uhrwerk import Evaluator
from uhrwerk.core import joints
from uhrwerk.core.elements import ELEMENTS


@pytest.mark.parametrize("batch", range(4))
def test_random_assemblies_stand_where_the_witness_says(evaluator: Evaluator, batch: int) -> None:
    found = attacked(range(100_000 + 60 * batch, 100_000 + 60 * (batch + 1)), evaluator)
    assert found.wrong == []
    assert found.tried > 30


def test_every_kind_has_its_generator_and_its_witness_or_says_that_it_has_none() -> None:
    assert set(joints.JOINTS) == set(JOINTS)
    assert set(joints.RELATIONS) == set(RELATIONS) | NOT_YET["relation"]
    assert set(joints.PAIRS) == set(PAIRS) | NOT_YET["pair"]
    assert set(ELEMENTS) >= WITHOUT_BODY

"""A slice of the attack, and that no kind is forgotten: `python -m tests.reference.attack` runs the whole."""

from __future__ import annotations

import pytest

from tests.reference.attack import assemblies, drives, followers, loads, sizes, transmissions
from tests.reference.attack.run import attacked
from uhrwerk import Evaluator
from uhrwerk.core import joints
from uhrwerk.core.document.driver import DRIVERS
from uhrwerk.core.document.requirement import REQUIREMENTS
from uhrwerk.core.elements import ELEMENTS

FAMILIES = (assemblies, transmissions, followers, loads, sizes, drives)


@pytest.mark.parametrize("batch", range(20))
def test_random_mechanisms_are_what_the_witness_says(evaluator: Evaluator, batch: int) -> None:
    found = attacked(range(100_000 + 9 * batch, 100_000 + 9 * (batch + 1)), evaluator)
    assert found.wrong == []
    assert found.tried > 5


def test_every_kind_has_its_generator_and_its_witness() -> None:
    """A new joint, relation, pair, drive or requirement fails here until a family tries it."""
    assert set(joints.JOINTS) == set(assemblies.JOINTS)
    assert set(joints.RELATIONS) == set(assemblies.RELATIONS)
    assert set(joints.PAIRS) == {kind for family in FAMILIES for kind in getattr(family, "PAIRS", ())}
    assert set(REQUIREMENTS) == {kind for family in FAMILIES for kind in getattr(family, "REQUIREMENTS", ())}
    assert set(DRIVERS) == set(drives.DRIVERS)
    assert set(ELEMENTS) >= assemblies.WITHOUT_BODY

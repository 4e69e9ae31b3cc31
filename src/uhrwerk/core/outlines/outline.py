"""What every outline states and what it can be asked: a closed line on a plane, from its numbers."""

from __future__ import annotations

from typing import ClassVar

from uhrwerk.core.field import Kinds, Model, Numbers
from uhrwerk.core.solids.recipe import Outline as Drawn


class Unfit(ValueError):
    """An outline whose numbers do not go together; says why."""


class Outline(Model):
    """One kind of outline. Its edges count from one, in the order in which `drawn` gives them."""

    title: ClassVar[str]

    kind: str

    @staticmethod
    def drawn(n: Numbers) -> Drawn:
        """The outline as a recipe has it, m. Unfit where its numbers do not go together."""
        raise NotImplementedError


OUTLINES: Kinds[Outline] = Kinds("outline")


def drawn(n: Numbers) -> Drawn:
    """The outline of its numbers."""
    return OUTLINES[n.kind].drawn(n)

"""Drivers: what moves a joint, by a law of time. Each kind is a file of `core.motion.drivers`."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any, ClassVar

from uhrwerk.core.equations.law import Law
from uhrwerk.core.field import JointId, Kinds, Model, Name, Numbers, numbers


class Driver(Model):
    """`coordinate` is what it moves: the turn or the slide of its joint. `title` names its law where one is chosen."""

    title: ClassVar[str]
    coordinate: ClassVar[str]

    kind: str
    name: Name
    joint: JointId

    @staticmethod
    def law(n: Numbers, cycle: float) -> Law:
        """The law of time, from its numbers; the master cycle lasts `cycle`, s."""
        raise NotImplementedError

    @staticmethod
    def faults(n: Numbers, cycle: float) -> list[tuple[str, str]]:
        """Fields whose numbers do not go together, and why: nothing is driven then."""
        return []

    @staticmethod
    def remarks(n: Numbers, cycle: float) -> list[tuple[str, str]]:
        """Fields of which a designer should know something, and what."""
        return []

    def misfits(self, document: Any) -> Iterable[tuple[str, str]]:
        """Fields that do not fit the document, and why."""
        return ()

    def led(self, document: Any, cycle: float) -> Law:
        """Its law in a document, where other drives may lead it."""
        return self.law(numbers(self, document.scope()), cycle)

    def lost(self, document: Any, cycle: float) -> list[tuple[str, str]]:
        """Its faults in a document."""
        return self.faults(numbers(self, document.scope()), cycle)

    def reverse(self) -> dict[str, str]:
        """The fields to be set, and to what, so that it runs the other way; none where that cannot be said."""
        return {}


def other_way(formula: str) -> str:
    """A formula with its sign changed, and changed back."""
    bare = re.fullmatch(r"-\((.*)\)", formula)
    return bare[1] if bare else f"-({formula})"


DRIVERS: Kinds[Driver] = Kinds("driver")

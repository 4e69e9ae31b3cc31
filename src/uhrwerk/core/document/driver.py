"""Drivers: what moves a joint, by a law of time. Each kind is a file of `core.motion.laws`."""

from __future__ import annotations

from typing import ClassVar

from uhrwerk.core.equations.law import Law
from uhrwerk.core.field import JointId, Kinds, Model, Name, Numbers


class Driver(Model):
    """`coordinate` is what it moves: the turn or the slide of its joint. `title` names its law where one is chosen."""

    title: ClassVar[str]
    coordinate: ClassVar[str]

    kind: str
    name: Name
    joint: JointId

    @staticmethod
    def law(n: Numbers) -> Law:
        """The law of time, from its numbers."""
        raise NotImplementedError


DRIVERS: Kinds[Driver] = Kinds("driver")

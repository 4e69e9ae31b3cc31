"""A made-up motion law: a cubic, whose acceleration jumps at both ends."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import Numbers
from uhrwerk.core.laws.law import LAWS, Array, MotionLaw


class Cubic(MotionLaw):
    """s = 3 x^2 - 2 x^3."""

    title: ClassVar[str] = "Cubic"

    kind: Literal["cubic"] = "cubic"

    @staticmethod
    def at(n: Numbers[Cubic], x: Array, order: int = 0) -> Array:
        return (3 * x**2 - 2 * x**3, 6 * x - 6 * x**2, 6 - 12 * x, 0 * x - 12)[order]


def register() -> None:
    LAWS.register(Cubic)

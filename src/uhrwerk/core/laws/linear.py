"""At constant speed: the rate jumps at both ends."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import Numbers
from uhrwerk.core.laws.law import Array, MotionLaw
from uhrwerk.core.laws.polynomial import polynomial


class Linear(MotionLaw):
    """s = x."""

    title: ClassVar[str] = "Linear"

    kind: Literal["linear"] = "linear"

    @staticmethod
    def at(n: Numbers[Linear], x: Array, order: int = 0) -> Array:
        return polynomial((0.0, 1.0), x, order)

"""At constant acceleration, then constant deceleration: the acceleration jumps at both ends and in the middle."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.field import Numbers
from uhrwerk.core.laws.law import Array, MotionLaw
from uhrwerk.core.laws.polynomial import polynomial


class Quadratic(MotionLaw):
    """s = 2 x², mirrored past the middle."""

    title: ClassVar[str] = "Quadratic parabola"

    kind: Literal["quadratic"] = "quadratic"

    @staticmethod
    def at(n: Numbers[Quadratic], x: Array, order: int = 0) -> Array:
        return np.where(x <= 0.5, polynomial((0, 0, 2), x, order), polynomial((-1, 4, -2), x, order))

    @staticmethod
    def knots(n: Numbers[Quadratic]) -> tuple[float, ...]:
        return (0.5,)

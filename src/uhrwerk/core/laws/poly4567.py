"""Polynomial 4-5-6-7: the jerk too is nothing at both ends."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import Numbers
from uhrwerk.core.laws.law import Array, MotionLaw
from uhrwerk.core.laws.polynomial import polynomial


class Poly4567(MotionLaw):
    """s = 35 x⁴ - 84 x⁵ + 70 x⁶ - 20 x⁷."""

    title: ClassVar[str] = "Polynomial 4-5-6-7"

    kind: Literal["poly4567"] = "poly4567"

    @staticmethod
    def at(n: Numbers[Poly4567], x: Array, order: int = 0) -> Array:
        return polynomial((0, 0, 0, 0, 35, -84, 70, -20), x, order)

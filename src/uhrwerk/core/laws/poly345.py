"""Polynomial 3-4-5: rate and acceleration are nothing at both ends."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import Numbers
from uhrwerk.core.laws.law import Array, MotionLaw
from uhrwerk.core.laws.polynomial import polynomial


class Poly345(MotionLaw):
    """s = 10 x³ - 15 x⁴ + 6 x⁵."""

    title: ClassVar[str] = "Polynomial 3-4-5"

    kind: Literal["poly345"] = "poly345"

    @staticmethod
    def at(n: Numbers[Poly345], x: Array, order: int = 0) -> Array:
        return polynomial((0, 0, 0, 10, -15, 6), x, order)

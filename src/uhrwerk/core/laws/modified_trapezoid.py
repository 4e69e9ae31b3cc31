"""Modified trapezoid: constant acceleration, led in and out by quarters of a sine."""

from __future__ import annotations

from typing import ClassVar, Literal

from numpy import pi

from uhrwerk.core.field import Numbers
from uhrwerk.core.laws.law import Array, MotionLaw
from uhrwerk.core.laws.waves import Waves

_WAVES = Waves(
    (0.0, 1 / 8, 3 / 8, 5 / 8, 7 / 8), (4 * pi, 0.0, 4 * pi, 0.0, 4 * pi), (0.0, pi / 2, pi / 2, -pi / 2, -pi / 2)
)


class ModifiedTrapezoid(MotionLaw):
    """Acceleration sin 4 pi x up to an eighth, constant up to three eighths, and so on, mirrored."""

    title: ClassVar[str] = "Modified trapezoid"

    kind: Literal["modified_trapezoid"] = "modified_trapezoid"

    @staticmethod
    def at(n: Numbers[ModifiedTrapezoid], x: Array, order: int = 0) -> Array:
        return _WAVES.at(x, order)

    @staticmethod
    def knots(n: Numbers[ModifiedTrapezoid]) -> tuple[float, ...]:
        return _WAVES.knots[1:]

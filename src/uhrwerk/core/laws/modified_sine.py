"""Modified sine: a quick sine at both ends, a slow one between."""

from __future__ import annotations

from typing import ClassVar, Literal

from numpy import pi

from uhrwerk.core.field import Numbers
from uhrwerk.core.laws.law import Array, MotionLaw
from uhrwerk.core.laws.waves import Waves

_WAVES = Waves((0.0, 1 / 8, 7 / 8), (4 * pi, 4 * pi / 3, 4 * pi), (0.0, pi / 2, 3 * pi / 2))


class ModifiedSine(MotionLaw):
    """Acceleration sin 4 pi x up to an eighth, then a third as quick."""

    title: ClassVar[str] = "Modified sine"

    kind: Literal["modified_sine"] = "modified_sine"

    @staticmethod
    def at(n: Numbers[ModifiedSine], x: Array, order: int = 0) -> Array:
        return _WAVES.at(x, order)

    @staticmethod
    def knots(n: Numbers[ModifiedSine]) -> tuple[float, ...]:
        return _WAVES.knots[1:]

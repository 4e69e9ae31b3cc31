"""Cycloidal, an inclined sine: the acceleration is a whole sine and begins and ends at nothing."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.field import Numbers
from uhrwerk.core.laws.law import Array, MotionLaw
from uhrwerk.core.laws.polynomial import polynomial


class Cycloidal(MotionLaw):
    """s = x - sin(2 pi x) / (2 pi)."""

    title: ClassVar[str] = "Cycloidal"

    kind: Literal["cycloidal"] = "cycloidal"

    @staticmethod
    def at(n: Numbers[Cycloidal], x: Array, order: int = 0) -> Array:
        turn = 2 * np.pi
        return polynomial((0.0, 1.0), x, order) - np.sin(turn * x + order * np.pi / 2) * turn ** (order - 1)

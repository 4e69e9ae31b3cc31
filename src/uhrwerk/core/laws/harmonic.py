"""Simple harmonic: half a cosine; the acceleration jumps at both ends."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.field import Numbers
from uhrwerk.core.laws.law import Array, MotionLaw


class Harmonic(MotionLaw):
    """s = (1 - cos pi x) / 2."""

    title: ClassVar[str] = "Simple harmonic"

    kind: Literal["harmonic"] = "harmonic"

    @staticmethod
    def at(n: Numbers[Harmonic], x: Array, order: int = 0) -> Array:
        wave = -np.cos(np.pi * x + order * np.pi / 2) * np.pi**order / 2
        return wave + 0.5 if order == 0 else wave

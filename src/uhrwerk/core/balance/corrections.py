"""What balances a rotor: a mass added, or removed on the opposite side, at a radius in one plane or in two.

>>> import numpy as np
>>> from uhrwerk.core.balance.rotor import Rotor
>>> r = Rotor("j", 1, ("disc",), np.eye(7)[3], 2.0, np.array([5e-5, 0, 0]), np.array([1e-4, 0.0]), np.zeros(2), (-0.1, 0.1), 0.1, 100.0, 0.0)
>>> [round(c.mass(0.05) * 1e3, 6) for c in corrections(r, ())]  # grams at 50 mm
[2.0]
>>> [(round(c.unbalance * 1e6, 6), abs(c.angle)) for c in corrections(r, (-0.1, 0.1))]  # g mm, where to add it
[(50.0, 3.141592653589793), (50.0, 3.141592653589793)]
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import pi

import numpy as np

from uhrwerk.core.balance.rotor import Rotor


@dataclass(frozen=True)
class Correction:
    """In a plane at `at` m along the axis, `unbalance` kg m is to be added at `angle` rad from the x axis of the rotor's frame, or
    taken away opposite it."""

    at: float
    unbalance: float
    angle: float

    def mass(self, radius: float) -> float:
        """kg, where its centre lies at so much from the axis, m."""
        return self.unbalance / radius

    def depth(self, radius: float, diameter: float, density: float) -> float:
        """How deep a hole along the axis, with a flat bottom, is to be drilled opposite, m."""
        return self.mass(radius) / (density * pi / 4 * diameter**2)


def corrections(r: Rotor, planes: Sequence[float]) -> list[Correction]:
    """In both planes; or, without them, in that of the centre of gravity."""
    if len(planes) < 2:
        return [_correction(float(r.centre[2]), r.first)]
    return [_correction(at, u) for at, u in zip(planes, r.in_planes(*planes), strict=True)]


def _correction(at: float, u: np.ndarray) -> Correction:
    return Correction(at, float(np.hypot(*u)), float(np.arctan2(-u[1], -u[0])))

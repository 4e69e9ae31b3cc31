"""What every motion law states: how a rise from 0 to 1 runs while its time goes from 0 to 1.

Laws, their names and their characteristic values (peaks of velocity, acceleration and jerk of the unit rise): VDI 2143
part 1, Bewegungsgesetze für Kurvengetriebe. From memory.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.field import Kinds, Model, Numbers

Array = NDArray[np.float64]

#: moments at which peaks are looked for
LOOKS = 20_001


@dataclass(frozen=True)
class Peaks:
    """Largest velocity, acceleration and jerk of the unit rise, each as a number; infinite where there is a jump before it."""

    velocity: float
    acceleration: float
    jerk: float


class MotionLaw(Model):
    """One law. `knots` are the places within (0, 1) where some derivative up to the jerk may jump."""

    title: ClassVar[str]

    kind: str

    @staticmethod
    def at(n: Numbers, x: Array, order: int = 0) -> Array:
        """Value (order 0), rate, acceleration or jerk (3) of the unit rise at x (n,) within [0, 1]."""
        raise NotImplementedError

    @staticmethod
    def knots(n: Numbers) -> tuple[float, ...]:
        return ()

    @staticmethod
    def faults(n: Numbers) -> list[tuple[str, str]]:
        """Fields that do not go together, and why."""
        return []


LAWS: Kinds[MotionLaw] = Kinds("motion law")


def at(n: Numbers, x: Array, order: int = 0) -> Array:
    """Value or derivative of the law with these numbers."""
    return LAWS[n.kind].at(n, x, order)


def peaks(n: Numbers) -> Peaks:
    """The characteristic values of a law, looked for at 20,001 moments on either side of its knots."""
    knots = np.array([0.0, *LAWS[n.kind].knots(n), 1.0])
    beside = np.concatenate([knots[:-1] + 1e-12, knots[1:] - 1e-12])
    x = np.sort(np.concatenate([np.linspace(1e-12, 1 - 1e-12, LOOKS), beside]))
    peaks_: list[float] = []
    for order in (1, 2, 3):
        smooth = all(jump(n, float(k), o) < 1e-6 for k in knots for o in range(1, order))
        peaks_.append(float(np.abs(at(n, x, order)).max()) if smooth else float("inf"))
    return Peaks(*peaks_)


def jump(n: Numbers, x: float, order: int) -> float:
    """How far a derivative jumps at x; before and after the rise all stands still."""
    eps = 1e-9
    before = 0.0 if x <= 0 else float(at(n, np.array([x - eps]), order)[0])
    after = 0.0 if x >= 1 else float(at(n, np.array([x + eps]), order)[0])
    size = max(abs(before), abs(after), 1.0)
    return max(0.0, abs(after - before) - 1e-6 * size)

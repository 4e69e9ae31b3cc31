"""A made-up law: a joint that sways, as a sine."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.document.driver import DRIVERS, Driver
from uhrwerk.core.equations.law import Law
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Angle, Numbers, Time


@dataclass(frozen=True)
class Sine(Law):
    most: float
    period: float

    def value(self, t: Array) -> Array:
        return self.most * np.sin(2 * np.pi * t / self.period)

    def rate(self, t: Array) -> Array:
        return self.most * 2 * np.pi / self.period * np.cos(2 * np.pi * t / self.period)

    def acceleration(self, t: Array) -> Array:
        return -((2 * np.pi / self.period) ** 2) * self.value(t)


class Swaying(Driver):
    """A joint turned to and fro, as a sine."""

    title: ClassVar[str] = "Sways as a sine"
    coordinate: ClassVar[str] = "turn"

    kind: Literal["swaying"] = "swaying"
    most: Angle = "30 deg"
    period: Time = "1 s"

    @staticmethod
    def law(n: Numbers, cycle: float) -> Law:
        return Sine(n.most, n.period)


def register() -> None:
    DRIVERS.register(Swaying)

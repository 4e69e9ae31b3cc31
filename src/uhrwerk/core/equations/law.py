"""Laws of time: the value of a driven coordinate at every moment, with its rate and acceleration."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.equations.pose import Array


class Law:
    """Value, rate and acceleration at moments (T,), s; in rad, or m, by what is driven.

    A law that is not smooth everywhere, or stands still for a while, names in `marks` the moments between which it is: the
    motion is looked at from each to the next. `steady` is its rate where that never changes.
    """

    steady: float | None = None

    def value(self, t: Array) -> Array:
        raise NotImplementedError

    def rate(self, t: Array) -> Array:
        raise NotImplementedError

    def acceleration(self, t: Array) -> Array:
        raise NotImplementedError

    def marks(self, duration: float) -> list[float]:
        return []

    @property
    def moves(self) -> bool:
        return self.steady != 0


@dataclass(frozen=True)
class Constant(Law):
    """From `start` on at `speed`."""

    start: float
    speed: float

    @property
    def steady(self) -> float:  # type: ignore[override]
        return self.speed

    def value(self, t: Array) -> Array:
        return self.start + self.speed * t

    def rate(self, t: Array) -> Array:
        return np.full(len(t), self.speed)

    def acceleration(self, t: Array) -> Array:
        return np.zeros(len(t))


@dataclass(frozen=True)
class Scaled(Law):
    """Another law times a factor, as a screw's travel follows its turns."""

    law: Law
    factor: float

    @property
    def steady(self) -> float | None:  # type: ignore[override]
        return None if self.law.steady is None else self.law.steady * self.factor

    def value(self, t: Array) -> Array:
        return self.law.value(t) * self.factor

    def rate(self, t: Array) -> Array:
        return self.law.rate(t) * self.factor

    def acceleration(self, t: Array) -> Array:
        return self.law.acceleration(t) * self.factor

    def marks(self, duration: float) -> list[float]:
        return self.law.marks(duration)

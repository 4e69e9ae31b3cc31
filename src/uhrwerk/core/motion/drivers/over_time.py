"""A formula of the time."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.document.driver import Driver, other_way
from uhrwerk.core.equations.law import Law
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import AngleOverTime, LengthOverTime, Numbers
from uhrwerk.core.quantity import FormulaError
from uhrwerk.core.quantity.interval import corners
from uhrwerk.core.quantity.interval_rate import hidden
from uhrwerk.core.quantity.over_time import OverTime

#: moments of the cycle at which a formula must have finite values
LOOKS = 2001
#: how far beside a corner it is looked at, as a part of the cycle
BESIDE = 1e-9


def beside(corners: Iterable[float], duration: float) -> list[float]:
    """Moments on either side of each of these, s, within a duration."""
    both = [t + s * BESIDE * duration for t in corners for s in (-1, 1)]
    return [t for t in both if 0 < t < duration]


def within(t: Array, corners: Iterable[float], cycle: float) -> Array:
    """Moments (n,) s at which rates are looked at: of a corner at an end of the cycle the side that lies within."""
    near, at = BESIDE * cycle, np.array(list(corners))
    low = near if (at < near).any() else 0.0
    high = cycle - near if (at > cycle - near).any() else cycle
    return np.where((t >= 0) & (t <= cycle), np.clip(t, low, high), t)


@dataclass(frozen=True)
class Formula(Law):
    """Over a cycle, s. In a corner at an end of it the rates are those of the side that lies within."""

    way: OverTime
    cycle: float

    def value(self, t: Array) -> Array:
        return self.way.at(t)[0]

    def rate(self, t: Array) -> Array:
        return self.way.at(self._within(t))[1]

    def acceleration(self, t: Array) -> Array:
        return self.way.at(self._within(t))[2]

    def _within(self, t: Array) -> Array:
        return within(t, _special(self.way, self.cycle)[0], self.cycle)

    def marks(self, duration: float) -> list[float]:
        """On either side of every corner; and close together where it changes by more than a few looks would show."""
        corners, hidden = _special(self.way, duration)
        near = np.array(corners)
        return beside(corners, duration) + [
            t for t in hidden if not len(near) or np.abs(near - t).min() > 10 * BESIDE * duration
        ]


@lru_cache(maxsize=200)
def _special(way: OverTime, duration: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
    known = dict(way.known)
    return tuple(corners(way.text, known, duration)), tuple(hidden(way.text, known, duration))


class ByFormula(Driver):
    """What both formulas of the time state."""

    @staticmethod
    def law(n: Numbers, cycle: float) -> Law:
        return Formula(n.way, cycle)

    @staticmethod
    def faults(n: Numbers, cycle: float) -> list[tuple[str, str]]:
        try:
            _special(n.way, cycle)
        except FormulaError as error:
            return [("way", str(error))]
        t = np.linspace(0, cycle, LOOKS)
        lost = ~np.isfinite(np.sum(n.way.at(t), axis=0))
        return (
            [("way", f"has no finite value, rate or acceleration at {t[int(np.argmax(lost))]:.4g} s")]
            if lost.any()
            else []
        )

    def reverse(self) -> dict[str, str]:
        return {"way": other_way(self.way)}  # type: ignore[attr-defined]


class TurnFormula(ByFormula):
    """A joint turned by a formula of the time; `time` stands for the moment."""

    title: ClassVar[str] = "Turning by a formula"
    coordinate: ClassVar[str] = "turn"

    kind: Literal["turn_formula"] = "turn_formula"
    way: AngleOverTime = Field(default="30 deg * sin(360 deg * time / (1 s))", title="Angle at each moment, `time`")


class SlideFormula(ByFormula):
    """A joint pushed by a formula of the time; `time` stands for the moment."""

    title: ClassVar[str] = "Sliding by a formula"
    coordinate: ClassVar[str] = "slide"

    kind: Literal["slide_formula"] = "slide_formula"
    way: LengthOverTime = Field(default="10 mm * sin(360 deg * time / (1 s))", title="Position at each moment, `time`")

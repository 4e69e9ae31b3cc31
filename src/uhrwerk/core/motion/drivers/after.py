"""After another drive: a joint follows a formula of how far that one has come, as one axis follows another on a machine."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.document import Document
from uhrwerk.core.document.driver import Driver, other_way
from uhrwerk.core.equations.law import Law
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import DriverId, Formula
from uhrwerk.core.motion.drivers.over_time import LOOKS, beside, within
from uhrwerk.core.quantity import FormulaError, quantity
from uhrwerk.core.quantity.formula import in_dimension
from uhrwerk.core.quantity.interval import corners
from uhrwerk.core.quantity.interval_rate import hidden
from uhrwerk.core.quantity.over_time import TRIED, Taylor, composed
from uhrwerk.core.quantity.units import ureg

NAME = "other"
#: halvings in which a moment is found
HALVINGS = 50


@dataclass(frozen=True)
class FollowedDrive(Law):
    """A formula of another law: its rates by the chain rule."""

    law: Law
    text: str
    values: tuple[tuple[str, float], ...]
    cycle: float

    def at(self, t: Array) -> Taylor:
        moment = Taylor(self.law.value(t), self.law.rate(t), self.law.acceleration(t))
        return composed(self.text, dict(self.values), {NAME: moment})

    def value(self, t: Array) -> Array:
        return self.at(t).v

    def rate(self, t: Array) -> Array:
        return self.at(within(t, self.corners, self.cycle)).d

    def acceleration(self, t: Array) -> Array:
        return self.at(within(t, self.corners, self.cycle)).dd

    @property
    def corners(self) -> list[float]:
        """Moments of the cycle, s, at which its `abs`, `min` and `max` go over from one side to the other."""
        return self._special[0]

    def marks(self, duration: float) -> list[float]:
        corners, hidden = self._special
        return self.law.marks(duration) + beside(corners, duration) + hidden

    @cached_property
    def _special(self) -> tuple[list[float], list[float]]:
        """Corners, and moments that lie close where it changes by more than a few looks would show: where the other law passes a value
        at which that is so. Between looks and turns of that law it rises or falls all the way."""
        looks = np.unique(np.concatenate([np.linspace(0, self.cycle, LOOKS), self.law.marks(self.cycle)]))
        looks = np.unique(np.concatenate([looks, _passed(self.law.rate, looks, 0.0)]))
        far = self.law.value(looks)
        lowest, highest = float(far.min()), float(far.max())
        if highest - lowest <= 1e-12 * max(abs(lowest), abs(highest)):
            return [], []
        return tuple(  # type: ignore[return-value]
            sorted(
                {
                    t
                    for value in of(self.text, dict(self.values), highest, lowest, NAME)
                    for t in _passed(self.law.value, looks, value)
                }
            )
            for of in (corners, hidden)
        )


def _passed(of: Callable[[Array], Array], times: Array, value: float) -> list[float]:
    """Moments, s, at which what is looked at these times (n,) passes a value, or has it there."""
    off = of(times) - value
    low, high = (np.array(times[at]) for at in (np.flatnonzero(off[:-1] * off[1:] < 0) + k for k in (0, 1)))
    rising = of(low) < value
    for _ in range(HALVINGS if len(low) else 0):
        middle = (low + high) / 2
        before = (of(middle) < value) == rising
        low, high = np.where(before, middle, low), np.where(before, high, middle)
    return [*times[off == 0].tolist(), *((low + high) / 2).tolist()]


class After(Driver):
    """What both kinds state."""

    after: DriverId = Field(title="Follows drive")

    def misfits(self, document: Document) -> Iterable[tuple[str, str]]:
        visited, at = {id(self)}, document.drivers.get(self.after)
        while isinstance(at, After):
            if id(at) in visited:
                yield "after", "drives cannot follow one another in a circle"
                return
            visited.add(id(at))
            at = document.drivers.get(at.after)
        if at is None:
            return
        wanted, first = "angle" if self.coordinate == "turn" else "length", document.drivers[self.after].coordinate
        problem: FormulaError | None = None
        way: str = self.way  # type: ignore[attr-defined]
        for sample in TRIED:
            other = ureg.Quantity(sample, "radian" if first == "turn" else "metre")
            try:
                q = quantity(way, {**document.scope().values, NAME: other})
                if q.dimensionless:
                    raise FormulaError("gives a plain number: write its unit")
                in_dimension(q, wanted)
                composed(way, self._constants(document), {NAME: Taylor(np.array([sample]), np.ones(1), np.zeros(1))})
                return
            except FormulaError as error:
                problem = problem or error
        yield "way", f"{way!r} {problem}; `{NAME}` stands for how far the other drive has come"

    @staticmethod
    def _constants(document: Document) -> dict[str, float]:
        return {k: float(q.to_base_units().magnitude) for k, q in document.scope().values.items()}

    def led(self, document: Document, cycle: float) -> Law:
        known = tuple(sorted(self._constants(document).items()))
        return FollowedDrive(document.drivers[self.after].led(document, cycle), self.way, known, cycle)  # type: ignore[attr-defined]

    def lost(self, document: Document, cycle: float) -> list[tuple[str, str]]:
        other = document.drivers[self.after].lost(document, cycle)
        if other:
            return [("after", other[0][1])]
        t = np.linspace(0, cycle, LOOKS)
        drive = self.led(document, cycle)
        try:
            drive.marks(cycle)
        except FormulaError as error:
            return [("way", str(error))]
        bad = ~np.isfinite(drive.value(t) + drive.rate(t) + drive.acceleration(t))
        return (
            [("way", f"has no finite value, rate or acceleration at {t[int(np.argmax(bad))]:.4g} s")]
            if bad.any()
            else []
        )

    def reverse(self) -> dict[str, str]:
        return {"way": other_way(self.way)}  # type: ignore[attr-defined]


class TurnAfter(After):
    """A joint turned by a formula of how far another drive has come, `other`."""

    title: ClassVar[str] = "Turning, following another drive"
    coordinate: ClassVar[str] = "turn"

    kind: Literal["turn_after"] = "turn_after"
    way: Formula = Field(default="other / 2", title="Angle, by `other`")


class SlideAfter(After):
    """A joint pushed by a formula of how far another drive has come, `other`."""

    title: ClassVar[str] = "Sliding, following another drive"
    coordinate: ClassVar[str] = "slide"

    kind: Literal["slide_after"] = "slide_after"
    way: Formula = Field(default="10 mm * sin(other)", title="Position, by `other`")

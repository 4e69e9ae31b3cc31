"""Sliding at constant speed."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.document.driver import Driver, other_way
from uhrwerk.core.equations.law import Constant, Law
from uhrwerk.core.field import Length, Numbers, SlidingSpeed


class Sliding(Driver):
    """A joint pushed at constant speed from a start position."""

    title: ClassVar[str] = "Sliding at constant speed"
    coordinate: ClassVar[str] = "slide"

    kind: Literal["sliding"] = "sliding"
    speed: SlidingSpeed = "10 mm/s"
    start: Length = "0 mm"

    @staticmethod
    def law(n: Numbers[Sliding], cycle: float) -> Law:
        return Constant(n.start, n.speed)

    def reverse(self) -> dict[str, str]:
        return {"speed": other_way(self.speed)}

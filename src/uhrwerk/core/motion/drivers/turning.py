"""Turning at constant speed."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.document.driver import Driver, other_way
from uhrwerk.core.equations.law import Constant, Law
from uhrwerk.core.field import Angle, Numbers, TurningSpeed


class Turning(Driver):
    """A joint turned at constant speed from a start angle."""

    title: ClassVar[str] = "Turning at constant speed"
    coordinate: ClassVar[str] = "turn"

    kind: Literal["turning"] = "turning"
    speed: TurningSpeed = "60 rpm"
    start: Angle = "0 deg"

    @staticmethod
    def law(n: Numbers[Turning], cycle: float) -> Law:
        return Constant(n.start, n.speed)

    def reverse(self) -> dict[str, str]:
        return {"speed": other_way(self.speed)}

"""Drivers: what moves a joint."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import Angle, JointId, Kinds, Length, Model, Name, SlidingSpeed, TurningSpeed


class Driver(Model):
    """`drives` are the kinds of joint that it can move."""

    drives: ClassVar[tuple[str, ...]]

    kind: str
    name: Name
    joint: JointId
    speed: str


DRIVERS: Kinds[Driver] = Kinds("driver")


@DRIVERS.register
class Turning(Driver):
    """A joint turned at constant speed from a start angle."""

    drives: ClassVar[tuple[str, ...]] = ("revolute", "cylindrical", "screw")

    kind: Literal["turning"] = "turning"
    speed: TurningSpeed = "60 rpm"
    start: Angle = "0 deg"


@DRIVERS.register
class Sliding(Driver):
    """A joint pushed at constant speed from a start position."""

    drives: ClassVar[tuple[str, ...]] = ("prismatic", "cylindrical", "screw")

    kind: Literal["sliding"] = "sliding"
    speed: SlidingSpeed = "10 mm/s"
    start: Length = "0 mm"

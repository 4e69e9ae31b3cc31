"""Outlines for followers that slide along a line: with a roller, a point, or a flat face square to their way."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.elements.cams.shape import (
    Array,
    CamOutline,
    CamShape,
    in_cam,
    in_cam_moving,
    inside,
    programme,
    programme_faults,
)
from uhrwerk.core.field import Id, Length, Numbers, Size
from uhrwerk.core.laws.segment import SlideSegment, sliding


def _rolled(n: Numbers, base: float, roller: float, angle: Array) -> CamOutline:
    lift = programme(n.lift)
    s, v, a = (lift.derivative(angle, k) for k in range(3))
    off = np.full(len(angle), n.offset)
    reach = np.sqrt((base + roller) ** 2 - n.offset**2)
    none = np.zeros(len(angle))
    pitch, first, second = in_cam_moving((reach + s, off), (v, none), (a, none), angle)
    outline, radius, wide = inside(pitch, first, second, roller)
    pressure = np.arctan2(v + n.offset, reach + s)
    return CamOutline(angle, outline, radius, pitch, wide, roller, pressure)


class SlidingRoller(CamShape):
    """A roller that slides along a line; `offset` is how far that line passes the cam's axis, to the left."""

    title: ClassVar[str] = "Roller on a sliding follower"

    kind: Literal["sliding_roller"] = "sliding_roller"
    roller: Size = Field(default="10 mm", title="Roller diameter")
    offset: Length = "0 mm"
    lift: dict[Id, SlideSegment] = Field(default_factory=sliding, min_length=1, max_length=100)

    @staticmethod
    def traced(n: Numbers[SlidingRoller], base: float, angle: Array) -> CamOutline:
        return _rolled(n, base, n.roller / 2, angle)

    @staticmethod
    def faults(n: Numbers[SlidingRoller], base: float) -> list[tuple[str, str]]:
        problems = list(programme_faults(n.lift, "length", "lift"))
        if abs(n.offset) >= base + n.roller / 2:
            problems.append(("offset", "passes beside the base circle"))
        return problems


class SlidingPoint(CamShape):
    """An edge that slides along a line and touches the cam with its tip."""

    title: ClassVar[str] = "Point of a sliding follower"

    kind: Literal["sliding_point"] = "sliding_point"
    offset: Length = "0 mm"
    lift: dict[Id, SlideSegment] = Field(default_factory=sliding, min_length=1, max_length=100)

    @staticmethod
    def traced(n: Numbers[SlidingPoint], base: float, angle: Array) -> CamOutline:
        return _rolled(n, base, 0.0, angle)

    @staticmethod
    def faults(n: Numbers[SlidingPoint], base: float) -> list[tuple[str, str]]:
        problems = list(programme_faults(n.lift, "length", "lift"))
        return [*problems, ("offset", "passes beside the base circle")] if abs(n.offset) >= base else problems


class SlidingFlat(CamShape):
    """A flat face, square to the line along which it slides."""

    title: ClassVar[str] = "Flat face of a sliding follower"

    kind: Literal["sliding_flat"] = "sliding_flat"
    lift: dict[Id, SlideSegment] = Field(default_factory=sliding, min_length=1, max_length=100)

    @staticmethod
    def traced(n: Numbers[SlidingFlat], base: float, angle: Array) -> CamOutline:
        lift = programme(n.lift)
        s, v, a = (lift.derivative(angle, k) for k in range(3))
        # the face is the tangent: reach base + s towards the follower, touched where the cam goes along as fast
        return CamOutline(angle, in_cam(base + s, -v, angle), base + s + a, pressure=np.zeros(len(angle)))

    @staticmethod
    def faults(n: Numbers[SlidingFlat], base: float) -> list[tuple[str, str]]:
        return list(programme_faults(n.lift, "length", "lift"))

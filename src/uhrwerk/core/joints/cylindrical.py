"""Cylindrical joint."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import AngleOrOpen, LengthOrOpen
from uhrwerk.core.joints.joint import Datums, Joint
from uhrwerk.core.joints.resolved_joint import ResolvedJoint, level, parallel


class Cylindrical(Joint):
    """b turns about the axis of a and slides along it."""

    title: ClassVar[str] = "Turns about the axis and slides along it"
    free: ClassVar[str] = "2 freedoms: turning, sliding"
    verb: ClassVar[str] = "turns and slides in"
    does: ClassVar[str] = "turns and slides"
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 1}
    coordinates: ClassVar[tuple[str, ...]] = ("turn", "slide")
    along: ClassVar[bool] = True

    kind: Literal["cylindrical"] = "cylindrical"
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""

    @staticmethod
    def rows(h: ResolvedJoint) -> list[Row]:
        return [*level(h), *parallel(h)]

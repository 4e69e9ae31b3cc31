"""Screw joint."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import AngleOrOpen, Length, LengthOrOpen, Numbers
from uhrwerk.core.joints.joint import Datums, Joint
from uhrwerk.core.joints.resolved_joint import ResolvedJoint, level, parallel, screw_row


class Screw(Joint):
    """b turns about the axis of a and advances by the lead each turn; a left-hand thread has a negative lead."""

    title: ClassVar[str] = "Screws along the axis"
    free: ClassVar[str] = "1 freedom: turning and advancing together"
    verb: ClassVar[str] = "screws in"
    does: ClassVar[str] = "screws"
    fields: ClassVar[tuple[str, ...]] = ("offset", "lead", "flip")
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 4}
    coordinates: ClassVar[tuple[str, ...]] = ("turn", "slide")
    along: ClassVar[bool] = True

    kind: Literal["screw"] = "screw"
    lead: Length = "2 mm"
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""

    @staticmethod
    def unusable(n: Numbers[Screw]) -> str:
        return "" if n.lead else "the lead of a screw cannot be zero"

    @staticmethod
    def rows(h: ResolvedJoint) -> list[Row]:
        return [*level(h), *parallel(h), screw_row(h, h.lead, h.path)]

"""Revolute joint."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import AngleOrOpen
from uhrwerk.core.joints.joint import Datums, Joint
from uhrwerk.core.joints.resolved_joint import ResolvedJoint, axes, level, parallel, point


class Revolute(Joint):
    """b turns about the axis of a. A limit that is left empty is open; limits may lie turns apart."""

    title: ClassVar[str] = "Turns about the axis"
    of_faces: ClassVar[str] = "Turns about the normal of the faces"
    free: ClassVar[str] = "1 freedom: turning"
    verb: ClassVar[str] = "turns in"
    does: ClassVar[str] = "turns"
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 0, ("plane", "plane"): 3, ("axis", "plane"): 1}
    coordinates: ClassVar[tuple[str, ...]] = ("turn",)
    along: ClassVar[bool] = True

    kind: Literal["revolute"] = "revolute"
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""

    @staticmethod
    def rows(h: ResolvedJoint) -> list[Row]:
        return [*level(h), *parallel(h), point(h, axes(h.frame_a)[2])]

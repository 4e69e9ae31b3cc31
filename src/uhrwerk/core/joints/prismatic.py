"""Prismatic joint."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Angle, LengthOrOpen
from uhrwerk.core.joints.joint import Datums, Joint
from uhrwerk.core.joints.resolved_joint import ResolvedJoint, axes, level, parallel, square


class Prismatic(Joint):
    """b slides along the axis of a."""

    title: ClassVar[str] = "Slides along the axis"
    of_faces: ClassVar[str] = "Slides square to the faces"
    free: ClassVar[str] = "1 freedom: sliding"
    verb: ClassVar[str] = "slides on"
    does: ClassVar[str] = "slides"
    fields: ClassVar[tuple[str, ...]] = ("offset", "turn", "flip")
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 3, ("plane", "plane"): 2}
    coordinates: ClassVar[tuple[str, ...]] = ("slide",)
    turned: ClassVar[bool] = True
    symbol: ClassVar[Literal["ring", "box"]] = "box"

    kind: Literal["prismatic"] = "prismatic"
    turn: Angle = "0 deg"
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""

    @staticmethod
    def rows(h: ResolvedJoint) -> list[Row]:
        return [*level(h), *parallel(h), square(h, axes(h.frame_a)[0], axes(h.frame_b)[1])]

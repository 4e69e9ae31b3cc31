"""Planar joint."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.joints.joint import Datums, Joint
from uhrwerk.core.joints.resolved_joint import ResolvedJoint, axes, parallel, point


class Planar(Joint):
    """b slides on the plane of a and turns about its normal."""

    title: ClassVar[str] = "Slides and turns on the face"
    free: ClassVar[str] = "3 freedoms: two slides and a turn"
    verb: ClassVar[str] = "moves on"
    does: ClassVar[str] = "slides and turns on a plane"
    takes: ClassVar[Mapping[Datums, int]] = {("plane", "plane"): 1}
    coordinates: ClassVar[tuple[str, ...]] = ("slide_x", "slide_y", "turn")
    meets: ClassVar[bool] = False

    kind: Literal["planar"] = "planar"

    @staticmethod
    def rows(h: ResolvedJoint) -> list[Row]:
        return [*parallel(h), point(h, axes(h.frame_a)[2])]

"""Universal joint."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.joints.joint import Datums, Joint
from uhrwerk.core.joints.resolved_joint import ResolvedJoint, axes, level, point, square


class Universal(Joint):
    """Two shafts through one centre, joined by a cross: its arms lie along x of a and along y of b."""

    title: ClassVar[str] = "Universal joint: two crossed arms"
    free: ClassVar[str] = "2 freedoms: bending both ways"
    verb: ClassVar[str] = "bends against"
    does: ClassVar[str] = "bends"
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 5}
    coordinates: ClassVar[tuple[str, ...]] = ("bend_x", "bend_y")
    aligned: ClassVar[bool] = False

    kind: Literal["universal"] = "universal"

    @staticmethod
    def rows(h: ResolvedJoint) -> list[Row]:
        x, _, z = axes(h.frame_a)
        return [*level(h), point(h, z), square(h, x, axes(h.frame_b)[1])]

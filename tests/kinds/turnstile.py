"""A made-up joint: turns about a's axis, and nothing else; as a revolute joint, by its own rows."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import AngleOrOpen
from uhrwerk.core.joints import JOINTS, ResolvedJoint, axes
from uhrwerk.core.joints.joint import Datums, Joint
from uhrwerk.core.joints.resolved_joint import level, parallel, point


class Turnstile(Joint):
    """b turns about the axis of a."""

    title: ClassVar[str] = "Turns as a turnstile"
    free: ClassVar[str] = "1 freedom: turning"
    verb: ClassVar[str] = "is a turnstile in"
    does: ClassVar[str] = "turns"
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 9}
    coordinates: ClassVar[tuple[str, ...]] = ("turn",)

    kind: Literal["turnstile"] = "turnstile"
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""

    @staticmethod
    def rows(h: ResolvedJoint) -> list[Row]:
        return [*level(h), *parallel(h), point(h, axes(h.frame_a)[2])]


def register() -> None:
    JOINTS.register(Turnstile)

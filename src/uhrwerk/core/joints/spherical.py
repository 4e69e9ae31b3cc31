"""Spherical joint."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.joints.joint import Datums, Joint
from uhrwerk.core.joints.resolved_joint import ResolvedJoint, axes, level, point


class Spherical(Joint):
    """b turns any way about a's centre."""

    title: ClassVar[str] = "Swivels about the centre"
    free: ClassVar[str] = "3 freedoms: three turns"
    verb: ClassVar[str] = "swivels in"
    does: ClassVar[str] = "swivels"
    fields: ClassVar[tuple[str, ...]] = ("offset",)
    takes: ClassVar[Mapping[Datums, int]] = {
        ("axis", "axis"): 6,
        ("point", "point"): 0,
        ("axis", "point"): 1,
        ("any", "any"): 1,
    }
    coordinates: ClassVar[tuple[str, ...]] = ("turn_x", "turn_y", "turn_z")
    aligned: ClassVar[bool] = False

    kind: Literal["spherical"] = "spherical"

    @staticmethod
    def rows(h: ResolvedJoint) -> list[Row]:
        return [*level(h), point(h, axes(h.frame_a)[2])]

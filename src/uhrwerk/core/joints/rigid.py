"""Rigid joint."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Angle
from uhrwerk.core.joints.joint import Datums, Joint
from uhrwerk.core.joints.resolved_joint import ResolvedJoint, axes, level, parallel, point, square


class Rigid(Joint):
    """Both datum frames coincide, b turned about and moved along the axis."""

    title: ClassVar[str] = "Rigid"
    of_faces: ClassVar[str] = "Faces flush, held fast"
    free: ClassVar[str] = "no freedom"
    verb: ClassVar[str] = "fixed on"
    does: ClassVar[str] = "is fixed"
    fields: ClassVar[tuple[str, ...]] = ("offset", "turn", "flip")
    takes: ClassVar[Mapping[Datums, int]] = {
        ("axis", "axis"): 2,
        ("plane", "plane"): 0,
        ("axis", "plane"): 0,
        ("point", "point"): 1,
        ("plane", "point"): 0,
        ("axis", "point"): 0,
        ("any", "any"): 0,
    }

    fixed: ClassVar[bool] = True

    kind: Literal["rigid"] = "rigid"
    turn: Angle = "0 deg"

    @staticmethod
    def rows(h: ResolvedJoint) -> list[Row]:
        x, _, z = axes(h.frame_a)
        return [*level(h), *parallel(h), point(h, z), square(h, x, axes(h.frame_b)[1])]

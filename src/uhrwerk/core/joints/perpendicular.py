"""Perpendicular: a relation."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints.joint import Datums
from uhrwerk.core.joints.relation import Relation, directed, need, square
from uhrwerk.core.joints.resolved_joint import JointFrame


class Perpendicular(Relation):
    """Axes or normals square to one another."""

    title: ClassVar[str] = "Perpendicular"
    free: ClassVar[str] = "turns about two directions, shifts any way"
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 3, ("plane", "plane"): 3, ("axis", "plane"): 1}

    kind: Literal["perpendicular"] = "perpendicular"

    @staticmethod
    def rows(
        n: Numbers[Perpendicular], a: JointFrame, b: JointFrame, about: JointFrame | None, owner: str
    ) -> list[Row]:
        need(directed(a, b), "perpendicular needs axes or faces", a, b)
        return [square(a, b, owner)]

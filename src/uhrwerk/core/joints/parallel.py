"""Parallel: a relation."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints.at import Side
from uhrwerk.core.joints.joint import Datums
from uhrwerk.core.joints.relation import Relation, directed, need, parallel
from uhrwerk.core.joints.resolved_joint import JointFrame


class Parallel(Relation):
    """Axes or normals parallel."""

    title: ClassVar[str] = "Parallel"
    free: ClassVar[str] = "turns about one direction, shifts any way"
    fields: ClassVar[tuple[str, ...]] = ("flip",)
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 2, ("plane", "plane"): 2, ("axis", "plane"): 2}
    aims: ClassVar[Literal["always", "alike", "never"]] = "always"
    sided: ClassVar[bool] = True

    kind: Literal["parallel"] = "parallel"
    side: Side = "same"

    @staticmethod
    def rows(n: Numbers[Parallel], a: JointFrame, b: JointFrame, about: JointFrame | None, owner: str) -> list[Row]:
        need(directed(a, b), "parallel needs axes or faces", a, b)
        return parallel(a, b, owner)

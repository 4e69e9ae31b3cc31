"""Concentric: a relation."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints.at import Side
from uhrwerk.core.joints.joint import Datums
from uhrwerk.core.joints.relation import Relation, kinds, need, parallel
from uhrwerk.core.joints.resolved_joint import JointFrame, axes


class Concentric(Relation):
    """Two axes on one line."""

    title: ClassVar[str] = "Concentric"
    free: ClassVar[str] = "turns and slides"
    fields: ClassVar[tuple[str, ...]] = ("flip",)
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 0}
    aims: ClassVar[Literal["always", "alike", "never"]] = "always"
    sided: ClassVar[bool] = True

    kind: Literal["concentric"] = "concentric"
    side: Side = "same"

    @staticmethod
    def rows(n: Numbers[Concentric], a: JointFrame, b: JointFrame, about: JointFrame | None, owner: str) -> list[Row]:
        need(kinds(a, b) == ("axis", "axis"), "concentric needs two axes", a, b)
        x, y, _ = axes(a.frame)
        across = [Row("point", a.link, b.link, (a.frame[:3], u, b.frame[:3]), owner) for u in (x, y)]
        return [*parallel(a, b, owner), *across]

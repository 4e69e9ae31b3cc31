"""Angle: a relation."""

from __future__ import annotations

from collections.abc import Mapping
from math import pi
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Angle, Numbers
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.joint import Datums
from uhrwerk.core.joints.relation import Relation, directed, need, parallel
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, axes


class AngleBetween(Relation):
    """An angle from a's direction to b's: between 0 and 180 degrees; with `about`, any, counted about that axis."""

    title: ClassVar[str] = "At an angle"
    free: ClassVar[str] = "keeps the given angle, shifts any way"
    fields: ClassVar[tuple[str, ...]] = ("angle",)
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 4, ("plane", "plane"): 4, ("axis", "plane"): 3}

    kind: Literal["angle"] = "angle"
    angle: Angle = "90 deg"
    about: At | None = None

    @staticmethod
    def rows(n: Numbers[AngleBetween], a: JointFrame, b: JointFrame, about: JointFrame | None, owner: str) -> list[Row]:
        need(directed(a, b), "an angle needs axes or faces", a, b)
        za, zb = axes(a.frame)[2], axes(b.frame)[2]
        if about is not None:
            z = axes(about.frame)[2]
            return [Row("signed", a.link, b.link, (za, zb, z), owner, n.angle, c=about.link)]
        if not -1e-12 <= n.angle <= pi + 1e-12:
            raise JointDoesNotFit(
                "an angle lies between 0 and 180 deg; for a signed one say about which axis it is counted"
            )
        if min(n.angle, pi - n.angle) < 1e-9:
            return parallel(a, b, owner)
        return [Row("lean", a.link, b.link, (za, zb), owner, sizes=(n.angle,))]

"""Bevel gears: a pair."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints.at import At, Side
from uhrwerk.core.joints.mounted import NEAR, SAME_ANGLE, Mounted, between
from uhrwerk.core.joints.pair import JointPair, Teeth, need_axes
from uhrwerk.core.joints.resolved_joint import JointFrame, axes


class BevelPair(JointPair):
    """Two bevel gears on axes that meet; same: both axes point away from where they meet, or both towards it."""

    title: ClassVar[str] = "Bevel gears"
    free: ClassVar[str] = "ratio from the teeth, on the card"

    kind: Literal["bevel"] = "bevel"
    a: At
    b: At
    teeth_a: Teeth = 20
    teeth_b: Teeth = 20
    side: Side = "same"

    @staticmethod
    def rows(
        n: Numbers[BevelPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        need_axes(a, b)
        (xa, _, za), (xb, _, zb) = axes(a.frame), axes(b.frame)
        if n.side == "opposite":
            zb = -zb
        return [
            Row("bevel", a.link, b.link, (za, xa, zb, xb), owner, np.pi / n.teeth_a, sizes=(n.teeth_a, n.teeth_b, 1.0))
        ]

    @staticmethod
    def ratio(n: Numbers[BevelPair], sizes: tuple[Numbers, Numbers], a_turn: Callable[[float], str]) -> str:
        return f"{n.teeth_a} : {n.teeth_b}"

    @staticmethod
    def mounted(t: Mounted, n: Numbers[BevelPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        angle, apart, _ = between(a, b)
        if float(np.minimum(angle, np.pi - angle).min()) < SAME_ANGLE:
            return f"the axes are parallel; bevel gears need axes that meet; {t.seat()}"
        if float(apart.max()) > NEAR:
            return f"the axes miss each other by {t.length(float(apart.max()))}, and must meet: move {t.b} by as much; {t.seat()}"
        if np.ptp(angle) > SAME_ANGLE:
            return f"the angle of the axes changes over the cycle, and must stay the same; {t.seat()}"
        return ""

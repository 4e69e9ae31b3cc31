"""Helical gears: a pair."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Angle, Numbers
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.mounted import Mounted, crossed
from uhrwerk.core.joints.pair import JointPair, Teeth, need_axes
from uhrwerk.core.joints.resolved_joint import JointFrame, axes


class HelicalPair(JointPair):
    """Two helical gears on axes a and b. Helix angles are positive for right-hand teeth; their sum is the shaft angle."""

    title: ClassVar[str] = "Helical gears"
    free: ClassVar[str] = "ratio from the teeth, on the card"

    kind: Literal["helical"] = "helical"
    a: At
    b: At
    teeth_a: Teeth = 20
    teeth_b: Teeth = 40
    helix_a: Angle = "45 deg"
    helix_b: Angle = "45 deg"

    @staticmethod
    def rows(
        n: Numbers[HelicalPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        return [helical_row(a, b, (n.teeth_a, n.teeth_b), (n.helix_a, n.helix_b), owner)]

    @staticmethod
    def ratio(n: Numbers[HelicalPair], sizes: tuple[Numbers, Numbers], a_turn: Callable[[float], str]) -> str:
        return f"{n.teeth_a} : {n.teeth_b}"

    @staticmethod
    def mounted(t: Mounted, n: Numbers[HelicalPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        return crossed(t, a, b, abs(float(n.helix_a + n.helix_b)))


def helical_row(a: JointFrame, b: JointFrame, teeth: tuple[int, int], helix: tuple[float, float], owner: str) -> Row:
    """Helical gears, worm and wheel; on parallel axes the hands are opposite and the pair is as an external one."""
    need_axes(a, b)
    (xa, _, za), (xb, _, zb) = axes(a.frame), axes(b.frame)
    if abs(sum(helix)) < 1e-9:
        return Row("mesh", a.link, b.link, (a.frame[:3], za, xa, b.frame[:3], xb), owner, np.pi / teeth[0], sizes=teeth)
    vectors = (a.frame[:3], za, xa, b.frame[:3], zb, xb)
    return Row("helical", a.link, b.link, vectors, owner, sizes=(*teeth, *helix))

"""Worm and wheel: a pair."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.helical_pair import helical_row
from uhrwerk.core.joints.mounted import Mounted, crossed
from uhrwerk.core.joints.pair import JointPair, Teeth
from uhrwerk.core.joints.resolved_joint import JointFrame

#: lead angle drawn for a worm: the ratio does not depend on it
WORM_LEAD = np.radians(5.0)


class WormPair(JointPair):
    """Worm a drives wheel b."""

    title: ClassVar[str] = "Worm and wheel"
    free: ClassVar[str] = "ratio from starts and teeth, on the card"

    kind: Literal["worm"] = "worm"
    a: At
    b: At
    starts: Teeth = 1
    teeth: Teeth = 30
    hand: Literal["right", "left"] = "right"

    @staticmethod
    def rows(
        n: Numbers[WormPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        hand = 1.0 if n.hand == "right" else -1.0
        helix = hand * (np.pi / 2 - WORM_LEAD), hand * WORM_LEAD
        return [helical_row(a, b, (n.starts, n.teeth), helix, owner)]

    @staticmethod
    def ratio(n: Numbers[WormPair], sizes: tuple[Numbers, Numbers], a_turn: Callable[[float], str]) -> str:
        return f"{n.starts} : {n.teeth}"

    @staticmethod
    def mounted(t: Mounted, n: Numbers[WormPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        return crossed(t, a, b, np.pi / 2)

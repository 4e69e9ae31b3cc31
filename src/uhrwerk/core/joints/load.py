"""What loads have in common: a given force or torque between two parts, a pair that holds nothing."""

from __future__ import annotations

from typing import Literal

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.resolved_joint import JointFrame

Acts = Literal["always", "against_the_motion", "with_the_motion"]
#: slower than this b stands still against a, m/s or rad/s: nothing is then against the motion
SLOW = 1e-9


class Load(JointPair):
    """A load that a puts on b, where b's datum is, and b on a the other way."""

    a: At
    b: At

    @classmethod
    def offered(cls, elements: tuple[str, str], datums: tuple[str, str]) -> bool:
        return datums[0] in ("axis", "plane")

    @staticmethod
    def rows(n: Numbers, a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str) -> list[Row]:
        return []

    @staticmethod
    def wrench(n: Numbers, a: Array, b: Array, moves: Array) -> tuple[Array, Array]:
        """Force, N, and torque, N m, on b, each (T, 3) in the world, where both datums' frames are (T, 7) and b moves and turns
        against a by (T, 6), m/s and rad/s."""
        raise NotImplementedError


def signed(acts: str, size: float, speed: Array) -> Array:
    """(T,) how much of it acts where b moves so fast along it, (T,)."""
    if acts == "always":
        return np.full(len(speed), size)
    way = np.where(np.abs(speed) < SLOW, 0.0, np.sign(speed))
    return size * (way if acts == "with_the_motion" else -way)

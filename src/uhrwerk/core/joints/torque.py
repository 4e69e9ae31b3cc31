"""Applied torque: what a shaft works against, or is driven by."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import LoadTorque, Numbers
from uhrwerk.core.joints.load import Acts, Load, signed


class TorquePair(Load):
    """A torque on b about the axis of a: always the same, or against b's turning as a brake or a machine that is driven."""

    title: ClassVar[str] = "Applied torque"
    free: ClassVar[str] = "holds nothing; loads b with a torque"

    kind: Literal["torque"] = "torque"
    torque: LoadTorque = "0.1 N m"
    acts: Acts = "against_the_motion"

    @staticmethod
    def wrench(n: Numbers[TorquePair], a: Array, b: Array, moves: Array) -> tuple[Array, Array]:
        about = poses.rotate(a[:, 3:], np.array([0.0, 0, 1]))
        size = signed(n.acts, n.torque, (moves[:, 3:] * about).sum(axis=1))
        return np.zeros_like(about), about * size[:, None]

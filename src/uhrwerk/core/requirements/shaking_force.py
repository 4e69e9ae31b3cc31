"""Shaking force: the force of the moving parts on the frame has an upper limit."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.balance.shaking import Shaking
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Force
from uhrwerk.core.requirements.shaking_limit import ShakingLimit
from uhrwerk.core.stages.evaluation import Evaluation


class ShakingForce(ShakingLimit):
    """The force with which the inertia of all that moves shakes the frame is at most this, at any moment of the cycle."""

    title: ClassVar[str] = "Shaking force"

    kind: Literal["shaking_force"] = "shaking_force"
    at_most: Force = "10 N"

    def measure(self, e: Evaluation) -> str:
        return "force"

    def size(self, e: Evaluation, shake: Shaking) -> Array:
        return shake.size

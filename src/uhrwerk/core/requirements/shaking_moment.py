"""Shaking moment: the moment of the moving parts on the frame, about a point of it, has an upper limit."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.balance.shaking import Shaking
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Length, Torque
from uhrwerk.core.requirements.shaking_limit import ShakingLimit
from uhrwerk.core.stages.evaluation import Evaluation


class ShakingMoment(ShakingLimit):
    """The moment about a point with which the inertia of all that moves shakes the frame is at most this, at any moment of the cycle;
    the point in the frame of the mechanism, such as the middle of its feet."""

    title: ClassVar[str] = "Shaking moment"

    kind: Literal["shaking_moment"] = "shaking_moment"
    at_most: Torque = "500 N*mm"
    x: Length = Field(default="0 mm", title="About the point, x")
    y: Length = "0 mm"
    z: Length = "0 mm"

    def measure(self, e: Evaluation) -> str:
        return "torque"

    def size(self, e: Evaluation, shake: Shaking) -> Array:
        scope = e.document.scope()
        point = np.array([scope.value(t, "length") for t in (self.x, self.y, self.z)])
        return np.asarray(np.linalg.norm(shake.about(point), axis=1))

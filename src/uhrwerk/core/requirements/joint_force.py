"""Force in a joint: the force between its two parts has an upper limit."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Force, JointId
from uhrwerk.core.forces.inverse_dynamics import reaction
from uhrwerk.core.requirements.bounded_force import BoundedForce, of_joint
from uhrwerk.core.stages.evaluation import Evaluation


class JointForce(BoundedForce):
    """The force between both parts of a joint, across its axis, along it or as a whole, is never more than so much."""

    title: ClassVar[str] = "Force in a joint"

    kind: Literal["joint_force"] = "joint_force"
    joint: JointId
    of: Literal["across", "along", "whole"] = Field(default="across", title="Component")
    at_most: Force = Field(default="100 N", title="Force at most")

    def measure(self, e: Evaluation) -> str:
        return "force"

    def sizes(self, e: Evaluation, times: Array) -> Array:
        force = reaction(e, self.joint, times, self.of)
        if self.of == "across":
            return force.across
        return np.abs(force.along) if self.of == "along" else np.asarray(np.linalg.norm(force.force, axis=1))

    def parts_of(self, e: Evaluation) -> tuple[str, ...]:
        return of_joint(e, self.joint)

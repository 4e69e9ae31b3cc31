"""Bending of a pin, as a first estimate: by what tilts its joint, and by the force across over half of where it bears.

A round bar's greatest stress 32 M / (pi d^3): Shigley, Mechanical Engineering Design, ch. 3-10. From memory.
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import JointId, SizeOrOpen, Stress
from uhrwerk.core.forces.inverse_dynamics import ForcesUnknown
from uhrwerk.core.forces.pin_load import borne
from uhrwerk.core.requirements.bounded_force import BoundedForce, of_joint
from uhrwerk.core.requirements.pin_shear import pin_diameter
from uhrwerk.core.stages.evaluation import Evaluation


class PinBending(BoundedForce):
    """The pin of a joint is not bent by more than so much: one that stands out is held at the end of where it bears."""

    title: ClassVar[str] = "Bending of a pin"
    how: ClassVar[str] = "first estimate: a round bar held at one end of where it bears"

    kind: Literal["pin_bending"] = "pin_bending"
    joint: JointId
    diameter: SizeOrOpen = Field(default="", title="Diameter, if not the joint's own")
    length: SizeOrOpen = Field(default="", title="Bearing length, if not the overlap of both")
    at_most: Stress = Field(default="120 MPa", title="Bending stress at most")

    def measure(self, e: Evaluation) -> str:
        return "stress"

    def sizes(self, e: Evaluation, times: Array) -> Array:
        d = pin_diameter(e, self.joint, self.diameter)
        across, tilting, length = borne(e, self.joint, times, self.length)
        if length is None:
            raise ForcesUnknown("the bearing length of the pin is not known: enter it")
        return np.asarray(32 * (tilting + across * length / 2) / (np.pi * d**3))

    def parts_of(self, e: Evaluation) -> tuple[str, ...]:
        return of_joint(e, self.joint)

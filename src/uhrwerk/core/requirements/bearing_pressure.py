"""Pressure between a pin and its bore, as a first estimate: the force across the axis over diameter times length.

Mean pressure F / (d l) of plain bearings and pins, and 6 M / (d l^2) at the ends where a moment M tilts them: common practice.
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import JointId, Size, SizeOrOpen, Stress
from uhrwerk.core.forces.pin_load import borne
from uhrwerk.core.requirements.bounded_force import BoundedForce, of_joint
from uhrwerk.core.requirements.pin_shear import pin_diameter
from uhrwerk.core.stages.evaluation import Evaluation


class BearingPressure(BoundedForce):
    """A pin presses on its bore by no more than so much."""

    title: ClassVar[str] = "Pressure of a pin in its bore"
    how: ClassVar[str] = "first estimate: force over diameter times length, and what tilts the joint spread linearly"

    kind: Literal["bearing_pressure"] = "bearing_pressure"
    joint: JointId
    diameter: SizeOrOpen = Field(default="", title="Diameter, if not the joint's own")
    length: Size = Field(default="5 mm", title="Bearing length")
    at_most: Stress = Field(default="5 MPa", title="Pressure at most")

    def measure(self, e: Evaluation) -> str:
        return "stress"

    def sizes(self, e: Evaluation, times: Array) -> Array:
        d, long = pin_diameter(e, self.joint, self.diameter), e.document.scope().value(self.length, "length")
        across, tilting, _ = borne(e, self.joint, times, self.length)
        # spread evenly by the force, and as a bending beam's stress by what tilts
        return np.asarray(across / (d * long) + 6 * tilting / (d * long**2))

    def parts_of(self, e: Evaluation) -> tuple[str, ...]:
        return of_joint(e, self.joint)

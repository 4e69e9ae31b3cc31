"""Shear of a pin, as a first estimate: the force across its axis over the sections that bear it.

Mean shear stress 4 F / (n pi d^2) in n sections, and what a tilting moment adds at the ends of where the pin bears: common
practice for pins and bolts of joints.
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import JointId, SizeOrOpen, Stress, Whole, numbers, whole
from uhrwerk.core.forces.inverse_dynamics import ForcesUnknown
from uhrwerk.core.forces.pin_load import NOTHING, borne
from uhrwerk.core.requirements.bounded_force import BoundedForce, of_joint
from uhrwerk.core.stages.evaluation import Evaluation


class PinShear(BoundedForce):
    """The pin of a joint is not sheared by more than so much, if all its sections bear alike: two where it is held on both sides,
    one where it stands out, and one more for each further knuckle."""

    title: ClassVar[str] = "Shear of a pin"
    how: ClassVar[str] = "first estimate: mean shear stress, all sections alike, what tilts the joint borne by its ends"

    kind: Literal["pin_shear"] = "pin_shear"
    joint: JointId
    diameter: SizeOrOpen = Field(default="", title="Diameter, if not the joint's own")
    sections: Annotated[Whole, whole(1, 40)] = Field(default="2", title="Shear planes")
    length: SizeOrOpen = Field(default="", title="Bearing length, if not the overlap of both")
    at_most: Stress = Field(default="60 MPa", title="Shear stress at most")

    def measure(self, e: Evaluation) -> str:
        return "stress"

    def sizes(self, e: Evaluation, times: Array) -> Array:
        d, sections = pin_diameter(e, self.joint, self.diameter), numbers(self, e.document.scope()).sections
        across, tilting, length = borne(e, self.joint, times, self.length)
        if tilting.max(initial=0.0) > NOTHING and (length is None or sections < 2):
            raise ForcesUnknown(
                "a moment tilts the joint: enter the bearing length of its pin"
                if sections > 1
                else "a moment tilts the joint, and a pin with one section bends under it: require the bending of the pin instead"
            )
        most = across / sections + (tilting / length if length is not None and sections > 1 else 0.0)
        return np.asarray(most * 4 / (np.pi * d**2))

    def parts_of(self, e: Evaluation) -> tuple[str, ...]:
        return of_joint(e, self.joint)


def pin_diameter(e: Evaluation, joint: str, stated: str) -> float:
    """Diameter of a joint's pin, m: as stated, or the smaller of what both parts have there. NotKnown where neither has any."""
    if stated.strip():
        d = e.document.scope().value(stated, "length")
        if d > 0:
            return d
    m, joined = e.mechanism, (e.document.joints | e.document.relations).get(joint)
    ends = (
        []
        if joined is None
        else [m.datums[at.placed].get(at.datum) for at in (joined.a, joined.b) if at.placed in m.datums]
    )
    radii = [x.radius for x in ends if x is not None and x.radius > 0]
    if not radii:
        raise ForcesUnknown("neither part has a diameter at this joint: give that of its pin")
    return 2 * min(radii)

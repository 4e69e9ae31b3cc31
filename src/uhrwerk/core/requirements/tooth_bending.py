"""Bending of gear teeth, as a first estimate: the whole tangential force at the tip of one tooth.

Lewis, Investigation of the strength of gear teeth, Proc. Engineers' Club Philadelphia 10 (1893): sigma = F / (b m Y), as in
Shigley, Mechanical Engineering Design, ch. 14-1. From memory. Y is taken from the tooth's own root curve.
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.assembly import teeth_of
from uhrwerk.core.elements import involute
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import PairId, Stress, numbers
from uhrwerk.core.forces.gear_separation import turning
from uhrwerk.core.forces.inverse_dynamics import ForcesUnknown, generalised_force
from uhrwerk.core.joints import GearPair
from uhrwerk.core.part.design import element_of
from uhrwerk.core.requirements.bounded_force import BoundedForce
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.moments import moments


class ToothBending(BoundedForce):
    """The teeth of two spur gears are not bent by more than so much; of both, the one that is bent more counts."""

    title: ClassVar[str] = "Bending of gear teeth"
    how: ClassVar[str] = "first estimate after Lewis: all force at the tip of one tooth, static"

    kind: Literal["tooth_bending"] = "tooth_bending"
    pair: PairId
    at_most: Stress = Field(default="100 MPa", title="Bending stress at most")

    def measure(self, e: Evaluation) -> str:
        return "stress"

    def sizes(self, e: Evaluation, times: Array) -> Array:
        pair, document, m = e.document.pairs[self.pair], e.document, e.mechanism
        if not isinstance(pair, GearPair):
            raise ForcesUnknown("that pair is not a gear pair")
        designs = [element_of(document, p) for p in (pair.a, pair.b)]
        if any(x.kind != "spur_gear" for x in designs):
            raise ForcesUnknown("the bending of two spur gears is known")
        path = f"pairs.{self.pair}"
        forces = generalised_force(e, path, times)
        row = next(r for r in m.rows if r.owner == path)
        pose, _, _ = moments(e, times)
        worst, shared = np.zeros(len(times)), self._shared(e, pose)
        for at in pair.at:
            tooth = teeth_of(document, at.placed)
            force = np.abs(turning(e, at, pose, row, forces)) / tooth.pitch_radius
            worst = np.maximum(worst, force / (shared * tooth.module * involute.lewis(tooth)))
        return worst

    def _shared(self, e: Evaluation, pose: Array) -> Array:
        """(T,) m of the width that both gears have in mesh."""
        m, ends = e.mechanism, []
        places = [m.place(at) for at in e.document.pairs[self.pair].at]
        one, other = (poses.compose(pose[:, p.link], p.frame) for p in places)
        along = poses.rotate(one[:, 3:], np.array([0.0, 0, 1]))
        for p, frame in zip(places, (one, other), strict=True):
            n = numbers(element_of(e.document, p.placed), e.document.scope())
            z = poses.rotate(frame[:, 3:], np.array([0.0, 0, 1]))
            far = ((frame[:, :3] + n.width * z - one[:, :3]) * along).sum(axis=1)
            ends.append(np.sort([((frame[:, :3] - one[:, :3]) * along).sum(axis=1), far], axis=0))
        shared = np.minimum(ends[0][1], ends[1][1]) - np.maximum(ends[0][0], ends[1][0])
        if shared.min() <= 0:
            raise ForcesUnknown("the teeth of both do not face one another")
        return np.asarray(shared)

    def parts_of(self, e: Evaluation) -> tuple[str, ...]:
        pair = e.document.pairs[self.pair]
        return tuple(at.placed for at in pair.at)

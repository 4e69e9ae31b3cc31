"""Bending of gear teeth, as a first estimate: the whole tangential force at the tip of one tooth.

Lewis, Investigation of the strength of gear teeth, Proc. Engineers' Club Philadelphia 10 (1893): sigma = F / (b m Y), as in
Shigley, Mechanical Engineering Design, ch. 14-1. From memory. Y is taken from the tooth's own root curve.
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.assembly import teeth_of
from uhrwerk.core.checks.acting import moments
from uhrwerk.core.checks.bounded_force import BoundedForce
from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.checks.forces import NotKnown, known
from uhrwerk.core.checks.separating import turning
from uhrwerk.core.elements import involute
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import PairId, Stress, numbers
from uhrwerk.core.joints import GearPair


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
        assert m is not None
        if not isinstance(pair, GearPair):
            raise NotKnown("that pair is no gear pair")
        designs = [document.parts[document.placed[p].part].element for p in (pair.a, pair.b)]
        if any(x.kind != "spur_gear" for x in designs):
            raise NotKnown("the bending of two spur gears is known")
        path = f"pairs.{self.pair}"
        found = known(e, path, times)
        row = next(r for r in m.rows if r.owner == path)
        pose, _, _ = moments(e, times)
        worst = np.zeros(len(times))
        for at, design in zip(pair.at, designs, strict=True):
            tooth, n = teeth_of(document, at.placed), numbers(design, document.scope())
            force = np.abs(turning(e, at, pose, row, found)) / tooth.pitch_radius
            worst = np.maximum(worst, force / (n.width * tooth.module * involute.lewis(tooth)))
        return worst

    def parts_of(self, e: Evaluation) -> tuple[str, ...]:
        pair = e.document.pairs[self.pair]
        return tuple(at.placed for at in pair.at)

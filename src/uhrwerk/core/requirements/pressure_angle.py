"""Pressure angle: a cam never pushes its follower too far aside."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Angle, PairId
from uhrwerk.core.forces.cam_pressure_angle import pressure
from uhrwerk.core.joints.cam_pair import CamPair
from uhrwerk.core.stages.cycle_extremes import basis
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

#: how far an angle may be off by the interpolated pose, rad
ERROR = 1e-7


class PressureAngle(Requirement):
    """The pressure angle of a cam and its follower is at most this, at any moment of the cycle."""

    title: ClassVar[str] = "Pressure angle of a cam"

    kind: Literal["pressure_angle"] = "pressure_angle"
    pair: PairId
    at_most: Angle = "30 deg"

    def ahead(self, e: Evaluation) -> None:
        if isinstance(e.document.pairs[self.pair], CamPair):
            pressure(e, self.pair)

    def judge(self, e: Evaluation) -> Verdict:
        if not isinstance(e.document.pairs[self.pair], CamPair):
            return self.undecided("that pair is not a cam and its follower")
        angles = pressure(e, self.pair)
        if angles is None:
            return self.undecided("it is not driven, or no joint that turns or slides guides the follower")
        limit, shown = e.document.scope().value(self.at_most, "angle"), e.document.display
        words = f"{shown(angles.most.high, 'angle')} at {angles.most.high_time:.4f} s, at most {e.document.limit(limit, 'angle')} allowed"
        value, error = angles.most.high, angles.most.high_missed + ERROR
        if abs(limit - value) < error:
            return self.undecided(f"{words}: too close to the limit to decide")
        return Verdict(
            self.name, self.kind, value <= limit, words, value=value, limit=limit, sense="<=", dimension="angle",
            error=error, time=angles.most.high_time, parts=tuple(at.placed for at in e.document.pairs[self.pair].at),
            basis=basis(angles.most),
        )  # fmt: skip

    def course(self, e: Evaluation) -> tuple[Array, Array, float, float] | None:
        angles = pressure(e, self.pair)
        limit = e.document.scope().value(self.at_most, "angle")
        return None if angles is None else (angles.times, angles.angles, 0.0, limit)

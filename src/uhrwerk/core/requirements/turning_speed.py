"""Turning speed: a joint never turns faster than a limit."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import JointId, TurningSpeed
from uhrwerk.core.stages.cycle_extremes import basis, fastest
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

#: speeds that differ by less than this part are the same
SAME = 1e-9


class TurningSpeedLimit(Requirement):
    """A joint turns no faster than this, at any moment of the cycle."""

    title: ClassVar[str] = "Turning speed of a joint"

    kind: Literal["turning_speed"] = "turning_speed"
    joint: JointId
    at_most: TurningSpeed = "300 rpm"

    def judge(self, e: Evaluation) -> Verdict:
        limit, c = e.document.scope().value(self.at_most, "turning speed"), e.coordinate(self.joint, turning=True)
        if c is None:
            return self.undecided("this joint does not turn")
        speed = fastest(e, c)
        value, time, missed = speed.high, speed.high_time, speed.high_missed
        shown, same = e.document.display, limit * (1 + SAME)
        words = f"turns at {shown(value, 'turning speed')} at most, {e.document.limit(limit, 'turning speed')} allowed"
        if value <= same < value + missed:
            return self.undecided(f"{words}: too close to the limit to decide")
        return Verdict(
            self.name, self.kind, value <= same, words, value=value, limit=limit, sense="<=", dimension="turning speed",
            error=missed + SAME * value, time=time, basis=basis(speed),
        )  # fmt: skip

"""Turning speed: a joint never turns faster than a limit."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.checks.acting import moments
from uhrwerk.core.checks.asked import Asked
from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.checks.over_cycle import basis, over_cycle
from uhrwerk.core.checks.verdict import Verdict
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Rows
from uhrwerk.core.field import JointId, TurningSpeed
from uhrwerk.core.joints import coordinate_row
from uhrwerk.core.motion import Coordinate
from uhrwerk.core.motion.extremes import Extremes

#: speeds that differ by less than this part are the same
SAME = 1e-9


class TurningSpeedLimit(Asked):
    """A joint turns no faster than this, at any moment of the cycle."""

    title: ClassVar[str] = "Turning speed of a joint"

    kind: Literal["turning_speed"] = "turning_speed"
    joint: JointId
    at_most: TurningSpeed = "300 rpm"

    def judge(self, e: Evaluation) -> Verdict:
        limit, c = e.document.scope().value(self.at_most, "turning speed"), e.coordinate(self.joint, turning=True)
        if c is None:
            return self.no_answer("this joint does not turn")
        found = fastest(e, c)
        value, time, missed = found.high, found.high_time, found.high_missed
        shown, same = e.document.shown, limit * (1 + SAME)
        words = f"turns at {shown(value, 'turning speed')} at most, {e.document.limit(limit, 'turning speed')} allowed"
        if value <= same < value + missed:
            return self.no_answer(f"{words}: too near to the limit to tell")
        return Verdict(
            self.name, self.kind, value <= same, words, value=value, limit=limit, sense="<=", dimension="turning speed",
            error=missed + SAME * value, time=time, basis=basis(found),
        )  # fmt: skip


def fastest(e: Evaluation, c: Coordinate) -> Extremes:
    """The greatest speed of a coordinate over the cycle."""

    def speed(times: Array) -> Array:
        m = e.mechanism
        assert m is not None
        pose, velocity, _ = moments(e, times)
        rows = Rows([coordinate_row(m.held[c.joint], c.name)], len(m.links), m.reach)
        size = np.array([1 / m.reach] * 3 + [1.0] * 3)
        return np.abs(rows.measured(m.scaled(pose), velocity * size, 0 * velocity)[1][:, 0])

    return over_cycle(e, speed)

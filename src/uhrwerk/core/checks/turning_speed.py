"""Turning speed: a joint never turns faster than a limit."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.checks.asked import Asked
from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.checks.verdict import Verdict
from uhrwerk.core.field import JointId, TurningSpeed
from uhrwerk.core.motion import Coordinate, interpolated

#: moments looked at between two stations of the motion
MOMENTS = 24
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
        value, time, missed = fastest(c)
        shown, same = e.document.shown, limit * (1 + SAME)
        words = f"turns at {shown(value, 'turning speed')} at most, {shown(limit, 'turning speed')} allowed"
        if value <= same < value + missed:
            return self.no_answer(f"{words}: too near to the limit to tell")
        return Verdict(
            self.name, self.kind, value <= same, words, value=value, limit=limit, sense="<=", dimension="turning speed",
            error=missed + SAME * value, time=time, basis=f"estimated from {MOMENTS} moments between two stations of the motion",
        )  # fmt: skip


def fastest(c: Coordinate) -> tuple[float, float, float]:
    """The greatest speed of a coordinate, when, and how much more it may be between the moments looked at."""
    t = c.whole.times
    inner = np.arange(MOMENTS) / MOMENTS
    times = np.append((t[:-1, None] + np.diff(t)[:, None] * inner).ravel(), t[-1])
    speed = np.abs(interpolated(c.whole, times, 1))
    at = int(np.argmax(speed))
    beside = speed[[max(0, at - 1), min(len(speed) - 1, at + 1)]]
    return float(speed[at]), float(times[at]), float(speed[at] - beside.min()) / 2

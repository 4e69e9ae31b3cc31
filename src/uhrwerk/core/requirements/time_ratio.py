"""Time ratio: the slower stroke of a joint takes at least so many times as long as the faster one.

Ends of a stroke lie where the velocity changes its sign, between stations of the motion too. Norton, Design of Machinery,
section 3.3 (quick-return mechanisms). From memory.
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.field import JointId, Positive
from uhrwerk.core.motion import Coordinate, interpolated, reversals
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict


class TimeRatio(Requirement):
    """The slower stroke of a joint takes at least so many times as long as the faster one."""

    title: ClassVar[str] = "Time ratio of a joint"

    kind: Literal["time_ratio"] = "time_ratio"
    joint: JointId
    at_least: Positive = "1.5"

    def judge(self, e: Evaluation) -> Verdict:
        limit, c = e.document.scope().value(self.at_least, "number"), e.coordinate(self.joint)
        strokes = time_ratio(c) if c is not None else None
        if strokes is None:
            return self.undecided("this joint does not go forth and back in the cycle")
        ratio, time = strokes
        words = f"the slow stroke takes {ratio:.3f} times as long as the fast one, at least {limit:g} required"
        return Verdict(
            self.name, self.kind, ratio >= limit - 1e-9, words, value=ratio, limit=limit, sense=">=", dimension="number",
            error=ratio * 1e-6, time=time, basis="moments where the joint's velocity is zero, between stations too",
        )  # fmt: skip


def time_ratio(c: Coordinate) -> tuple[float, float] | None:
    """Time of the slow strokes over that of the fast ones, for a coordinate that goes forth and back, once a cycle or as
    often in either direction; and the moment of the first reversal, s."""
    when, _ = reversals(c.whole)
    end = float(c.whole.times[-1])
    if len(when) < 2 or len(when) % 2:
        return None
    marks = np.concatenate([[0.0], when, [end]])
    forth = interpolated(c.whole, (marks[:-1] + marks[1:]) / 2, 1) > 0
    one = float(np.diff(marks)[forth].sum())
    other = end - one
    return max(one, other) / min(one, other), float(when[0])

"""Travel: a joint turns or slides through at least so much over the cycle."""

from __future__ import annotations

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.field import AngleOrOpen, JointId, LengthOrOpen
from uhrwerk.core.motion import Coordinate, reversals
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

#: how far a range may be off, rad or m
ERROR = 1e-8


class Travel(Requirement):
    """A joint turns or slides through at least so much over the cycle."""

    title: ClassVar[str] = "Travel of a joint"

    kind: Literal["travel"] = "travel"
    joint: JointId
    turn: AngleOrOpen = ""
    slide: LengthOrOpen = ""

    def conflicts(self) -> Iterable[tuple[str, str]]:
        if bool(self.turn) == bool(self.slide):
            yield "turn", "give either an angle to turn through or a length to slide"

    def judge(self, e: Evaluation) -> Verdict:
        dimension = "angle" if self.turn else "length"
        limit = e.document.scope().value(self.turn or self.slide, dimension)
        c = e.coordinate(self.joint, bool(self.turn))
        if c is None:
            return self.undecided(f"nothing {'turns' if self.turn else 'slides'} in this joint")
        travelled, time = travel(c)
        words = f"{e.document.display(travelled, dimension)} over the cycle, at least {e.document.limit(limit, dimension)} required"
        return Verdict(
            self.name, self.kind, travelled >= limit - 1e-9, words, value=travelled, limit=limit, sense=">=", dimension=dimension,
            error=ERROR, time=time, basis="joint coordinate over the cycle; its turning points between stations too",
        )  # fmt: skip


def travel(c: Coordinate) -> tuple[float, float]:
    """The whole range of a coordinate over the cycle, rad or m, and the moment when its far end is reached, s."""
    when, ends = reversals(c.whole)
    values, moments = np.concatenate([c.whole.value, ends]), np.concatenate([c.whole.times, when])
    return float(np.ptp(values)), float(moments[int(np.argmax(values))])

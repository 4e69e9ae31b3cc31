"""Wanted motion: a joint is where it should be, from one moment of the cycle until another."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.document import Document
from uhrwerk.core.field import AngleOrOpen, JointId, LengthOrOpen, Span, numbers
from uhrwerk.core.laws.segment import seconds
from uhrwerk.core.motion import Coordinate, interpolated, reversals
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

#: how far a position may be off, rad or m
ERROR = 1e-8


@dataclass(frozen=True)
class WantedInterval:
    """What is wanted, in numbers: from `begin` until `end` (s) within `within` of `value` (rad or m)."""

    begin: float
    end: float
    value: float
    within: float
    turning: bool


class WantedMotion(Requirement):
    """A joint reaches a position by one moment of the cycle, and stays there until another."""

    title: ClassVar[str] = "Wanted motion of a joint"

    kind: Literal["wanted_motion"] = "wanted_motion"
    joint: JointId
    turn: AngleOrOpen = Field(default="", title="Turn to")
    slide: LengthOrOpen = Field(default="", title="Slide to")
    by: Span = Field(default="120 deg", title="Reach it by")
    until: Span = Field(default="120 deg", title="Stay until")
    turn_within: AngleOrOpen = Field(default="0.1 deg", title="Turn within")
    slide_within: LengthOrOpen = Field(default="0.05 mm", title="Slide within")

    def conflicts(self) -> Iterable[tuple[str, str]]:
        if bool(self.turn) == bool(self.slide):
            yield "turn", "give either an angle to be turned to or a length to be slid to"
        if not (self.turn_within if self.turn else self.slide_within):
            yield "turn_within" if self.turn else "slide_within", "say how far off it may be"

    def wanted(self, document: Document) -> WantedInterval:
        n, cycle = numbers(self, document.scope()), document.scope().value(document.cycle.duration, "time")
        begin, end = seconds(n.by, cycle), seconds(n.until, cycle)
        turning = n.turn is not None
        value, within = (n.turn, n.turn_within) if turning else (n.slide, n.slide_within)
        return WantedInterval(begin, end, value, abs(within), turning)

    def judge(self, e: Evaluation) -> Verdict:
        wanted_ = self.wanted(e.document)
        c = e.coordinate(self.joint, wanted_.turning)
        if c is None:
            return self.undecided(f"nothing {'turns' if wanted_.turning else 'slides'} in this joint")
        if wanted_.end < wanted_.begin - 1e-12:
            return self.undecided("it is to stay until a moment that lies before the one by which it is reached")
        if wanted_.end > e.moved.motion.duration * (1 + 1e-9):
            return self.undecided(
                f"it is to stay until {wanted_.end:.4g} s, and the motion ends at {e.moved.motion.duration:.4g} s"
            )
        off, time, at = farthest(c, wanted_)
        dimension = "angle" if wanted_.turning else "length"
        shown = e.document.display
        degrees = 360 / e.document.scope().value(e.document.cycle.duration, "time")
        words = (
            f"{shown(at, dimension)} at {time * degrees:.1f}° of the cycle, {shown(wanted_.value, dimension)} wanted from "
            f"{wanted_.begin * degrees:.1f}° until {wanted_.end * degrees:.1f}°, within {shown(wanted_.within, dimension)}"
        )
        return Verdict(
            self.name, self.kind, off <= wanted_.within + 1e-9, words, value=off, limit=wanted_.within, sense="<=", dimension=dimension,
            error=ERROR, time=time, short=f"off by {shown(off, dimension)}",
            basis="joint coordinate over that time; its turning points between stations too",
        )  # fmt: skip


def farthest(c: Coordinate, wanted: WantedInterval) -> tuple[float, float, float]:
    """How far a coordinate is off at most, when (s), and where it is then."""
    ends = np.array([wanted.begin, wanted.end])
    inside = np.concatenate([c.whole.times, reversals(c.whole)[0]])
    times = np.concatenate([ends, inside[(inside > wanted.begin) & (inside < wanted.end)]])
    values = interpolated(c.whole, times)
    worst = int(np.argmax(np.abs(values - wanted.value)))
    return float(abs(values[worst] - wanted.value)), float(times[worst]), float(values[worst])

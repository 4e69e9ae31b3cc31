"""A joint's coordinate, and the ratio of two."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.curves.curve_of import CurveOf
from uhrwerk.core.curves.followed import FollowedMotion
from uhrwerk.core.document import Document
from uhrwerk.core.equations.jet import Jet
from uhrwerk.core.field import JointId


class JointCurve(CurveOf):
    """How far a joint has turned, or slid, counted through every turn."""

    title: ClassVar[str] = "Motion of a joint"

    kind: Literal["joint"] = "joint"
    joint: JointId
    of: Literal["turn", "slide"] = "turn"

    def repeats(self, d: Document) -> bool:
        return False

    def dimension(self, d: Document) -> str:
        return "angle" if self.of == "turn" else "length"

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        return f.coordinate(self.joint, self.of == "turn")


class RatioCurve(CurveOf):
    """How fast one joint turns for another, with sign: the ratio of their speeds at each moment."""

    title: ClassVar[str] = "Ratio of two joints' speeds"

    kind: Literal["ratio"] = "ratio"
    joint: JointId
    over: JointId = Field(title="Over")

    def faults(self, document: Document) -> Iterable[tuple[str, str]]:
        if self.joint == self.over:
            yield "over", "the ratio of a joint to itself is always 1: choose another"

    def dimension(self, d: Document) -> str:
        return "number"

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        a, b = f.coordinate(self.joint, True), f.coordinate(self.over, True)
        assert a.dd is not None
        assert b.dd is not None
        still = np.abs(b.d) <= 1e-9 * np.abs(b.d).max(initial=0.0)
        d = np.where(still, np.nan, b.d)
        return Jet(a.d / d, (a.dd * d - a.d * b.dd) / d**2)

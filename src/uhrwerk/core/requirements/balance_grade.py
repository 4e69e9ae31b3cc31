"""Balance quality grade: what turns about an axis shakes its bearings no more than a grade permits."""

from __future__ import annotations

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.balance.rotor import Rotor, basis, hanging, reached, rotors
from uhrwerk.core.document import Document
from uhrwerk.core.field import JointId, LengthOrOpen, SlidingSpeed
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict


class BalanceGrade(Requirement):
    """What turns in a joint is balanced to a grade of ISO 21940-11 (6.3 mm/s is G 6.3) at the fastest that it turns: in its
    centre of gravity, and in two planes if asked."""

    title: ClassVar[str] = "Balance quality grade"

    kind: Literal["balance_grade"] = "balance_grade"
    joint: JointId
    grade: SlidingSpeed = "6.3 mm/s"
    planes: Literal["one", "two"] = Field(default="one", title="In planes")
    low: LengthOrOpen = Field(default="", title="Lower plane along the axis")
    high: LengthOrOpen = Field(default="", title="Upper plane along the axis")

    def idle(self) -> set[str]:
        return {"low", "high"} if self.planes == "one" else set()

    def places(self, document: Document, r: Rotor | None = None) -> tuple[float, ...]:
        """Where both planes lie along the axis, m, from the joint's datum: where nothing is stated, at the rotor's ends."""
        if self.planes == "one":
            return ()
        ends = r.span if r is not None else (-np.inf, np.inf)
        scope, limits = document.scope(), (self.low, self.high)
        return tuple(scope.value(t, "length") if t.strip() else end for t, end in zip(limits, ends, strict=True))

    def faults(self, document: Document) -> Iterable[tuple[str, str]]:
        if document.scope().value(self.grade, "sliding speed") <= 0:
            yield "grade", "must be greater than zero"
        low_high = self.places(document)
        if low_high and low_high[0] >= low_high[1]:
            yield "high", "must lie above the lower plane"

    def judge(self, e: Evaluation) -> Verdict:
        r = rotors(e).get(self.joint)
        if r is None:
            return self.undecided("nothing turns in this joint about an axis that stands still")
        if not r.mass:
            return self.undecided("what turns in it has no mass")
        if why := hanging(e, r):
            return self.undecided(why)
        planes, shown = self.places(e.document, r), e.document.display
        if planes and planes[0] >= planes[1]:
            return self.undecided("both planes lie at the same place along the axis")
        limit, (value, error) = e.document.scope().value(self.grade, "sliding speed"), reached(r, planes)
        speed = shown(r.speed, "turning speed")
        where = "in two planes" if planes else f"its centre {shown(r.offset, 'length')} off the axis"
        words = f"G {value * 1e3:.3g} at {speed}, {where}; at most G {limit * 1e3:.3g} allowed"
        if limit < value <= limit + error:
            return self.undecided(f"{words}: too close to the limit to decide")
        return Verdict(
            self.name, self.kind, value <= limit, words, value=value, limit=limit, sense="<=", dimension="sliding speed", error=error,
            time=r.time, parts=r.parts[:1], short=f"G {value * 1e3:.3g}", basis=f"{basis(e)}, at the fastest that it turns",
        )  # fmt: skip

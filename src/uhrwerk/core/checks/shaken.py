"""What the inertia of all that moves does to the frame is at most what is asked, at any moment of the cycle."""

from __future__ import annotations

from typing import ClassVar

from uhrwerk.core.checks.asked import Asked
from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.checks.shaking import MOMENTS, largest
from uhrwerk.core.checks.verdict import Verdict
from uhrwerk.core.equations.pose import Array


class Shaken(Asked):
    """Base of limits on it. `measure` is the dimension of what is limited."""

    measure: ClassVar[str]

    at_most: str

    def sizes(self, e: Evaluation) -> tuple[Array, Array] | None:
        """Moments (T,) s and how large it is then (T,), SI; None where nothing moves."""
        raise NotImplementedError

    def judge(self, e: Evaluation) -> Verdict:
        found = self.sizes(e)
        if found is None:
            return self.no_answer("nothing moves")
        limit, shown = e.document.scope().value(self.at_most, self.measure), e.document.shown
        value, time, missed = largest(*found)
        words = f"{shown(value, self.measure)} at {time:.4f} s, at most {shown(limit, self.measure)} allowed"
        if value <= limit < value + missed:
            return self.no_answer(f"{words}: too near to the limit to tell")
        return Verdict(
            self.name, self.kind, value <= limit, words, value=value, limit=limit, sense="<=", dimension=self.measure, error=missed + 1e-9 * value,
            time=time, basis=f"estimated from {MOMENTS} moments; inertia alone, without gravity and springs, which act within the frame",
        )  # fmt: skip

    def course(self, e: Evaluation) -> tuple[Array, Array, float, float] | None:
        found = self.sizes(e)
        return None if found is None else (*found, 0.0, e.document.scope().value(self.at_most, self.measure))

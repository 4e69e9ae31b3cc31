"""Shaking force: the moving parts never push the frame harder than is asked."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.checks.asked import Asked
from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.checks.shaking import MOMENTS, shaking
from uhrwerk.core.checks.verdict import Verdict
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Force


class ShakingForce(Asked):
    """The force with which the inertia of all that moves shakes the frame is at most this, at any moment of the cycle."""

    title: ClassVar[str] = "Shaking force"

    kind: Literal["shaking_force"] = "shaking_force"
    at_most: Force = "10 N"

    def judge(self, e: Evaluation) -> Verdict:
        found = shaking(e)
        if found is None:
            return self.no_answer("nothing moves")
        limit, shown, (value, time, missed) = (
            e.document.scope().value(self.at_most, "force"),
            e.document.shown,
            found.largest(),
        )
        words = f"{shown(value, 'force')} at {time:.4f} s, at most {shown(limit, 'force')} allowed"
        if value <= limit < value + missed:
            return self.no_answer(f"{words}: too near to the limit to tell")
        return Verdict(
            self.name, self.kind, value <= limit, words, value=value, limit=limit, sense="<=", dimension="force", error=missed + 1e-9 * value,
            time=time, basis=f"estimated from {MOMENTS} moments; inertia alone, without gravity and springs, which act within the frame",
        )  # fmt: skip

    def course(self, e: Evaluation) -> tuple[Array, Array, float, float] | None:
        found = shaking(e)
        if found is None:
            return None
        return found.times, found.size, 0.0, e.document.scope().value(self.at_most, "force")

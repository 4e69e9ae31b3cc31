"""Shaking moment: the moving parts never turn the frame about a point of it harder than is asked."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.checks.asked import Asked
from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.checks.shaking import MOMENTS, largest, shaking
from uhrwerk.core.checks.verdict import Verdict
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Length, Torque


class ShakingMoment(Asked):
    """The moment about a point with which the inertia of all that moves shakes the frame is at most this, at any moment of the cycle;
    the point in the frame of the mechanism, such as the middle of its feet."""

    title: ClassVar[str] = "Shaking moment"

    kind: Literal["shaking_moment"] = "shaking_moment"
    at_most: Torque = "500 N*mm"
    x: Length = Field(default="0 mm", title="About the point, x")
    y: Length = "0 mm"
    z: Length = "0 mm"

    def _sizes(self, e: Evaluation) -> tuple[Array, Array] | None:
        """Moments (T,) s and how large it is then (T,) N m; None where nothing moves."""
        found, scope = shaking(e), e.document.scope()
        if found is None:
            return None
        point = np.array([scope.value(t, "length") for t in (self.x, self.y, self.z)])
        return found.times, np.linalg.norm(found.about(point), axis=1)

    def judge(self, e: Evaluation) -> Verdict:
        found = self._sizes(e)
        if found is None:
            return self.no_answer("nothing moves")
        limit, shown = e.document.scope().value(self.at_most, "torque"), e.document.shown
        value, time, missed = largest(*found)
        words = f"{shown(value, 'torque')} at {time:.4f} s, at most {shown(limit, 'torque')} allowed"
        if value <= limit < value + missed:
            return self.no_answer(f"{words}: too near to the limit to tell")
        return Verdict(
            self.name, self.kind, value <= limit, words, value=value, limit=limit, sense="<=", dimension="torque", error=missed + 1e-9 * value,
            time=time, basis=f"estimated from {MOMENTS} moments; inertia alone, without gravity and springs, which act within the frame",
        )  # fmt: skip

    def course(self, e: Evaluation) -> tuple[Array, Array, float, float] | None:
        found = self._sizes(e)
        return None if found is None else (*found, 0.0, e.document.scope().value(self.at_most, "torque"))

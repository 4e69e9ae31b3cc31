"""Base of limits on a force, torque or stress that follows from the motion, at any moment of the cycle."""

from __future__ import annotations

from contextlib import suppress
from typing import ClassVar

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.forces.inverse_dynamics import ForcesUnknown, assumptions, moments_of_interest, winding
from uhrwerk.core.motion.extremes import Extremes, NoValue
from uhrwerk.core.stages.cycle_extremes import basis, over_cycle
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.moments import moments
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

#: N, N m or Pa: what is smaller is the rounding of numbers that cancel, whose course nothing can follow
NOISE = 1e-12


def _without_noise(sizes: Array) -> Array:
    return np.asarray(np.where(np.abs(sizes) < NOISE, 0.0, sizes))


class BoundedForce(Requirement):
    """Base of limits on what acts. `how` says by which formula it is known; `measure` is its dimension."""

    how: ClassVar[str] = ""

    at_most: str

    def measure(self, e: Evaluation) -> str:
        """The dimension of what is limited."""
        raise NotImplementedError

    def sizes(self, e: Evaluation, times: Array) -> Array:
        """How large it is at moments (T,) s, SI. NotKnown where that cannot be told."""
        raise NotImplementedError

    def parts_of(self, e: Evaluation) -> tuple[str, ...]:
        """The placed parts that it is about."""
        return ()

    def ahead(self, e: Evaluation) -> None:
        if e.motion is not None:
            moments(e, moments_of_interest(e))

    def meanwhile(self, e: Evaluation) -> None:
        with suppress(ForcesUnknown, NoValue):
            self.run(e)
            self._most(e)

    def _most(self, e: Evaluation) -> Extremes:
        return e.once(
            f"greatest of {self!r}",
            lambda: over_cycle(e, lambda t: _without_noise(self.sizes(e, t)), last_period=winding(e)),
        )

    def basis(self, e: Evaluation, extremes: Extremes) -> str:
        """How it is known."""
        return f"{basis(extremes)}; {self.how + '; ' if self.how else ''}{assumptions(e)}"

    def run(self, e: Evaluation) -> tuple[Array, Array]:
        """Moments (T,) s and how large it is then (T,). NotKnown where that cannot be told."""
        if e.motion is None:
            raise ForcesUnknown("nothing moves yet")
        times = moments_of_interest(e)
        return times, e.once(f"sizes of {self!r}", lambda: _without_noise(self.sizes(e, times)))

    def judge(self, e: Evaluation) -> Verdict:
        try:
            self.run(e)
        except ForcesUnknown as why:
            return self.undecided(str(why))
        name = self.measure(e)
        limit, shown = e.document.scope().value(self.at_most, name), e.document.display
        try:
            most = self._most(e)
        except (ForcesUnknown, NoValue) as why:
            return self.undecided(str(why))
        value, time, missed = most.high, most.high_time, most.high_missed
        words = f"{shown(value, name)} at {time:.4g} s, at most {e.document.limit(limit, name)} allowed"
        if value <= limit < value + missed:
            return self.undecided(f"{words}: too close to the limit to decide")
        return Verdict(
            self.name, self.kind, value <= limit, words, value=value, limit=limit, sense="<=", dimension=name, error=missed, time=time,
            parts=self.parts_of(e), basis=self.basis(e, most),
        )  # fmt: skip

    def course(self, e: Evaluation) -> tuple[Array, Array, float, float] | None:
        try:
            times, values = self.run(e)
        except ForcesUnknown:
            return None
        return times, values, 0.0, e.document.scope().value(self.at_most, self.measure(e))


def of_joint(e: Evaluation, joint: str) -> tuple[str, ...]:
    """Both parts that a joint holds."""
    joined = (e.document.joints | e.document.relations).get(joint)
    return () if joined is None else (joined.a.placed, joined.b.placed)

"""Base of limits on what the inertia of the moving parts does to the frame, at any moment of the cycle."""

from __future__ import annotations

from uhrwerk.core.balance.shaking import Shaking, shaking, shaking_at
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.forces.inverse_dynamics import ForcesUnknown
from uhrwerk.core.motion.extremes import Extremes
from uhrwerk.core.requirements.bounded_force import BoundedForce
from uhrwerk.core.stages.cycle_extremes import basis
from uhrwerk.core.stages.evaluation import Evaluation


class ShakingLimit(BoundedForce):
    """Base of limits on it: the solids are needed, and nothing can be reckoned before they are there."""

    def size(self, e: Evaluation, shake: Shaking) -> Array:
        """How large it is at the moments of what shakes the frame (T,), SI."""
        raise NotImplementedError

    def ahead(self, e: Evaluation) -> None:
        return

    def run(self, e: Evaluation) -> tuple[Array, Array]:
        shake = shaking(e)
        if shake is None:
            raise ForcesUnknown("nothing moves")
        return shake.times, self.size(e, shake)

    def sizes(self, e: Evaluation, times: Array) -> Array:
        return self.size(e, shaking_at(e, times))

    def basis(self, e: Evaluation, extremes: Extremes) -> str:
        return f"{basis(extremes)}; inertia alone, without gravity and springs, which act within the frame"

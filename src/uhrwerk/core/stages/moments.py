"""Any moments of an evaluated motion, solved for themselves."""

from __future__ import annotations

from hashlib import sha256

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.motion.cycle import exactly
from uhrwerk.core.stages.evaluation import Evaluation


def moments(e: Evaluation, times: Array) -> tuple[Array, Array, Array]:
    """Poses (T, L, 7), velocities and accelerations (T, L, 6) at moments (T,) s, by the equations themselves, once."""
    m, motion = e.mechanism, e.moved.motion
    return e.once(f"moments {sha256(times.tobytes()).hexdigest()}", lambda: exactly(m, motion, times))

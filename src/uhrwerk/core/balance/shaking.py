"""Shaking: the force and the moment with which the moving links act on the frame, by their inertia alone.

The force is the negative sum of mass times acceleration, whatever the joints; the moment is taken about a point that stands still
(Berkof, Complete force and moment balancing of inline four-bar linkages, Mech. Mach. Theory 8 (1973), section 2; from memory).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.forces.applied_forces import inertia
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.moments import moments

#: moments that are drawn, and over which counterweights are best: evenly spread
MOMENTS = 720


@dataclass(frozen=True)
class Shaking:
    """Force (T, 3) N and moment (T, 3) N m about the world's origin, on the frame, at moments (T,) s of one period."""

    times: Array
    force: Array
    moment: Array

    @property
    def size(self) -> Array:
        """(T,) N"""
        return np.asarray(np.linalg.norm(self.force, axis=1))

    def about(self, point: Array) -> Array:
        """(T, 3) N m: the moment about a point (3,) m."""
        return self.moment - np.cross(point, self.force)


def shaking(e: Evaluation) -> Shaking | None:
    """Over one period of the motion; None where nothing moves."""
    return e.once("shaking", lambda: _shaking(e))


def _shaking(e: Evaluation) -> Shaking | None:
    if e.motion is None or not e.motion.moving or not e.solids:
        return None
    return shaking_at(e, np.linspace(0, e.motion.period, MOMENTS + 1))


def shaking_at(e: Evaluation, times: Array) -> Shaking:
    """At any moments (T,) s."""
    pose, velocity, acceleration = moments(e, times)
    wrench = -inertia(e, pose, velocity, acceleration)
    moment = wrench[..., 3:] + np.cross(pose[..., :3], wrench[..., :3])
    return Shaking(times, wrench[..., :3].sum(axis=1), moment.sum(axis=1))

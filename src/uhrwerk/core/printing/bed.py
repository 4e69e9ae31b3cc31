"""The bed on which a mechanism is printed: which way is down, and where the lowest point is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array

DOWN = np.array([0.0, 0.0, -1.0])


@dataclass(frozen=True, eq=False)
class Lying:
    """A body before the bed is under it: vertices (n, 3) m in the world, how far its triangles stray from curved faces, m (none: they
    do not), and `reach` of a direction (3,): how far the exact solid reaches that way, m."""

    vertices: Array
    deviation: float
    reach: Callable[[Array], float]


@dataclass(frozen=True, eq=False)
class Bed:
    """`pose` (7,) takes the world to the bed: z up, the lowest point at z = 0; `height` m, of all that stands on it."""

    pose: Array
    height: float

    @classmethod
    def under(cls, lying: Sequence[Lying], down: Array = DOWN) -> Bed:
        """Under bodies, where `down` (3,) points to the bed; turned by the least angle. Where triangles do not tell which point is
        the lowest, by the exact solids."""
        n = np.asarray(down, dtype=float) / np.linalg.norm(down)
        turn = np.concatenate([np.zeros(3), _turned(n)])
        depths = [(float((one.vertices @ n).max()), one) for one in lying]
        if not depths:
            return cls(turn, 0.0)
        deepest = max(d for d, _ in depths)
        low = max(one.reach(n) if one.deviation and d + one.deviation >= deepest else d for d, one in depths)
        turn[2] = low
        return cls(turn, low + max(float(-(one.vertices @ n).min()) for one in lying))

    def place(self, pose: Array) -> Array:
        """A pose in the world (7,) as a pose over the bed."""
        return np.asarray(poses.compose(self.pose, pose))

    def world(self, points: Array) -> Array:
        """Points over the bed (n, 3) m, in the world."""
        return np.asarray(poses.place(poses.inverse(self.pose), points))


def _turned(down: Array) -> Array:
    """The quaternion (4,) of the least turn that brings a unit vector to DOWN."""
    cosine = float(down @ DOWN)
    if cosine < -1 + 1e-12:
        return np.array([0.0, 1.0, 0.0, 0.0])  # upside down: half a turn about x
    if cosine > 1 - 1e-15:
        return np.array([1.0, 0.0, 0.0, 0.0])
    q = np.concatenate([[1 + cosine], np.cross(down, DOWN)])
    return np.asarray(q / np.linalg.norm(q))

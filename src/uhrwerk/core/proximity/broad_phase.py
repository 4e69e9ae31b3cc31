"""The broad phase: which bodies can meet at all, by boxes round each over the cycle.

In an interval between two stations a point is nowhere farther from the nearer of its two places than half the interval
times its speed; the speed is bounded by the control points of the motion's polynomials, along each axis of the world.
So a layer that slides over another is known to stay above it. What the boxes leave is looked at pair by pair.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.motion import Trajectory
from uhrwerk.core.proximity.body_geometry import PlacedBody
from uhrwerk.core.proximity.relative_motion import FOURTH

Index = NDArray[np.int64]

#: pairs looked at together, interval by interval
CHUNK = 4000


def swept(shapes: Sequence[PlacedBody], t: Trajectory) -> tuple[Array, Array]:
    """Lows and highs (K, N, 3) of each body's box in every interval between stations, m; K is 1 where nothing moves."""
    still = len(t.times) == 1
    wide = _speeds(t) if not still else (np.zeros((1, t.pose.shape[1], 3)),) * 2
    lows, highs = [], []
    for s in shapes:
        v = s.form.body.vertices
        low, high = v.min(axis=0) - s.form.body.deviation, v.max(axis=0) + s.form.body.deviation
        corners = poses.place(s.local, np.array(list(itertools.product(*zip(low, high, strict=True)))))
        at = poses.place(t.pose[:, s.link, None], corners)
        low, high = at.min(axis=1), at.max(axis=1)
        far = float(np.linalg.norm(corners, axis=1).max())
        if not still:
            spread = (wide[0][:, s.link] + far * wide[1][:, s.link]) / 2
            low, high = np.minimum(low[:-1], low[1:]) - spread, np.maximum(high[:-1], high[1:]) + spread
        lows.append(low)
        highs.append(high)
    return np.stack(lows, axis=1), np.stack(highs, axis=1)


def _speeds(t: Trajectory) -> tuple[Array, Array]:
    """(K - 1, L, 3) bounds along x, y, z of a link's origin's speed, and of a point's own for each metre of its distance;
    in fractions of an interval."""
    slope = t.curve[:, 1:] * np.arange(1.0, 6.0)[:, None, None]
    hull = np.einsum("bp,kpli->kbli", FOURTH, slope)
    shift = np.abs(hull[..., :3]).max(axis=1)
    turn = np.abs(hull[..., 3:]).max(axis=1)
    tilt = poses.cross(hull[..., 3:], np.roll(hull[..., 3:], 1, axis=1))
    loose = np.linalg.norm(tilt, axis=-1).max(axis=1) > 1e-12  # the axis itself turns: no direction is spared
    turn = np.where(loose[..., None], np.linalg.norm(hull[..., 3:], axis=-1).max(axis=1)[..., None], turn)
    square = turn**2
    return shift, np.sqrt(square.sum(axis=-1, keepdims=True) - np.where(loose[..., None], 0.0, square))


def may_meet(shapes: Sequence[PlacedBody], t: Trajectory, margin: float) -> list[tuple[int, int]]:
    """Pairs (i, j), i < j, of different placed parts that may come within `margin` (m) of one another."""
    if len(shapes) < 2:
        return []
    low, high = swept(shapes, t)
    low, high = low - margin / 2, high + margin / 2
    whole_low, whole_high = low.min(axis=0), high.max(axis=0)
    placed = np.unique([s.placed for s in shapes], return_inverse=True)[1]
    meet = placed[:, None] != placed[None]
    for axis in range(3):
        meet &= (whole_low[:, None, axis] <= whole_high[None, :, axis]) & (
            whole_low[None, :, axis] <= whole_high[:, None, axis]
        )
    i, j = np.nonzero(np.triu(meet, 1))
    if len(low) > 1:
        kept = [
            ((low[:, a] <= high[:, b]) & (low[:, b] <= high[:, a])).all(axis=2).any(axis=0)
            for a, b in ((i[at : at + CHUNK], j[at : at + CHUNK]) for at in range(0, len(i), CHUNK))
        ]
        near = np.concatenate(kept) if kept else np.zeros(0, dtype=bool)
        i, j = i[near], j[near]
    return list(zip(i.tolist(), j.tolist(), strict=True))

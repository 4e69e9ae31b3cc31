"""Moments at which a motion is not smooth: where what a follower touches passes a joint of its cam's outline.

There the outline's curvature jumps, and with it the follower's acceleration. The jumps of laws of time are known to the
laws themselves (`marks`); these follow from the motion.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row

TURN = 2 * np.pi
#: rad of the outline's parameter: what is touched so near to a joint is touched there
THERE = 1e-7
#: steps at most in which a moment is closed in on, rad of the parameter within which it is found
ROUNDS, FOUND = 60, 1e-13


def knots(rows: list[Row], reach: float, times: Array, pose: Array, solved: Callable[[Array], Array]) -> Array:
    """Moments (n,) s at which a contact passes a joint. `pose` (K, L, 7), positions in reach, are the stations at `times` (K,);
    `solved` gives poses at any moments (T,)."""
    moments: list[float] = []
    for row in rows:
        if row.curve is None or not len(row.curve.joints):
            continue
        here = touched(row, reach, pose)
        for joint in row.curve.joints:
            off = _apart(here, joint)
            moments += [float(times[k]) for k in np.flatnonzero(np.abs(off) < THERE)]
            passed = (off[:-1] * off[1:] < 0) & (np.abs(off[:-1] - off[1:]) < np.pi / 2)
            passed &= (np.abs(off[:-1]) >= THERE) & (np.abs(off[1:]) >= THERE)
            at = np.flatnonzero(passed)
            if len(at):
                ends = (times[at], times[at + 1]), (off[at], off[at + 1])
                moments += _closed_in(partial(_off, row, reach, float(joint), solved), *ends)
    return np.unique(moments)


def touched(row: Row, reach: float, pose: Array) -> Array:
    """The outline's parameter (P,) of what is touched, at poses (P, L, 7), positions in reach."""
    assert row.curve is not None
    cam, follower = pose[:, row.a], pose[:, row.b]
    origin, x, y, point = row.vectors[:4]
    across = [poses.rotate(cam[:, 3:], v) for v in (x, y)]
    if row.kind == "rest":
        z = poses.rotate(follower[:, 3:], row.vectors[4])
        return row.curve.support(np.stack([-(z * v).sum(axis=1) for v in across], axis=1)).at
    off = poses.place(_metres(follower, reach), point) - poses.place(_metres(cam, reach), origin)
    return row.curve.foot(np.stack([(off * v).sum(axis=1) for v in across], axis=1))


def _off(row: Row, reach: float, joint: float, solved: Callable[[Array], Array], times: Array) -> Array:
    return _apart(touched(row, reach, solved(times)), joint)


def _metres(pose: Array, reach: float) -> Array:
    return np.asarray(pose * np.array([reach] * 3 + [1.0] * 4))


def _apart(u: Array, joint: float) -> Array:
    """By how much parameters lie past a joint, within half a turn."""
    return np.asarray(np.mod(u - joint + np.pi, TURN) - np.pi)


def _closed_in(off: Callable[[Array], Array], times: tuple[Array, Array], ends: tuple[Array, Array]) -> list[float]:
    """Moments between both times (n,) at which `off` is nothing: the rule of false position, Illinois variant (Dowell and Jarratt,
    BIT 11 (1971); from memory)."""
    (low, high), (a, b) = times, ends
    at = low
    for _ in range(ROUNDS):
        at = (low * b - high * a) / (b - a)
        c = off(at)
        if np.abs(c).max() < FOUND:
            break
        same = np.sign(c) == np.sign(b)
        a, low = np.where(same, a / 2, b), np.where(same, low, high)
        high, b = at, c
    return [float(t) for t in at]

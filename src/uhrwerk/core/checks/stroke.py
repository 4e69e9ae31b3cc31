"""Strokes of a joint over the cycle: how far it travels, and how much longer one way takes than the other.

Ends of a stroke lie between frames: where the velocity changes its sign, found by Hermite interpolation of value and
rate. Time ratio as in Norton, Design of Machinery, section 3.3 (quick-return mechanisms). From memory.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.assembly.pose import Array
from uhrwerk.core.motion import Coordinate


@dataclass(frozen=True)
class Stroke:
    """value with its error, in the unit of what was asked, and the moment it was reached, s."""

    value: float
    error: float
    time: float


def reversals(c: Coordinate, times: Array) -> tuple[Array, Array]:
    """(n,) moments at which the coordinate turns back, and its values there.

    The rate between two frames is taken as the straight line that its end values and mean acceleration give, with one
    Newton step on the cubic; the error is of third order of a frame.
    """
    v, a, h = c.rate, c.acceleration, times[1] - times[0]
    at = np.flatnonzero((v[:-1] * v[1:] < 0) | ((v[:-1] == 0) & (v[1:] != 0) & (np.arange(len(v) - 1) > 0)))
    v0, v1, a0, a1 = v[at], v[at + 1], a[at] * h, a[at + 1] * h
    s = v0 / (v0 - v1)
    for _ in range(4):  # Newton on the cubic Hermite polynomial of the rate
        value = (1 + 2 * s) * (1 - s) ** 2 * v0 + s * (1 - s) ** 2 * a0 + s**2 * (3 - 2 * s) * v1 + s**2 * (s - 1) * a1
        slope = 6 * s * (s - 1) * (v0 - v1) + (1 - s) * (1 - 3 * s) * a0 + s * (3 * s - 2) * a1
        s = np.clip(s - value / np.where(np.abs(slope) > 1e-300, slope, 1.0), 0.0, 1.0)
    x0, x1 = c.value[at], c.value[at + 1]
    x = (1 + 2 * s) * (1 - s) ** 2 * x0 + s * (1 - s) ** 2 * v0 * h + s**2 * (3 - 2 * s) * x1 + s**2 * (s - 1) * v1 * h
    return times[at] + s * h, x


def travel(c: Coordinate, times: Array) -> Stroke:
    """The whole range of a coordinate over the cycle, and when its far end is reached."""
    when, ends = reversals(c, times)
    values, moments = np.concatenate([c.value, ends]), np.concatenate([times, when])
    return Stroke(float(np.ptp(values)), 1e-9, float(moments[int(np.argmax(values))]))


def time_ratio(c: Coordinate, times: Array) -> Stroke | None:
    """Time of the slow stroke over that of the fast one, for a coordinate that goes forth and back once a cycle."""
    when, _ = reversals(c, times)
    if len(when) != 2:
        return None
    one = when[1] - when[0]
    other = times[-1] - one
    ratio = max(one, other) / min(one, other)
    return Stroke(float(ratio), float(ratio * 1e-6), float(when[0]))


__all__ = ["Stroke", "reversals", "time_ratio", "travel"]

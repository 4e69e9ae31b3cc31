"""Strokes of a joint over the cycle: how far it travels, and how much longer one way takes than the other.

Ends of a stroke lie where the velocity changes its sign, between stations of the motion too. Time ratio as in Norton,
Design of Machinery, section 3.3 (quick-return mechanisms). From memory.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.motion import Coordinate, interpolated, reversals


@dataclass(frozen=True)
class Stroke:
    """value with its error, in the unit of what was asked, and the moment it was reached, s."""

    value: float
    error: float
    time: float


def travel(c: Coordinate) -> Stroke:
    """The whole range of a coordinate over the cycle, and when its far end is reached."""
    when, ends = reversals(c.whole)
    values, moments = np.concatenate([c.whole.value, ends]), np.concatenate([c.whole.times, when])
    return Stroke(float(np.ptp(values)), 1e-8, float(moments[int(np.argmax(values))]))


def time_ratio(c: Coordinate) -> Stroke | None:
    """Time of the slow strokes over that of the fast ones, for a coordinate that goes forth and back, once a cycle or as
    often in either direction."""
    when, _ = reversals(c.whole)
    end = float(c.whole.times[-1])
    if len(when) < 2 or len(when) % 2:
        return None
    marks = np.concatenate([[0.0], when, [end]])
    forth = interpolated(c.whole, (marks[:-1] + marks[1:]) / 2, 1) > 0
    one = float(np.diff(marks)[forth].sum())
    other = end - one
    ratio = max(one, other) / min(one, other)
    return Stroke(float(ratio), float(ratio * 1e-6), float(when[0]))


__all__ = ["Stroke", "time_ratio", "travel"]

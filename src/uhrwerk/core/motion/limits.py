"""Limits of joints, held against the whole cycle: which is passed, how far, and from when on."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from uhrwerk.core.assembly import Mechanism, Problem
from uhrwerk.core.motion.coordinate import Coordinate, CoordinateValues, interpolated, reversals
from uhrwerk.core.quantity import display


def beyond_limits(m: Mechanism, found_at: Mapping[str, Coordinate]) -> list[Problem]:
    """Joints that the cycle would take beyond their limits."""
    problems = []
    for c in found_at.values():
        joint = m.joints[c.joint]
        for name, least, most in joint.limits:
            if name != c.name:
                continue
            values = np.concatenate([c.whole.value, reversals(c.whole)[1]])
            over = np.maximum(values - most, least - values)
            at = int(np.argmax(over))
            if over[at] > 1e-7:
                dimension = "angle" if c.turning else "length"
                unit = m.document.unit_of(dimension)
                limit = most if values[at] > most else least
                reached, allowed = (display(float(v), dimension, unit) for v in (values[at], limit))
                words = f"{joint.name} would go to {reached}, beyond its limit of {allowed}, from {_first_beyond(c.whole, least, most):.3f} s on"
                if np.ptp(values) < 1e-9:
                    words = f"{joint.name} stands at {reached}, beyond its limit of {allowed}"
                problems.append(Problem(joint.path, words))
    return problems


def _first_beyond(v: CoordinateValues, least: float, most: float) -> float:
    """The first moment at which a coordinate leaves its limits, s."""
    fine = np.unique(np.concatenate([v.times, reversals(v)[0]]))
    over = np.maximum(interpolated(v, fine) - most, least - interpolated(v, fine))
    at = int(np.argmax(over > 1e-7))
    low, high = float(fine[max(0, at - 1)]), float(fine[at])
    for _ in range(50 if at else 0):
        middle = (low + high) / 2
        x = float(interpolated(v, np.array([middle]))[0])
        low, high = (low, middle) if max(x - most, least - x) > 0 else (middle, high)
    return high

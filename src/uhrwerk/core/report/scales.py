"""Axes of charts: from where to where, and the round values on them."""

from __future__ import annotations

from collections.abc import Sequence
from math import floor, log10


def extent(values: Sequence[float]) -> tuple[float, float]:
    """From where to where an axis goes that shows all values."""
    low, high = min(values), max(values)
    room = 0.06 * (high - low) or 0.1 * abs(high) or 1.0
    return low - room, high + room


def ticks(low: float, high: float) -> list[float]:
    """A few round values between two.

    >>> ticks(-0.2, 10.7)
    [0.0, 5.0, 10.0]
    """
    step = 10.0 ** floor(log10((high - low) / 2))
    step *= next(k for k in (1, 2, 5, 10) if (high - low) / (k * step) <= 4)
    first = -floor(-low / step)
    return [round(k * step, 9 - floor(log10(step))) + 0.0 for k in range(first, floor(high / step) + 1)]

"""A belt or chain round two wheels: its length, how far it wraps, the centre distance for a length.

Open and crossed belts: Shigley, Mechanical Engineering Design, section 17-2 (from memory). Both wheels' radii are those of the
line on which the belt neither stretches nor shortens.

>>> [round(x, 6) for x in wrapped(0.05, 0.1, 0.4, False)[1:]]  # half a turn less, and more, by 2 asin((R - r) / c)
[2.890931, 3.392254]
"""

from __future__ import annotations

from math import acos, inf, pi, sqrt

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

Array = NDArray[np.float64]


def wrapped(a: float, b: float, centres: float, crossed: bool) -> tuple[float, float, float]:
    """Length, m, and wrap on either wheel, rad, for two radii and a centre distance, m. ValueError where the wheels are so near
    that no belt lies straight between them."""
    over = a + b if crossed else a - b
    if abs(over) >= centres:
        raise ValueError("too near")
    lean = acos(over / centres)  # from the line of centres to where the belt leaves a
    on_a = 2 * pi - 2 * lean
    on_b = on_a if crossed else 2 * lean
    return 2 * sqrt(centres**2 - over**2) + a * on_a + b * on_b, on_a, on_b


def way(a: float, b: float, centres: float, crossed: bool, steps: int = 24) -> Array:
    """(n, 2) places along a belt's pitch line, m: wheel a about the origin, b at (centres, 0); it closes on itself."""
    over = a + b if crossed else a - b
    lean = acos(over / centres)
    on_a = np.linspace(lean, 2 * pi - lean, steps)
    on_b = np.linspace(pi - lean, lean - pi, steps) if crossed else np.linspace(-lean, lean, steps)
    first = a * np.stack([np.cos(on_a), np.sin(on_a)], axis=1)
    last = b * np.stack([np.cos(on_b), np.sin(on_b)], axis=1) + np.array([centres, 0.0])
    return np.concatenate([first, last, first[:1]])


def centres_for(a: float, b: float, length: float, crossed: bool) -> float | None:
    """The centre distance, m, at which a belt of a length is taut; None where it is too short for the wheels."""
    least = (a + b if crossed else abs(a - b)) * (1 + 1e-9) + 1e-9

    def over(c: float) -> float:
        return wrapped(a, b, c, crossed)[0] - length

    if not length < inf or over(least) > 0:
        return None
    return float(brentq(over, least, length, xtol=1e-12))

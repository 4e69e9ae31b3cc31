"""Laws whose acceleration is put together from pieces of sines and constants, integrated piece by piece."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from uhrwerk.core.laws.law import Array


@dataclass(frozen=True)
class Waves:
    """Pieces of acceleration from x = `knots[k]` on: sin(`speeds[k]` (x - knot) + `phases[k]`), constant where the speed is
    nothing. They are scaled so that a unit rise comes out."""

    knots: tuple[float, ...]
    speeds: tuple[float, ...]
    phases: tuple[float, ...]

    def _piece(self, k: int, u: Array, order: int) -> Array:
        """A piece's own part of a derivative, u after its beginning, unscaled."""
        w, p = self.speeds[k], self.phases[k]
        if w == 0:
            return np.asarray(np.sin(p) * (u**2 / 2, u, np.ones_like(u), np.zeros_like(u))[order])
        if order == 0:
            return np.asarray(np.cos(p) * u / w - (np.sin(w * u + p) - np.sin(p)) / w**2)
        if order == 1:
            return np.asarray((np.cos(p) - np.cos(w * u + p)) / w)
        return np.sin(w * u + p) if order == 2 else w * np.cos(w * u + p)

    @cached_property
    def begun(self) -> tuple[list[float], list[float], float]:
        """Value and rate where each piece begins, and the value at the end, unscaled."""
        value, rate, values, rates = 0.0, 0.0, [], []
        for k, (low, high) in enumerate(zip(self.knots, (*self.knots[1:], 1.0), strict=True)):
            values.append(value)
            rates.append(rate)
            u = np.array([high - low])
            value += rate * (high - low) + float(self._piece(k, u, 0)[0])
            rate += float(self._piece(k, u, 1)[0])
        return values, rates, value

    def at(self, x: Array, order: int) -> Array:
        values, rates, end = self.begun
        x = np.asarray(x, dtype=float)
        out = np.zeros_like(x)
        which = np.clip(np.searchsorted(self.knots, x, side="left") - 1, 0, len(self.knots) - 1)
        for k, low in enumerate(self.knots):
            mine = which == k
            u = x[mine] - low
            begun = (values[k] + rates[k] * u, rates[k], 0.0, 0.0)[order]
            out[mine] = self._piece(k, u, order) + begun
        return out / end

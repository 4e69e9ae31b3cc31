"""Values with their first and second derivative in time, carried through vector algebra (Taylor arithmetic).

A residual is written once with these operations; seeded with unit velocities it gives its Jacobian rows, seeded with
the links' velocities its rate and the part of its second derivative that does not hold accelerations.
Griewank and Walther, Evaluating Derivatives (2nd ed. 2008), ch. 13. From memory.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations.pose import cross as _cross

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Jet:
    """v, d, dd: value, first and second derivative; dd is None where it is not asked for."""

    v: Array
    d: Array
    dd: Array | None = None

    def __sub__(self, other: Jet | Array) -> Jet:
        if not isinstance(other, Jet):
            return Jet(self.v - other, self.d, self.dd)
        return Jet(
            self.v - other.v, self.d - other.d, None if self.dd is None or other.dd is None else self.dd - other.dd
        )

    def __add__(self, other: Jet) -> Jet:
        return Jet(
            self.v + other.v, self.d + other.d, None if self.dd is None or other.dd is None else self.dd + other.dd
        )

    def __mul__(self, factor: Array | float) -> Jet:
        return Jet(self.v * factor, self.d * factor, None if self.dd is None else self.dd * factor)


def dot(a: Jet, b: Jet) -> Jet:
    def each(p: Array, q: Array) -> Array:
        return np.asarray(np.einsum("...i,...i->...", p, q))

    d = each(a.d, b.v) + each(a.v, b.d)
    if a.dd is None or b.dd is None:
        return Jet(each(a.v, b.v), d)
    return Jet(each(a.v, b.v), d, each(a.dd, b.v) + 2 * each(a.d, b.d) + each(a.v, b.dd))


def times(a: Jet, b: Jet) -> Jet:
    d = a.d * b.v + a.v * b.d
    if a.dd is None or b.dd is None:
        return Jet(a.v * b.v, d)
    return Jet(a.v * b.v, d, a.dd * b.v + 2 * a.d * b.d + a.v * b.dd)


def cross(a: Jet, b: Jet) -> Jet:
    d = _cross(a.d, b.v) + _cross(a.v, b.d)
    if a.dd is None or b.dd is None:
        return Jet(_cross(a.v, b.v), d)
    return Jet(_cross(a.v, b.v), d, _cross(a.dd, b.v) + 2 * _cross(a.d, b.d) + _cross(a.v, b.dd))


def atan2(s: Jet, c: Jet) -> Jet:
    """The angle whose sine and cosine are proportional to s and c."""
    size = np.maximum(s.v**2 + c.v**2, 1e-300)
    d = (c.v * s.d - s.v * c.d) / size
    if s.dd is None or c.dd is None:
        return Jet(np.arctan2(s.v, c.v), d)
    return Jet(np.arctan2(s.v, c.v), d, (c.v * s.dd - s.v * c.dd) / size - 2 * d * (c.v * c.d + s.v * s.d) / size)


def scaled(vector: Jet, factor: Jet) -> Jet:
    """A vector times a number."""
    wide = Jet(factor.v[..., None], factor.d[..., None], None if factor.dd is None else factor.dd[..., None])
    return times(vector, wide)


def root(x: Jet) -> Jet:
    """The square root; where it is nothing, a corner, its derivatives count as nothing."""
    v = np.sqrt(np.maximum(x.v, 0.0))
    safe = np.where(v > 1e-12, v, np.inf)
    d = x.d / (2 * safe)
    return Jet(v, d) if x.dd is None else Jet(v, d, x.dd / (2 * safe) - d**2 / safe)

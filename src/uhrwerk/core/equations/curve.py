"""A closed plane curve: how far points lie off it, and how far it reaches in a direction, each with two derivatives.

The curve is a periodic spline of degree five through given points (de Boor, A Practical Guide to Splines, ch. 9), run through
counter-clockwise. Distance of a point, signed: less than zero inside. Its gradient is the normal at the foot of the
perpendicular, its second derivative k / (1 + k d) along the tangent, k the curvature there (do Carmo, Differential Geometry
of Curves and Surfaces, 1-7 and 3-3). The support function's gradient is the point that is touched, its second derivative the
radius of curvature (Santalo, Integral Geometry, I.1.2). From memory.

>>> import numpy as np
>>> angle = np.linspace(0, 2 * np.pi, 60, endpoint=False)
>>> ring = through(2 * np.stack([np.cos(angle), np.sin(angle)], axis=1))
>>> d = ring.distance(np.array([[3.0, 4.0]]))
>>> np.round(d.value, 6), np.round(d.gradient, 6)
(array([3.]), array([[0.6, 0.8]]))
"""

from __future__ import annotations

import hashlib
import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline, make_interp_spline
from scipy.spatial import cKDTree

Array = NDArray[np.float64]

DEGREE = 5
TURN = 2 * np.pi
#: of a polynomial and its two derivatives: which of the powers each coefficient stands with, and its factor
LOWERED = np.array([[0, 1, 2, 3, 4, 5], [1, 2, 3, 4, 5, 5], [2, 3, 4, 5, 5, 5]])
FALLING = np.array([[1, 1, 1, 1, 1, 1], [5, 4, 3, 2, 1, 0], [20, 12, 6, 2, 0, 0]])
#: places of the curve for each of its points, among which the nearest is looked for before Newton closes in
FINER = 3
#: steps of Newton at most; and after a step how small, as a part of a turn of the parameter, the next, its square, is nothing
ROUNDS, THERE = 30, 1e-9


@dataclass(frozen=True)
class Second:
    """Values (P,), gradients (P, 2) and second derivatives (P, 2, 2) of something over the plane; where on the curve, (P,)."""

    value: Array
    gradient: Array
    bend: Array
    at: Array


@dataclass(frozen=True, eq=False)
class Curve:
    """A closed curve by its spline over [0, 2 pi), in metres; told apart by the content of its points."""

    key: str
    spline: BSpline = field(repr=False)
    count: int = field(repr=False)

    @cached_property
    def _pieces(self) -> Array:
        """(n, 6, 2) the polynomials between neighbouring points, highest power first, over parts of an interval."""
        h = TURN / self.count
        u = np.arange(self.count) * h
        orders = range(DEGREE, -1, -1)  # the highest derivative is constant within an interval and jumps at its ends
        return np.stack(
            [self.spline(u + h / 2 * (k == DEGREE), k) * (h**k / math.factorial(k)) for k in orders], axis=1
        )

    @cached_property
    def _factors(self) -> Array:
        """(3, 6) what `along` multiplies the powers by: of the value, the first and the second derivative."""
        return FALLING * (self.count / TURN) ** np.arange(3)[:, None]

    def along(self, u: Array) -> tuple[Array, Array, Array]:
        """Points, first and second derivatives by the parameter, (P, 2) each."""
        x = np.mod(u, TURN) * (self.count / TURN)
        at = np.minimum(x.astype(np.int64), self.count - 1)
        powers = (x - at)[:, None] ** np.arange(DEGREE, -1, -1)
        found = (powers[:, LOWERED] * self._factors) @ self._pieces[at]
        return found[:, 0], found[:, 1], found[:, 2]

    def place(self, u: Array, order: int = 0) -> Array:
        """Points, or derivatives by the parameter, (P, 2)."""
        return np.asarray(self.spline(np.mod(u, TURN), order))

    @cached_property
    def looked(self) -> tuple[Array, Array, cKDTree]:
        u = np.linspace(0, TURN, FINER * self.count, endpoint=False)
        points = self.place(u)
        return u, points, cKDTree(points)

    def curvature(self, u: Array) -> Array:
        """Curvature (P,), above zero where it bulges."""
        _, d, dd = self.along(u)
        return _curvature(d, dd)

    def foot(self, p: Array) -> Array:
        """The parameter (P,) of the nearest place to each point (P, 2)."""
        u, _, tree = self.looked
        start = u[tree.query(p)[1]]

        def slope(x: Array) -> tuple[Array, Array]:
            here, d, dd = self.along(x)
            return _dot(here - p, d), _dot(d, d) + _dot(here - p, dd)

        return _closed_in(start, slope, TURN / len(u))

    def distance(self, p: Array) -> Second:
        """Signed distance of points (P, 2)."""
        u = self.foot(p)
        here, d, dd = self.along(u)
        tangent = d / np.hypot(*d.T)[:, None]
        normal = np.stack([tangent[:, 1], -tangent[:, 0]], axis=1)
        far = _dot(p - here, normal)
        k = _curvature(d, dd)
        bend = (k / (1 + k * far))[:, None, None] * tangent[:, :, None] * tangent[:, None, :]
        return Second(far, normal, bend, u)

    def support(self, m: Array) -> Second:
        """How far the curve reaches in directions (P, 2), times their length."""
        u, points, _ = self.looked
        start = u[np.argmax(points @ m.T, axis=0)]

        def slope(x: Array) -> tuple[Array, Array]:
            _, d, dd = self.along(x)
            return -_dot(d, m), -_dot(dd, m)

        found = _closed_in(start, slope, TURN / len(u))
        (touched, d, dd), size = self.along(found), np.hypot(*m.T)
        across = np.stack([-m[:, 1], m[:, 0]], axis=1) / size[:, None]
        rounded = 1 / (np.maximum(_curvature(d, dd), 1e-9) * size)
        return Second(
            _dot(touched, m), touched, rounded[:, None, None] * across[:, :, None] * across[:, None, :], found
        )

    def pieces(self, count: int) -> list[tuple[list[float], list[int], list[list[float]]]]:
        """The same curve in so many pieces, each as the kernel takes it: distinct knots, how often each counts, poles (n, 2)."""
        s = BSpline(self.spline.t, self.spline.c, DEGREE)
        cuts = np.linspace(0, TURN, count + 1)
        for cut in cuts:
            s = s.insert_knot(cut, m=DEGREE - int((np.abs(s.t - cut) < 1e-12).sum()))
        out = []
        for low, high in itertools.pairwise(cuts):
            inside = np.flatnonzero((s.t > low - 1e-9) & (s.t < high + 1e-9))
            knots, often = np.unique(np.round(s.t[inside], 13), return_counts=True)
            often[[0, -1]] = DEGREE + 1
            first = int(inside[DEGREE - 1]) - DEGREE
            out.append((knots.tolist(), often.tolist(), s.c[first : first + often.sum() - DEGREE - 1].tolist()))
        return out


def _curvature(d: Array, dd: Array) -> Array:
    return np.asarray((d[:, 0] * dd[:, 1] - d[:, 1] * dd[:, 0]) / np.hypot(*d.T) ** 3)


def _dot(a: Array, b: Array) -> Array:
    return np.asarray(a[..., 0] * b[..., 0] + a[..., 1] * b[..., 1])


def _closed_in(u: Array, slope: Callable[[Array], tuple[Array, Array]], step: float) -> Array:
    """Newton on a slope that is nothing at the place sought, kept within two steps of where it began."""
    low, high = u - 2 * step, u + 2 * step
    for _ in range(ROUNDS):
        g, dg = slope(u)
        move = np.where(dg > 0, -g / np.where(dg > 0, dg, 1.0), -np.sign(g) * step / 2)
        after = np.clip(u + move, low, high)
        done = np.abs(after - u).max(initial=0.0) < THERE * TURN
        u = after
        if done:
            break
    return u


_made: dict[str, Curve] = {}


def through(points: Array) -> Curve:
    """The closed curve through points (n, 2) m, evenly spread over the parameter, counter-clockwise."""
    points = np.ascontiguousarray(points, dtype=float)
    key = hashlib.sha256(points.tobytes()).hexdigest()[:32]
    if key not in _made:
        while len(_made) > 200:
            _made.pop(next(iter(_made)))
        u = np.linspace(0, TURN, len(points) + 1)
        spline = make_interp_spline(u, np.concatenate([points, points[:1]]), k=DEGREE, bc_type="periodic")
        _made[key] = Curve(key, spline, len(points))
    return _made[key]

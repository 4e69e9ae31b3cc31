"""A closed plane curve: how far points lie off it, and how far it reaches in a direction, each with two derivatives.

The curve is a spline of degree five through given points (de Boor, A Practical Guide to Splines, ch. 9), run through
counter-clockwise: a periodic one, or one of its own between every two joints, where its curvature may jump. Distance of a point, signed: less than zero inside. Its gradient is the normal at the foot of the
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
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline, PPoly, make_interp_spline
from scipy.spatial import cKDTree

from uhrwerk.core.cache import Cache

Array = NDArray[np.float64]

#: a slope (P,) and its derivative, of points of a curve and its first and second derivatives (P, 2)
Slope = Callable[[Array, Array, Array], tuple[Array, Array]]

DEGREE = 5
TURN = 2 * np.pi
#: places of a piece between two joints at least; how far beside a joint, rad, a piece is looked at; ends of pieces that are
#: farther apart than this, m, do not join
FEWEST, BESIDE, APART = 60, 1e-9, 1e-7
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
class PlaneCurve:
    """A closed curve by its splines over [0, 2 pi), in metres; told apart by the content of its points. `joints` (J,) are the
    parameters at which its curvature may jump; each spline runs from one to the next."""

    key: str
    splines: tuple[BSpline, ...] = field(repr=False)
    joints: Array = field(repr=False)

    @cached_property
    def _pieces(self) -> tuple[Array, Array]:
        """(n,) where pieces begin, and (n, 6, 2) their polynomials, highest power first, over parts of each."""
        starts, pieces = [], []
        for spline in self.splines:
            low, high = spline.t[DEGREE], spline.t[-DEGREE - 1]
            x, y = (PPoly.from_spline((spline.t, spline.c[:, k], DEGREE)) for k in (0, 1))
            whole = np.flatnonzero((np.diff(x.x) > 1e-13) & (x.x[:-1] > low - 1e-12) & (x.x[1:] < high + 1e-12))
            steps, powers = np.diff(x.x)[whole], np.stack([x.c[:, whole].T, y.c[:, whole].T], axis=2)
            starts.append(x.x[whole])
            pieces.append(powers * steps[:, None, None] ** np.arange(DEGREE, -1.0, -1)[:, None])
        return np.concatenate(starts), np.concatenate(pieces)

    @cached_property
    def _steps(self) -> Array:
        """(n,) how long each piece is."""
        starts = self._pieces[0]
        return np.diff(np.append(starts, starts[0] + TURN))

    @cached_property
    def _table(self) -> Array:
        """(n, 6, 6) by powers of the part of a piece, highest first: x, y and their first and second derivatives by the parameter."""
        powers = self._pieces[1]
        out = np.zeros((len(powers), DEGREE + 1, 6))
        for order in range(3):
            scale = self._steps[:, None] ** -float(order)
            for k in range(DEGREE + 1 - order):
                out[:, k + order, 2 * order : 2 * order + 2] = math.perm(DEGREE - k, order) * powers[:, k] * scale
        return out

    def _within(self, u: Array) -> tuple[NDArray[np.int64], Array]:
        """Piece (P,) and the part of it (P,) of parameters."""
        starts = self._pieces[0]
        x = np.mod(u - starts[0], TURN) + starts[0]
        at = np.asarray(np.searchsorted(starts, x, side="right") - 1, dtype=np.int64)
        return at, (x - starts[at]) / self._steps[at]

    def along(self, u: Array) -> tuple[Array, Array, Array]:
        """Points, first and second derivatives by the parameter, (P, 2) each."""
        at, x = self._within(u)
        powers = np.ones((len(x), DEGREE + 1))
        for k in range(DEGREE - 1, -1, -1):
            powers[:, k] = powers[:, k + 1] * x
        values = (powers[:, None] @ self._table[at])[:, 0]
        return values[:, :2], values[:, 2:4], values[:, 4:]

    def place(self, u: Array) -> Array:
        """Points (P, 2)."""
        return self.along(u)[0]

    @cached_property
    def samples(self) -> tuple[Array, tuple[Array, Array, Array], cKDTree]:
        """Parameters (n,) among which one is looked for, points and derivatives (n, 2) there, and the points as a tree."""
        u = (self._pieces[0][:, None] + self._steps[:, None] * np.arange(FINER) / FINER).ravel()
        places = self.along(u)
        return u, places, cKDTree(places[0])

    @property
    def reach(self) -> Array:
        """(n,) how far from the origin the places lie that are looked at, m."""
        return np.asarray(np.hypot(*self.samples[1][0].T))

    def curvature(self, u: Array) -> Array:
        """Curvature (P,), above zero where it bulges."""
        _, d, dd = self.along(u)
        return _curvature(d, dd)

    def foot(self, p: Array) -> Array:
        """The parameter (P,) of the nearest place to each point (P, 2)."""
        u, known, tree = self.samples
        nearest = tree.query(p)[1]

        def slope(here: Array, d: Array, dd: Array) -> tuple[Array, Array]:
            return _dot(here - p, d), _dot(d, d) + _dot(here - p, dd)

        return self._closed_in(u[nearest], slope(*(x[nearest] for x in known)), slope)

    def _closed_in(self, u: Array, first: tuple[Array, Array], slope: Slope) -> Array:
        """Newton on a slope that is nothing at the place sought, kept within two steps of where it began; `first` is the slope there."""
        step = float(self._steps.max()) / FINER
        low, high = u - 2 * step, u + 2 * step
        g, dg = first
        for _ in range(ROUNDS):
            move = np.where(dg > 0, -g / np.where(dg > 0, dg, 1.0), -np.sign(g) * step / 2)
            after = np.clip(u + move, low, high)
            done = np.abs(after - u).max(initial=0.0) < THERE * TURN
            u = after
            if done:
                break
            g, dg = slope(*self.along(u))
        return u

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
        u, known, _ = self.samples
        farthest = np.argmax(known[0] @ m.T, axis=0)

        def slope(here: Array, d: Array, dd: Array) -> tuple[Array, Array]:
            return -_dot(d, m), -_dot(dd, m)

        parameter = self._closed_in(u[farthest], slope(*(x[farthest] for x in known)), slope)
        (touched, d, dd), size = self.along(parameter), np.hypot(*m.T)
        across = np.stack([-m[:, 1], m[:, 0]], axis=1) / size[:, None]
        rounded = 1 / (np.maximum(_curvature(d, dd), 1e-9) * size)
        return Second(
            _dot(touched, m), touched, rounded[:, None, None] * across[:, :, None] * across[:, None, :], parameter
        )

    def pieces(self, count: int) -> list[tuple[list[float], list[int], list[list[float]]]]:
        """The same curve in so many pieces, each as the kernel takes it: distinct knots, how often each counts, poles (n, 2)."""
        even = np.linspace(0, TURN, count, endpoint=False)
        apart = np.abs(np.mod(even[:, None] - self.joints + np.pi, TURN) - np.pi).min(axis=1, initial=TURN)
        out: list[tuple[list[float], list[int], list[list[float]]]] = []
        for spline in self.splines:
            low, high = float(spline.t[DEGREE]), float(spline.t[-DEGREE - 1])
            every = np.concatenate([even + k * TURN for k in (-1, 0, 1)])
            far = np.tile(apart > TURN / count / 4, 3)
            inner = every[far & (every > low + 1e-9) & (every < high - 1e-9)]
            out += _cut(spline, np.concatenate([[low], inner, [high]]))
        for one, other in itertools.pairwise([*out, out[0]]):  # to the last digit
            one[2][-1] = other[2][0]
        return out


def _cut(spline: BSpline, cuts: Array) -> list[tuple[list[float], list[int], list[list[float]]]]:
    """A spline in pieces between places along it: distinct knots, how often each counts, poles (n, 2)."""
    s = BSpline(spline.t, spline.c, DEGREE)
    nearest = s.t[np.abs(s.t[:, None] - cuts).argmin(axis=0)]
    cuts = np.where(np.abs(nearest - cuts) < 1e-6, nearest, cuts)  # two knots that lie so close would make a kink
    for cut in cuts:
        there = int((np.abs(s.t - cut) < 1e-12).sum())
        if there < DEGREE:
            s = s.insert_knot(cut, m=DEGREE - there)
    out = []
    for low, high in itertools.pairwise(cuts):
        inside = np.flatnonzero((s.t > low - 1e-9) & (s.t < high + 1e-9))
        knots, often = np.unique(np.round(s.t[inside], 13), return_counts=True)
        often[[0, -1]] = DEGREE + 1
        last = int(np.flatnonzero(s.t < low + 1e-9)[-1])
        first = last - DEGREE
        out.append((knots.tolist(), often.tolist(), s.c[first : first + often.sum() - DEGREE - 1].tolist()))
    return out


def _curvature(d: Array, dd: Array) -> Array:
    return np.asarray((d[:, 0] * dd[:, 1] - d[:, 1] * dd[:, 0]) / np.hypot(*d.T) ** 3)


def _dot(a: Array, b: Array) -> Array:
    return np.asarray(a[..., 0] * b[..., 0] + a[..., 1] * b[..., 1])


#: curves by the hash of their contents, so that what is known of one is known of its equals
_CURVES: Cache[PlaneCurve] = Cache(200)


def through(points: Array) -> PlaneCurve:
    """The closed curve through points (n, 2) m, evenly spread over the parameter, counter-clockwise."""
    points = np.ascontiguousarray(points, dtype=float)
    key = hashlib.sha256(points.tobytes()).hexdigest()[:32]

    def fitted() -> PlaneCurve:
        u = np.linspace(0, TURN, len(points) + 1)
        spline = make_interp_spline(u, np.concatenate([points, points[:1]]), k=DEGREE, bc_type="periodic")
        return PlaneCurve(key, (spline,), np.zeros(0))

    return _CURVES.get(key, fitted)


def joined(places: Callable[[Array], Array], joints: Sequence[float], count: int) -> PlaneCurve:
    """The closed curve whose places (n, 2) m are known at parameters (n,) in [0, 2 pi), counter-clockwise, in pieces between joints,
    at which its curvature may jump; about `count` places all round. One smooth spline where there are no joints, or where pieces do
    not meet."""
    at = np.unique(np.round(np.mod(np.asarray(joints, dtype=float), TURN), 12))
    at = at[np.append(True, np.diff(at) > 1e-6)] if len(at) else at
    if len(at) > 1 and at[0] + TURN - at[-1] <= 1e-6:
        at = at[:-1]
    splines, ends = [], []
    for low, high in itertools.pairwise([*at, *(at[:1] + TURN)]):
        intervals = max(FEWEST, math.ceil(count * (high - low) / TURN))
        u = np.linspace(low + BESIDE, high - BESIDE, intervals + 1)
        spline = make_interp_spline(u, places(np.mod(u, TURN)), k=DEGREE)
        splines.append(spline)
        ends.append(spline(np.array([low, high])))
    gaps = [float(np.abs(one[1] - other[0]).max()) for one, other in itertools.pairwise([*ends, *ends[:1]])]
    if not splines or max(gaps) > APART:
        return through(places(np.linspace(0, TURN, count, endpoint=False)))
    content = b"".join(np.concatenate([s.t, s.c.ravel()]).tobytes() for s in splines)
    key = hashlib.sha256(content).hexdigest()[:32]
    return _CURVES.get(key, lambda: PlaneCurve(key, tuple(splines), at))

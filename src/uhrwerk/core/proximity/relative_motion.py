"""The motion of one body relative to another over a cycle, in its simplest form: at rest, turning about a fixed axis, in
mesh, or any way.

Each kind answers alike: `poses` (n, 7) of b in a at the middles of parts of its `cells`; where it does not rest, `pace`, the
velocity of b's origin and the angular velocity there, both (n, 3), and `bend` (n, 3), a bound along a's axes on the
acceleration of any point within `reach` (n,) of `centre` (n, 3) in b's frame, all per cell; `error` of all that, for points
so far from b's origin; `time` of a moment; a `key` to know it by.

A search halves the course into cells and asks two things of each: the pose in its middle, and how far any point can be
from there anywhere in the cell (`strays`): at most |v| d + a d^2 / 2, where d is half the cell, v the velocity in the
middle and a the bound on the acceleration. For a body that turns about a fixed axis a cell is an angle; what matters is
the set of angles, however fast or often they are passed. For any other motion a cell is an interval between two stations,
on which the motion is a polynomial in time, and the bound is from the polynomials' control points (a polynomial lies
within the hull of its Bernstein coefficients: Farin, Curves and Surfaces for CAGD, ch. 5). From memory.

What the search then states holds for the interpolated motion. `error` is how far that may be from the true one.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, replace
from math import comb
from typing import Any

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.motion.trajectory import along, quintic

Index = NDArray[np.int64]

#: poses, axes and angles closer than this are the same, m and rad: far above rounding, far below what is told apart
SAME = 1e-9
#: cells of a whole turn at first
CELLS = 24


def hashed(*what: Any) -> str:
    digest = hashlib.sha256()
    for one in what:
        if isinstance(one, np.ndarray):
            one = np.round(one / SAME).astype(np.int64).tobytes() + repr(one.shape).encode()
        elif not isinstance(one, bytes):
            one = repr(one).encode()
        digest.update(one + b"|")
    return digest.hexdigest()[:32]


def swung(omega: Array, sides: Array) -> Array:
    """(n, 3) bounds, along each axis, on the speed against its middle of any point of a box with half sides (n, 3) that
    turns with `omega`: the largest that a cross product can be."""
    w = np.abs(omega)
    return w[..., [1, 2, 0]] * sides[..., [2, 0, 1]] + w[..., [2, 0, 1]] * sides[..., [1, 2, 0]]


def strays(pace: tuple[Array, Array], bend: Array, half: Array, arm: Array, wide: Array) -> Array:
    """(n, 3) how far along a's axes any point of a box gets from its place in the middle of a part of a cell, within `half`
    (n,) of a cell. The box's middle is at `arm` (n, 3) from b's origin, its half sides along a's axes are `wide` (n, 3)."""
    velocity, omega = pace
    x = half[:, None]
    return np.asarray((np.abs(velocity + poses.cross(omega, arm)) + swung(omega, wide)) * x + bend * x**2 / 2)


def least(velocity: Array, omega: Array, bend: Array, half: float, n: Array, arms: Array) -> float:
    """The least that points at `arms` (k, 3) from b's origin get along n (3,), against that origin in the middle, within
    `half` of a cell: to second order, so that what moves across n comes no nearer for that."""
    (x, y, z), (u, v, w) = n.tolist(), omega.tolist()
    swing = np.array([y * w - z * v, z * u - x * w, x * v - y * u])
    return float((arms @ n - half * np.abs(arms @ swing + n @ velocity)).min() - np.abs(n) @ bend * half**2 / 2)


def rounded_up(error: float) -> float:
    """An error as the power of ten above it, so that rounding does not make two courses out of one."""
    return 0.0 if error <= 0 else float(10.0 ** np.ceil(np.log10(error)))


@dataclass(frozen=True)
class AtRest:
    """b does not move against a. Its one pose is (7,)."""

    pose: Array
    at: float = 0.0
    basis: str = "they do not move against one another"
    cells: int = 1
    rests: bool = True

    def poses(self, cell: Index, middle: Array) -> Array:
        return np.repeat(self.pose[None], len(cell), axis=0)

    def error(self, reach: float) -> float:
        return SAME

    def path(self) -> str:
        return self.key()

    def key(self) -> str:
        return hashed("resting", self.pose[:3], poses.matrix(self.pose[3:]))

    def time(self, cell: int, middle: float) -> float:
        return self.at


@dataclass(frozen=True)
class AtPoses:
    """b stands in turn at each of some poses (n, 7); nothing is said of what lies between."""

    many: Array
    times: Array
    basis: str
    rests: bool = True

    @property
    def cells(self) -> int:
        return len(self.many)

    def poses(self, cell: Index, middle: Array) -> Array:
        return self.many[cell]

    def error(self, reach: float) -> float:
        return SAME

    def path(self) -> str:
        return self.key()

    def key(self) -> str:
        return hashed("posed", self.many[:, :3], poses.matrix(self.many[:, 3:]), self.basis)

    def time(self, cell: int, middle: float) -> float:
        return float(self.times[cell])


@dataclass(frozen=True)
class AboutFixedAxis:
    """b turns about an axis that is fixed in a: from `pose` (7,) by angles from 0 to `span`, about `axis` through `foot`.

    `angles` (n,) and `times` (n,) tell when each angle is reached; angles repeat with `period` where the bodies do.
    """

    pose: Array
    axis: Array
    foot: Array
    span: float
    period: float
    times: Array
    angles: Array
    off: float = 0.0  # rad, of the angles
    rests: bool = False

    @property
    def basis(self) -> str:
        repeats = self.period < 2 * np.pi - SAME and self.span >= self.period - SAME
        return "bounded over every angle that is passed" + (
            ", one period of the teeth or copies known for all" if repeats else ""
        )

    @property
    def cells(self) -> int:
        return max(1, int(np.ceil(self.span / (2 * np.pi) * CELLS)))

    @property
    def axes(self) -> tuple[tuple[Array, Array], tuple[Array, Array]]:
        """The axis, a point and a direction, in a's frame and in b's."""
        back = poses.inverse(self.pose)
        return (self.foot, self.axis), (poses.place(back, self.foot), poses.rotate(back[3:], self.axis))

    def _angle(self, cell: Index, middle: Array) -> Array:
        return (cell + middle) * (self.span / self.cells)

    def poses(self, cell: Index, middle: Array) -> Array:
        turn = poses.turned(self._angle(cell, middle)[:, None] * self.axis)
        shift = self.foot + poses.rotate(turn, self.pose[:3] - self.foot)
        return np.concatenate([shift, poses.multiply(turn, np.broadcast_to(self.pose[3:], turn.shape))], axis=1)

    def pace(self, cell: Index, middle: Array, at: Array) -> tuple[Array, Array]:
        step = np.broadcast_to(self.axis * (self.span / self.cells), (len(cell), 3))
        return poses.cross(step, at[:, :3] - self.foot), step

    def bend(self, cell: Index, centre: Array, reach: Array) -> Array:
        off = poses.cross(self.axis, poses.place(self.pose, centre) - self.foot)
        across = np.sqrt(np.maximum(0.0, 1 - self.axis**2))  # nothing moves along the axis
        return np.asarray(((np.linalg.norm(off, axis=1) + reach) * (self.span / self.cells) ** 2)[:, None] * across)

    def error(self, reach: float) -> float:
        return SAME + self.off * reach

    def path(self) -> str:
        return replace(self, off=0.0).key()

    def key(self) -> str:
        turned = self.pose[:3], poses.matrix(self.pose[3:])
        return hashed("turning", *turned, self.axis, self.foot, np.array([self.span]), self.off)

    def time(self, cell: int, middle: float) -> float:
        """The first moment at which this angle is passed, or one at which everything looks the same."""
        wanted = float(self._angle(np.array([cell]), np.array([middle]))[0])
        gap = np.round((self.angles - wanted) / self.period)
        low, high = np.minimum(self.angles[:-1], self.angles[1:]), np.maximum(self.angles[:-1], self.angles[1:])
        k = np.ceil((low - wanted) / self.period - 1e-9)
        hits = np.flatnonzero(wanted + k * self.period <= high + 1e-9)
        if not len(hits):
            return float(self.times[int(np.argmin(np.abs(self.angles - wanted - gap * self.period)))])
        at = int(hits[0])
        span = self.angles[at + 1] - self.angles[at]
        part = 0.0 if span == 0 else (wanted + k[at] * self.period - self.angles[at]) / span
        return float(self.times[at] + np.clip(part, 0.0, 1.0) * (self.times[at + 1] - self.times[at]))


def _to_bernstein(degree: int) -> Array:
    return np.array(
        [[comb(i, j) / comb(degree, j) if j <= i else 0.0 for j in range(degree + 1)] for i in range(degree + 1)]
    )


FOURTH, THIRD = _to_bernstein(4), _to_bernstein(3)


class GeneralMotion:
    """b moves any way against a: stations (K,) with the pose, twist and its derivative of b's frame in a's."""

    rests = False

    def __init__(self, times: Array, pose: Array, twist: Array, rate: Array, error: Array) -> None:
        self.times, self.pose, self.twist, self.rate = times, pose, twist, rate
        self._error = np.array([rounded_up(e) for e in error])  # (2,) m, rad
        one = (pose[:, None], twist[:, None], rate[:, None])
        first, last = (tuple(x[k : len(x) - 1 + k] for x in one) for k in (0, 1))
        self.curve = quintic((first, last), np.diff(times))[:, :, 0]  # (K - 1, 6, 6), in fractions of an interval
        powers = np.arange(6.0)
        self.slope = self.curve[:, 1:] * powers[1:, None]  # (K - 1, 5, 6)
        bend = self.slope[:, 1:] * powers[1:5, None]
        first_hull = np.einsum("bp,kpi->kbi", FOURTH, self.slope)
        second_hull = np.einsum("bp,kpi->kbi", THIRD, bend)
        # bounds along each axis: on the angular velocity J(r) r' and on its derivative, J(r) r'' + J'(r) r'
        turn, bend = np.abs(first_hull[..., 3:]).max(axis=1), np.abs(second_hull[..., 3:]).max(axis=1)
        tilt = np.abs(poses.cross(first_hull[..., 3:], np.roll(first_hull[..., 3:], 1, axis=1))).max(axis=(1, 2))
        loose = (tilt > 1e-15)[:, None]  # the axis turns: no direction is spared
        most = np.linalg.norm(first_hull[..., 3:], axis=-1).max(axis=1)[:, None]
        most_bend = np.linalg.norm(second_hull[..., 3:], axis=-1).max(axis=1)[:, None] + most**2
        self._turn, self._bend = np.where(loose, most, turn), np.where(loose, most_bend, bend)
        self._shift = np.abs(second_hull[..., :3]).max(axis=1)

    @property
    def basis(self) -> str:
        return "bounded over the whole cycle, between frames too; the poses there are interpolated, and their error is estimated"

    @property
    def cells(self) -> int:
        return len(self.times) - 1

    def poses(self, cell: Index, middle: Array) -> Array:
        return poses.moved(self.pose[cell], along(self.curve[cell][:, :, None], middle)[:, 0])

    def pace(self, cell: Index, middle: Array, at: Array) -> tuple[Array, Array]:
        x = middle[:, None]
        slope, step = self.slope[cell], self.curve[cell]
        rate, here = slope[:, 4], step[:, 5]
        for power in (3, 2, 1, 0):
            rate = rate * x + slope[:, power]
        for power in (4, 3, 2, 1):
            here = here * x + step[:, power]
        return rate[:, :3], _left_jacobian(here[:, 3:] * x, rate[:, 3:])

    def bend(self, cell: Index, centre: Array, reach: Array) -> Array:
        far = np.repeat((np.linalg.norm(centre, axis=1) + reach)[:, None], 3, axis=1)
        turn = self._turn[cell]
        return np.asarray(self._shift[cell] + swung(self._bend[cell], far) + swung(turn, swung(turn, far)))

    def error(self, reach: float) -> float:
        return SAME + float(self._error[0] + self._error[1] * reach)

    def path(self) -> str:
        """A key of where b goes, however fast and however well that is known."""
        whole = float(self.times[-1]) or 1.0
        turned = self.pose[:, :3], poses.matrix(self.pose[:, 3:])
        return hashed("path", self.times / whole * 1e-3, *turned, self.twist * whole * 1e-3)

    def key(self) -> str:
        turned = self.pose[:, :3], poses.matrix(self.pose[:, 3:])
        return hashed("moving", self.times, *turned, self.twist * 1e-3, self._error.tolist())

    def time(self, cell: int, middle: float) -> float:
        return float(self.times[cell] + middle * (self.times[cell + 1] - self.times[cell]))


def _left_jacobian(r: Array, v: Array) -> Array:
    """J(r) v, (n, 3): the angular velocity of a rotation vector r that changes at the rate v."""
    angle = np.linalg.norm(r, axis=1, keepdims=True)
    small, t = angle < 1e-2, np.where(angle < 1e-2, 1.0, angle)
    b = np.where(small, 0.5 - angle**2 / 24, (1 - np.cos(t)) / t**2)
    c = np.where(small, 1 / 6 - angle**2 / 120, (t - np.sin(t)) / t**3)
    rv = poses.cross(r, v)
    return np.asarray(v + b * rv + c * poses.cross(r, rv))


RelativeMotion = AtRest | AtPoses | AboutFixedAxis | GeneralMotion

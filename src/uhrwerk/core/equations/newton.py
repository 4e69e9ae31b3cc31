"""Solving the equations of an assembly: one pose from far away, or a stack of poses from nearby guesses.

Gauss-Newton on least squares, damped so little that redundant but consistent equations do no harm and a loose part stays
where it is; far from a solution damped after Levenberg and Marquardt (Nocedal and Wright, Numerical Optimization,
2nd ed. 2006, sections 10.2-10.3). From memory.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations.blocks import Factors
from uhrwerk.core.equations.plane import Plane
from uhrwerk.core.equations.pose import moved
from uhrwerk.core.equations.rows import Rows

Array = NDArray[np.float64]
#: what a motion is followed by: rows in space, or in a plane
System = Rows | Plane

#: a pose is accepted when no residual is larger: metres (after scaling by reach) and radians
TOLERANCE = 1e-9
#: singular values below this part of the largest count as zero
RANK = 1e-8
#: factors serve for the next step too where a step, times the steepest way of a solution, is at most so much
NEAR = 1e-4
#: and for rates where their second refinement changes no more than this part: the third would change its power of 3/2
SETTLED = 1e-9
#: numbers of a stack of Jacobians solved in one go: more fit no cache
STACK = 130 * 24 * 18
#: and so many at least
FEWEST = 250


def _stack(rows: System) -> int:
    """How many poses are solved in one go."""
    return max(FEWEST, STACK // max(1, len(rows) * rows.width * (rows.links - 1)))


def _cut(stack: Array, most: int) -> list[Array]:
    return np.array_split(stack, -(-len(stack) // most))


def newton(rows: System, guess: Array, time: Array, rounds: int = 8) -> tuple[Array, Array]:
    """Poses (P, L, 7) from nearby guesses, and the largest residual (P,) that is left at each."""
    pose, worst, _ = corrected(rows, guess, time, rounds)
    return pose, worst


def corrected(rows: System, guess: Array, time: Array, rounds: int = 8) -> tuple[Array, Array, Array]:
    """The same, with the Jacobian (P, m, S, 6) there."""
    most = _stack(rows)
    if len(guess) > most:
        parts = [corrected(rows, g, t, rounds) for g, t in zip(_cut(guess, most), _cut(time, most), strict=True)]
        return (
            np.concatenate([p[0] for p in parts]),
            np.concatenate([p[1] for p in parts]),
            np.concatenate([p[2] for p in parts]),
        )
    return _corrected(rows, guess, time, rounds)[:3]


def _corrected(rows: System, guess: Array, time: Array, rounds: int = 8) -> tuple[Array, Array, Array, Factors | None]:
    """The same, with factors of a Jacobian near the last one, where there are such."""
    pose = guess
    residual = np.full(len(guess), np.inf)
    r, j = rows.value(pose, time)
    factors: Factors | None = None
    for _ in range(rounds):
        worst = np.abs(r).max(axis=1, initial=0.0)
        if np.all((worst < 1e-13) | (worst >= 0.5 * residual)) and np.all(worst < TOLERANCE):
            break
        residual = worst
        factors = Factors(rows.plan, j) if factors is None else factors.near(j)
        step = factors.least_squares(-r)
        pose = rows.moved(pose, step)
        if float(np.abs(step).max(initial=0.0)) * factors.steepest > NEAR:
            factors = None
        r, j = rows.value(pose, time)
    return pose, np.abs(r).max(axis=1, initial=0.0), j, factors


def followed(rows: System, guess: Array, time: Array) -> tuple[Array, Array, Array, Array]:
    """Poses from nearby guesses, the largest residual that is left at each, and velocities and accelerations there."""
    most, stacks = _stack(rows), []
    for g, t in zip(_cut(guess, most), _cut(time, most), strict=True):
        pose, residual, j, near = _corrected(rows, g, t)
        stacks.append((pose, residual, *_rates(rows, pose, t, j, near)))
    return tuple(np.concatenate(x) for x in zip(*stacks, strict=True))  # type: ignore[return-value]


def assemble(rows: Rows, start: Array, time: float = 0.0, rounds: int = 80) -> tuple[Array, float]:
    """One pose (L, 7) near `start` that satisfies the rows, and the largest residual left (above TOLERANCE: none found)."""
    pose, at = start[None], np.array([time])
    damping = 1e-3
    plan = rows.plan
    r, j = rows.value(pose, at)
    sizes: list[float] = []
    for _ in range(rounds):
        size = float(np.vdot(r, r))
        sizes.append(size)
        if np.abs(r).max(initial=0.0) < 1e-6:
            break
        if len(sizes) > 20 and size > 0.97 * sizes[-20]:  # it creeps into a minimum that is no solution
            return pose[0], float(np.abs(r).max(initial=0.0))
        scale = max(float(np.abs(j).max()) ** 2, 1e-12)
        while True:
            step = Factors(plan, j, damping * scale).least_squares(-r)
            longest = np.abs(step).max(initial=0.0)
            if longest > 0.5:  # no link turns by more than half a radian or moves by half the reach at once
                step *= 0.5 / longest
            trial = moved(pose, step)
            r_new, j_new = rows.value(trial, at)
            if float(np.vdot(r_new, r_new)) < size * (1 - 1e-6):
                pose, r, j = trial, r_new, j_new
                damping = max(damping / 5, 1e-10)
                break
            damping *= 6
            if damping > 1e8:
                return pose[0], float(np.abs(r).max(initial=0.0))
    final, worst = newton(rows, pose, at, rounds=12)
    return final[0], float(worst[0])


def rates(rows: System, pose: Array, time: Array, jacobian: Array | None = None) -> tuple[Array, Array]:
    """Velocities and accelerations (P, L, 6) of all links at times (P,), by differentiating the equations once and twice.
    The Jacobian (P, m, S, 6) at the poses may be given where it is known."""
    most = _stack(rows)
    if len(pose) > most:
        known = [None] * len(_cut(pose, most)) if jacobian is None else _cut(jacobian, most)
        parts = [rates(rows, p, t, j) for p, t, j in zip(_cut(pose, most), _cut(time, most), known, strict=True)]
        return np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts])
    return _rates(rows, pose, time, rows.value(pose, time)[1] if jacobian is None else jacobian)


def _rates(rows: System, pose: Array, time: Array, j: Array, near: Factors | None = None) -> tuple[Array, Array]:
    """The same, by factors of a Jacobian `near` to that at the poses where these do."""
    if near is not None:
        factors = near.near(j)
        velocity = factors.least_squares(rows.rate(time), refine=2)
        if factors.settled < SETTLED:
            acceleration = factors.least_squares(rows.acceleration(time) - rows.second(pose, velocity), refine=2)
            if factors.settled < SETTLED:
                return velocity, acceleration
    factors = Factors(rows.plan, j)
    velocity = factors.least_squares(rows.rate(time), refine=2)
    return velocity, factors.least_squares(rows.acceleration(time) - rows.second(pose, velocity), refine=2)


def null_space(jacobian: Array) -> tuple[Array, int]:
    """Orthonormal null vectors (n, k) of one Jacobian (m, n), and its rank."""
    if not jacobian.shape[0]:
        return np.eye(jacobian.shape[1]), 0
    _, s, vt = np.linalg.svd(jacobian)
    rank = int((s > RANK * max(s.max(initial=0.0), 1e-300)).sum())
    return vt[rank:].T, rank

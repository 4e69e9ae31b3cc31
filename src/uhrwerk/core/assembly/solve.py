"""Solving the equations of an assembly: one pose from far away, or a stack of poses from nearby guesses.

Gauss-Newton with rank-revealing least squares, so that redundant but consistent equations do no harm and a loose
part stays where it is; far from a solution damped after Levenberg and Marquardt (Nocedal and Wright, Numerical
Optimization, 2nd ed. 2006, sections 10.2-10.3). From memory.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly.pose import moved
from uhrwerk.core.assembly.rows import Rows

Array = NDArray[np.float64]

#: a pose is accepted when no residual is larger: metres (after scaling by reach) and radians
TOLERANCE = 1e-9
#: singular values below this part of the largest count as zero
RANK = 1e-8


def _free(step: Array, links: int) -> Array:
    """A step of the movable links as (..., L, 6), with the frame (link 0) standing still."""
    return np.concatenate([np.zeros((*step.shape[:-1], 1, 6)), step.reshape(*step.shape[:-1], links - 1, 6)], axis=-2)


def least_squares(jacobian: Array, right: Array) -> Array:
    """Smallest x with J x = right, for stacks: J (P, m, n), right (P, m) -> (P, n).

    Rank-revealing by singular values where J has no full column rank; else normal equations with one step of
    refinement, which is much faster on a stack and as accurate.
    """
    if not jacobian.shape[-1]:
        return np.zeros((len(jacobian), 0))
    normal = np.swapaxes(jacobian, 1, 2) @ jacobian
    try:
        with np.errstate(all="ignore"):
            inverse = np.linalg.inv(normal)
        scale = np.abs(normal).max(axis=(1, 2)) * np.abs(inverse).max(axis=(1, 2))
        sound = bool(np.all(np.isfinite(scale)) and scale.max() < 1e11)
    except np.linalg.LinAlgError:
        sound = False
    if not sound:
        return (np.linalg.pinv(jacobian, rcond=RANK) @ right[..., None])[..., 0]
    x = np.zeros((len(jacobian), jacobian.shape[-1], 1))
    for _ in range(2):
        x += inverse @ (np.swapaxes(jacobian, 1, 2) @ (right[..., None] - jacobian @ x))
    return x[..., 0]


def newton(rows: Rows, guess: Array, time: Array, rounds: int = 8) -> tuple[Array, Array]:
    """Poses (P, L, 7) from nearby guesses, and the largest residual (P,) that is left at each."""
    pose = guess
    left = np.full(len(guess), np.inf)
    for _ in range(rounds):
        r, j = rows.value(pose, time)
        worst = np.abs(r).max(axis=1, initial=0.0)
        if np.all((worst < 1e-13) | (worst >= 0.5 * left)) and np.all(worst < TOLERANCE):
            return pose, worst
        left = worst
        step = least_squares(j[:, :, 6:], -r)
        pose = moved(pose, _free(step, rows.links))
    r, _ = rows.value(pose, time)
    return pose, np.abs(r).max(axis=1, initial=0.0)


def assemble(rows: Rows, start: Array, time: float = 0.0, rounds: int = 80) -> tuple[Array, float]:
    """One pose (L, 7) near `start` that satisfies the rows, and the largest residual left (above TOLERANCE: none found)."""
    pose, at = start[None], np.array([time])
    damping = 1e-3
    r, j = rows.value(pose, at)
    for _ in range(rounds):
        size = float(np.vdot(r, r))
        if np.abs(r).max(initial=0.0) < 1e-6:
            break
        jm = j[0, :, 6:]
        u, s, vt = np.linalg.svd(jm, full_matrices=False)
        while True:
            step = -(vt.T * (s / (s**2 + damping * max(s[0], 1e-12) ** 2))) @ (u.T @ r[0])
            longest = np.abs(step).max(initial=0.0)
            if longest > 0.5:  # no link turns by more than half a radian or moves by half the reach at once
                step *= 0.5 / longest
            trial = moved(pose, _free(step[None], rows.links))
            r_new, j_new = rows.value(trial, at)
            if float(np.vdot(r_new, r_new)) < size * (1 - 1e-6):
                pose, r, j = trial, r_new, j_new
                damping = max(damping / 5, 1e-12)
                break
            damping *= 6
            if damping > 1e8:
                return pose[0], float(np.abs(r).max(initial=0.0))
    final, worst = newton(rows, pose, at, rounds=12)
    return final[0], float(worst[0])


def rates(rows: Rows, pose: Array) -> tuple[Array, Array]:
    """Velocities and accelerations (P, L, 6) of all links, by differentiating the equations once and twice."""
    _, j = rows.value(pose, np.zeros(len(pose)))
    free = j[:, :, 6:]
    velocity = _free(least_squares(free, np.broadcast_to(rows.rate, free.shape[:2])), rows.links)
    acceleration = _free(least_squares(free, -rows.second(pose, velocity)), rows.links)
    return velocity, acceleration


def null_space(jacobian: Array) -> tuple[Array, int]:
    """Orthonormal null vectors (n, k) of one Jacobian (m, n), and its rank."""
    if not jacobian.shape[0]:
        return np.eye(jacobian.shape[1]), 0
    _, s, vt = np.linalg.svd(jacobian)
    rank = int((s > RANK * max(s.max(initial=0.0), 1e-300)).sum())
    return vt[rank:].T, rank

"""Counterweights on links that turn about the frame: those that make the shaking force least over the cycle.

A mass at a radius on such a link pushes the frame by their product alone, so that the force at every moment is linear in these
products; the best are found by least squares. Where the links allow it, a four-bar with counterweights on both cranks shakes its frame
with no force at all (Berkof and Lowen, A new method for completely force balancing simple linkages, J. Eng. Ind. 91 (1969);
from memory).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from uhrwerk.core.balance.rotor import Rotor, rotors
from uhrwerk.core.balance.shaking import shaking
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.moments import moments

#: singular values below this part of the largest tell of links whose counterweights do the same
RANK = 1e-9


@dataclass(frozen=True)
class Counterweights:
    """For each joint mass times radius (2,) kg m along x and y of its rotor's frame; and the shaking force (T, 3) N at moments
    (T,) s with them and without."""

    moments: Mapping[str, Array]
    times: Array
    before: Array
    after: Array


def counterweights(e: Evaluation, joints: list[str] | None = None) -> Counterweights | None:
    """The best on what turns in these joints, or in all about axes of the frame; None where nothing moves."""
    shake, turning = shaking(e), rotors(e)
    if shake is None:
        return None
    chosen = [turning[j] for j in (turning if joints is None else joints) if j in turning]
    pose, velocity, acceleration = moments(e, shake.times)
    pushes = [_push(r, pose[:, r.link], velocity[:, r.link], acceleration[:, r.link]) for r in chosen]
    if not pushes:
        return Counterweights({}, shake.times, shake.force, shake.force)
    a = np.concatenate(pushes, axis=2)  # (T, 3, 2 k)
    wide = a.reshape(-1, a.shape[2])
    best = np.linalg.lstsq(wide, -shake.force.ravel(), rcond=RANK)[0]
    after = shake.force + a @ best
    weights = {r.joint: np.asarray(best[2 * k : 2 * k + 2], dtype=np.float64) for k, r in enumerate(chosen)}
    return Counterweights(weights, shake.times, shake.force, after)


def _push(r: Rotor, pose: Array, velocity: Array, acceleration: Array) -> Array:
    """(T, 3, 2) N on the frame for each kg m along x and y of the rotor's frame."""
    start = pose[0, 3:]
    out = []
    for axis in np.eye(3)[:2]:
        own = poses.rotate(poses.conjugate(start), poses.rotate(r.frame[3:], axis))
        arm = poses.rotate(pose[:, 3:], own)
        w, alpha = velocity[:, 3:], acceleration[:, 3:]
        out.append(-(np.cross(alpha, arm) + np.cross(w, np.cross(w, arm))))
    return np.stack(out, axis=2)

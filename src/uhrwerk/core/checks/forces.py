"""Forces in joints and contacts over the cycle: what must act so that the links move as they do.

Each equation between links acts on them along its own derivative; together these forces give every link's mass its
acceleration against springs (d'Alembert, with Lagrange's multipliers: Haug, Computer Aided Kinematics and Dynamics of
Mechanical Systems, 11.2; from memory). Without gravity, friction and play. Where joints hold more than they need, the
least forces are told; those of an equation that no other could replace are the same for any.
"""

from __future__ import annotations

from hashlib import sha256

import numpy as np

from uhrwerk.core.checks import springs
from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.checks.mass import lumps_of
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.motion.cycle import exactly


def multipliers(e: Evaluation, times: Array) -> tuple[list[str], Array]:
    """The owner of each equation, and what it does (T, m), N m for one of its unit (the mechanism's reach, or rad), at moments
    (T,) s; drivers too."""
    m = e.mechanism
    assert m is not None
    assert e.motion is not None
    rows = m.system(drives=True)
    pose, velocity, acceleration = moments(e, times)
    wanted = inertia_forces(e, pose, velocity, acceleration) - spring_forces(e, pose, times)
    wanted[..., :3] *= m.reach
    _, j = rows.value(m.scaled(pose), e.motion.track.folded(times))
    return [r.owner for r in rows.rows], _least(rows.dense(j)[:, :, 6:], wanted[:, 1:].reshape(len(times), -1, 1))[
        ..., 0
    ]


def _least(dense: Array, wanted: Array) -> Array:
    """The smallest x (T, m, 1) with J^T x = wanted (T, n, 1), for J (T, m, n); the nearest to it where some motion is free."""
    if dense.shape[1] >= dense.shape[2]:
        q, r = np.linalg.qr(dense)
        held = np.abs(np.diagonal(r, axis1=1, axis2=2))
        if held.min(initial=1.0) > 1e-6 * held.max(initial=0.0):
            return np.asarray(q @ np.linalg.solve(np.swapaxes(r, 1, 2), wanted))
    return np.asarray(np.linalg.pinv(np.swapaxes(dense, 1, 2), rcond=1e-10) @ wanted)


def moments(e: Evaluation, times: Array) -> tuple[Array, Array, Array]:
    """Poses (T, L, 7), velocities and accelerations (T, L, 6) at moments (T,) s, by the equations themselves, once."""
    m, motion = e.mechanism, e.motion
    assert m is not None
    assert motion is not None
    return e.once(f"moments {sha256(times.tobytes()).hexdigest()}", lambda: exactly(m, motion, times))


def contact_force(e: Evaluation, pair: str, times: Array) -> Array:
    """How hard a follower and its cam press on one another (T,), N, at moments (T,) s; below zero where they would part."""
    assert e.mechanism is not None
    owners, found = multipliers(e, times)
    return np.asarray(found[:, owners.index(f"pairs.{pair}")] / e.mechanism.reach)


def inertia_forces(e: Evaluation, pose: Array, velocity: Array, acceleration: Array) -> Array:
    """(T, L, 6) force and torque about each link's origin that its parts need to move so."""
    m, document = e.mechanism, e.document
    assert m is not None
    out = np.zeros_like(velocity)
    for p, solid in e.solids.items():
        link = m.link_of[p]
        if link == 0 or document.placed[p].left_out:
            continue
        local = np.asarray(m.links[link].local[p])
        here = poses.compose(pose[:, link], local)
        turn = poses.matrix(here[:, 3:])
        omega, alpha = velocity[:, link, 3:], acceleration[:, link, 3:]
        for lump in lumps_of(document, p, solid):
            arm = poses.place(here, lump.centre) - pose[:, link, :3]
            moved = acceleration[:, link, :3] + np.cross(alpha, arm) + np.cross(omega, np.cross(omega, arm))
            force = lump.mass * moved
            inertia = turn @ lump.inertia @ np.swapaxes(turn, 1, 2)
            spin = (inertia @ omega[..., None])[..., 0]
            torque = (inertia @ alpha[..., None])[..., 0] + np.cross(omega, spin)
            out[:, link, :3] += force
            out[:, link, 3:] += torque + np.cross(arm, force)
    return out


def spring_forces(e: Evaluation, pose: Array, times: Array) -> Array:
    """(T, L, 6) force and torque about each link's origin by springs."""
    m = e.mechanism
    assert m is not None
    out = np.zeros((len(pose), pose.shape[1], 6))
    for i in springs.every(e):
        run = springs.pressing(e, i, pose, times)
        push = run.along * run.push[:, None]
        for sign, at in zip((-1.0, 1.0), e.document.pairs[i].at, strict=True):  # both along one line
            link = m.link_of[at.placed]
            out[:, link, :3] += sign * push
            out[:, link, 3:] += np.cross(run.at - pose[:, link, :3], sign * push)
    for i in springs.every_winding(e):
        found = springs.wound(e, i, times)
        assert found is not None
        for sign, at in zip((-1.0, 1.0), e.document.pairs[i].at, strict=True):
            out[:, m.link_of[at.placed], 3:] += sign * found.torque[:, None] * found.axis
    return out

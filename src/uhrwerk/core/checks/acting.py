"""What acts on links over the cycle besides what holds them: inertia, springs, loads, weight.

Each is (T, L, 6): force, N, and torque about the link's origin, N m, in the world, at poses (T, L, 7).
"""

from __future__ import annotations

from collections.abc import Iterator
from hashlib import sha256

import numpy as np

from uhrwerk.core.checks import springs
from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.checks.mass import Lump, lumps_of
from uhrwerk.core.document.document import DIRECTIONS
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.joints import Load
from uhrwerk.core.motion.cycle import exactly

#: standard acceleration of free fall, m/s2 (ISO 80000-3)
FREE_FALL = 9.80665


def moments(e: Evaluation, times: Array) -> tuple[Array, Array, Array]:
    """Poses (T, L, 7), velocities and accelerations (T, L, 6) at moments (T,) s, by the equations themselves, once."""
    m, motion = e.mechanism, e.motion
    assert m is not None
    assert motion is not None
    return e.once(f"moments {sha256(times.tobytes()).hexdigest()}", lambda: exactly(m, motion, times))


def inertia(e: Evaluation, pose: Array, velocity: Array, acceleration: Array) -> Array:
    """What each link's parts need to move so."""
    out = np.zeros_like(velocity)
    for link, lump, here, arm in _lumps(e, pose):
        turn = poses.matrix(here[:, 3:])
        omega, alpha = velocity[:, link, 3:], acceleration[:, link, 3:]
        force = lump.mass * (acceleration[:, link, :3] + np.cross(alpha, arm) + np.cross(omega, np.cross(omega, arm)))
        tensor = turn @ lump.inertia @ np.swapaxes(turn, 1, 2)
        spin = (tensor @ omega[..., None])[..., 0]
        torque = (tensor @ alpha[..., None])[..., 0] + np.cross(omega, spin)
        out[:, link, :3] += force
        out[:, link, 3:] += torque + np.cross(arm, force)
    return out


def acting(e: Evaluation, pose: Array, velocity: Array, times: Array) -> Array:
    """Springs, loads and weight together."""
    return _springs(e, pose, times) + _loads(e, pose, velocity) + _weight(e, pose)


def _lumps(e: Evaluation, pose: Array) -> Iterator[tuple[int, Lump, Array, Array]]:
    """Every mass that moves or may move: its link, it, its part's pose (T, 7), and its centre from the link's origin (T, 3) m."""
    m, document = e.mechanism, e.document
    assert m is not None
    for p, solid in e.solids.items():
        link = m.link_of[p]
        if link == 0 or document.placed[p].left_out:
            continue
        here = poses.compose(pose[:, link], np.asarray(m.links[link].local[p]))
        for lump in lumps_of(document, p, solid):
            yield link, lump, here, poses.place(here, lump.centre) - pose[:, link, :3]


def _weight(e: Evaluation, pose: Array) -> Array:
    out = np.zeros((*pose.shape[:2], 6))
    down = DIRECTIONS.get(e.document.cycle.weight)
    if down is not None:
        for link, lump, _, arm in _lumps(e, pose):
            force = lump.mass * FREE_FALL * np.array(down)
            out[:, link, :3] += force
            out[:, link, 3:] += np.cross(arm, force)
    return out


def _loads(e: Evaluation, pose: Array, velocity: Array) -> Array:
    m, out = e.mechanism, np.zeros((*pose.shape[:2], 6))
    assert m is not None
    for i, load in e.document.pairs.items():
        if not isinstance(load, Load) or not springs.there(e, i):
            continue
        a, b = (m.place(at) for at in load.at)
        (one, _), (other, moved) = (_carried(p.link, p.frame, pose, velocity) for p in (a, b))
        still = _carried(a.link, a.frame, pose, velocity, other[:, :3])[1]  # a's body where b's place is
        force, torque = load.wrench(numbers(load, e.document.scope()), one, other, moved - still)
        for sign, link in ((-1.0, a.link), (1.0, b.link)):  # both in one line
            out[:, link, :3] += sign * force
            out[:, link, 3:] += sign * (torque + np.cross(other[:, :3] - pose[:, link, :3], force))
    return out


def _carried(link: int, frame: Array, pose: Array, velocity: Array, at: Array | None = None) -> tuple[Array, Array]:
    """A frame on a link (T, 7), and how the link's body moves there, or at places (T, 3): velocity and turning (T, 6)."""
    here = poses.compose(pose[:, link], np.broadcast_to(frame, (len(pose), 7)))
    omega = velocity[:, link, 3:]
    arm = (here[:, :3] if at is None else at) - pose[:, link, :3]
    return here, np.hstack([velocity[:, link, :3] + np.cross(omega, arm), omega])


def _springs(e: Evaluation, pose: Array, times: Array) -> Array:
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

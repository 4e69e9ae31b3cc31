"""Forces applied to links over the cycle, other than those of joints: inertia, springs, loads, weight.

Each is (T, L, 6): force, N, and torque about the link's origin, N m, in the world, at poses (T, L, 7).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly.mass_properties import lumps_of
from uhrwerk.core.document.document import DIRECTIONS
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.forces import springs
from uhrwerk.core.joints import Load
from uhrwerk.core.stages.evaluation import Evaluation

#: standard acceleration of free fall, m/s2 (ISO 80000-3)
FREE_FALL = 9.80665


def inertia(e: Evaluation, pose: Array, velocity: Array, acceleration: Array) -> Array:
    """What each link's parts need to move so."""
    m = _masses(e)
    here, arm = m.stand(pose)
    turn = poses.matrix(here[..., 3:])
    omega, alpha = velocity[:, m.link, 3:], acceleration[:, m.link, 3:]
    pull = acceleration[:, m.link, :3] + poses.cross(alpha, arm) + poses.cross(omega, poses.cross(omega, arm))
    force = m.mass[:, None] * pull
    tensor = turn @ m.inertia @ np.swapaxes(turn, -1, -2)
    spin = (tensor @ omega[..., None])[..., 0]
    torque = (tensor @ alpha[..., None])[..., 0] + poses.cross(omega, spin) + poses.cross(arm, force)
    return m.together(np.concatenate([force, torque], axis=-1), velocity.shape)


def acting(e: Evaluation, pose: Array, velocity: Array, times: Array) -> Array:
    """Springs, loads and weight together."""
    return _springs(e, pose, times) + _loads(e, pose, velocity) + _weight(e, pose)


@dataclass(frozen=True)
class _Masses:
    """Every mass that moves or may move: its link (n,), its part's pose in that (n, 7), mass (n,) kg, centre (n, 3) m and inertia (n, 3, 3)
    kg m2 about it in the part's frame."""

    link: NDArray[np.int64]
    local: Array
    mass: Array
    centre: Array
    inertia: Array

    def stand(self, pose: Array) -> tuple[Array, Array]:
        """Where their parts are (T, n, 7), and their centres from their links' origins (T, n, 3) m, at poses (T, L, 7)."""
        here = poses.compose(pose[:, self.link], self.local)
        return here, poses.place(here, self.centre) - pose[:, self.link, :3]

    def together(self, wrench: Array, shape: tuple[int, ...]) -> Array:
        """What acts on each (T, n, 6) as what acts on each link, of that shape (T, L, 6)."""
        out = np.zeros(shape)
        for k, link in enumerate(self.link):
            out[:, link] += wrench[:, k]
        return out


def _masses(e: Evaluation) -> _Masses:
    return e.once("masses of links", lambda: _all_masses(e))


def _all_masses(e: Evaluation) -> _Masses:
    m, document = e.mechanism, e.document
    every = [
        (m.link_of[p], np.asarray(m.links[m.link_of[p]].local[p]), lump)
        for p, solid in e.solids.items()
        if m.link_of[p] != 0 and not document.placed[p].left_out
        for lump in lumps_of(document, p, solid)
    ]
    return _Masses(
        np.array([link for link, _, _ in every], dtype=np.int64),
        np.array([local for _, local, _ in every]).reshape(-1, 7),
        np.array([lump.mass for *_, lump in every]),
        np.array([lump.centre for *_, lump in every]).reshape(-1, 3),
        np.array([lump.inertia for *_, lump in every]).reshape(-1, 3, 3),
    )


def _weight(e: Evaluation, pose: Array) -> Array:
    down = DIRECTIONS.get(e.document.cycle.weight)
    shape = (*pose.shape[:2], 6)
    if down is None:
        return np.zeros(shape)
    m = _masses(e)
    _, arm = m.stand(pose)
    force = np.broadcast_to(m.mass[:, None] * FREE_FALL * np.array(down), arm.shape)
    return m.together(np.concatenate([force, poses.cross(arm, force)], axis=-1), shape)


def _loads(e: Evaluation, pose: Array, velocity: Array) -> Array:
    m, out = e.mechanism, np.zeros((*pose.shape[:2], 6))
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
    out = np.zeros((len(pose), pose.shape[1], 6))
    for i in springs.every(e):
        run = springs.linear(e, i, pose, times)
        push = run.along * run.push[:, None]
        for sign, at in zip((-1.0, 1.0), e.document.pairs[i].at, strict=True):  # both along one line
            link = m.link_of[at.placed]
            out[:, link, :3] += sign * push
            out[:, link, 3:] += np.cross(run.at - pose[:, link, :3], sign * push)
    for i in springs.every_winding(e):
        wound = springs.torsional(e, i, times)
        assert wound is not None
        for sign, at in zip((-1.0, 1.0), e.document.pairs[i].at, strict=True):
            out[:, m.link_of[at.placed], 3:] += sign * wound.torque[:, None] * wound.axis
    return out

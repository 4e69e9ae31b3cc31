"""Springs over the cycle: their lengths and forces, their angles and torques."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.joints import spring, torsion_spring
from uhrwerk.core.joints.spring import SpringPair
from uhrwerk.core.joints.torsion_spring import TorsionSpringPair

#: moments of the cycle looked at
MOMENTS = 720


@dataclass(frozen=True)
class Run:
    """A spring at moments (T,) s: where both its ends are (T, 3) m, its length (T,) m and force (T,) N."""

    times: Array
    a: Array
    b: Array
    length: Array
    force: Array


def ends(e: Evaluation, pair: str, pose: Array) -> tuple[Array, Array]:
    """Both ends (T, 3) of a spring at poses (T, L, 7), m."""
    m = e.mechanism
    assert m is not None
    places = [m.place(at.placed, at.datum) for at in e.document.pairs[pair].at]
    one, other = (poses.compose(pose[:, p.link], p.frame)[:, :3] for p in places)
    return one, other


def run(e: Evaluation, pair: str, times: Array | None = None) -> Run | None:
    """A spring over the cycle; None where nothing is known of the motion, or an end is missing."""
    m, asked = e.mechanism, e.document.pairs[pair]
    if m is None or e.motion is None or not _there(e, pair):
        return None
    at = np.linspace(0, e.motion.duration, MOMENTS + 1) if times is None else times
    a, b = ends(e, pair, e.motion.between(at))
    length, n = np.linalg.norm(b - a, axis=1), numbers(asked, e.document.scope())
    return Run(at, a, b, length, np.array([spring.force(n, float(x)) for x in length]))


@dataclass(frozen=True)
class Wound:
    """A torsion spring at moments (T,) s: how far b has turned from its start (T,) rad, the torque on it (T,) N m, and the axis
    (T, 3) in the world."""

    times: Array
    turned: Array
    torque: Array
    axis: Array


def wound(e: Evaluation, pair: str, times: Array | None = None) -> Wound | None:
    """A torsion spring over the cycle; None where nothing is known of the motion, or an end is missing."""
    m, asked = e.mechanism, e.document.pairs[pair]
    if m is None or e.motion is None or not _there(e, pair):
        return None
    at = np.linspace(0, e.motion.duration, MOMENTS + 1) if times is None else times
    # turns are counted along the stations, which follow the motion
    every_ = np.union1d(np.union1d(e.motion.track.folded(e.motion.track.times), [0.0]), e.motion.track.folded(at))
    a, b = (m.place(end.placed, end.datum) for end in asked.at)
    pose = e.motion.track.at(every_)
    one, other = (poses.compose(pose[:, p.link], p.frame) for p in (a, b))
    z = poses.rotate(one[:, 3:], np.array([0.0, 0, 1]))
    seen = poses.multiply(poses.conjugate(one[:, 3:]), other[:, 3:])
    since = poses.multiply(seen, poses.conjugate(seen[:1]))
    angle = np.unwrap(2 * np.arctan2(since[:, 3], since[:, 0]))
    angle -= angle[0]
    where = np.searchsorted(every_, e.motion.track.folded(at))
    gain = angle[-1] if e.motion.track.period is not None else 0.0
    rounds = 0.0 if e.motion.track.period is None else np.floor(at / e.motion.track.period + 1e-12)
    turned = angle[where] + rounds * gain
    n = numbers(asked, e.document.scope())
    return Wound(at, turned, np.array([torsion_spring.torque(n, float(x)) for x in turned]), z[where])


def _there(e: Evaluation, pair: str) -> bool:
    assert e.mechanism is not None
    return all(at.datum in e.mechanism.datums.get(at.placed, {}) for at in e.document.pairs[pair].at)


def every(e: Evaluation) -> list[str]:
    """Springs between two places whose datums are there."""
    return [i for i, p in e.document.pairs.items() if isinstance(p, SpringPair) and _there(e, i)]


def every_torsion(e: Evaluation) -> list[str]:
    return [i for i, p in e.document.pairs.items() if isinstance(p, TorsionSpringPair) and _there(e, i)]

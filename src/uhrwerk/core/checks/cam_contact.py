"""Where a follower touches its cam: the pressure angle over the cycle.

The pressure angle is that between the common normal and the way which the follower's own joint leaves to what is pushed: the
roller's centre, or the place of a flat face that is touched (Norton, Cam Design and Manufacturing Handbook, 7.1; from memory).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.elements.cams import plate_cam
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.joints.cam_pair import CamPair

#: moments looked at, and of the worst ones how many are closed in on, with how many moments in how many rounds
MOMENTS, WORST, FINE, ROUNDS = 3600, 4, 41, 4


@dataclass(frozen=True)
class Pressure:
    """The largest pressure angle, rad, and when, s; and its course: moments (T,) and angles (T,)."""

    value: float
    time: float
    times: Array
    angles: Array


def pressure(e: Evaluation, pair: str) -> Pressure | None:
    """Over the whole motion; None where there is none, or where no single joint guides the follower."""
    return e.once(f"pressure of {pair}", lambda: _pressure(e, pair))


def _pressure(e: Evaluation, pair: str) -> Pressure | None:
    m = e.mechanism
    if m is None or e.motion is None or not e.motion.moving or f"pairs.{pair}" not in {r.owner for r in m.rows}:
        return None
    times = np.linspace(0, e.motion.period, MOMENTS + 1)
    angles = at(e, pair, times)
    if angles is None:
        return None
    best, when, step = float(angles.max()), float(times[int(np.argmax(angles))]), float(times[1])
    middle = times[np.argsort(-angles)[:WORST]]
    low, high = np.maximum(0.0, middle - step), np.minimum(e.motion.period, middle + step)
    for _ in range(ROUNDS):
        fine = np.linspace(low, high, FINE)  # (FINE, WORST)
        found = at(e, pair, fine.ravel())
        assert found is not None
        here, n = found.reshape(fine.shape), np.argmax(found.reshape(fine.shape), axis=0)
        if here.max() > best:
            best, when = float(here.max()), float(fine.ravel()[int(np.argmax(found))])
        every = np.arange(len(middle))
        low, high = fine[np.maximum(0, n - 1), every], fine[np.minimum(FINE - 1, n + 1), every]
    return Pressure(best, when, times, angles)


def at(e: Evaluation, pair: str, times: Array) -> Array | None:
    """Pressure angles (T,), rad, at moments (T,)."""
    m, asked = e.mechanism, e.document.pairs[pair]
    assert m is not None
    assert e.motion is not None
    assert isinstance(asked, CamPair)
    cam, follower = (m.place(end) for end in asked.at)
    guide = [h for h in m.held.values() if follower.link in (h.a, h.b) and h.kind in ("prismatic", "revolute")]
    guide = [h for h in guide if h.a == 0 or h.b == 0] or guide
    if not guide or cam.link == follower.link:
        return None
    sizes = numbers(e.document.parts[e.document.placed[asked.a.placed].part].element, e.document.scope())
    curve = plate_cam.curve(sizes)
    pose = e.motion.between(times)
    on = poses.compose(pose[:, cam.link], cam.frame)
    there = poses.compose(pose[:, follower.link], follower.frame)
    if follower.datum.kind == "plane":
        out = poses.rotate(there[:, 3:], np.array([0.0, 0, 1]))
        touched = curve.support(-poses.rotate(poses.conjugate(on[:, 3:]), out)[:, :2])
        pushed, normal = _world(on, curve.place(touched.at)), -out
    else:
        local = poses.place(poses.inverse(on), there[:, :3])[:, :2]
        pushed, normal = there[:, :3], _turned(on, curve.distance(local).gradient)
    h = guide[0]
    frame = poses.compose(pose[:, h.a], h.frame_a)
    z = poses.rotate(frame[:, 3:], np.array([0.0, 0, 1]))
    way = z if h.kind == "prismatic" else np.cross(z, pushed - frame[:, :3])
    size = np.linalg.norm(way, axis=1)
    cosine = np.abs((way * normal).sum(axis=1)) / np.maximum(size, 1e-300)
    return np.asarray(np.arccos(np.clip(cosine, 0.0, 1.0)))


def _turned(frame: Array, plane: Array) -> Array:
    """Vectors (T, 2) of a frame's xy plane in the world (T, 3)."""
    return np.asarray(poses.rotate(frame[:, 3:], np.concatenate([plane, np.zeros((len(plane), 1))], axis=1)))


def _world(frame: Array, plane: Array) -> Array:
    return np.asarray(frame[:, :3] + _turned(frame, plane))

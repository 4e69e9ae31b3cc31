"""The pressure angle of cam and follower over the cycle.

The pressure angle is that between the common normal and the way which the follower's own joint leaves to what is pushed: the
roller's centre, or the place of a flat face that is touched (Norton, Cam Design and Manufacturing Handbook, 7.1; from memory).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.elements.cams import plate_cam
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.joints import JointFrame, ResolvedJoint
from uhrwerk.core.joints.cam_pair import CamPair
from uhrwerk.core.motion.extremes import Extremes
from uhrwerk.core.part.design import element_of
from uhrwerk.core.stages.cycle_extremes import over_cycle
from uhrwerk.core.stages.evaluation import Evaluation

#: moments that are drawn
MOMENTS = 720
#: an axis so near to a roller's middle, m, is its own pin's
SAME = 1e-7


@dataclass(frozen=True)
class Pressure:
    """The largest pressure angle, rad, and its course: moments (T,) and angles (T,)."""

    most: Extremes
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

    def value(moments: Array) -> Array:
        angles = at(e, pair, moments)
        assert angles is not None
        return angles

    return Pressure(over_cycle(e, value), times, angles)


def at(e: Evaluation, pair: str, times: Array) -> Array | None:
    """Pressure angles (T,), rad, at moments (T,)."""
    m, stated_pair = e.mechanism, e.document.pairs[pair]
    assert isinstance(stated_pair, CamPair)
    cam, follower = (m.place(end) for end in stated_pair.at)
    h = _guide(m, follower, e.moved.motion.track.pose[0])
    if h is None or cam.link == follower.link:
        return None
    sizes = numbers(element_of(e.document, stated_pair.a.placed), e.document.scope())
    curve = plate_cam.curve(sizes)
    pose = e.moved.motion.between(times)
    on = poses.compose(pose[:, cam.link], cam.frame)
    there = poses.compose(pose[:, follower.link], follower.frame)
    if follower.datum.kind == "plane":
        out = poses.rotate(there[:, 3:], np.array([0.0, 0, 1]))
        touched = curve.support(-poses.rotate(poses.conjugate(on[:, 3:]), out)[:, :2])
        pushed, normal = _world(on, curve.place(touched.at)), -out
    else:
        local = poses.place(poses.inverse(on), there[:, :3])[:, :2]
        pushed, normal = there[:, :3], _turned(on, curve.distance(local).gradient)
    frame = poses.compose(pose[:, h.a], h.frame_a)
    z = poses.rotate(frame[:, 3:], np.array([0.0, 0, 1]))
    way = z if h.kind == "prismatic" else np.cross(z, pushed - frame[:, :3])
    size = np.linalg.norm(way, axis=1)
    cosine = np.abs((way * normal).sum(axis=1)) / np.maximum(size, 1e-300)
    return np.asarray(np.arccos(np.clip(cosine, 0.0, 1.0)))


def _guide(m: Mechanism, follower: JointFrame, pose: Array) -> ResolvedJoint | None:
    """The joint that guides what is pushed: of the follower's own, or where it is a roller that turns about its middle on a pin, of
    what carries that pin. One with the frame goes before others."""
    link, visited = follower.link, {follower.link}
    at = poses.compose(pose[link], follower.frame)[:3]
    while True:
        own = [h for h in m.joints.values() if link in (h.a, h.b) and h.kind in ("prismatic", "revolute")]
        own = [h for h in own if h.a == 0 or h.b == 0] or own
        pins = [h for h in own if follower.datum.kind == "axis" and h.kind == "revolute" and _passes(h, pose, at)]
        guides = [h for h in own if h not in pins]
        if guides or not pins:
            return guides[0] if guides else None
        link = pins[0].a if pins[0].b == link else pins[0].b
        if link in visited:
            return None
        visited.add(link)


def _passes(h: ResolvedJoint, pose: Array, at: Array) -> bool:
    """Whether a joint's axis passes through a place (3,) m at a pose (L, 7)."""
    frame = poses.compose(pose[h.a], h.frame_a)
    z = poses.rotate(frame[3:], np.array([0.0, 0, 1]))
    return bool(np.linalg.norm(np.cross(z, at - frame[:3])) < SAME)


def _turned(frame: Array, plane: Array) -> Array:
    """Vectors (T, 2) of a frame's xy plane in the world (T, 3)."""
    return np.asarray(poses.rotate(frame[:, 3:], np.concatenate([plane, np.zeros((len(plane), 1))], axis=1)))


def _world(frame: Array, plane: Array) -> Array:
    return np.asarray(frame[:, :3] + _turned(frame, plane))

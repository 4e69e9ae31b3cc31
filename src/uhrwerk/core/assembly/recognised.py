"""The joint that several relations make together.

What two links can still do against one another is the null space of the relations' rows between them; a null space of
one twist is a turn, a slide or a screw about an axis that the twist itself gives (Hunt, Kinematic Geometry of
Mechanisms, 1978, ch. 2-3), and those of two and three twists that the trade has names for are told by their turns and
slides. From memory.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import TOLERANCE, assemble, null_space
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row, Rows
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints import JOINTS, JointFrame, ResolvedJoint, axes
from uhrwerk.core.solids.datum import any_across


def recognised(
    related: list[tuple[Numbers, JointFrame, JointFrame, list[Row]]], start: Array, reach: float, joint: ResolvedJoint
) -> ResolvedJoint | None:
    """The joint that relations between the same two links make together, or None. `joint` brings its names; link a stands
    still and b is solved against it alone, from where both start."""
    _, a, b, _ = related[0]

    def local(row: Row) -> Row:
        index = {a.link: 0, b.link: 1}
        return replace(row, a=index[row.a], b=index[row.b], c=index.get(row.c, -1))

    system = Rows([local(r) for *_, own in related for r in own], 2, reach)
    scale = np.array([1 / reach] * 3 + [1.0] * 4)
    pose, residual = assemble(system, start[[a.link, b.link]] * scale)
    if residual > TOLERANCE:
        return None
    j = system.dense(system.value(pose[None], np.zeros(1))[1])[0][:, 6:]
    null, _ = null_space(j)
    if not null.shape[1]:
        return replace(joint, kind="rigid")
    known = _freedom(null[:3], null[3:], pose[1, :3])
    if known is None:
        return None
    kind, z, c = known
    za = poses.rotate(pose[0, 3:], axes(a.frame)[2])
    if kind == "spherical":
        z = za
    if z @ za < -1e-6 or (abs(z @ za) <= 1e-6 and z[int(np.argmax(np.abs(z)))] < 0):
        z = -z
    if kind == "prismatic":
        c = poses.place(pose[0], a.frame[:3] / np.array(reach))
    ends = [
        poses.compose(poses.inverse(pose[link]), _frame(kind, pose[link], place, z, c, reach)) / scale
        for link, place in ((0, a), (1, b))
    ]
    return replace(joint, kind=kind, frame_a=ends[0], frame_b=ends[1], coordinates=JOINTS[kind].coordinates)


def _freedom(v: Array, w: Array, origin: Array) -> tuple[str, Array, Array] | None:
    """The kind of joint whose freedoms are the twists (v, w), each (3, n), of a link with its `origin` there; its axis, and
    a point on it (nowhere in particular of a prismatic one, the axis of a spherical one). None where it has no name."""
    turns, slides = (int((np.linalg.svd(part, compute_uv=False) > 1e-7).sum()) for part in (w, v))
    count = v.shape[1]
    if count == 3 and turns == 3:
        # the point that no turn moves: v + w x (c - origin) = 0
        every = np.vstack([_across(w[:, k]) for k in range(3)])
        fixed = np.linalg.lstsq(every, -np.concatenate(list(v.T)), rcond=None)[0]
        return "spherical", np.zeros(3), origin + fixed
    if turns == 0 and count == 1:
        return "prismatic", v[:, 0] / np.linalg.norm(v[:, 0]), origin
    if turns != 1:
        return None
    lead = np.linalg.svd(w)[2][0]  # the combination that turns
    spin, move = w @ lead, v @ lead
    z = spin / np.linalg.norm(spin)
    c = origin + np.cross(spin, move) / (spin @ spin)
    pure = np.linalg.svd(w)[2][1:] @ v.T  # combinations that only slide
    if count == 1 and abs(move @ z) < 1e-7 * np.linalg.norm(spin):
        return "revolute", z, c
    if count == 2 and np.linalg.norm(np.cross(pure[0], z)) < 1e-7:
        return "cylindrical", z, c
    if count == 3 and slides >= 2 and np.abs(pure @ z).max() < 1e-7:
        return "planar", z, c
    return None


def _frame(kind: str, pose: Array, place: JointFrame, z: Array, c: Array, reach: float) -> Array:
    """The joint's frame at one end, in the world: on the axis z through c, beside the place that was pointed at."""
    at = poses.place(pose, place.frame[:3] / np.array(reach))
    along = ((at - c) @ z) * z
    foot = c + along if kind in ("cylindrical", "prismatic") else at - along if kind == "planar" else c
    if kind == "prismatic":
        return poses.from_axes(foot, any_across(z), z)
    x, y = (poses.rotate(pose[3:], axes(place.frame)[k]) for k in (0, 1))
    return poses.from_axes(foot, _level(x, z, y), z)


def _across(w: Array) -> Array:
    return np.array([[0, -w[2], w[1]], [w[2], 0, -w[0]], [-w[1], w[0], 0]])


def _level(x: Array, z: Array, other: Array) -> Array:
    """x made square to z; where it lies along z, `other` instead."""
    flat = x - (x @ z) * z
    if np.linalg.norm(flat) < 0.1:
        flat = other - (other @ z) * z
    return flat / np.linalg.norm(flat)


__all__ = ["recognised"]

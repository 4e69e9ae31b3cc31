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
from uhrwerk.core.joints import JOINTS, Held, Place, axes
from uhrwerk.core.solids.datum import any_across


def recognised(
    related: list[tuple[Numbers, Place, Place, list[Row]]], start: Array, reach: float, held: Held
) -> Held | None:
    """The joint that relations between the same two links make together, or None. `held` brings its names; link a stands
    still and b is solved against it alone, from where both start."""
    _, a, b, _ = related[0]

    def local(row: Row) -> Row:
        index = {a.link: 0, b.link: 1}
        return replace(row, a=index[row.a], b=index[row.b], c=index.get(row.c, -1))

    system = Rows([local(r) for *_, own in related for r in own], 2, reach)
    scale = np.array([1 / reach] * 3 + [1.0] * 4)
    pose, left = assemble(system, start[[a.link, b.link]] * scale)
    if left > TOLERANCE:
        return None
    j = system.dense(system.value(pose[None], np.zeros(1))[1])[0][:, 6:]
    null, _ = null_space(j)
    v, w = null[:3], null[3:]
    turns, slides = (int((np.linalg.svd(part, compute_uv=False) > 1e-7).sum()) if part.size else 0 for part in (w, v))
    count = null.shape[1]
    origin = pose[1, :3]
    if count == 0:
        return replace(held, kind="rigid")
    if count == 3 and turns == 3:
        kind = "spherical"
        # the point that no turn moves: v + w x (c - origin) = 0
        c = (
            origin
            + np.linalg.lstsq(np.vstack([_across(w[:, k]) for k in range(3)]), -np.concatenate(list(v.T)), rcond=None)[
                0
            ]
        )
        z = poses.rotate(pose[0, 3:], axes(a.frame)[2])
    elif turns == 0 and count == 1:
        kind, z, c = "prismatic", v[:, 0] / np.linalg.norm(v[:, 0]), origin
    elif turns == 1:
        lead = np.linalg.svd(w)[2][0]  # the combination that turns
        spin, move = w @ lead, v @ lead
        z = spin / np.linalg.norm(spin)
        c = origin + np.cross(spin, move) / (spin @ spin)
        pure = np.linalg.svd(w)[2][1:] @ v.T  # combinations that only slide
        if count == 1 and abs(move @ z) < 1e-7 * np.linalg.norm(spin):
            kind = "revolute"
        elif count == 2 and np.linalg.norm(np.cross(pure[0], z)) < 1e-7:
            kind = "cylindrical"
        elif count == 3 and slides >= 2 and np.abs(pure @ z).max() < 1e-7:
            kind = "planar"
        else:
            return None
    else:
        return None
    za = poses.rotate(pose[0, 3:], axes(a.frame)[2])
    if z @ za < -1e-6 or (abs(z @ za) <= 1e-6 and z[int(np.argmax(np.abs(z)))] < 0):
        z = -z
    ends = []
    for link, place in ((0, a), (1, b)):
        at = poses.place(pose[link], place.frame[:3] / np.array(reach))
        if kind == "prismatic" and link == 0:
            c = at
        foot = c + ((at - c) @ z) * z if kind in ("cylindrical", "prismatic") else c
        if kind == "planar":
            foot = at - ((at - c) @ z) * z
        x = (
            z
            if kind == "prismatic"
            else _level(
                poses.rotate(pose[link, 3:], axes(place.frame)[0]),
                z,
                poses.rotate(pose[link, 3:], axes(place.frame)[1]),
            )
        )
        if kind == "prismatic":
            x = any_across(z)
        ends.append(
            poses.compose(poses.inverse(pose[link]), poses.from_axes(foot, x, z)) * np.array([reach] * 3 + [1.0] * 4)
        )
    return replace(held, kind=kind, frame_a=ends[0], frame_b=ends[1], coordinates=JOINTS[kind].coordinates)


def _across(w: Array) -> Array:
    return np.array([[0, -w[2], w[1]], [w[2], 0, -w[0]], [-w[1], w[0], 0]])


def _level(x: Array, z: Array, other: Array) -> Array:
    """x made square to z; where it lies along z, `other` instead."""
    flat = x - (x @ z) * z
    if np.linalg.norm(flat) < 0.1:
        flat = other - (other @ z) * z
    return flat / np.linalg.norm(flat)


__all__ = ["recognised"]

"""The force with which meshing flanks separate their axes, besides the one that transmits torque.

The equation of a mesh speaks of angles and of the line of centres alone: it turns both gears and acts across that line. Flanks
without friction press along the line of action, at the working pressure angle to that (ISO 21771-1; from memory): so there is a
part along the line of centres as well, tan(angle) as large, which does no work where the centres keep their distance.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from uhrwerk.core.assembly import teeth_of
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row, Rows
from uhrwerk.core.field import numbers
from uhrwerk.core.joints import At, GearPair, RackPair
from uhrwerk.core.part.design import element_of
from uhrwerk.core.stages.evaluation import Evaluation


def separating(e: Evaluation, pose: Array, by_owner: Mapping[str, Array]) -> Array | None:
    """(T, L, 6) N and N m about each link's origin, at poses (T, L, 7), where pairs act with multipliers (T,); None where no teeth
    mesh."""
    m, out = e.mechanism, None
    for i, pair in e.document.pairs.items():
        if not isinstance(pair, GearPair | RackPair) or f"pairs.{i}" not in by_owner:
            continue
        row = next(r for r in m.rows if r.owner == f"pairs.{i}")
        tangential, apart, angle = _mesh(e, pair, pose, row, by_owner[f"pairs.{i}"])
        push = apart * (np.abs(tangential) * np.tan(angle))[:, None]
        out = np.zeros((*pose.shape[:2], 6)) if out is None else out
        for sign, at in zip((-1.0, 1.0), pair.at, strict=True):
            p = m.place(at)
            place = poses.compose(pose[:, p.link], np.broadcast_to(p.frame, (len(pose), 7)))[:, :3]
            out[:, p.link, :3] += sign * push
            out[:, p.link, 3:] += np.cross(place - pose[:, p.link, :3], sign * push)
    return out


def turning(e: Evaluation, at: At, pose: Array, row: Row, multiplier: Array) -> Array:
    """(T,) N m about a datum's axis, by which one equation turns the link that has it."""
    m = e.mechanism
    p = m.place(at)
    rows = Rows([row], len(m.links), m.reach)
    _, j = rows.value(m.scaled(pose), np.zeros(len(pose)))
    wrench = rows.dense(j).reshape(len(pose), len(m.links), 6)[:, p.link] * multiplier[:, None]
    here = poses.compose(pose[:, p.link], np.broadcast_to(p.frame, (len(pose), 7)))
    moment = wrench[:, 3:] - np.cross(here[:, :3] - pose[:, p.link, :3], wrench[:, :3] / m.reach)
    return np.asarray((moment * poses.rotate(here[:, 3:], np.array([0.0, 0, 1]))).sum(axis=1))


def _mesh(
    e: Evaluation, pair: GearPair | RackPair, pose: Array, row: Row, multiplier: Array
) -> tuple[Array, Array, Array]:
    """Of teeth that mesh: the force across the line of centres (T,) N, the direction in which b is pressed (T, 3), and the working
    pressure angle (T,)."""
    m, document = e.mechanism, e.document
    kinds = [element_of(document, at.placed) for at in pair.at]
    here, there = (
        poses.compose(pose[:, p.link], np.broadcast_to(p.frame, (len(pose), 7)))
        for p in (m.place(at) for at in pair.at)
    )
    gear = pair.at[0 if kinds[0].kind == "spur_gear" else 1]
    tooth, torque = teeth_of(document, gear.placed), turning(e, gear, pose, row, multiplier)
    if isinstance(pair, RackPair):  # b is the rack, and y stands on its pitch line
        up = poses.rotate(there[:, 3:], np.array([0.0, 1, 0]))
        side = np.sign(((here[:, :3] - there[:, :3]) * up).sum(axis=1))
        return torque / tooth.pitch_radius, -up * side[:, None], np.full(len(pose), tooth.alpha)
    z, off = poses.rotate(here[:, 3:], np.array([0.0, 0, 1])), there[:, :3] - here[:, :3]
    off = off - (off * z).sum(axis=1)[:, None] * z
    centres = np.linalg.norm(off, axis=1)
    inner = "ring_gear" in (kinds[0].kind, kinds[1].kind)
    teeth = (numbers(k, document.scope()).teeth for k in kinds)
    one, other = (tooth.module * z / 2 * np.cos(tooth.alpha) for z in teeth)
    angle = np.arccos(np.clip((abs(one - other) if inner else one + other) / centres, 0.0, 1.0))
    way = off / centres[:, None] * (-1.0 if inner else 1.0)  # a gear within a ring is pressed towards its axis
    return torque * np.cos(angle) / tooth.base_radius, way, angle

"""Links and joints given by their frames alone, for mechanisms whose axes no plain element has."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly.mechanism import Aim, Mechanism
from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.law import Constant
from uhrwerk.core.equations.newton import null_space
from uhrwerk.core.equations.rows import Row, Rows
from uhrwerk.core.joints import JOINTS
from uhrwerk.core.joints.resolved_joint import ResolvedJoint, coordinate_row
from uhrwerk.core.solids.datum import any_across

Array = NDArray[np.float64]


def frame(origin: Sequence[float], z: Sequence[float] = (0, 0, 1), x: Sequence[float] | None = None) -> Array:
    along = np.array(z, float) / np.linalg.norm(z)
    across = any_across(along) if x is None else np.array(x, float)
    return poses.from_axes(np.array(origin, float), across / np.linalg.norm(across), along)


def joint(
    kind: str, a: int, at: Array, b: int, pose: Array, name: str = "j", lead: float = 0.0, own: Array | None = None
) -> ResolvedJoint:
    """A joint whose frame in the world is `at` where the links are posed at `pose` (L, 7); `own`: b's frame, if another."""
    frames = [poses.compose(poses.inverse(pose[k]), f) for k, f in ((a, at), (b, at if own is None else own))]
    return ResolvedJoint(
        name,
        f"joints.{name}",
        name,
        kind,
        a,
        frames[0],
        b,
        frames[1],
        str(a),
        str(b),
        lead,
        coordinates=JOINTS[kind].coordinates,
    )


def system(joints: Sequence[ResolvedJoint], links: int, drives: Sequence[Row] = (), reach: float = 1.0) -> Rows:
    return Rows([r for j in joints for r in JOINTS[j.kind].rows(j)] + list(drives), links, reach)


def drive(held: ResolvedJoint, name: str, start: float, rate: float) -> Row:
    return coordinate_row(held, name, "drive", law=Constant(start, rate))


def freedoms(system: Rows, pose: Array) -> tuple[int, int]:
    """Mobility and the number of redundant equations."""
    j = system.dense(system.value(pose[None], np.zeros(1))[1])[0][:, 6:]
    null, rank = null_space(j)
    return null.shape[1], len(system) - rank


def mechanism(joints: Sequence[ResolvedJoint], start: Array, reach: float = 1.0) -> Mechanism:
    """A mechanism of joints alone, with no document behind it."""
    blank = Document(name="spatial")
    links: list = [None] * len(start)
    aims = [
        Aim(j.path, j.a, j.frame_a, j.b, j.frame_b, j.kind not in ("spherical", "universal"), j.kind != "planar")
        for j in joints
    ]
    names = {j.path: j.name for j in joints}
    every = [r for j in joints for r in JOINTS[j.kind].rows(j)]
    return Mechanism(
        blank, links, {}, every, [], names, {}, start, reach, blank, {}, joints={j.id: j for j in joints}, aims=aims
    )


def still(links: int) -> np.ndarray:
    return np.tile(poses.IDENTITY, (links, 1))


def measured(held: ResolvedJoint, name: str, pose: np.ndarray) -> np.ndarray:
    rows = Rows([coordinate_row(held, name)], pose.shape[1], 1.0)
    return rows.value(pose, np.zeros(len(pose)))[0][:, 0]

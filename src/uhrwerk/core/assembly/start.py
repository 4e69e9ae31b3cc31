"""Where a placed part starts, as fields: the formulas that put it at a pose."""

from __future__ import annotations

import numpy as np
from pydantic import JsonValue
from scipy.spatial.transform import Rotation

from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.quantity import in_unit


def start_fields(document: Document, at: Array, digits: int = 6) -> dict[str, JsonValue]:
    """A pose (7,) as the fields of a start, in the document's unit, with so many digits behind the point."""
    unit = document.units.length
    values = [f"{in_unit(float(v), 'length', unit):.{digits}f} {unit}" for v in at[:3]]
    angles = [f"{np.degrees(v):.{digits}f} deg" for v in turns(at[3:])]
    return dict(zip(("x", "y", "z", "turn_x", "turn_y", "turn_z"), values + angles, strict=True))


def turns(q: Array) -> Array:
    """Turns about x, then y, then z (fixed axes) of a unit quaternion, rad."""
    m = poses.matrix(q)
    x, y = np.arctan2(m[2, 1], m[2, 2]), np.arctan2(-m[2, 0], np.hypot(m[0, 0], m[1, 0]))
    c, s = np.cos(x), np.sin(x)  # where y is a quarter turn, x may be any: z then makes up for it
    return np.array([x, y, np.arctan2(s * m[0, 2] - c * m[0, 1], c * m[1, 1] - s * m[1, 2])])


def matrix_pose(matrix: Array, metre: float = 1.0) -> tuple[list[float], Array]:
    """A place (4, 4), its shift in units of `metre`, as a pose (7,) and what its turning part does besides turning (3, 3)."""
    u, s, vt = np.linalg.svd(matrix[:3, :3])
    turn = u @ vt
    rest = vt.T @ np.diag(s) @ vt
    if np.linalg.det(turn) < 0:
        turn, rest = -turn, -rest
    if np.abs(rest - np.eye(3)).max() < 1e-9:
        rest = np.eye(3)
    q = Rotation.from_matrix(turn).as_quat(scalar_first=True)
    return [*(float(v) * metre for v in matrix[:3, 3]), *(float(v) for v in q)], rest

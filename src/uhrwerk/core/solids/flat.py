"""Points and triangles of one plane.

>>> one = np.array([[[0.0, 0], [2, 0], [0, 2]]])
>>> inside(one, np.array([[0.5, 0.5], [2.0, 2.0]])).tolist()
[[True], [False]]
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.solids.solid import Array


def inside(triangles: Array, points: Array, room: float = 0.0) -> NDArray[np.bool_]:
    """(n, m): which points (n, 2) lie in which triangles (m, 3, 2), or beside them by no more than `room`, m; edges are in both."""
    to = np.roll(triangles, -1, axis=1) - triangles
    off = points[:, None, None, :] - triangles[None]
    side = to[None, ..., 0] * off[..., 1] - to[None, ..., 1] * off[..., 0]
    slack = room * np.linalg.norm(to, axis=2)[None]
    return np.asarray((side >= -slack).all(axis=2) | (side <= slack).all(axis=2))

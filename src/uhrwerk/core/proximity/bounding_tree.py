"""A tree of boxes over a mesh, built only where a search looks, with a small distance model at each
leaf.

Boxes lie along the body's own axes. Halving at the median of the longest side (Gottschalk, Lin, Manocha, OBBTree, 1996,
in its simplest form) keeps the tree even. All boxes are plain arrays, so that many are compared at once.
"""

from __future__ import annotations

import threading
from typing import Any

import fcl
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Index = NDArray[np.int64]

#: triangles in a leaf at most
LEAF = 8
MM = 1e3


class BoundingTree:
    """`centre`, `half` (N, 3) and `radius` (N,) of every box, m; `leaf` (N,); `first` (N,) the first of its two children, or
    -1 before it was opened.

    Where triangles have `marks` (m,), bits, `mark` (N,) has those that all triangles of a box share, and no leaf mixes them.
    With an `axis` (a point and a direction), `ring` (N, 4) is what a box's triangles reach round it: from and to which
    radius, from and to where along it. Turning about that axis changes none of these.
    """

    def __init__(
        self, vertices: Array, triangles: Any, marks: Index | None = None, axis: tuple[Array, Array] | None = None
    ) -> None:
        corners = vertices[triangles]  # (m, 3, 3)
        self._lows, self._highs = corners.min(axis=1), corners.max(axis=1)
        self._middles = (self._lows + self._highs) / 2
        self._vertices, self._triangles, self._marks = vertices, triangles, marks
        self._members: list[Index] = []
        self._models: dict[int, Any] = {}
        self._corners: dict[int, Array] = {}
        self._lock = threading.RLock()
        self.count, room = 0, 64
        self.centre, self.half = np.zeros((room, 3)), np.zeros((room, 3))
        self.radius, self.first = np.zeros(room), np.zeros(room, dtype=np.int64)
        self.leaf, self.mark = np.zeros(room, dtype=bool), np.zeros(room, dtype=np.int64)
        self._rings = None if axis is None else rings(corners, *axis)
        self.ring = np.zeros((room, 4))
        self._add(np.arange(len(triangles)))

    @property
    def marked(self) -> bool:
        return self._marks is not None

    def _add(self, own: Index) -> None:
        at = self.count
        if at == len(self.radius):
            for name in ("centre", "half", "radius", "first", "leaf", "mark", "ring"):
                old = getattr(self, name)
                setattr(self, name, np.concatenate([old, np.zeros_like(old)]))
        low, high = self._lows[own].min(axis=0), self._highs[own].max(axis=0)
        self.centre[at], self.half[at] = (low + high) / 2, (high - low) / 2
        self.radius[at] = np.linalg.norm(self.half[at])
        self.first[at] = -1
        if self._rings is not None:
            r = self._rings[own]
            self.ring[at] = r[:, 0].min(), r[:, 1].max(), r[:, 2].min(), r[:, 3].max()
        mixed = False
        if self._marks is not None:
            common = int(np.bitwise_and.reduce(self._marks[own]))
            self.mark[at], mixed = common, bool((self._marks[own] != common).any())
        self.leaf[at] = len(own) <= LEAF and not mixed
        self._members.append(own)
        self.count += 1

    def open(self, nodes: Index) -> None:
        """Makes the children of boxes that have none yet; leaves have none."""
        with self._lock:
            for node in np.unique(nodes[(self.first[nodes] < 0) & ~self.leaf[nodes]]).tolist():
                own = self._members[node]
                marks = None if self._marks is None else self._marks[own]
                if marks is not None and (marks != marks[0]).any():
                    kinds = np.unique(marks)
                    low = np.isin(marks, kinds[: len(kinds) // 2])
                    halves = own[low], own[~low]
                else:
                    spread = self._middles[own]
                    axis = int(np.argmax(np.ptp(spread, axis=0)))
                    order = np.argpartition(spread[:, axis], len(own) // 2)
                    halves = own[order[: len(own) // 2]], own[order[len(own) // 2 :]]
                first = self.count
                for part in halves:
                    self._add(part)
                self.first[node] = first

    def corners(self, node: int) -> Array:
        """(k, 3) the corners of a box's triangles, m."""
        if node not in self._corners:
            self._corners[node] = self._vertices[np.unique(self._triangles[self._members[node]])]
        return self._corners[node]

    def model(self, node: int) -> Any:
        """The distance library's model of a box's triangles, millimetres. Both sides of a search may use the same one."""
        if node not in self._models:
            own = self._triangles[self._members[node]]
            used, index = np.unique(own, return_inverse=True)
            model = fcl.BVHModel()
            model.beginModel(len(used), len(own))
            model.addSubModel(self._vertices[used] * MM, index.reshape(-1, 3))
            model.endModel()
            self._models[node] = model
        return self._models[node]


def rings(corners: Array, foot: Array, direction: Array) -> Array:
    """(m, 4) what triangles (m, 3, 3) reach round an axis: least and largest radius, and from and to where along it."""
    helper = np.eye(3)[int(np.argmin(np.abs(direction)))]
    x = np.cross(direction, helper)
    x /= np.linalg.norm(x)
    off = corners - foot
    flat = np.stack([off @ x, off @ np.cross(direction, x)], axis=-1)
    along = off @ direction
    return np.stack(
        [from_origin(flat), np.linalg.norm(flat, axis=-1).max(axis=1), along.min(axis=1), along.max(axis=1)], axis=1
    )


def from_origin(t: Array) -> Array:
    """(m,) distance of triangles (m, 3, 2) in a plane from its origin."""
    near = np.full(len(t), np.inf)
    sides = []
    for k in range(3):
        p, d = t[:, k], t[:, (k + 1) % 3] - t[:, k]
        s = np.clip(-np.einsum("mi,mi->m", p, d) / np.maximum(np.einsum("mi,mi->m", d, d), 1e-300), 0, 1)
        near = np.minimum(near, np.linalg.norm(p + s[:, None] * d, axis=1))
        sides.append(p[:, 0] * d[:, 1] - p[:, 1] * d[:, 0])
    inside = (np.stack(sides) > 0).all(axis=0) | (np.stack(sides) < 0).all(axis=0)
    return np.where(inside, 0.0, near)


def rings_apart(a: BoundingTree, i: Index, b: BoundingTree, j: Index) -> Array:
    """(n,) lower bound on the distance of what boxes hold, however one is turned about the axis of both rings."""
    p, q = a.ring[i], b.ring[j]
    gap = np.maximum(np.maximum(p[:, [0, 2]] - q[:, [1, 3]], q[:, [0, 2]] - p[:, [1, 3]]), 0.0)
    return np.asarray(np.sqrt((gap * gap).sum(axis=1)))


def apart(
    a: BoundingTree, i: Index, b: BoundingTree, j: Index, turn: Array, shift: Array, strays: Array | None = None
) -> tuple[Array, Array]:
    """(n,) lower and upper bounds on the distance of what boxes i of a and j of b hold, m, where b's frame is turned by
    (n, 3, 3) and shifted by (n, 3) in a's. The lower one is of the boxes along a's axes, and along b's; it also holds where
    each point of b strays by no more than `strays` (n, 3) along a's axes."""
    half_a, half_b = a.half[i], b.half[j]
    gap = shift + (turn @ b.centre[j][..., None])[..., 0] - a.centre[i]
    size = np.abs(turn)
    one = np.abs(gap) - half_a - (size @ half_b[..., None])[..., 0]
    one = np.maximum(one if strays is None else one - strays, 0.0)
    projected = (gap[:, None] @ turn)[:, 0]
    other = np.maximum(np.abs(projected) - half_b - (half_a[:, None] @ size)[:, 0], 0.0)
    low = np.sqrt((other * other).sum(axis=1))
    if strays is not None:
        low -= np.sqrt((strays * strays).sum(axis=1))
    low = np.maximum(np.sqrt((one * one).sum(axis=1)), low)
    return low, np.sqrt((gap * gap).sum(axis=1)) + a.radius[i] + b.radius[j]

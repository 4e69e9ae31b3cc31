"""The smallest distance of two meshes over a course, by branch and bound in space and time together.

An item is a box of a, a box of b and a cell of the course. In the middle of the cell their distance is at least that of
the boxes; anywhere in the cell it is less by no more than the farthest that b's box strays. What is proven to be far
enough is dropped; of the rest, the cell or the larger box is halved, until two leaves are measured triangle against
triangle. So a knuckle that turns in place is told from the leaf that swings, and layers that slide past each other are
known to be apart from their boxes alone. Branch and bound: Land and Doig, Econometrica 28 (1960); motion bounds of
conservative advancement: Mirtich, thesis, Berkeley 1996, ch. 3. From memory.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import fcl
import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.proximity.bounding_tree import BoundingTree, apart, rings_apart
from uhrwerk.core.proximity.relative_motion import AboutFixedAxis, GeneralMotion, RelativeMotion, least, strays

Index = NDArray[np.int64]
Mask = NDArray[np.bool_]

MM = 1e3
#: items looked at together
BATCH = 400
#: boxes farther apart than this times their radii are measured as they are: to halve them would tell little
FAR = 0.25
#: a cell is halved where points stray in it by more than this times the larger box
TIME_FIRST = 1.5


@dataclass
class SmallestDistance:
    """distance: the smallest one measured, m, at `pose` (7,), in a cell of the course at its fraction `middle`. Nothing is
    nearer than `lower`. `points` (2, 3) in a's frame. `decided`: the search came to its end. `measured`: distances taken."""

    distance: float
    lower: float
    cell: int
    middle: float
    pose: Array
    points: Array | None
    decided: bool
    measured: int


@dataclass
class _Items:
    """Boxes of a and b, cells with the middle and half width of the part looked at, and what is known to be nowhere less."""

    a: Index
    b: Index
    cell: Index
    middle: Array
    half: Array
    low: Array

    def __len__(self) -> int:
        return len(self.low)

    def at(self, chosen: Mask | Index) -> _Items:
        one, other, cell = self.a[chosen], self.b[chosen], self.cell[chosen]
        return _Items(one, other, cell, self.middle[chosen], self.half[chosen], self.low[chosen])

    def and_(self, *others: _Items) -> _Items:
        every = (self, *others)
        ints = (np.concatenate([getattr(x, n) for x in every]) for n in ("a", "b", "cell"))
        floats = (np.concatenate([getattr(x, n) for x in every]) for n in ("middle", "half", "low"))
        return _Items(*ints, *floats)


class _Leaves:
    """The distance library's objects of boxes, as one search moves them."""

    def __init__(self, clusters: BoundingTree) -> None:
        self.clusters = clusters
        self.objects: dict[int, Any] = {}

    def at(self, node: int, pose: Array | None = None) -> Any:
        """What a box holds, posed (7,) in a's frame if that is given."""
        if node not in self.objects:
            self.objects[node] = fcl.CollisionObject(self.clusters.model(node))
        if pose is not None:
            self.objects[node].setTransform(fcl.Transform(pose[3:], pose[:3] * MM))
        return self.objects[node]


class _Search:
    def __init__(
        self, a: BoundingTree, b: BoundingTree, course: RelativeMotion, fine: float, enough: float, part: float
    ) -> None:
        self.a, self.b, self.course = a, b, course
        self.fine, self.part, self.enough = fine, part, enough
        self.best, self.ceiling, self.dropped, self.measured = np.inf, np.inf, np.inf, 0
        self.where: tuple[int, float, Array, Any] = (0, 0.5, course.poses(np.zeros(1, int), np.full(1, 0.5))[0], None)
        self.ringed = isinstance(course, AboutFixedAxis)
        self.whole = not (a.marked and b.marked)  # else a box may hold what is left out, and tells no upper bound
        self.still, self.moved = _Leaves(a), _Leaves(b)
        self.far: Mask = np.zeros(0, dtype=bool)
        self._request = fcl.DistanceRequest(enable_nearest_points=True)

    @property
    def bar(self) -> float:
        """What is known to be at least so far apart is of no more interest; a touch always is."""
        nearer = (
            self.best - min(max(self.fine, self.part * self.best), self.best / 2) if np.isfinite(self.best) else np.inf
        )
        return min(nearer, self.ceiling, self.enough)

    def pruned(self, items: _Items) -> _Items:
        """The items that are still of interest."""
        done = items.low >= self.bar
        self.dropped = min(self.dropped, float(items.low[done].min(initial=np.inf)))
        return items.at(~done) if done.any() else items

    def bounded(self, items: _Items) -> tuple[_Items, Array, Array]:
        """The items with better bounds, how far points stray in each (n,), and the poses in the middles (n, 7)."""
        a, b, i, j = self.a, self.b, items.a, items.b
        at = self.course.poses(items.cell, items.middle)
        turn = poses.matrix(at[:, 3:])
        stray, way = None, np.zeros(len(items))
        if isinstance(self.course, AboutFixedAxis | GeneralMotion):
            self.pace, self.bend = (
                self.course.pace(items.cell, items.middle, at),
                self.course.bend(items.cell, b.centre[j], b.radius[j]),
            )
            arm, wide = (turn @ b.centre[j][..., None])[..., 0], (np.abs(turn) @ b.half[j][..., None])[..., 0]
            stray = strays(self.pace, self.bend, items.half, arm, wide)
            way = np.sqrt((stray * stray).sum(axis=1))
        box, above = apart(a, i, b, j, turn, at[:, :3], stray)
        if self.ringed:
            box = np.maximum(box, rings_apart(a, i, b, j))
        if self.whole:
            self.ceiling = min(self.ceiling, float(above.min(initial=np.inf)))
        self.turn = turn
        items.low = np.where(a.mark[i] & b.mark[j], np.inf, np.maximum(items.low, box))
        self.far = self.whole & (box > FAR * (a.radius[i] + b.radius[j]))
        return items, way, at

    def measure(self, items: _Items, stray: Array, at: Array) -> None:
        """Distances of leaves and of boxes far apart, the most promising first; each also bounds its item. Ends at a touch."""
        leaf = np.flatnonzero(self.a.leaf[items.a] & self.b.leaf[items.b] | self.far)
        for n in leaf[np.argsort(items.low[leaf])].tolist():
            if items.low[n] >= self.bar:
                break
            one, other = self.still.at(int(items.a[n])), self.moved.at(int(items.b[n]), at[n])
            result = fcl.DistanceResult()
            d = max(0.0, float(fcl.distance(one, other, self._request, result))) / MM
            self.measured += 1
            items.low[n] = max(items.low[n], d - stray[n])
            if d > 0 and items.low[n] < self.bar and not self.course.rests:
                items.low[n] = max(items.low[n], self.across(items, n, at[n], result))
            if d < self.best:
                self.best = d
                self.where = (int(items.cell[n]), float(items.middle[n]), at[n], result)
                if d <= 0:
                    return

    def across(self, items: _Items, k: int, at: Array, result: Any) -> float:
        """A lower bound on an item's distance: how far its boxes' corners stay apart along the line of the nearest points."""
        p, q = result.nearest_points
        n = q - p
        n = n / np.sqrt(n @ n)
        mine, other = self.a.corners(int(items.a[k])), self.b.corners(int(items.b[k]))
        velocity, omega = self.pace
        reach = least(velocity[k], omega[k], self.bend[k], float(items.half[k]), n, other @ self.turn[k].T)
        return float(reach + n @ at[:3] - (mine @ n).max())

    def halved(self, items: _Items, stray: Array, far: Mask) -> tuple[_Items, _Items]:
        """Both halves of each item: of its cell, or of its larger box."""
        a, b = self.a, self.b
        leaf = a.leaf[items.a] & b.leaf[items.b] | far
        if self.course.rests and leaf.any():  # measured exactly: there is nothing left to halve
            self.dropped = min(self.dropped, float(items.low[leaf].min()))
            items, stray, leaf = items.at(~leaf), stray[~leaf], leaf[~leaf]
        size_a, size_b = (np.where(c.leaf[n], -1.0, c.radius[n]) for c, n in ((a, items.a), (b, items.b)))
        in_time = leaf | (stray > TIME_FIRST * np.maximum(size_a, size_b))
        split_a = ~in_time & (size_a >= size_b)
        split_b = ~in_time & ~split_a
        a.open(items.a[split_a])
        b.open(items.b[split_b])
        quarter = np.where(in_time, items.half / 2, 0.0)
        both = [
            _Items(
                np.where(split_a, a.first[items.a] + side, items.a), np.where(split_b, b.first[items.b] + side, items.b),
                items.cell, items.middle + (2 * side - 1) * quarter, np.where(in_time, items.half / 2, items.half), items.low,
            )
            for side in (0, 1)
        ]  # fmt: skip
        return both[0], both[1]

    def smallest(self, floor: float, decided: bool) -> SmallestDistance:
        points = None
        cell, middle, pose, result = self.where
        if result is not None and self.best > 0:
            points = np.array([np.asarray(p) / MM for p in result.nearest_points])
        lower = max(floor, min(self.best, self.dropped))
        best = self.best if np.isfinite(self.best) else lower  # proven to be apart before anything was measured
        return SmallestDistance(best, min(lower, best), cell, middle, pose, points, decided, self.measured)


def nearest(
    a: BoundingTree,
    b: BoundingTree,
    course: RelativeMotion,
    fine: float,
    enough: float = np.inf,
    floor: float = 0.0,
    part: float = 0.0,
    most: int = 6000,
) -> SmallestDistance:
    """The smallest distance, until nothing can be nearer by more than `fine` or a `part` of it, or all is farther apart
    than `enough`.

    What both have a mark of is left out: a fit speaks for it. `floor` is a distance below which they never come. Ends at
    the first touch. Gives up after `most` distances, undecided.
    """
    count = course.cells
    zeros = np.zeros(count, dtype=np.int64)
    items = _Items(zeros, zeros, np.arange(count), np.full(count, 0.5), np.full(count, 0.5), np.full(count, floor))
    search = _Search(a, b, course, fine, enough, part)
    while len(items := search.pruned(items)):
        if search.measured >= most:
            search.dropped = min(search.dropped, float(items.low.min()))
            return search.smallest(floor, False)
        now = np.arange(len(items)) if len(items) <= BATCH else np.argpartition(items.low, BATCH)[:BATCH]
        rest = np.ones(len(items), dtype=bool)
        rest[now] = False
        some, stray, at = search.bounded(items.at(now))
        search.measure(some, stray, at)
        if search.best <= 0:
            return search.smallest(floor, True)
        open_ = some.low < search.bar
        search.dropped = min(search.dropped, float(some.low[~open_].min(initial=np.inf)))
        items = items.at(rest).and_(*search.halved(some.at(open_), stray[open_], search.far[open_]))
    return search.smallest(floor, True)


def profile(a: BoundingTree, b: BoundingTree, at: Array, fine: float) -> Array:
    """(n,) distances at poses (n, 7), each to within `fine` m; for small meshes, such as those of two faces."""
    n = len(at)
    ia, ib, of = np.zeros(n, dtype=np.int64), np.zeros(n, dtype=np.int64), np.arange(n)
    low, best, ceiling = np.zeros(n), np.full(n, np.inf), np.full(n, np.inf)
    turn = poses.matrix(at[:, 3:])
    request, still, moved = fcl.DistanceRequest(), _Leaves(a), _Leaves(b)
    while len(ia):
        box, above = apart(a, ia, b, ib, turn[of], at[of, :3])
        low = np.maximum(low, box)
        np.minimum.at(ceiling, of, above)
        leaf = a.leaf[ia] & b.leaf[ib]
        for k in np.flatnonzero(leaf)[np.argsort(low[leaf])].tolist():
            pose = of[k]
            if low[k] < best[pose] - fine:
                one, other = still.at(int(ia[k])), moved.at(int(ib[k]), at[pose])
                d = fcl.distance(one, other, request, fcl.DistanceResult())
                best[pose] = min(best[pose], max(0.0, float(d)) / MM)
        go = ~leaf & (low < np.minimum(best[of] - fine, ceiling[of]))
        ia, ib, of, low = ia[go], ib[go], of[go], low[go]
        size_a, size_b = (np.where(c.leaf[x], -1.0, c.radius[x]) for c, x in ((a, ia), (b, ib)))
        split_a = size_a >= size_b
        a.open(ia[split_a])
        b.open(ib[~split_a])
        ia, ib = (
            np.concatenate([np.where(chosen, c.first[x] + side, x) for side in (0, 1)])
            for c, x, chosen in ((a, ia, split_a), (b, ib, ~split_a))
        )
        of, low = np.tile(of, 2), np.tile(low, 2)
    return best

"""The deepest overlap of two bodies over a course: the shortest move that frees them, where that is longest.

Where they overlap is found by the narrowest width of what they share, which is never more than that move where it is convex.

Parts of the course in which it may be deeper than what is known are halved, the most promising first. How deep it may be
within a part is taken from how fast the bodies close in on one another along the narrowest way through what they share,
with half as much again for safety, and from their accelerations. Where they are apart in the middle, they overlap by no
more than they stray. So `missed`, what may still be deeper, is an estimate: depth need not change as evenly as is assumed.
"""

from __future__ import annotations

import heapq

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.proximity.body_geometry import BodyPair
from uhrwerk.core.proximity.relative_motion import AboutFixedAxis, GeneralMotion, RelativeMotion, strays

#: a play, clearance or depth finer than this is not told apart, m
GRAIN = 1e-6
#: phases of touching teeth at which their overlap is measured
PHASES = 12
#: overlaps measured, and moments looked at, at most
OVERLAPS, LOOKS = 90, 3000
#: steps in which the deepest is closed in on, at most
CLIMB = 4
#: moments at which the way out is measured
FREED = 16
#: part of the deepest overlap that may be missed
PART = 0.02
#: closing speed is taken for so many times what it is in the middle
SAFETY = 1.5


class Deepest:
    """The deepest overlap found so far: `depth` m, `volume` m3, its `middle` (3,) in a's frame, b's `pose` (7,) and the
    moment `at`, a cell of the course and where in it. `missed`: how much deeper it may be, m; `looks`: overlaps measured."""

    def __init__(self, pair: BodyPair, at: tuple[int, float], slack: float) -> None:
        self.pair, self.slack, self.at = pair, slack, at
        self.depth, self.volume, self.middle, self.pose = 0.0, 0.0, pair.a.centre, poses.IDENTITY
        self.looks, self.missed, self.half = 0, 0.0, 0.25
        self.thickest = min(pair.mesh_a.thickness, pair.mesh_b.thickness)  # nothing shared is deeper

    @property
    def enough(self) -> float:
        """What is no deeper than this is not looked into."""
        return self.depth + max(GRAIN, self.slack / 4, PART * self.depth)

    def free(self, course: RelativeMotion) -> None:
        """Takes for its depth the shortest move that frees the pair, where that is longest: at moments at which they share space,
        and closed in on there. What triangles cannot tell from a touch stays as it was measured."""
        if self.depth <= GRAIN + self.pair.error:
            return
        best, where, pose = self.pair.freed(self.pose)[0], self.at[0] + self.at[1], self.pose
        if isinstance(course, AboutFixedAxis | GeneralMotion):
            cells, beside = _near(self.pair, course), [best]
            width = max(0.5, len(cells) / FREED / 2)
            looks = [float(cells[k]) + 0.5 for k in np.unique(np.linspace(0, len(cells) - 1, FREED).astype(int))]
            for u in [*looks, *([None] * CLIMB)]:
                for at in (u,) if u is not None else (where - width, where + width):
                    if 0 <= at < course.cells:
                        here = course.poses(np.array([int(at)]), np.array([at - int(at)]))[0]
                        far = self.pair.freed(here)[0] if self.pair.touches(here) or self.pair.encloses(here) else 0.0
                        self.looks += 1
                        beside = [*beside, far] if u is None else beside
                        if far > best:
                            best, where, pose = far, at, here
                width = width if u is not None else width / 2
            self.missed = max(GRAIN, best - min((x for x in beside[-2:] if x > 0), default=best))
            self.at = (int(where), where - int(where))
        if pose is not self.pose:
            _, self.volume, self.middle, _ = self.pair.overlap(pose)
        self.depth, self.pose = max(best, self.depth), pose

    def measure(self, pose: Array, at: tuple[int, float], half: float = 0.25) -> tuple[float, Array, Array]:
        """Depth (m) at a pose, its middle (3,) and direction (3,); `half` is how far about the moment it stands for."""
        self.looks += 1
        depth, volume, middle, n = self.pair.overlap(pose)
        if depth > self.depth or self.looks == 1:
            self.depth, self.volume, self.middle, self.pose, self.at = depth, volume, middle, pose, at
            self.half = half
        return depth, middle, n


def deepest(pair: BodyPair, course: RelativeMotion, touch: tuple[int, float], slack: float) -> Deepest:
    """The deepest overlap of two bodies that touch at a known moment, to within `slack` and what is `missed`."""
    out = Deepest(pair, touch, slack)
    out.measure(course.poses(np.array([touch[0]]), np.array([touch[1]]))[0], touch)
    if isinstance(course, AboutFixedAxis | GeneralMotion):
        most = _halve(out, course)
        _climb(out, course)
        out.missed = max(GRAIN, most - out.depth)
        out.free(course)
        return out
    at = course.poses(np.arange(course.cells), np.full(course.cells, 0.5))
    touching = [k for k in range(course.cells) if pair.touches(at[k])]
    for i in np.unique(np.linspace(0, len(touching) - 1, PHASES).astype(int)) if touching else ():
        out.measure(at[touching[i]], (touching[i], 0.5))
    out.free(course)
    return out


def _halve(out: Deepest, course: AboutFixedAxis | GeneralMotion) -> float:
    """Searches the whole course; how deep it may be at most, as far as that was followed, m."""
    parts = [(cell, 0.5, 0.5) for cell in _near(out.pair, course)]
    heap: list[tuple[float, int, float, float]] = []
    count = 0
    while True:
        for cell, middle, half in parts:
            count += 1
            most = _most(out, course, cell, middle, half)
            if most > out.enough:
                heapq.heappush(heap, (-most, cell, middle, half))
        if not heap or -heap[0][0] <= out.enough:
            return out.enough
        if out.looks >= OVERLAPS or count >= LOOKS:
            return -heap[0][0]
        _, cell, middle, half = heapq.heappop(heap)
        parts = [(cell, middle + side * half / 2, half / 2) for side in (-1, 1)]


def _climb(out: Deepest, course: AboutFixedAxis | GeneralMotion) -> None:
    """Closes in on the moment at which the deepest overlap found is deepest."""
    width = out.half / 2
    for _ in range(CLIMB):
        before, where = out.depth, out.at[0] + out.at[1]
        for u in (where - width, where + width):
            if 0 <= u < course.cells:
                cell = np.array([int(u)])
                out.measure(course.poses(cell, np.array([u - int(u)]))[0], (int(u), u - int(u)))
        if out.depth == before:
            width /= 2


def _most(out: Deepest, course: AboutFixedAxis | GeneralMotion, cell: int, middle: float, half: float) -> float:
    """How deep it may be within `half` of a cell: below zero where they are surely apart, m."""
    b, cells, middles = out.pair.b, np.array([cell]), np.array([middle])
    at = course.poses(cells, middles)
    pace, bend = course.pace(cells, middles, at), course.bend(cells, b.centre[None], np.array([b.radius]))
    if out.pair.touches(at[0]) or out.pair.encloses(at[0]):
        depth, point, n = out.measure(at[0], (cell, middle), half)
        closing = abs(float(n @ (pace[0][0] + poses.cross(pace[1][0], point - at[0, :3]))))
        most = depth + SAFETY * closing * half + float(np.linalg.norm(bend[0])) * half**2
        return min(most, max(out.thickest, out.depth))
    arm, wide = poses.rotate(at[:, 3:], b.centre), np.full((1, 3), b.radius)
    stray = float(np.linalg.norm(strays(pace, bend, np.array([half]), arm, wide)))
    return min(stray - out.pair.distance(at[0])[0], max(out.thickest, out.depth))


def _near(pair: BodyPair, course: AboutFixedAxis | GeneralMotion) -> NDArray[np.int64]:
    """Cells in which the balls round both bodies meet."""
    a, b, cells = pair.a, pair.b, np.arange(course.cells)
    half, centre = np.full(len(cells), 0.5), np.broadcast_to(b.centre, (len(cells), 3))
    at = course.poses(cells, half)
    arm = poses.rotate(at[:, 3:], centre)
    bend = course.bend(cells, centre, np.zeros(len(cells)))
    way = np.linalg.norm(strays(course.pace(cells, half, at), bend, half, arm, np.zeros((len(cells), 3))), axis=1)
    return np.flatnonzero(np.linalg.norm(at[:, :3] + arm - a.centre, axis=1) <= a.radius + b.radius + way)


__all__ = ["GRAIN", "Deepest", "deepest"]

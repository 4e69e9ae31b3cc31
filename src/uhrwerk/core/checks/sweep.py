"""The smallest distance of two bodies over the whole cycle, with an error bound that holds between frames too.

Distance changes no faster than the bodies move against one another: a bound on that path (speed times reach) gives a
lower bound between any two moments already measured, and the moment with the least promise is measured next until the
bound is good enough (Piyavskii 1972 and Shubert, SIAM J. Numer. Anal. 9 (1972), global minimum of a Lipschitz
function; speed bound as in conservative advancement, Mirtich 1996). From memory. Bodies that slide past each other in
layers are bounded besides by the gap between their boxes along x, y and z, and a solid of revolution is not moved by
turning about its own axis.
"""

from __future__ import annotations

import heapq
import itertools
from dataclasses import dataclass, field

import numpy as np

from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.assembly.pose import Array
from uhrwerk.core.checks.shape import Pair, Shape, fits
from uhrwerk.core.motion import Motion

#: samples of a cycle on which speeds and boxes are taken, at least; frames are multiplied up to this
SAMPLES = 360
#: a play, clearance or depth finer than this is not told apart, m
GRAIN = 1e-6


@dataclass
class Finding:
    """What was found for one pair of bodies over the cycle. Lengths m, times s, points in the world, m.

    distance: smallest found; the true one lies within [distance - error, distance + error].
    depth: overlap where there is one, with the shared volume; `contact` where they touch without overlap.
    basis: how it is known, in words. curve: (n, 2) times and distances measured on the way.
    """

    a: str
    b: str
    distance: float
    error: float
    time: float
    points: tuple[Array, Array]
    depth: float = 0.0
    volume: float = 0.0
    contact: bool = False
    basis: str = ""
    measured: int = 0
    faces: tuple[int, int] = (-1, -1)
    curve: Array = field(default_factory=lambda: np.zeros((0, 2)))

    @property
    def lower(self) -> float:
        return max(0.0, self.distance - self.error)


class Sweep:
    """All that pairs of one motion share: fine samples of poses and velocities."""

    def __init__(self, motion: Motion) -> None:
        self.motion = motion
        frames = len(motion.times) - 1
        count = frames * max(1, -(-SAMPLES // frames))
        self.times = np.linspace(0.0, motion.duration, count + 1)
        self.pose = motion.pose if count == frames else motion.between(self.times)
        step = self.times[1]
        if count == frames:
            self.twist = motion.velocity
        else:  # differences of the interpolated poses: exact enough for a bound with margin
            moves = poses.between(self.pose[:-1], self.pose[1:]) / step
            self.twist = np.concatenate([moves, moves[-1:]])
        self._boxes: dict[int, tuple[Array, Array]] = {}

    def relative(self, a: Shape, b: Shape, times: Array | None = None) -> Array:
        """Pose (T, 7) of b's link in a's, at the samples or at other times."""
        if times is None:
            return poses.compose(poses.inverse(self.pose[:, a.link]), self.pose[:, b.link])
        both = self.motion.between(times, [a.link, b.link])
        return poses.compose(poses.inverse(both[:, 0]), both[:, 1])

    def path(self, a: Shape, b: Shape) -> Array:
        """(T,) bound on how far any point of b has moved against a, m, since the start."""
        if a.link == b.link:
            return np.zeros(len(self.times))
        # either may be seen as the one that moves: both bounds hold, and the smaller one is taken
        speed = np.minimum(self._speed(a, b), self._speed(b, a))
        padded = np.concatenate([speed[:1], speed, speed[-1:]])
        around = np.stack([padded[:-3], padded[1:-2], padded[2:-1], padded[3:]])
        steepest = np.abs(np.diff(around, axis=0)).max(axis=0)
        top = around.max(axis=0) + steepest / 2  # speeds between samples may lie above both ends
        return np.concatenate([[0.0], np.cumsum(top * self.times[1])])

    def _speed(self, a: Shape, b: Shape) -> Array:
        """(T,) bound on the speed of any point of b seen from a. A solid of revolution is not moved by turning about
        its own axis, in the world or against the other."""
        centre = poses.place(self.pose[:, b.link], b.centre)
        (v_a, w_a, foot), (v_b, w_b, _) = self._unspun(a), self._unspun(b)
        turning = w_b - w_a
        if b.spun is not None:
            z = poses.rotate(self.pose[:, b.link, 3:], b.spun)
            turning = turning - np.einsum("ti,ti->t", turning, z)[:, None] * z
        speed = np.linalg.norm(v_b - v_a - poses.cross(w_a, centre - foot), axis=1)
        return np.asarray(speed + np.linalg.norm(turning, axis=1) * b.radius)

    def _unspun(self, s: Shape) -> tuple[Array, Array, Array]:
        """(T, 3) velocity of a body's centre, its angular velocity and its centre; the turning of a solid of revolution
        about its own axis left out, since it moves nothing."""
        centre = poses.place(self.pose[:, s.link], s.centre)
        v, w = self.twist[:, s.link, :3], self.twist[:, s.link, 3:]
        v = v + poses.cross(w, centre - self.pose[:, s.link, :3])
        if s.spun is not None:
            z = poses.rotate(self.pose[:, s.link, 3:], s.spun)
            w = w - np.einsum("ti,ti->t", w, z)[:, None] * z
        return v, w, centre

    def apart(self, a: Shape, b: Shape) -> Array:
        """(T,) lower bound on the triangles' distance at the samples, from boxes along x, y, z of the world, m."""
        low_a, high_a = self._box(a)
        low_b, high_b = self._box(b)
        return np.maximum(low_b - high_a, low_a - high_b).max(axis=1)

    def _box(self, s: Shape) -> tuple[Array, Array]:
        if id(s) not in self._boxes:
            corners = poses.place(self.pose[:, s.link, None], s.corners)
            self._boxes[id(s)] = corners.min(axis=1), corners.max(axis=1)
        return self._boxes[id(s)]

    def find(
        self, a: Shape, b: Shape, precision: float | None = 0.05, limit: int = 250, meshing: float | None = None
    ) -> Finding:
        """The smallest distance of a and b. It is bounded to `precision` of itself (or GRAIN), or as far as `limit`
        measurements go; with precision None only until it is certain that they never touch. `meshing` is the time of
        one tooth pitch where the two are gears in mesh."""
        relative = self.relative(a, b)
        some = np.unique(np.linspace(0, len(relative) - 1, 7).astype(int))
        fitted = _lasting_fits(a, b, relative[some])
        pair = Pair(a, b, fitted)
        path = self.path(a, b)
        if path[-1] < GRAIN / 10:
            found = self._still(pair)
        elif meshing is not None:
            found = self._sampled(pair, meshing)
        else:
            floor = 0.0
            if not pair.fits and (a.wheel is not None or b.wheel is not None):
                floor = self.find(a.wheel or a, b.wheel or b, precision, limit // 4).lower
            found = self._searched(pair, path, precision, limit, floor)
        if pair.play is not None:
            _with_play(found, pair.play)
        return found

    def _measure(self, pair: Pair, time: float, curve: list[tuple[float, float]]) -> tuple[float, float, object]:
        d, result = pair.distance(self.relative(pair.a, pair.b, np.array([time]))[0])
        curve.append((time, d))
        return d, time, result

    def _still(self, pair: Pair) -> Finding:
        curve: list[tuple[float, float]] = []
        best = self._measure(pair, 0.0, curve)
        return self._told(pair, best, 0.0, curve, [0.0], "they do not move against one another")

    def _sampled(self, pair: Pair, pitch: float) -> Finding:
        """Gears in mesh repeat themselves from tooth to tooth: 48 moments of one pitch, and 12 over the cycle."""
        end = self.motion.duration
        times = np.concatenate([np.linspace(0, min(pitch, end), 48, endpoint=False), np.linspace(0, end, 12)])
        curve: list[tuple[float, float]] = []
        found = [self._measure(pair, float(t), curve) for t in times]
        best = min(found, key=lambda f: f[0])
        touching = [t for d, t, _ in found if d <= 0]
        return self._told(
            pair, best, 0.0, curve, touching, "sampled: 48 moments of one tooth pitch and 12 of the cycle"
        )

    def _searched(self, pair: Pair, path: Array, precision: float | None, limit: int, floor: float) -> Finding:
        times = self.times
        apart = self.apart(pair.a, pair.b)
        change = np.abs(np.diff(apart))
        apart_between = np.minimum(apart[:-1], apart[1:]) - change  # per sample interval
        curve: list[tuple[float, float]] = []

        def bound(t0: float, d0: float, t1: float, d1: float) -> tuple[float, float]:
            s0, s1 = np.interp([t0, t1], times, path)
            by_path = (d0 + d1 - (s1 - s0)) / 2
            first, last = np.searchsorted(times, [t0, t1], side="right") - 1
            by_box = float(apart_between[max(0, first) : max(first, min(last, len(apart_between) - 1)) + 1].min())
            middle = np.interp(
                np.clip((s0 + s1 + d0 - d1) / 2, s0 + 0.05 * (s1 - s0), s1 - 0.05 * (s1 - s0)), path, times
            )
            return max(by_path, by_box, floor), float(middle)

        def push(left: tuple[float, float], right: tuple[float, float]) -> None:
            lower, split = bound(*left, *right)
            if not left[0] < split < right[0]:
                split = (left[0] + right[0]) / 2
            heapq.heappush(heap, (lower, left, right, split))

        heap: list[tuple[float, tuple[float, float], tuple[float, float], float]] = []
        knots = [self._measure(pair, float(t), curve) for t in np.linspace(0, times[-1], 5 if precision is None else 9)]
        best = min(knots, key=lambda k: k[0])
        for k0, k1 in itertools.pairwise(knots):
            push((k0[1], k0[0]), (k1[1], k1[0]))
        lower = 0.0
        while heap:
            lower, left, right, split = heapq.heappop(heap)
            if best[0] <= 0 or lower >= best[0] - max(GRAIN, (precision or 0.0) * best[0]):
                break
            proven = precision is None and lower > GRAIN + pair.error
            if proven or len(curve) >= limit or right[0] - left[0] < times[-1] * 1e-9:
                break
            found = self._measure(pair, split, curve)
            if found[0] < best[0]:
                best = found
            push(left, (split, found[0]))
            push((split, found[0]), right)
        else:
            lower = best[0]
        if best[0] <= 0:
            touching = [
                float(t) for t, p in zip(times, self.relative(pair.a, pair.b), strict=True) if pair.touches(p)
            ] or [best[1]]
            return self._told(
                pair, best, 0.0, curve, touching, f"overlap sampled at {len(times) - 1} moments of the cycle"
            )
        gap = max(0.0, best[0] - lower)
        return self._told(pair, best, gap, curve, [], "bounded over the whole cycle, between frames too")

    def _told(
        self,
        pair: Pair,
        best: tuple[float, float, object],
        gap: float,
        curve: list[tuple[float, float]],
        touching: list[float],
        basis: str,
    ) -> Finding:
        d, t, result = best
        frame = self.motion.between(np.array([t]), [pair.a.link])[0, 0]
        near = getattr(result, "nearest_points", None)
        points = (
            [poses.place(frame, np.asarray(p) / 1e3) for p in near]
            if near is not None and d > 0
            else [poses.place(frame, pair.a.centre)] * 2
        )
        error = pair.error + gap
        found = Finding(pair.a.name, pair.b.name, d, error, t, (points[0], points[1]), basis=basis, measured=pair.asked)
        found.curve = np.array(sorted(curve))
        if d > 0:
            found.faces = tuple(int(s.body.face_of[getattr(result, f"b{i}")]) for i, s in ((1, pair.a), (2, pair.b)))  # type: ignore[assignment]
            return found
        found.contact = True
        chosen = (
            [touching[int(i)] for i in np.unique(np.linspace(0, len(touching) - 1, 24).astype(int))]
            if touching
            else [t]
        )
        depths = [(self._depth(pair, t), t) for t in chosen]
        (depth, volume, middle), at = max(depths, key=lambda k: k[0][0])
        step = float(self.times[1]) * max(1, len(touching) // 24)
        while depth > GRAIN and step > self.motion.duration * 1e-5 and len(touching) > 1:  # climb to the deepest moment
            near_by = [(self._depth(pair, u), u) for u in (at - step, at + step) if 0 <= u <= self.motion.duration]
            better = max(near_by, key=lambda k: k[0][0], default=((0.0, 0.0, middle), at))
            if better[0][0] > depth:
                (depth, volume, middle), at = better
            else:
                step /= 2
        if depth > GRAIN:
            found.depth, found.volume, found.contact, found.time = depth, volume, False, at
            frame = self.motion.between(np.array([at]), [pair.a.link])[0, 0]
            found.points = (poses.place(frame, middle), poses.place(frame, middle))
            found.error = pair.error
        return found

    def _depth(self, pair: Pair, time: float) -> tuple[float, float, Array]:
        return pair.overlap(self.relative(pair.a, pair.b, np.array([time]))[0])


def _lasting_fits(a: Shape, b: Shape, relative: Array) -> list:
    """Fits that hold at all the given relative poses, with the least play."""
    each = [{(f.face_a, f.face_b): f for f in fits(a, b, p)} for p in relative]
    lasting = set(each[0]).intersection(*each)
    return [min((e[k] for e in each), key=lambda f: f.play) for k in sorted(lasting)]


def _with_play(found: Finding, play: float) -> None:
    """Takes the exact radial play of a pin in its bore into what the triangles of all other faces gave."""
    exact = "; pin and bore exact from their faces"
    if play < -GRAIN / 10 and -play > found.depth:
        found.depth, found.contact, found.distance, found.error = -play, False, 0.0, 1e-9
        found.basis += exact
    elif found.depth <= 0 and (play <= found.distance or found.distance <= 0):
        if play <= GRAIN / 10:
            found.contact, found.distance, found.error = True, 0.0, 1e-9
        elif not found.contact:
            found.distance, found.error = play, 1e-9
        found.basis += exact

"""Refinement of one pair where a verdict depends on it: by fine triangles, by the exact faces, by the volume that the true
bodies share.
"""

from __future__ import annotations

import itertools
import time as clock
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.cache import Cache
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.proximity.body_geometry import BodyGeometry, BodyPair, PlacedBody
from uhrwerk.core.proximity.relative_motion import hashed
from uhrwerk.core.proximity.sweep import EXACT, Meshing, PairResult, Sweep, SweepTask
from uhrwerk.core.solids import BuildFailed, KernelPool, Recipe

#: shared space below this is a touch, m3 (0.0001 mm3)
LEAST_VOLUME = 1e-13
#: moments at which a distance is drawn over the cycle
CURVE = 121
#: seconds that the distances of one curve may take
DRAWING = 0.15


@dataclass(frozen=True)
class PairCaches:
    """What was found for pairs, in any evaluation."""

    findings: Cache[PairResult]
    volumes: Cache[float]
    curves: Cache[Array]


@dataclass(frozen=True)
class Refinement:
    """The shapes of one evaluation, how they are made, how they move and mesh, and the distances that are asked for."""

    shapes: Sequence[PlacedBody]
    sweep: Sweep
    meshes: Mapping[tuple[str, str], Meshing]
    limits: tuple[float, ...]
    recipes: Mapping[str, Recipe]  # by placed part
    fine_form: Callable[[PlacedBody], BodyGeometry]
    kernel_pool: KernelPool
    store: PairCaches

    def overlaps(self, f: PairResult, limit: float) -> tuple[PairResult, bool | None]:
        """Whether two bodies overlap more deeply than allowed: yes, no, or None where even fine triangles and the true bodies
        do not tell. Also the finding that decided it."""
        if f.depth > limit + f.error:
            return f, True
        if not f.decided:
            return f, None
        if f.apart and f.depth == 0 and (not f.contact or "exactly" in f.basis):
            return f, False
        if f.facets:
            f = self._finer(f)
        if f.depth > limit + f.error:
            return f, True
        if f.depth == 0 and not f.contact and f.apart:
            return f, False
        if 0 < f.depth <= limit - f.error:
            return f, False
        try:
            volume = self._shared_volume(f)
        except BuildFailed:
            return f, None
        if volume <= LEAST_VOLUME:
            return f, False
        return f, True if f.depth > limit else None

    def settled(self, f: PairResult, limit: float) -> PairResult:
        """The finding, better known where a limit lies within its error: by fine triangles, then by the exact faces."""
        if f.depth or abs(f.distance - limit) >= f.error or not f.facets:
            return f
        finer = self._finer(f)
        if finer.depth or abs(finer.distance - limit) >= finer.error or not finer.facets:
            return finer
        try:
            (steps_a, pose_a), (steps_b, pose_b) = self._posed_steps(finer)
            faces = self._nearest_faces(finer)
            exact = float(
                self.kernel_pool.call("distance", steps_a, [faces[0]], pose_a, steps_b, [faces[1]], pose_b)[0]
            )
        except BuildFailed as failed:
            why = f"the exact faces gave no result: {failed}".replace("; stopped", ", stopped")
            return replace(finer, basis=f"{finer.basis}; {why}")
        if exact > finer.distance + finer.error:
            return finer
        # the search was ended within a grain; what the triangles hid is known now, but only at this moment
        error = max(finer.error - finer.facets, 0.0) + EXACT / 2
        basis = f"{finer.basis}; exact between the two nearest faces at the worst moment"
        return replace(finer, distance=exact, error=error, basis=basis)

    def curve(self, names: tuple[str, ...], worst: float) -> Array:
        """(n, 2) time and distance of two bodies over the cycle, for drawing, with the `worst` moment among them.

        Of the triangles, at so many moments as take no longer than DRAWING, at most CURVE.
        """
        a, b = self._two(names[0], names[1])
        every = np.union1d(np.linspace(0, self.sweep.motion.duration, CURVE), [worst])
        at = self.sweep.poses(a, b, every)

        def measured() -> Array:
            pair, points, begun = BodyPair(a.form, b.form), [], clock.perf_counter()
            first = [int(np.searchsorted(every, worst)), 0, len(every) - 1]
            order = [*first, *(k for start in (0, 4, 2, 6, 1, 5, 3, 7) for k in range(start, len(every), 8))]
            for n, k in enumerate(order):
                if n > CURVE // 8 and clock.perf_counter() - begun > DRAWING:
                    break
                points.append((every[k], pair.distance(at[k])[0]))
            return np.unique(np.array(points), axis=0)

        return self.store.curves.get(hashed(a.form.key, b.form.key, at[:, :3], poses.matrix(at[:, 3:])), measured)

    def gaps(self, a: Of, b: Of, times: Array) -> Array | None:
        """The smallest distance (T,) of two parts, or of one body of each, at moments (T,) s, m, of the triangles; None where one
        is not there."""
        one, other = (
            [s for s in self.shapes if s.placed == of.placed and of.body in (None, s.form.body.name)] for of in (a, b)
        )
        if not one or not other or a.placed == b.placed:
            return None
        return np.asarray(np.min([self._distances(i, j, times) for i in one for j in other], axis=0))

    def _distances(self, a: PlacedBody, b: PlacedBody, times: Array) -> Array:
        at = self.sweep.poses(a, b, times)

        def measured() -> Array:
            pair = BodyPair(a.form, b.form)
            return np.array([0.0 if pair.encloses(x) else pair.distance(x)[0] for x in at])

        key = hashed("gaps", a.form.key, b.form.key, at[:, :3], poses.matrix(at[:, 3:]))
        return self.store.curves.get(key, measured)

    def shared(self, names: tuple[str, ...], time: float) -> tuple[Array, NDArray[np.int64]]:
        """What two bodies share at a moment, as their triangles tell: vertices (n, 3) m in the world, triangles (m, 3)."""
        a, b = self._two(names[0], names[1])
        vertices, triangles = BodyPair(a.form, b.form).shared(self.sweep.poses(a, b, np.array([time]))[0])
        at = poses.compose(self.sweep.track.at(np.array([time]), [a.link])[0, 0], a.local)
        return poses.place(at, vertices), triangles

    def _two(self, a: str, b: str) -> tuple[PlacedBody, PlacedBody]:
        shapes = {s.name: s for s in self.shapes}
        return shapes[a], shapes[b]

    def _finer(self, f: PairResult) -> PairResult:
        """The same pair with fine triangles; the finding as it was where they cannot be made."""
        a, b = self._two(f.a, f.b)
        task: SweepTask = self.sweep.task(a, b, 0.0, self.meshes.get((a.name, b.name)), self.limits)
        task = replace(task, a=self.fine_form(a), b=self.fine_form(b))
        return self.sweep.placed_result(a, b, task, self.store.findings.get(task.key(), task.finding))

    def _shared_volume(self, f: PairResult) -> float:
        """The space that the true bodies share at a finding's moment, m3."""
        a, b = self._two(f.a, f.b)
        steps = itertools.chain(*self._posed_steps(f))
        name = hashed(a.form.key, b.form.key, f.pose[:3], poses.matrix(f.pose[3:]))
        return self.store.volumes.get(name, lambda: float(self.kernel_pool.call("common_volume", *steps)))

    def _posed_steps(self, f: PairResult) -> list[tuple[list[object], Array]]:
        """Build steps and pose of both bodies of a finding, at its moment, in the frame of the first."""
        both = []
        for s, at in zip(self._two(f.a, f.b), (poses.IDENTITY, f.pose), strict=True):
            bodies = self.recipes[s.placed]["bodies"]
            both.append((next(b["steps"] for b in bodies if b["name"] == s.form.body.name), at))
        return both

    def _nearest_faces(self, f: PairResult) -> tuple[int, int]:
        """The B-rep faces of both bodies that are nearest at a finding's pose."""
        a, b = self._two(f.a, f.b)
        pair = BodyPair(a.form, b.form)
        _, result = pair.distance(f.pose)
        return int(pair.a.body.face_of[result.b1]), int(pair.b.body.face_of[result.b2])

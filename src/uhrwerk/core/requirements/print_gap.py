"""Print gap: parts that are printed together, in their places, do not fuse.

A gap all round of what moves against another, at the pose at the start, and where one stands above the other a whole layer that
is left out between them (common practice: 0.4 mm, and one layer).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, ClassVar, Literal

import numpy as np
import shapely
from pydantic import Field

from uhrwerk.core.document.document import WHOLE
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Id, Length, Ref, Size
from uhrwerk.core.joints.at import At
from uhrwerk.core.printing import Bed, PrintedBody, Slices, Stack
from uhrwerk.core.printing.bed import DOWN
from uhrwerk.core.proximity.body_geometry import MM, BodyPair, PlacedBody
from uhrwerk.core.proximity.relative_motion import AtRest
from uhrwerk.core.proximity.sweep import PairResult, SweepTask
from uhrwerk.core.solids import BuildFailed
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict, at_least

#: gaps that differ by no more are the same, m
TIGHT = 1e-8


@dataclass(frozen=True)
class PairGap:
    """Two bodies and how far they are apart (less than nothing: how deep they overlap), by how much that may be off, m, and where;
    `unparted`: where one lies above the other without a whole layer between, (3,) m."""

    a: PlacedBody
    b: PlacedBody
    distance: float
    error: float
    points: tuple[Array, Array]
    unparted: Array | None


class PrintGap(Requirement):
    """Parts that are printed in their places and move against one another keep a gap, and a whole layer where one stands above
    the other. They are printed as they stand, z up, unless a face of one of them is to lie on the bed; layers begin at the lowest
    point."""

    title: ClassVar[str] = "Print gap"

    kind: Literal["print_gap"] = "print_gap"
    of: Annotated[Id, Ref("groups", "group", besides=(WHOLE,))] = WHOLE
    at_least: Length = "0.4 mm"
    layer: Size = Field(default="0.2 mm", title="Layer height")
    line: Size = Field(default="0.4 mm", title="Line width")
    down: At | None = Field(default=None, title="Face on the bed")

    def judge(self, e: Evaluation) -> Verdict:
        scope, shown = e.document.scope(), e.document.display
        limit, layer = scope.value(self.at_least, "length"), scope.value(self.layer, "length")
        if self.down is not None and self.lying(e) is None:
            name = e.document.placed[self.down.placed].name
            return self.undecided(f"{name} has no face {self.down.datum} that could lie on the bed")
        try:
            gaps = self.gaps(e)
        except BuildFailed as failed:
            return self.undecided(f"the lowest point is not known: {failed}")
        if not gaps:
            return self.undecided("no two of these parts move against one another")
        worst = min(gaps, key=lambda g: (g.unparted is None, g.distance))
        parted = worst.unparted is None
        value = worst.distance if parted else min(worst.distance, 0.0)
        names = f"{e.named(worst.a.name)} and {e.named(worst.b.name)}"
        if worst.distance < 0:
            words = f"{names} overlap by {shown(-worst.distance, 'length')}"
        elif not parted:
            words = f"{names}: no whole layer of {shown(layer, 'length')} between one and the other above it"
        else:
            words = f"{names}: {shown(value, 'length')}, at least {e.document.limit(limit, 'length')}"
        holds = at_least(value, worst.error, limit)
        if parted and holds is None:
            return self.undecided(f"{words}: too close to the limit to decide")
        points = worst.points if worst.unparted is None else (worst.unparted, worst.unparted)
        return Verdict(
            self.name, self.kind, parted and bool(holds), words, value=value, limit=limit, sense=">=", dimension="length",
            error=worst.error, time=0.0, parts=(worst.a.name, worst.b.name),
            points=tuple((float(p[0]), float(p[1]), float(p[2])) for p in points),
            basis="at the pose at the start, by triangles where they decide, else by the exact faces; layers by slices of triangles at both edges and in the middle of each", short="" if parted else "no layer",
        )  # fmt: skip

    def lying(self, e: Evaluation) -> Array | None:
        """Which way is down, (3,) in the world; None where the face that is to lie on the bed is not there."""
        if self.down is None:
            return DOWN
        datum = e.mechanism.datums.get(self.down.placed, {}).get(self.down.datum)
        if datum is None:
            return None
        at = e.mechanism.part_pose(self.down.placed, e.moved.motion.pose[0])
        return np.asarray(poses.rotate(at[3:], datum.z))

    def bed(self, e: Evaluation) -> Bed:
        """The bed under what is printed, at the start."""
        down = self.lying(e)
        standing = {s.placed: poses.compose(e.moved.motion.pose[0, s.link], s.local) for s, _ in self._standing(e)}
        lying = [body for placed, at in standing.items() for body in e.lying(placed, at)]
        return Bed.under(lying, DOWN if down is None else down)

    def _standing(self, e: Evaluation) -> list[tuple[PlacedBody, Array]]:
        """The bodies that are printed, with their poses in the world."""
        chosen = set(e.document.placed if self.of == WHOLE else e.document.groups[self.of].placed)
        pose = e.moved.motion.pose[0]
        return [(s, poses.compose(pose[s.link], s.local)) for s in e.refinement.shapes if s.placed in chosen]

    def gaps(self, e: Evaluation) -> list[PairGap]:
        """Of every two bodies that move against one another and are not certainly farther apart than others."""
        scope = e.document.scope()
        limit, layer = scope.value(self.at_least, "length"), scope.value(self.layer, "length")
        standing, bed, stack = self._standing(e), self.bed(e), Stack(layer * MM)
        shapes = [s for s, _ in standing]
        at = {s.name: bed.place(pose) for s, pose in standing}
        boxes = {s.name: _box(poses.place(at[s.name], s.form.body.vertices)) for s in shapes}
        slices = {s.name: Slices(_printed(s, at[s.name])) for s in shapes}
        pairs = [(a, b) for k, a in enumerate(shapes) for b in shapes[k + 1 :] if a.link != b.link]
        gaps: list[PairGap] = []
        for far, _, a, b in sorted((_apart(boxes[a.name], boxes[b.name]), k, a, b) for k, (a, b) in enumerate(pairs)):
            if gaps and far > max(limit, 2 * layer, min(g.distance for g in gaps)):  # twice a layer always holds one
                break
            gap = _gap(a, b, at, limit)
            if gap.distance - gap.error < 2 * layer:
                k, shared = next(stack.unparted(slices[a.name], slices[b.name]), (0, None))
                if shared is not None:
                    x, y = shapely.get_coordinates(shapely.point_on_surface(shared))[0]
                    gap = replace(gap, unparted=np.array([x, y, (k + 1) * stack.height]) / MM)
            where = bed.world(np.array([*gap.points, *([] if gap.unparted is None else [gap.unparted])]))
            gaps.append(replace(gap, points=(where[0], where[1]), unparted=where[2] if len(where) > 2 else None))
        return gaps


def _printed(s: PlacedBody, at: Array) -> PrintedBody:
    body = s.form.body
    return PrintedBody(s.placed, body.name, s.link, poses.place(at, body.vertices), body.triangles, body.deviation)


def _gap(a: PlacedBody, b: PlacedBody, at: dict[str, Array], limit: float) -> PairGap:
    """By the triangles; where they do not tell on which side of the limit it lies, by the exact faces. Points over the bed."""
    there = poses.compose(poses.inverse(at[a.name]), at[b.name])
    pair = BodyPair(a.form, b.form)
    distance, certain = pair.distance(there)
    if distance > pair.error and abs(distance - limit) > 2 * pair.error + TIGHT and not pair.encloses(there):
        error, depth, here = pair.error, 0.0, [np.asarray(p) / MM for p in certain.nearest_points]
    else:
        f: PairResult = SweepTask(a.form, b.form, AtRest(there), 0.0, (limit,)).finding()
        distance, error, depth, here = f.distance, f.error, f.depth, list(f.points)
    points = (poses.place(at[a.name], here[0]), poses.place(at[a.name], here[1]))
    return PairGap(a, b, -depth if depth else distance, error, points, None)


def _box(points: Array) -> Array:
    return np.stack([points.min(axis=0), points.max(axis=0)])


def _apart(a: Array, b: Array) -> float:
    """How far two boxes (2, 3) are apart at least."""
    return float(np.linalg.norm(np.maximum(0.0, np.maximum(a[0] - b[1], b[0] - a[1]))))

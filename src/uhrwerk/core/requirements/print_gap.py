"""Print gap: parts that are printed together, in their places, do not fuse.

A gap all round of what moves against another, at the pose at the start, and where one stands above the other a whole layer that
is left out between them (common practice: 0.4 mm, and one layer).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, floor
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.document.document import WHOLE
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Id, Length, Ref, Size
from uhrwerk.core.proximity.body_geometry import MM, BodyPair, PlacedBody
from uhrwerk.core.proximity.relative_motion import AtRest
from uhrwerk.core.proximity.sweep import PairResult, SweepTask
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict, at_least

#: a gap is vertical where this part of it is
UPRIGHT = 0.9
#: a face lies on a layer's edge within this part of a layer
EDGE = 1e-3
#: gaps that differ by no more are the same, m
TIGHT = 1e-8


@dataclass(frozen=True)
class PairGap:
    """What was found between two bodies: how far they are apart (less than nothing: how deep they overlap), by how much that may be
    off, m, where, and whether a whole layer is left out where one stands above the other there; `doubt` where level faces of both
    elsewhere may stand above one another without one."""

    a: PlacedBody
    b: PlacedBody
    distance: float
    error: float
    points: tuple[Array, Array]
    layered: bool
    doubt: bool


class PrintGap(Requirement):
    """Parts that are printed in their places and move against one another keep a gap, and a whole layer where one stands above
    the other; z is up, and layers begin at the lowest point."""

    title: ClassVar[str] = "Print gap"

    kind: Literal["print_gap"] = "print_gap"
    of: Annotated[Id, Ref("groups", "group", besides=(WHOLE,))] = WHOLE
    at_least: Length = "0.4 mm"
    layer: Size = Field(default="0.2 mm", title="Layer height")

    def judge(self, e: Evaluation) -> Verdict:
        scope, shown = e.document.scope(), e.document.display
        limit, layer = scope.value(self.at_least, "length"), scope.value(self.layer, "length")
        gaps = self._gaps(e, limit, layer)
        if not gaps:
            return self.undecided("no two of these parts move against one another")
        worst = min(gaps, key=lambda g: (g.layered, g.distance))
        value = min(worst.distance, 0.0) if not worst.layered else worst.distance
        names = f"{e.named(worst.a.name)} and {e.named(worst.b.name)}"
        if worst.distance < 0:
            words = f"{names} overlap by {shown(-worst.distance, 'length')}"
        elif not worst.layered:
            gap = shown(worst.distance, "length")
            words = f"{names}: {gap} one above the other, no whole layer of {shown(layer, 'length')} between"
        else:
            words = f"{names}: {shown(value, 'length')}, at least {e.document.limit(limit, 'length')}"
        holds = at_least(value, worst.error, limit)
        if worst.layered and holds is None:
            return self.undecided(f"{words}: too close to the limit to decide")
        doubtful = next((g for g in gaps if g.doubt), None)
        if worst.layered and holds and doubtful is not None:
            pair = f"{e.named(doubtful.a.name)} and {e.named(doubtful.b.name)}"
            return self.undecided(
                f"level faces of {pair} may stand above one another without a whole layer between: give them two"
            )
        return Verdict(
            self.name, self.kind, worst.layered and bool(holds), words, value=value, limit=limit, sense=">=", dimension="length",
            error=worst.error, time=0.0, parts=(worst.a.name, worst.b.name),
            points=tuple((float(p[0]), float(p[1]), float(p[2])) for p in worst.points),
            basis="at the pose at the start, by triangles where they decide, else by the exact faces; layers at the nearest places and between level faces", short="" if worst.layered else "no layer",
        )  # fmt: skip

    def _gaps(self, e: Evaluation, limit: float, layer: float) -> list[PairGap]:
        """Of every two bodies that move against one another and are not certainly farther apart than others."""
        chosen = set(e.document.placed if self.of == WHOLE else e.document.groups[self.of].placed)
        shapes = [s for s in e.refinement.shapes if s.placed in chosen]
        at = {s.name: poses.compose(e.moved.motion.pose[0, s.link], s.local) for s in shapes}
        boxes = {s.name: _box(poses.place(at[s.name], s.form.body.vertices)) for s in shapes}
        bed = min((float(b[0, 2]) for b in boxes.values()), default=0.0)
        pairs = [(a, b) for k, a in enumerate(shapes) for b in shapes[k + 1 :] if a.link != b.link]
        gaps: list[PairGap] = []
        for far, _, a, b in sorted((_apart(boxes[a.name], boxes[b.name]), k, a, b) for k, (a, b) in enumerate(pairs)):
            if gaps and far > max(limit, 2 * layer, min(g.distance for g in gaps)):  # twice a layer always holds one
                break
            gaps.append(_gap(a, b, at, limit, layer, bed))
        return gaps


def _gap(a: PlacedBody, b: PlacedBody, at: dict[str, Array], limit: float, layer: float, bed: float) -> PairGap:
    """By the triangles; where they do not tell on which side of the limit it lies, by the exact faces."""
    there = poses.compose(poses.inverse(at[a.name]), at[b.name])
    pair = BodyPair(a.form, b.form)
    distance, certain = pair.distance(there)
    if distance > pair.error and abs(distance - limit) > 2 * pair.error + TIGHT and not pair.encloses(there):
        error, depth, here = pair.error, 0.0, [np.asarray(p) / MM for p in certain.nearest_points]
    else:
        f: PairResult = SweepTask(a.form, b.form, AtRest(there), 0.0, (limit,)).finding()
        distance, error, depth, here = f.distance, f.error, f.depth, list(f.points)
    points = (poses.place(at[a.name], here[0]), poses.place(at[a.name], here[1]))
    low, high = sorted(float(p[2]) - bed for p in points)
    upright = distance > 0 and high - low > UPRIGHT * distance
    layered = not upright or _whole(low, high, layer)
    levels = _levels(a, at[a.name]), _levels(b, at[b.name])
    doubt = layered and any(
        0 < z1 - z0 < 2 * layer and not _whole(z0 - bed, z1 - bed, layer) and _apart(box0, box1) == 0
        for one, other in (levels, levels[::-1])
        for z0, up, box0 in one
        for z1, also, box1 in other
        if up and not also
    )
    return PairGap(a, b, -depth if depth else distance, error, points, layered, doubt)


def _whole(low: float, high: float, layer: float) -> bool:
    """Whether a whole layer lies between two heights above the bed."""
    return floor(high / layer + EDGE) - ceil(low / layer - EDGE) >= 1


def _levels(s: PlacedBody, at: Array) -> list[tuple[float, bool, Array]]:
    """The level faces of a body: height, whether it faces up, and its box seen from above."""
    body, out = s.form.body, []
    for k, face in enumerate(body.faces):
        n = poses.rotate(at[3:], face.direction)
        if face.kind == "plane" and abs(n[2]) > 1 - TIGHT:
            points = poses.place(at, body.vertices[np.unique(body.triangles[body.face_of == k])])
            if len(points):
                out.append((float(points[0, 2]), bool(n[2] > 0), _box(points * np.array([1.0, 1, 0]))))
    return out


def _box(points: Array) -> Array:
    return np.stack([points.min(axis=0), points.max(axis=0)])


def _apart(a: Array, b: Array) -> float:
    """How far two boxes (2, 3) are apart at least."""
    return float(np.linalg.norm(np.maximum(0.0, np.maximum(a[0] - b[1], b[0] - a[1]))))

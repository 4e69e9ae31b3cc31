"""Wall thickness: a part's material is nowhere thinner than a limit, so that it can be printed, cast or cut."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.document.requirement import Of
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.field import Size
from uhrwerk.core.proximity.walls import Wall, thinnest
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict


class WallThickness(Requirement):
    """Between opposite surfaces of a part its material is at least so thick, measured square to the surface; 1 mm is common for
    what is printed (common practice)."""

    title: ClassVar[str] = "Wall thickness"

    kind: Literal["wall_thickness"] = "wall_thickness"
    of: Of
    at_least: Size = "1 mm"

    def judge(self, e: Evaluation) -> Verdict:
        placed = self.of.placed
        bodies = {b: x for b, x in e.solids[placed].bodies.items() if self.of.body in (None, b)}
        if not bodies:
            return self.undecided(f"{e.document.placed[placed].name} has no body {self.of.body!r} any more")
        limit, shown = e.document.scope().value(self.at_least, "length"), e.document.display
        walls: dict[str, Wall] = {b: thinnest(x) for b, x in bodies.items()}
        where = min(walls, key=lambda b: walls[b].thickness)
        w, name = walls[where], f"{placed}/{where}"
        if np.isinf(w.thickness):
            return self.undecided("no two surfaces of it lie opposite one another")
        words = f"{e.named(name)}: {shown(w.thickness, 'length')}, at least {e.document.limit(limit, 'length')}"
        near = w.error if w.error > 1e-8 else 1e-10
        if limit - near <= w.thickness < limit + (near if w.error > 1e-8 else -near):
            return self.undecided(f"{words}: too close to the limit to decide")
        pose = e.mechanism.part_pose(placed, e.moved.motion.pose[0])
        points = tuple(tuple(float(v) for v in poses.place(pose, p)) for p in w.points)
        basis = "between all opposite faces; " + (
            "exact" if w.error <= 1e-8 else f"curved faces as triangles, within {shown(w.error, 'length')}"
        )
        return Verdict(
            self.name, self.kind, w.thickness >= limit - near, words, value=w.thickness, limit=limit, sense=">=", dimension="length",
            error=w.error, time=0.0, parts=(name,), points=points, basis=basis,  # type: ignore[arg-type]
        )  # fmt: skip

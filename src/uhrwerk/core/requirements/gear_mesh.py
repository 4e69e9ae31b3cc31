"""Gear mesh: backlash, contact ratio and tip clearance lie within their limits."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.assembly import teeth_of
from uhrwerk.core.elements import involute
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.field import Count, Length, PairId
from uhrwerk.core.joints import At
from uhrwerk.core.joints.gear_pair import GearPair
from uhrwerk.core.part.design import element_of
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

#: sizes that differ by less are the same, m or a part
SAME = 1e-9


@dataclass(frozen=True)
class _MeshWords:
    """A quantity with its limit: by how much it is within, as a part of the limit or of a hundredth of a module."""

    name: str
    value: float
    limit: float
    sense: Literal[">=", "<="]
    dimension: str
    room: float


class GearMesh(Requirement):
    """Two spur gears run with so much backlash, contact ratio and room between tips and roots; no tip reaches below an involute."""

    title: ClassVar[str] = "Mesh of two gears"

    kind: Literal["gear_mesh"] = "gear_mesh"
    pair: PairId
    backlash_at_least: Length = Field(default="0.02 mm", title="Backlash at least, normal")
    backlash_at_most: Length = Field(default="0.3 mm", title="Backlash at most")
    contact_ratio: Count = Field(default="1.2", title="Contact ratio at least")
    tip_clearance: Length = Field(default="0.1 mm", title="Tip over root at least")
    undercut: bool = Field(default=True, title="Undercut allowed")

    def judge(self, e: Evaluation) -> Verdict:
        pair, document, m = e.document.pairs[self.pair], e.document, e.mechanism
        if not isinstance(pair, GearPair):
            return self.undecided("that pair is not a gear pair")
        if any(element_of(document, p).kind != "spur_gear" for p in (pair.a, pair.b)):
            return self.undecided("the mesh of two spur gears is known; of a ring gear, the clearance of its teeth")
        a, b = (teeth_of(document, p) for p in (pair.a, pair.b))
        track, names = e.moved.motion.track, [document.placed[p].name for p in (pair.a, pair.b)]
        one, other = (m.place(At(placed=p, datum="axis")) for p in (pair.a, pair.b))
        here, there = (poses.compose(track.pose[:, p.link], p.frame) for p in (one, other))
        z, off = poses.rotate(here[:, 3:], np.array([0.0, 0, 1])), there[:, :3] - here[:, :3]
        centres = np.linalg.norm(off - (off * z).sum(axis=1)[:, None] * z, axis=1)
        near, far = float(centres.min()), float(centres.max())
        for below, above, of_two in ((a, b, names), (b, a, names[::-1])):
            if involute.tip_reaches_below(below, above, near):
                return self._flaw(f"tips of {of_two[1]} reach below the form circle of {of_two[0]}", pair)
            if below.undercut and not self.undercut:
                return self._flaw(f"the teeth of {of_two[0]} are undercut", pair)
        parts = self._mesh_words(e, a, b, near, far)
        worst = min(parts, key=lambda p: p.room)
        shown = document.display
        words = "; ".join(f"{p.name} {shown(p.value, p.dimension, 3)}" for p in parts if p.name)
        return Verdict(
            self.name, self.kind, worst.room >= -SAME, f"{words}: {worst.name or parts[0].name} {worst.sense} {e.document.limit(worst.limit, worst.dimension, 3)}",
            value=worst.value, limit=worst.limit, sense=worst.sense, dimension=worst.dimension, error=SAME * max(1.0, abs(worst.limit)),
            parts=(pair.a, pair.b), basis="formulas of ISO 21771-1 at the least and the greatest centre distance of the cycle",
        )  # fmt: skip

    def _mesh_words(
        self, e: Evaluation, a: involute.Tooth, b: involute.Tooth, near: float, far: float
    ) -> list[_MeshWords]:
        scope = e.document.scope()
        low, high, tip = (
            scope.value(t, "length") for t in (self.backlash_at_least, self.backlash_at_most, self.tip_clearance)
        )
        ratio = scope.value(self.contact_ratio, "number")
        tight, loose = (involute.normal_backlash(a, b, c) for c in (near, far))
        over = min(near - g.tip_radius - h.root_circle for g, h in ((a, b), (b, a)))
        contact, fine = min(involute.contact_ratio(a, b, c) for c in (near, far)), 0.01 * a.module
        return [
            _MeshWords("backlash", tight, low, ">=", "length", (tight - low) / fine),
            _MeshWords("" if near == far else "greatest backlash", loose, high, "<=", "length", (high - loose) / fine),
            _MeshWords("contact ratio", contact, ratio, ">=", "number", (contact - ratio) / 0.01),
            _MeshWords("tips over roots", over, tip, ">=", "length", (over - tip) / fine),
        ]

    def _flaw(self, words: str, pair: GearPair) -> Verdict:
        return Verdict(self.name, self.kind, False, words, parts=(pair.a, pair.b), basis="formulas of ISO 21771-1")

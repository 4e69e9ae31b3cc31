"""Misalignment: two shafts are out of line by no more than their coupling takes."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.assembly import datum_frame
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import PlacedId, numbers
from uhrwerk.core.joints.coupling_pair import kind_of, out_of_line
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit
from uhrwerk.core.part.design import element_of
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

#: less than this is in line, m and rad
NOTHING = 1e-7


class Misalignment(Requirement):
    """Offset, angle and shift of two halves of a coupling are within what it takes: their parts of it add up to one at most."""

    title: ClassVar[str] = "Misalignment of a coupling"

    kind: Literal["misalignment"] = "misalignment"
    half: PlacedId = Field(title="Half")
    other: PlacedId = Field(title="Other half")

    def judge(self, e: Evaluation) -> Verdict:
        m = e.mechanism
        scope = e.document.scope()
        if self.half == self.other:
            return self.undecided("give two halves")
        one, other = (numbers(element_of(e.document, i), scope) for i in (self.half, self.other))
        try:
            kind, _ = kind_of(one), kind_of(other)
        except JointDoesNotFit as why:
            return self.undecided(str(why))
        if one.kind != other.kind:
            return self.undecided("the halves are of two kinds of coupling")
        t = e.moved.motion.track
        a, b = (poses.compose(t.pose[:, m.link_of[i]], _own(e, i, len(t.pose))) for i in (self.half, self.other))
        offset, angle, shift = out_of_line(one, other, a, b)
        takes = kind.takes(one)
        used = _part(offset, takes.offset) + _part(angle, takes.angle) + _part(np.abs(shift), takes.shift)
        at = int(np.argmax(used))
        shown = e.document.display
        said = ", ".join(
            f"{shown(float(x[at]), what, 3)} of {shown(most, what, 3)} {name}"
            for x, most, what, name in ((offset, takes.offset, "length", "offset"), (angle, takes.angle, "angle", "angle"), (np.abs(shift), takes.shift, "length", "shift"))
        )  # fmt: skip
        value = float(used[at])
        words = f"{said}; {'more than any' if not np.isfinite(value) else f'{100 * value:.0f} %'} of what it takes"
        return Verdict(
            self.name, self.kind, value <= 1 + 1e-6, words, value=value if np.isfinite(value) else 1e3, limit=1.0, sense="<=", dimension="number",
            error=1e-6, time=float(t.times[at]) if e.moved.motion.moving else None, short=f"{100 * min(value, 10.0):.0f} %",
            basis="both axes at the stations of the motion; parts of what each alone may be, added (common practice)",
        )  # fmt: skip


def _part(x: Array, most: float) -> Array:
    """Which part of the most is used; more than any where nothing is allowed."""
    if most > 0:
        return x / most
    return np.where(x > NOTHING, np.inf, 0.0)


def _own(e: Evaluation, placed: str, count: int) -> Array:
    """The axis of a placed half on its link, (K, 7)."""
    m = e.mechanism
    local = np.asarray(m.links[m.link_of[placed]].local[placed])
    frame = poses.compose(local, datum_frame(m.datums[placed]["axis"]))
    return np.broadcast_to(frame, (count, 7))

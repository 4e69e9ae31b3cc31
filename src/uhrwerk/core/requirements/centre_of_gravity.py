"""Centre of gravity: what turns in a joint has its centre near the axis."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.balance.rotor import basis, hanging, rotors
from uhrwerk.core.field import JointId, Length
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict


class CentreOfGravity(Requirement):
    """The centre of gravity of what turns in a joint lies no farther from the axis than this."""

    title: ClassVar[str] = "Centre of gravity near the axis"

    kind: Literal["centre_of_gravity"] = "centre_of_gravity"
    joint: JointId
    at_most: Length = "0.05 mm"

    def judge(self, e: Evaluation) -> Verdict:
        r = rotors(e).get(self.joint)
        if r is None or not r.mass:
            return self.undecided("nothing with mass turns in this joint about an axis that stands still")
        if why := hanging(e, r):
            return self.undecided(why)
        limit, shown, error = e.document.scope().value(self.at_most, "length"), e.document.display, r.error / r.mass
        words = f"{shown(r.offset, 'length')} off the axis, at most {e.document.limit(limit, 'length')} allowed"
        if limit < r.offset <= limit + error:
            return self.undecided(f"{words}: too close to the limit to decide")
        return Verdict(
            self.name, self.kind, r.offset <= limit, words, value=r.offset, limit=limit, sense="<=", dimension="length",
            error=error, time=0.0, parts=r.parts[:1], basis=basis(e),
        )  # fmt: skip

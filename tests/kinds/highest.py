"""A made-up requirement: no part's centre of gravity lies higher than asked at the start."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.document.requirement import REQUIREMENTS
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.field import Length, PlacedId
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict


class Highest(Requirement):
    """The centre of gravity of a part lies no higher than asked, at the start of the cycle."""

    title: ClassVar[str] = "Height of a part"

    kind: Literal["highest"] = "highest"
    part: PlacedId
    at_most: Length = "100 mm"

    def judge(self, e: Evaluation) -> Verdict:
        assert e.motion is not None
        limit = e.document.scope().value(self.at_most, "length")
        body = next(iter(e.solids[self.part].bodies.values()))
        found = float(poses.place(e.part_poses(e.motion.pose[0])[self.part], body.centroid)[2])
        words = f"{e.document.placed[self.part].name} lies at {e.document.display(found, 'length')}"
        return Verdict(
            self.name, self.kind, found <= limit, words, value=found, limit=limit, sense="<=", dimension="length",
            error=1e-9, basis="centroid of the B-rep solid",
        )  # fmt: skip


def register() -> None:
    REQUIREMENTS.register(Highest)

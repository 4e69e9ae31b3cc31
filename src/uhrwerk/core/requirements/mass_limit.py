"""Mass: that of the whole, of the moving parts or of a group has an upper limit."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from uhrwerk.core.document.document import MOVING, WHOLE
from uhrwerk.core.field import Id, Mass, Ref
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict


class MassLimit(Requirement):
    """The mass of the whole, of what moves, or of a group is at most what is asked."""

    title: ClassVar[str] = "Mass at most"
    needs: ClassVar[Literal["joints", "solids", "motion"]] = "solids"

    kind: Literal["mass"] = "mass"
    of: Annotated[Id, Ref("groups", "group", besides=(WHOLE, MOVING))] = WHOLE
    at_most: Mass = "1 kg"

    def judge(self, e: Evaluation) -> Verdict:
        limit, mass = e.document.scope().value(self.at_most, "mass"), e.masses[self.of].mass
        word = {WHOLE: "the whole", MOVING: "what moves"}.get(self.of) or e.document.groups[self.of].name
        words = f"{word}: {e.document.display(mass, 'mass')}, at most {e.document.limit(limit, 'mass')}"
        return Verdict(
            self.name, self.kind, mass <= limit, words, value=mass, limit=limit, sense="<=", dimension="mass",
            error=mass * 1e-9, basis="volume of the B-rep solids times density",
        )  # fmt: skip

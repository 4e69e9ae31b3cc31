"""Nothing is loose: as many freedoms as drivers, and no part without a joint."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict


class Determinate(Requirement):
    """As many freedoms as drivers, and nothing that no joint holds."""

    title: ClassVar[str] = "Nothing is loose"
    needs: ClassVar[Literal["joints", "solids", "motion"]] = "joints"

    kind: Literal["determinate"] = "determinate"

    def judge(self, e: Evaluation) -> Verdict:
        mobility = e.mobility
        if mobility is None:
            return self.undecided(e.problems[0].words if e.problems else "there is nothing to move yet")
        free = mobility.undriven + len(mobility.loose)
        words = f"mobility {mobility.count}, drivers {len(e.document.drivers)}"
        if mobility.loose:
            words += f"; nothing holds {', '.join(e.document.placed[p].name for p in mobility.loose)}"
        if mobility.undriven:
            driven = {d.joint for d in e.document.drivers.values()}
            words += "; free: " + "; ".join(f.words for f in mobility.freedoms if f.joint not in driven)
        return Verdict(
            self.name, self.kind, free == 0, words, value=float(free), limit=0.0, sense="<=", dimension="number",
            basis="null space of the joint equations at the assembled pose", short=f"{free} free" if free else "none",
        )  # fmt: skip

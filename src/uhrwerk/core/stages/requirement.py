"""A requirement that can be judged. Each kind is one file beside this one: what it states, which pairs of
bodies have to be looked at for it, its verdict in words.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import ClassVar, Literal

from uhrwerk.core.document import Document
from uhrwerk.core.document.requirement import StatedRequirement
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.proximity.body_geometry import PlacedBody
from uhrwerk.core.proximity.sweep import PairResult
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.verdict import Point, Verdict


class Requirement(StatedRequirement):
    """Base of all kinds of requirement.

    `title` names it where one is chosen. `needs` is how far the evaluation must have come for it to be judged; what needs
    the motion is not judged while joints wait or contradict. `everything`: all pairs of bodies that can meet are looked at.
    """

    title: ClassVar[str]
    needs: ClassVar[Literal["joints", "solids", "motion"]] = "motion"
    everything: ClassVar[bool] = False

    def pairs(self, shapes: Sequence[PlacedBody], document: Document) -> Iterator[tuple[int, int, float]]:
        """Pairs of shapes whose distance has to be known, each with the distance on which the verdict hangs, m."""
        return iter(())

    def ahead(self, e: Evaluation) -> None:
        """Computes what the motion alone decides, once, while the solids are still being made."""

    def meanwhile(self, e: Evaluation) -> None:
        """Computes what motion and masses decide, once, while workers look at distances."""

    def judge(self, e: Evaluation) -> Verdict:
        """The verdict of an evaluation that has come as far as is needed."""
        raise NotImplementedError

    def course(self, e: Evaluation) -> tuple[Array, Array, float, float] | None:
        """What is measured at moments (T,) s, in the verdict's dimension (T,), with the lowest and the highest that is allowed:
        its lane. None where there is none, or where it is drawn as a distance."""
        return None

    def undecided(self, why: str) -> Verdict:
        return Verdict(self.name, self.kind, None, f"Undecided: {why}")


def pointed(f: PairResult) -> tuple[Point, ...]:
    """The nearest points of a finding as plain numbers, m."""
    return tuple((float(p[0]), float(p[1]), float(p[2])) for p in f.points)

"""Contact kept: a follower never leaves its cam."""

from __future__ import annotations

from contextlib import suppress
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Force, PairId
from uhrwerk.core.forces.inverse_dynamics import ForcesUnknown, assumptions, contact_force, moments_of_interest, winding
from uhrwerk.core.joints.cam_pair import CamPair
from uhrwerk.core.motion.extremes import Extremes, NoValue
from uhrwerk.core.part.design import element_of
from uhrwerk.core.proximity.second_roller import second_rollers
from uhrwerk.core.stages.cycle_extremes import basis, over_cycle
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.moments import moments
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict


class ContactKept(Requirement):
    """A follower presses on its cam with at least so much, at any moment of the cycle: by its spring, against its inertia."""

    title: ClassVar[str] = "Contact of cam and follower"

    kind: Literal["contact_kept"] = "contact_kept"
    pair: PairId
    at_least: Force = Field(default="1 N", title="Contact force at least")

    def ahead(self, e: Evaluation) -> None:
        if isinstance(e.document.pairs[self.pair], CamPair) and e.motion is not None and e.motion.moving:
            moments(e, moments_of_interest(e))

    def meanwhile(self, e: Evaluation) -> None:
        if not isinstance(e.document.pairs[self.pair], CamPair) or self._grooved(e):
            return
        if e.motion is not None and e.motion.moving and not second_rollers(e.mechanism, e.motion, self.pair):
            with suppress(ForcesUnknown, NoValue):
                self._run(e)
                self._least(e)

    def judge(self, e: Evaluation) -> Verdict:
        if not isinstance(e.document.pairs[self.pair], CamPair):
            return self.undecided("that pair is not a cam and its follower")
        if e.motion is None or not e.motion.moving:
            return self.undecided("nothing drives the cam")
        if f"pairs.{self.pair}" not in {r.owner for r in e.mechanism.rows}:
            return self.undecided("the follower is not in use")
        try:
            times, force = self._run(e)
        except ForcesUnknown as why:
            return self.undecided(str(why))
        rollers = second_rollers(e.mechanism, e.motion, self.pair)
        if rollers:
            name, play = e.document.placed[rollers[0].placed].name, e.document.display(rollers[0].play, "length")
            words = f"{name} runs on the second disc and holds it there, with a play of {play} at most"
            return Verdict(self.name, self.kind, True, words, basis="by its form; the play estimated from moments")
        if self._grooved(e):
            over = int((np.diff(np.sign(force[np.abs(force) > 1e-9 * np.abs(force).max(initial=1e-30)])) != 0).sum())
            words = f"the groove holds the roller on both sides; it goes over to the other wall {over} times a cycle"
            return Verdict(
                self.name, self.kind, True, words, basis=f"by its form; the walls estimated from {len(times)} moments"
            )
        try:
            least = self._least(e)
        except (ForcesUnknown, NoValue) as why:
            return self.undecided(str(why))
        value, limit, shown = least.low, e.document.scope().value(self.at_least, "force"), e.document.display
        error = least.low_missed + 1e-9 * max(abs(least.low), abs(least.high))
        parts = "they would part" if value < 0 else "they press on one another"
        words = f"{parts}: {shown(value, 'force')} at {least.low_time:.4f} s, at least {e.document.limit(limit, 'force')} required"
        if limit <= value < limit + error:
            return self.undecided(f"{words}: too close to the limit to decide")
        return Verdict(
            self.name, self.kind, value >= limit, words, value=value, limit=limit, sense=">=", dimension="force", error=error,
            time=least.low_time, parts=tuple(at.placed for at in e.document.pairs[self.pair].at),
            basis=f"{basis(least)}; {assumptions(e)}",
        )  # fmt: skip

    def _least(self, e: Evaluation) -> Extremes:
        return e.once(
            f"least of {self!r}",
            lambda: over_cycle(e, lambda t: contact_force(e, self.pair, t), last_period=winding(e)),
        )

    def _grooved(self, e: Evaluation) -> bool:
        return element_of(e.document, e.document.pairs[self.pair].at[0].placed).kind == "groove_cam"

    def _run(self, e: Evaluation) -> tuple[Array, Array]:
        times = moments_of_interest(e)
        return times, e.once(f"contact of {self.pair}", lambda: contact_force(e, self.pair, times))

    def course(self, e: Evaluation) -> tuple[Array, Array, float, float] | None:
        try:
            times, force = self._run(e)
        except ForcesUnknown:
            return None
        return times, force, e.document.scope().value(self.at_least, "force"), float(force.max())

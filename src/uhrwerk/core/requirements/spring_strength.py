"""Spring strength: its coils do not touch, it does not buckle, and its material bears the stress."""

from __future__ import annotations

from functools import partial
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import PairId, Stress, numbers
from uhrwerk.core.forces import springs
from uhrwerk.core.joints import LinearSpring, TorsionalSpring
from uhrwerk.core.joints.linear_spring import Used
from uhrwerk.core.motion.extremes import Extremes
from uhrwerk.core.stages.cycle_extremes import basis, over_cycle
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

#: a seated spring that stands more askew is not what the formulas are of, rad
MOST_ASKEW = 0.0175


class SpringStrength(Requirement):
    """At every moment the coils of a spring stand clear of one another, it does not buckle, and the stress in it is allowed."""

    title: ClassVar[str] = "Spring strength"

    kind: Literal["spring_strength"] = "spring_strength"
    pair: PairId = Field(title="Spring")
    stress: Stress = Field(default="600 MPa", title="Stress at most")

    def judge(self, e: Evaluation) -> Verdict:
        limit = e.document.scope().value(self.stress, "stress")
        uses = _used(e, self.pair, limit)
        if uses is None:
            return self.undecided("that pair is not a spring, or nothing moves yet")
        spring = e.document.pairs[self.pair]
        turns = isinstance(spring, TorsionalSpring) and springs.winds_on(e, [self.pair])

        def used(name: str) -> Extremes:
            def at(times: Array) -> Array:
                uses = _used(e, self.pair, limit, times)
                assert uses is not None
                return uses[1][name][0]

            return over_cycle(e, at, last_period=turns)

        worst = {name: e.once(f"most {name} of {self!r}", partial(used, name)) for name in uses[1]}
        name = max(worst, key=lambda k: worst[k].high)
        value, time, error = worst[name].high, worst[name].high_time, worst[name].high_missed
        words = f"{uses[1][name][1]}: {100 * value:.1f} % at {time:.4g} s; " + "; ".join(
            f"{what}: {100 * worst[k].high:.1f} %" for k, (_, what) in uses[1].items() if k != name
        )
        words = words.rstrip("; ")
        run = springs.run(e, self.pair) if isinstance(spring, LinearSpring) else None
        askew = 0.0 if run is None else float(run.askew.max())
        if askew > MOST_ASKEW:
            lean = e.document.display(askew, "angle")
            return self.undecided(
                f"it stands askew by up to {lean} between its seats, and the formulas are of one that stands straight: put its two datums in line, or let its ends pivot; {words}"
            )
        if value <= 1 < value + error:
            return self.undecided(f"{words}: too close to the limit to decide")
        return Verdict(
            self.name, self.kind, value <= 1, words, value=value, limit=1.0, sense="<=", dimension="number", error=error, time=time,
            short=f"{100 * value:.0f} %", basis=f"{basis(worst[name])}; formulas of EN 13906 or of the bent strip, without gravity and inertia of the spring",
        )  # fmt: skip

    def course(self, e: Evaluation) -> tuple[Array, Array, float, float] | None:
        uses = _used(e, self.pair, e.document.scope().value(self.stress, "stress"))
        if uses is None:
            return None
        return uses[0], np.max([used for used, _ in uses[1].values()], axis=0), 0.0, 1.0


def _used(e: Evaluation, pair: str, limit: float, when: Array | None = None) -> tuple[Array, dict[str, Used]] | None:
    """Moments (T,) s, and for each thing that may not be: which part of what is allowed is used (T,), and its words."""
    spring = e.document.pairs[pair]
    n = numbers(spring, e.document.scope())
    if e.motion is None:
        return None
    times = (
        springs.moments_of_interest(e, [pair] if isinstance(spring, TorsionalSpring) else []) if when is None else when
    )
    if isinstance(spring, TorsionalSpring):
        wound = springs.torsional(e, pair, times)
        if wound is None:
            return None
        stress = spring.stress(n, wound.torque)
        return times, {"stress": (stress / limit, "of the stress allowed"), **spring.used(n, n.preload - wound.turned)}
    run = springs.run(e, pair, times) if isinstance(spring, LinearSpring) else None
    if run is None or not isinstance(spring, LinearSpring):
        return None
    return times, {"stress": (run.stress / limit, "of the stress allowed"), **spring.used(n, run.length, run.reach)}

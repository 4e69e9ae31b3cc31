"""A curve stays within limits: a position, a speed, an acceleration, a jerk, an angle, a ratio, any formula of these."""

from __future__ import annotations

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.curves import SERIES, CurveOf, NotMeasured
from uhrwerk.core.curves.curve_of import derivative
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.document import Document
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import CurveId, Formula
from uhrwerk.core.quantity import FormulaError
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

#: values that differ by less than this part are the same
SAME = 1e-9


class CurveLimit(Requirement):
    """A curve, or its rate, acceleration or jerk, is never less than one limit and never more than another."""

    title: ClassVar[str] = "Curve within limits"

    kind: Literal["curve_limit"] = "curve_limit"
    curve: CurveId
    of: Literal["value", "rate", "acceleration", "jerk"] = Field(default="value", title="Of its")
    at_least: Formula = Field(default="", title="At least")
    at_most: Formula = Field(default="", title="At most")

    def _dimension(self, d: Document) -> str:
        curve = d.curves[self.curve]
        assert isinstance(curve, CurveOf)
        return derivative(curve.dimension(d), SERIES.index(self.of))

    def _limits(self, d: Document) -> tuple[float | None, float | None]:
        name = self._dimension(d)
        low, high = (d.scope().value(t, name) if t.strip() else None for t in (self.at_least, self.at_most))
        return low, high

    def faults(self, document: Document) -> Iterable[tuple[str, str]]:
        if self.curve not in document.curves:
            return
        try:
            name = self._dimension(document)
        except FormulaError:
            return  # said of the curve itself
        curve = document.curves[self.curve]
        if isinstance(curve, CurveOf) and curve.sampled:
            yield (
                "curve",
                f"{curve.name} is known only at the frames: use {curve.title}, which is known between them too",
            )
            return
        if not name:
            yield "of", f"the {self.of} of {document.curves[self.curve].name} has no unit here"
            return
        if not self.at_least.strip() and not self.at_most.strip():
            yield "at_most", "give at least one of the two limits"
        for field, text in (("at_least", self.at_least), ("at_most", self.at_most)):
            if text.strip():
                try:
                    document.scope().value(text, name)
                except FormulaError as error:
                    yield field, f"{text!r} {error}"

    def judge(self, e: Evaluation) -> Verdict:
        measured = evaluated_curve(e, self.curve)
        if isinstance(measured, NotMeasured):
            return self.undecided(str(measured))
        dimension, (low, high) = self._dimension(e.document), self._limits(e.document)
        if low is not None and high is not None and low > high:
            return self.undecided("the least that is allowed lies above the most")
        try:
            x = measured.extremes(self.of)
        except NotMeasured as why:
            return self.undecided(str(why))
        beyond = [
            t
            for t, v, bound in ((x.low_time, x.low, low), (x.high_time, x.high, high))
            if bound is not None and np.isinf(v)
        ]
        if beyond:
            words = f"it has no bound: it passes all bounds at {beyond[0]:.4g} s"
            return Verdict(
                self.name, self.kind, False, words, time=beyond[0], dimension=dimension, basis=x.basis, short="no bound"
            )
        short = [] if low is None else [(x.low - low, x.low, x.low_time, low, ">=", x.low_missed)]
        long = [] if high is None else [(high - x.high, x.high, x.high_time, high, "<=", x.high_missed)]
        worst = min(short + long, key=lambda k: k[0])
        if worst[0] >= 0:  # what holds hangs on the one that is known least well
            worst = min(short + long, key=lambda k: k[0] - k[5])
        margin, value, time, limit, sense, missed = worst
        shown = e.document.display
        what = "" if self.of == "value" else f"{self.of} "
        words = f"{what}{shown(x.low, dimension)} to {shown(x.high, dimension)}, {'at least' if sense == '>=' else 'at most'} {e.document.limit(limit, dimension)} allowed"
        same = SAME * max(abs(limit), abs(x.low), abs(x.high))
        if 0 <= margin + same < missed - same:
            return self.undecided(f"{words}: too close to the limit to decide")
        curve = e.document.curves[self.curve]
        if not measured.whole and margin >= -same and not (isinstance(curve, CurveOf) and curve.repeats(e.document)):
            return self.undecided(
                f"{words}; followed for {measured.times[-1]:.4g} s alone, and it does not repeat: shorten the cycle"
            )
        if not measured.whole:
            words += f"; followed for {measured.times[-1]:.4g} s, from where all repeats"
        return Verdict(
            self.name, self.kind, margin >= -same, words, value=value, limit=limit, sense=sense, dimension=dimension,
            error=missed + same, time=time, basis=x.basis,
        )  # fmt: skip

    def course(self, e: Evaluation) -> tuple[Array, Array, float, float] | None:
        curve = evaluated_curve(e, self.curve)
        if isinstance(curve, NotMeasured):
            return None
        low, high = self._limits(e.document)
        y = curve.series[self.of]
        least, most = float(np.nanmin(y)), float(np.nanmax(y))
        return (
            curve.times,
            y,
            min(least, most if high is None else high) if low is None else low,
            max(most, least if low is None else low) if high is None else high,
        )

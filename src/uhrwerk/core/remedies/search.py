"""Search: numbers within limits that bring a measured value to a goal while requirements hold.

The value of a requirement, or a mass, is made least or most, or brought to a wanted one, by models without derivatives and polls in turn
(`lowest`), which kinks do not stop. A goal to be met is searched for by its square, which is smooth where the value is a distance. Every
step is kept. At the end the best is rounded to sizes that can be made, whichever of the sizes beside it serve best, and judged again with
everything. What is found is good near where the search began; that nothing better lies elsewhere is not said.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from math import log10
from typing import Literal

import numpy as np

from uhrwerk.core.document import Command, Document, ValidationFailed, parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.quantity import FormulaError
from uhrwerk.core.remedies.lowest import lowest
from uhrwerk.core.remedies.number import Number
from uhrwerk.core.stages.evaluation import Evaluation

#: steps at most
STEPS = 300
#: a condition holds the search back where it is met by no more than this part of what it was met by, or missed, to begin with
BACK = 1e-3
#: numbers at most, of which all sizes beside the best are tried
MOST = 6
#: of how many rounded ones everything is judged at most
PROVED = 4
#: where a size must be above zero, it is searched down to so large a part of what it is
LEAST = 0.1
#: a value that is off its goal by no more, SI, has met it
MET = 1e-7

Way = Literal["least", "most", "equal"]


@dataclass(frozen=True)
class Goal:
    """What is sought: of a requirement's value ("requirements.id") or a mass ("masses.whole"), SI."""

    of: str
    way: Way = "least"
    to: float = 0.0

    def value(self, e: Evaluation) -> float | None:
        kind, _, id = self.of.partition(".")
        if kind == "masses":
            return e.masses[id].mass if id in e.masses else None
        return e.verdicts[id].value if id in e.verdicts else None

    def cost(self, value: float) -> float:
        return {"least": value, "most": -value, "equal": (value - self.to) ** 2}[self.way]

    def met(self, value: float) -> bool:
        return self.way == "equal" and abs(value - self.to) <= MET


@dataclass(frozen=True)
class Range:
    """A number that may be turned from `low` to `high`, in its own unit."""

    number: Number
    low: float
    high: float

    def text(self, value: float) -> str:
        """A value as it is tried, finer than what can be made."""
        n = self.number
        if n.follows:
            return f"{n.follows} {'-' if value < 0 else '+'} {abs(value)!r} {n.unit}"
        return f"{value!r} {n.unit}".rstrip()

    def beside(self, value: float) -> list[str]:
        """The sizes on both sides of a value that can be made and lie within the limits, as texts."""
        sizes = {self.number.on_grid(value, up=up) for up in (False, True)}
        slack = 1e-6 * self.number.step
        return sorted({self.number.text(x) for x in sizes if self.low - slack <= x <= self.high + slack})


@dataclass(frozen=True)
class SearchStep:
    """What was tried: texts of the numbers, the goal's value (None: none), and whether every condition held."""

    number: int
    texts: tuple[str, ...]
    value: float | None
    holds: bool
    failing: tuple[str, ...] = ()


class Search:
    """A search under way. `evaluate` gives the evaluation of a document, and may raise what ends the search; `report` is told of every
    step, and may wait."""

    def __init__(
        self, document: Document, goal: Goal, ranges: Sequence[Range], conditions: Sequence[str],
        evaluate: Callable[[Document], Evaluation], report: Callable[[SearchStep], None] = lambda step: None,
    ) -> None:  # fmt: skip
        self.document, self.goal, self.ranges, self.evaluate, self.heard = (
            document,
            goal,
            list(ranges),
            evaluate,
            report,
        )
        self.conditions = [i for i in conditions if f"requirements.{i}" != goal.of]
        self.steps: list[SearchStep] = []
        self.rounded: SearchStep | None = None
        self.words, self.dimension, self.settled = "beginning", "", True
        self._known: dict[tuple[str, ...], tuple[SearchStep, tuple[float, ...]]] = {}

    @property
    def best(self) -> SearchStep | None:
        """The step nearest to the goal of those at which every condition held."""
        holding = [s for s in self.steps if s.holds and s.value is not None]
        return min(holding, key=lambda s: self.goal.cost(s.value or 0.0), default=None)

    def command(self, step: SearchStep) -> Command:
        """The numbers of a step as one change."""
        sets = [
            {"kind": "set_value", "path": r.number.path, "value": text}
            for r, text in zip(self.ranges, step.texts, strict=True)
        ]
        return parse({"kind": "together", "commands": sets, "words": f"search: {', '.join(step.texts)}"})

    def run(self) -> None:
        """To the end: the best of the steps, and that rounded."""
        begin = np.array([(r.number.value - r.low) / (r.high - r.low) for r in self.ranges])
        first = self._tried(np.clip(begin, 0, 1))
        if first[0].value is None:
            self.words = "the goal has no value to begin with: choose another, or remedy what prevents one"
            return
        scale = abs(self.goal.cost(first[0].value)) or 1.0
        sizes = [max(abs(m), 1e-9) for m in first[1]]
        self.words = "searching"

        def cost(z: np.ndarray) -> float:
            value = self._tried(z)[0].value
            if value is not None and self.goal.met(value) and self.best is not None and self.best.value == value:
                raise StopIteration
            return 1e6 if value is None else self.goal.cost(value) / scale

        def margins(z: np.ndarray) -> np.ndarray:
            return np.array([m / size for m, size in zip(self._tried(z)[1], sizes, strict=True)])

        with suppress(StopIteration):
            self.settled = lowest(cost, margins, np.clip(begin, 0, 1), STEPS).settled
        self._round()

    def binding_conditions(self) -> list[str]:
        """Names of the conditions that are just met at the best step: what keeps it from a better one."""
        best = self.best
        if best is None:
            return []
        _, at = self._known[best.texts]
        _, first = self._known[self.steps[0].texts]
        names = [self.document.requirements[i].name for i in self.conditions]
        return [n for n, m, size in zip(names, at, first, strict=False) if m < BACK * max(abs(size), 1e-9)]

    def _tried(self, z: np.ndarray) -> tuple[SearchStep, tuple[float, ...]]:
        values = [r.low + float(x) * (r.high - r.low) for r, x in zip(self.ranges, z, strict=True)]
        return self._judged(tuple(r.text(v) for r, v in zip(self.ranges, values, strict=True)))

    def _judged(self, texts: tuple[str, ...], everything: bool = False) -> tuple[SearchStep, tuple[float, ...]]:
        """The step, and how far each condition is from failing, by its own measure."""
        if texts in self._known and not everything:
            return self._known[texts]
        requirements = (
            list(self.document.requirements) if everything else [*self.conditions, self.goal.of.partition(".")[2]]
        )
        try:
            after = self.document
            for r, text in zip(self.ranges, texts, strict=True):
                after = accept(after, parse({"kind": "set_value", "path": r.number.path, "value": text}))
            chosen = {i: x for i, x in after.requirements.items() if i in requirements}
            e = self.evaluate(after.model_copy(update={"requirements": chosen}))
        except (ValidationFailed, FormulaError):
            step = (
                SearchStep(len(self.steps) + 1, texts, None, False, ("the document refuses it",)),
                (-1.0,) * len(self.conditions),
            )
        else:
            verdicts = {i: e.verdicts[i] for i in (requirements if everything else self.conditions) if i in e.verdicts}
            failing = tuple(
                v.name for i, v in verdicts.items() if v.holds is not True and f"requirements.{i}" != self.goal.of
            )
            margins = tuple(
                v.margin if v.margin is not None else (0.0 if v.holds else -1.0)
                for i, v in verdicts.items()
                if i in self.conditions
            )
            value = self.goal.value(e)
            if value is None:
                failing = (*failing, e.problems[0].words if e.problems else "the goal has no value then")
            step = SearchStep(len(self.steps) + 1, texts, value, not failing, failing), margins
            self.dimension = next(
                (v.dimension for i, v in e.verdicts.items() if f"requirements.{i}" == self.goal.of), ""
            )
        self._known[texts] = step
        self.steps.append(step[0])
        self.heard(step[0])
        return step

    def _round(self) -> None:
        """The sizes beside the best that serve best, with everything judged."""
        best = self.best
        if best is None:
            self.words = f"no numbers were found at which all conditions hold, in {len(self.steps)} steps"
            return
        self.words = "rounding to sizes that can be made"
        values = [_value(text, r.number) for text, r in zip(best.texts, self.ranges, strict=True)]
        beside = [r.beside(v) for r, v in zip(self.ranges, values, strict=True)]
        tried = [self._judged(texts)[0] for texts in itertools.product(*beside)]
        holding = [s for s in tried if s.holds and s.value is not None]
        for s in sorted(holding, key=lambda s: self.goal.cost(s.value or 0.0))[:PROVED]:
            proved = self._judged(s.texts, everything=True)[0]
            if proved.holds or not self.rounded:
                self.rounded = proved
            if proved.holds:
                break
        words = [f"{len(self.steps)} steps"]
        if not self.settled:
            words.append("the steps ran out before it converged")
        elif self.goal.way != "equal" or not self.goal.met(best.value or 0.0):
            back = self.binding_conditions()
            words.append(f"no nearby step is better{': ' + ', '.join(back) + ' holds it back' if back else ''}")
        if not self.rounded:
            words.append("rounded to sizes that can be made, the conditions fail")
        self.words = "; ".join(words)


def _value(text: str, n: Number) -> float:
    """What a text of a step says, in the number's unit."""
    words = text.removeprefix(n.follows).replace(" ", "").replace("+", "")
    return float(words.removesuffix(n.unit) or 0)


def ranges(numbers: Sequence[Number]) -> list[Range]:
    """Numbers with the limits between which they are searched where none are stated: as far as a remedy would turn them."""
    return [Range(n, *_round_limits(n)) for n in numbers]


def _round_limits(n: Number) -> tuple[float, float]:
    low, high = n.value - n.most, n.value + n.most
    if n.positive:  # a size that can be made: a part of what it is, and never nothing
        low = max(low, n.on_grid(max(LEAST * n.value, n.step), up=True))
    digits = max(0, -int(np.floor(log10(n.step) + 1e-9)))
    return round(low, digits), round(high, digits)


__all__ = ["MOST", "Goal", "Range", "Search", "SearchStep", "ranges"]

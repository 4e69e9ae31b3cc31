"""Two numbers together, where none alone will do: the least change of both that makes a requirement hold.

A change that does is found by a quadratic model without derivatives (COBYQA: Ragonneau, 2022, in scipy), rounded to sizes that can be
made, and then lessened: step by step over the sizes of both, each judged itself, and last among all that lie within a few steps
and are smaller (a pattern search: Hooke and Jeeves, J. ACM 8 (1961); from memory). That is the least of its neighbourhood; where
the sizes at which it holds lie in several places, that of another may be smaller.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize

from uhrwerk.core.remedies.number import Number
from uhrwerk.core.stages.verdict import Verdict

#: verdicts to find a change that does; to lessen it; and how many steps away smaller ones are looked for last
TRIES, LESS, AROUND = 60, 150, 3
#: steps of both, the longest first
STRIDES = (32, 16, 8, 4, 2, 1)

#: the verdict with both numbers written so; None where the document refuses them
Judge = Callable[[tuple[str, str]], Verdict | None]
Values = tuple[float, float]


@dataclass(frozen=True)
class NumberPair:
    """Two numbers, and what judges them."""

    one: Number
    other: Number
    judge: Judge

    def changes(self) -> Iterator[Values]:
        """Values of both at which it holds, each a smaller change than the one before."""
        best = self._somewhere()
        while best is not None:
            yield best
            best = self._less(best)

    def size(self, values: Values) -> float:
        """How large a change is, both together, as a part of what they were."""
        return self.one.part(values[0]) + self.other.part(values[1])

    def _holds(self, values: Values) -> bool:
        answer = self.judge((self.one.text(values[0]), self.other.text(values[1])))
        return answer is not None and answer.holds is True

    def _somewhere(self) -> Values | None:
        """A change that does, of sizes that can be made."""
        numbers, best = (self.one, self.other), list[np.ndarray]()

        def values(z: np.ndarray) -> list[float]:
            return [n.value + float(x) * n.most for n, x in zip(numbers, z, strict=True)]

        def beyond(z: np.ndarray) -> float:
            one, other = (f"{v!r} {n.unit}".strip() for n, v in zip(numbers, values(z), strict=True))
            answer = self.judge((one, other))
            if answer is None or answer.margin is None or answer.value is None:
                return 1e6
            if answer.holds:
                best.append(z)
            return answer.value**2 if answer.sense == "<=" else -answer.margin

        scale = abs(beyond(np.zeros(2))) or 1.0
        minimize(
            lambda z: beyond(z) / scale, np.zeros(2), method="COBYQA", bounds=[(-1, 1)] * 2,
            options={"maxfev": TRIES, "initial_tr_radius": 0.15, "final_tr_radius": 1e-4},
        )  # fmt: skip
        for z in best[:-4:-1]:  # the last found are the farthest within
            ones, others = (
                (n.on_grid(v, up=False), n.on_grid(v, up=True)) for n, v in zip(numbers, values(z), strict=True)
            )
            start = next((v for v in self._sorted(ones, others) if self._holds(v)), None)
            if start is not None:
                return start
        return None

    def _less(self, values: Values) -> Values | None:
        """A smaller change that does: as small as it gets from there; None where there is none."""
        best, tried = values, 0
        for stride in STRIDES:
            going = True
            while going and tried < LESS:
                going = False
                for there in self._smaller(best, stride, 1):
                    tried += 1
                    if self._holds(there):
                        best, going = there, True
                        break
        if best != values:
            return best
        return next((v for v in self._smaller(values, 1, AROUND) if self._holds(v)), None)

    def _smaller(self, values: Values, stride: int, around: int) -> list[Values]:
        """Sizes within so many strides that are a smaller change, the smallest first."""
        ones, others = (
            [n.moved(v, k * stride) for k in range(-around, around + 1)]
            for n, v in ((self.one, values[0]), (self.other, values[1]))
        )
        return [v for v in self._sorted(ones, others) if self.size(v) < self.size(values) - 1e-12]

    def _sorted(self, ones: Sequence[float], others: Sequence[float]) -> list[Values]:
        """All pairs of these, the smallest change first."""
        return sorted(((a, b) for a in ones for b in others), key=self.size)

"""The lowest cost under constraints whose values are known at points alone, kinks and all.

A quadratic model without derivatives (COBYQA: Ragonneau, Model-Based Derivative-Free Optimization Methods and Software, 2022, in scipy) runs
fast while all is smooth, and stands at a kink, as where a cost or a constraint is the lesser of two. So it takes turns with polls in random
orthogonal directions, doubled and halved (mesh adaptive direct search: Audet and Dennis, SIAM J. Optim. 17 (2006), with a barrier: from memory),
which come on there; each goes on from the best of the other, until neither brings more.

>>> import numpy as np
>>> kink = lambda z: 0.1 + max(abs(z[0] - 0.3), 2 * abs(z[1] - z[0]))
>>> best = lowest(kink, lambda z: np.array([]), np.array([0.9, 0.8]), 400)
>>> best.settled, round(float(kink(best.at)), 2)
(True, 0.1)
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.optimize import NonlinearConstraint, minimize

from uhrwerk.core.equations.pose import Array

#: the model's first step and its last, as parts of a number's way; a poll's first and last, and by what it shrinks
FIRST, LAST = 0.15, 1e-8
WIDE, NARROW, LESS = 0.1, 1e-5, 0.6
#: turns of both at most, and by what part of all that was gained the next must gain for one more
TURNS, GAIN = 6, 1e-4
#: a constraint that is missed by no more is held, as a part of its size
HELD = 1e-12


@dataclass(frozen=True)
class Lowest:
    """The best point (n,), within 0 and 1, and whether both ways came to rest there before the steps ran out."""

    at: Array
    settled: bool


class _Spent(Exception):
    """All steps are used."""


class _LowestSoFar:
    """Counts points, and keeps the best: the least cost of those at which all constraints hold; before there is one, the least missed."""

    def __init__(
        self, cost: Callable[[Array], float], margins: Callable[[Array], Array], begin: Array, steps: int
    ) -> None:
        self._cost, self._margins, self.left = cost, margins, steps
        self._seen: dict[bytes, tuple[float, float]] = {}
        self.at, self.rank = begin, (np.inf, np.inf)
        self.rank = self.of(begin)

    def of(self, z: Array) -> tuple[float, float]:
        """How much is missed, and the cost, at a point."""
        key = z.tobytes()
        if key not in self._seen:
            if not self.left:
                raise _Spent
            self.left -= 1
            cost, margins = self._cost(z), self._margins(z)
            missed = float((np.minimum(margins + HELD, 0.0) ** 2).sum())
            self._seen[key] = (missed, cost)
            if self._seen[key] < self.rank:
                self.at, self.rank = z.copy(), self._seen[key]
        return self._seen[key]

    def cost(self, z: Array) -> float:
        return self.of(z)[1]

    def margins(self, z: Array) -> Array:
        self.of(z)
        return self._margins(z)


def lowest(cost: Callable[[Array], float], margins: Callable[[Array], Array], begin: Array, steps: int) -> Lowest:
    """From `begin` (n,), each number between 0 and 1, in so many points at most. `margins` (m,) are held where they are not below zero;
    what it raises, or `cost`, ends the search."""
    best = _LowestSoFar(cost, margins, begin, steps)
    start = best.rank
    try:
        for turn in range(TURNS):
            before = best.rank
            _modelled(best, FIRST / 3**turn, len(margins(begin)))
            _polled(best, np.random.default_rng(turn), WIDE / 3**turn)
            if best.rank[0] == before[0] and before[1] - best.rank[1] <= GAIN * (
                start[1] - best.rank[1] if start[0] == before[0] else abs(before[1])
            ):
                break
    except _Spent:
        return Lowest(best.at, settled=False)
    return Lowest(best.at, settled=True)


def _modelled(best: _LowestSoFar, first: float, count: int) -> None:
    constraints = [NonlinearConstraint(best.margins, 0, np.inf)] if count else []
    minimize(
        best.cost, best.at, method="COBYQA", bounds=[(0, 1)] * len(best.at), constraints=constraints,
        options={"maxfev": max(1, best.left // 2), "initial_tr_radius": first, "final_tr_radius": LAST},
    )  # fmt: skip


def _polled(best: _LowestSoFar, random: np.random.Generator, size: float) -> None:
    """To the best of all directions around the best point, again and again: the last that was good first; somewhat less far where none
    is better, twice as far where one is."""
    n = len(best.at)
    last = np.empty((0, n))
    while size > NARROW:
        turned = np.linalg.qr(random.normal(size=(n, n)))[0]
        rank, centre = best.rank, best.at
        for way in np.concatenate([last, turned, -turned]):
            best.of(np.clip(centre + size * way, 0, 1))
            if best.rank < rank:
                last = way[None]
                break
        size = min(2 * size, 2 * WIDE) if best.rank < rank else LESS * size

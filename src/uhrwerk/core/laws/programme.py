"""A programme: segments one after another, each a way to a value by a law; it repeats after its period.

>>> import numpy as np
>>> from uhrwerk.core.field import numbers
>>> from uhrwerk.core.laws.linear import Linear
>>> from uhrwerk.core.quantity import Scope
>>> up = Piece("up", 0.0, 1.0, 0.0, 2.0, numbers(Linear(), Scope()))
>>> down = Piece("down", 1.0, 4.0, 2.0, 0.0, numbers(Linear(), Scope()))
>>> Programme((up, down), 4.0).value(np.array([0.5, 2.5]))
array([1., 1.])
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from uhrwerk.core.equations.law import Law
from uhrwerk.core.field import Numbers
from uhrwerk.core.laws.law import LAWS, Array, at

#: a derivative is looked at this part of the period before and after a place where it may jump
BESIDE = 1e-9
#: moments closer than this part of the period are the same
SAME = 1e-12


@dataclass(frozen=True)
class ProgrammePiece:
    """A segment with numbers: from `begin` to `end` (s, or rad of what leads it) the value goes from `start` to `to`."""

    id: str
    begin: float
    end: float
    start: float
    to: float
    law: Numbers

    @property
    def still(self) -> bool:
        return self.start == self.to


@dataclass(frozen=True)
class Jump:
    """Where a derivative of order 1 (rate) or 2 (acceleration) jumps, from one value to another."""

    at: float
    order: int
    before: float
    after: float


@dataclass(frozen=True)
class Programme(Law):
    """Pieces without gaps that begin `first` after zero, over and over. Where it `continues`, each round begins where the last
    one ended; else the last piece ends where the first begins. At a jump, its derivatives are those before it."""

    pieces: tuple[ProgrammePiece, ...]
    period: float
    first: float = 0.0
    continues: bool = False

    @property
    def steady(self) -> float | None:  # type: ignore[override]
        return 0.0 if all(p.still for p in self.pieces) else None

    @property
    def gain(self) -> float:
        """What one round adds."""
        return self.pieces[-1].to - self.pieces[0].start if self.continues else 0.0

    def derivative(self, t: Array, order: int) -> Array:
        """Value (order 0) to jerk (3) at moments (n,)."""
        u = (np.maximum(np.asarray(t, dtype=float), 4 * SAME * self.period) - self.first) / self.period
        near = np.round(u)
        u = np.where(np.abs(u - near) < SAME, near, u)
        rounds = np.ceil(u) - 1
        x = (u - rounds) * self.period
        ends = np.array([p.end for p in self.pieces])
        which = np.minimum(np.searchsorted(ends, x - SAME * self.period, side="left"), len(self.pieces) - 1)
        out = rounds * self.gain if order == 0 else np.zeros_like(x)
        for k, p in enumerate(self.pieces):
            mine = which == k
            if not mine.any():
                continue
            if p.still:
                out[mine] += p.start if order == 0 else 0.0
                continue
            size = p.end - p.begin
            s = np.clip((x[mine] - p.begin) / size, 0.0, 1.0)
            out[mine] += (p.to - p.start) * at(p.law, s, order) / size**order + (p.start if order == 0 else 0.0)
        return np.asarray(out)

    def value(self, t: Array) -> Array:
        return self.derivative(t, 0)

    def rate(self, t: Array) -> Array:
        return self.derivative(t, 1)

    def acceleration(self, t: Array) -> Array:
        return self.derivative(t, 2)

    def jerk(self, t: Array) -> Array:
        return self.derivative(t, 3)

    def _edges(self) -> Iterator[float]:
        """Within one round, from its beginning: where segments meet, and where their laws may jump."""
        for p in self.pieces:
            yield p.begin
            if not p.still:
                for knot in LAWS[p.law.kind].knots(p.law):
                    yield p.begin + knot * (p.end - p.begin)

    def edges(self) -> list[float]:
        """Where within a period some derivative up to the jerk may jump."""
        return sorted({float(np.mod(x + self.first, self.period)) for x in self._edges()})

    def jumps(self) -> list[Jump]:
        """Every jump of rate or acceleration in one round."""
        edges = np.array(sorted(set(self._edges()))) + self.first + self.period  # a round that has one before it
        beside = BESIDE * self.period
        out = []
        for order in (1, 2):
            # what counts as none: a millionth of the largest, and what the looks beside the place themselves may differ by
            sides = [self.derivative(edges + s * beside, order) for s in (-1, 1)]
            slope = np.abs(np.concatenate([self.derivative(edges + s * beside, order + 1) for s in (-1, 1)])).max()
            fine = np.linspace(self.period, 2 * self.period, 400) + self.first
            least = 1e-6 * np.abs(self.derivative(fine, order)).max(initial=0.0) + 4 * slope * beside
            for place, before, after in zip(edges, *sides, strict=True):
                if abs(after - before) > least:
                    out.append(Jump(float(np.mod(place, self.period)), order, float(before), float(after)))
        return out

    def marks(self, duration: float) -> list[float]:
        """Where segments meet, and right after it, so that what jumps there is looked at on either side."""
        rounds = np.arange(-1, np.ceil((duration - self.first) / self.period))[:, None] * self.period
        edges = (np.array(sorted(set(self._edges())))[None] + rounds + self.first).ravel()
        both = np.concatenate([edges, edges + BESIDE * self.period])
        return [float(x) for x in np.unique(both) if BESIDE * self.period / 2 < x < duration]

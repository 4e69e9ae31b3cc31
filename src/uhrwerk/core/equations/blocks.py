"""Least squares over links: the normal equations of a stack of poses, eliminated link by link.

J^T J couples only links that share a joint, so it is kept in blocks of 6 x 6 and factorised as L D L^T in an order that
makes few new blocks (minimum degree: George and Liu, Computer Solution of Large Sparse Positive Definite Systems, 1981,
ch. 5). Cost grows with the links of a ring, not with their cube. Every step works on the whole stack at once.
Freedoms that no equation holds are kept still by a small damping, whose effect on what is held is then taken out again
by refinement (iterated Tikhonov; Nocedal and Wright, Numerical Optimization, 2nd ed. 2006, section 10.3). From memory.

Two links, one joint held at the frame and one between them:

>>> import numpy as np
>>> plan = Plan(3, np.array([(0, 1)] * 6 + [(1, 2)] * 6))
>>> plan.order
[1, 2]
"""

from __future__ import annotations

import itertools
from copy import copy
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Index = NDArray[np.int64]

#: a single pose of at most so many links is solved as one plain matrix: the work is then all in the steps' overhead
PLAIN = 60
#: a square Jacobian of at most so many unknowns is inverted, where no entry of the inverse is larger
FEW, STEEPEST = 36, 1e5
#: damping as a part of the largest entry of J^T J
DAMPING = 1e-10


class EliminationPlan:
    """Which links meet and in what order they are eliminated. Link 0 stands still and has no unknowns.

    `touched` (m, S) names the links of each row.
    """

    def __init__(self, links: int, touched: Index) -> None:
        self.links, self.touched = links, touched

    @cached_property
    def edges(self) -> list[tuple[tuple[int, ...], Index]]:
        """The links that rows touch together, with those rows."""
        together: dict[tuple[int, ...], list[int]] = {}
        for i, row in enumerate(self.touched.tolist()):
            together.setdefault(tuple(row), []).append(i)
        return [(near, np.array(index)) for near, index in together.items()]

    @cached_property
    def bundles(self) -> list[tuple[Index, Index]]:
        """Edges with the same number of rows, to be multiplied in one go: rows (E, m) and their links (E, S)."""
        by_count: dict[int, list[tuple[tuple[int, ...], Index]]] = {}
        for near, index in self.edges:
            by_count.setdefault(len(index), []).append((near, index))
        return [
            (np.array([index for _, index in group]), np.array([near for near, _ in group]))
            for group in by_count.values()
        ]

    @cached_property
    def after(self) -> dict[int, list[int]]:
        """Every link, in the order of elimination, with the links that meet it and are still there then."""
        meets: dict[int, set[int]] = {k: set() for k in range(1, self.links)}
        for near, _ in self.edges:
            for i, j in itertools.permutations({k for k in near if k}, 2):
                meets[i].add(j)
        out: dict[int, list[int]] = {}
        while meets:
            k = min(meets, key=lambda i: (len(meets[i]), i))
            there = meets.pop(k)
            for i in there:
                meets[i] |= there - {i}
                meets[i].discard(k)
            out[k] = sorted(there)
        return out

    @property
    def order(self) -> list[int]:
        return list(self.after)

    @cached_property
    def rank(self) -> dict[int, int]:
        return {k: at for at, k in enumerate(self.order)}

    def normal(self, j: Array) -> dict[tuple[int, int], Array]:
        """Blocks (w, w, P) of J^T J for a Jacobian (m, S, w, P), by pair of links, the one eliminated first in front."""
        out: dict[tuple[int, int], Array] = {}
        w, stack = j.shape[2:]
        for rows, touched in self.bundles:
            sides = touched.shape[1]
            part = j[rows, :sides].reshape(*rows.shape, w * sides, stack)
            square = np.einsum("emip,emjp->eijp", part, part)
            for e, links in enumerate(touched):
                for (s, i), (t, k) in itertools.product(enumerate(links), repeat=2):
                    if i and k and (i == k or self.rank[i] < self.rank[k]):
                        block = square[e, w * s : w * s + w, w * t : w * t + w]
                        key = (int(i), int(k))
                        out[key] = out[key] + block if key in out else block
        return out

    @cached_property
    def columns(self) -> list[tuple[Index, Index, Index]]:
        """Rows, sides and links of all entries of a Jacobian; in one go where no row has two sides on one link."""
        sides = []
        for s in range(self.touched.shape[1]):
            rows = np.flatnonzero(self.touched[:, s])
            sides.append((rows, np.full(len(rows), s), self.touched[rows, s] - 1))
        row, side, link = (np.concatenate(x) for x in zip(*sides, strict=True))
        once = len(set(zip(row.tolist(), link.tolist(), strict=True))) == len(row)
        return [(row, side, link)] if once else sides

    def plain(self, j: Array) -> Array:
        """A Jacobian (P, m, S, w) as matrices (P, m, w (L - 1)), without the link that stands still."""
        out = np.zeros((*j.shape[:2], self.links - 1, j.shape[3]))
        if len(self.columns) == 1:
            rows, side, link = self.columns[0]
            out[:, rows, link] = j[:, rows, side]
        else:
            for rows, side, link in self.columns:
                out[:, rows, link] += j[:, rows, side]
        return out.reshape(*j.shape[:2], -1)

    def times(self, j: Array, x: Array) -> Array:
        """J x as (P, m), for motions x (P, L, w)."""
        flat = j.reshape(*j.shape[:2], 1, -1) @ x[:, self.touched].reshape(*j.shape[:2], -1, 1)
        return np.asarray(flat[..., 0, 0])

    def carried(self, j: Array, x: Array) -> Array:
        """J x as (m, P), for a Jacobian (m, S, w, P) and motions x (L, w, P)."""
        return np.asarray(np.einsum("mswp,mswp->mp", j, x[self.touched]))

    def transposed(self, j: Array, r: Array) -> Array:
        """J^T r as (L, w, P), for r (m, P)."""
        out = np.zeros((self.links, *j.shape[2:]))
        for rows, touched in self.bundles:
            part = np.einsum("emswp,emp->eswp", j[rows, : touched.shape[1]], r[rows])
            for e, links in enumerate(touched):
                for s, i in enumerate(links):
                    out[i] += part[e, s]
        out[0] = 0.0
        return out


def inverses(square: Array) -> Array:
    """The inverse of each of a stack of symmetric positive matrices (w, w, P), by Gauss and Jordan without pivots, which such
    matrices need none of (Higham, Accuracy and Stability of Numerical Algorithms, 2nd ed. 2002, section 14.4; from memory)."""
    a = square.copy()
    for k in range(len(a)):
        one = 1 / a[k, k]
        row, column = a[k] * one, a[:, k].copy()
        a -= column[:, None] * row
        a[k], a[:, k] = row, -column * one
        a[k, k] = one
    return a


class Factors:
    """J^T J + damping, factorised for a stack of Jacobians (P, m, S, w), w the numbers of a link's motion; or J itself where
    it has as many rows as there are unknowns and is far from singular.

    A row that is steeper than one is weighed down to it: between two small gears of a long train a tooth's phase changes
    so much faster with a shift than with a turn that the damping would else hold the turn.
    """

    def __init__(self, plan: EliminationPlan, j: Array, damping: float | None = None) -> None:
        steep = np.sqrt(np.einsum("pmsi,pmsi->pm", j, j))
        self.weight = 1 / np.maximum(steep, 1.0)
        j = j * self.weight[:, :, None, None]
        self.plan, self.j, stack = plan, j, len(j)
        self.whole: Array | None = None
        #: about how far a solution may move for a residual of one, and how much the last refinement changed it, as a part of it
        self.steepest, self.settled = np.inf, 0.0
        self.direct = damping is None and self._inverted()
        if self.direct:
            return
        if (stack == 1 and plan.links <= PLAIN) or not self._eliminate(damping):
            self.matrix = plan.plain(j)
            square = np.swapaxes(self.matrix, 1, 2) @ self.matrix
            largest = float(np.abs(square).max(initial=0.0)) or 1.0
            square[:, range(square.shape[1]), range(square.shape[1])] += (
                DAMPING * largest if damping is None else damping
            )
            self.whole = np.linalg.inv(square).astype(float, copy=False)
            self.steepest = float(np.abs(self.whole).max(initial=0.0)) ** 0.5

    def near(self, j: Array) -> Factors:
        """The same factors for another Jacobian (P, m, S, w) close by: each refinement leaves of the error what both differ
        by, times `steepest`."""
        other = copy(self)
        other.j = j * self.weight[:, :, None, None]
        if self.whole is None:
            other.along = np.ascontiguousarray(np.moveaxis(other.j, 0, -1))
        else:
            other.matrix = self.plan.plain(other.j)
        return other

    def _inverted(self) -> bool:
        """Inverts J where that can be done, and well."""
        plan, unknowns = self.plan, self.j.shape[3] * (self.plan.links - 1)
        if self.j.shape[1] != unknowns or unknowns > FEW:
            return False
        self.matrix = plan.plain(self.j)
        try:
            inverse = np.linalg.inv(self.matrix).astype(float, copy=False)
        except np.linalg.LinAlgError:
            return False
        steepest = float(np.abs(inverse).max(initial=0.0))
        if not steepest < STEEPEST:
            return False
        self.whole, self.steepest = inverse, steepest
        return True

    def _eliminate(self, damping: float | None) -> bool:
        """Eliminates link by link; False where some freedom is not held, since cancellation then spoils the blocks.
        The stack stands last in all arrays, so that each step runs along it."""
        plan, w, stack = self.plan, self.j.shape[3], len(self.j)
        self.along = np.ascontiguousarray(np.moveaxis(self.j, 0, -1))
        a = plan.normal(self.along)
        largest = max((float(np.abs(b).max(initial=0.0)) for b in a.values()), default=1.0) or 1.0
        damping = DAMPING * largest if damping is None else damping
        self.inverse: dict[int, Array] = {}
        self.upper: dict[int, list[tuple[int, Array]]] = {}  # D_k^-1 A_ki
        self.steepest = 0.0
        for k in plan.order:
            with np.errstate(all="ignore"):  # what is not held is told below
                inverse = inverses(a.get((k, k), np.zeros((w, w, stack))) + damping * np.eye(w)[..., None])
            steepest = float(np.abs(inverse).max(initial=0.0))
            if not np.isfinite(steepest) or (damping * steepest > 1e-2 and damping < 1e-6 * largest):
                return False
            self.inverse[k], self.steepest = inverse, max(self.steepest, steepest**0.5)
            beside = {i: a[k, i] for i in plan.after[k] if (k, i) in a}
            self.upper[k] = [(i, np.einsum("abp,bcp->acp", inverse, block)) for i, block in beside.items()]
            for i, block in beside.items():
                for n, upper in self.upper[k]:
                    if i == n or plan.rank[i] < plan.rank[n]:
                        change = np.einsum("bap,bcp->acp", block, upper)
                        a[i, n] = a[i, n] - change if (i, n) in a else -change
        return True

    def least_squares(self, right: Array, refine: int = 0) -> Array:
        """Smallest motions x (P, L, w) with J x = right (P, m); `refine` rounds take out damping and rounding."""
        right = right * self.weight
        if self.whole is not None:
            back = self.whole if self.direct else self.whole @ np.swapaxes(self.matrix, 1, 2)
            flat = back @ right[..., None]
            for _ in range(refine):
                more = back @ (right[..., None] - self.matrix @ flat)
                flat += more
                self.settled = _part(more, flat)
            w = self.j.shape[3]
            return np.concatenate([np.zeros((len(right), 1, w)), flat.reshape(len(right), -1, w)], axis=1)
        plan, j, r = self.plan, self.along, np.ascontiguousarray(right.T)
        x = self._solved(plan.transposed(j, r))
        for _ in range(refine):
            more = self._solved(plan.transposed(j, r - plan.carried(j, x)))
            x += more
            self.settled = _part(more, x)
        return np.ascontiguousarray(np.moveaxis(x, -1, 0))

    def _solved(self, right: Array) -> Array:
        """x (L, w, P) with (J^T J + damping) x = right (L, w, P); overwrites `right`."""
        x = right
        for k in self.plan.order:
            for i, upper in self.upper[k]:
                x[i] -= np.einsum("abp,ap->bp", upper, x[k])
        for k in reversed(self.plan.order):
            x[k] = np.einsum("abp,bp->ap", self.inverse[k], x[k])
            for i, upper in self.upper[k]:
                x[k] -= np.einsum("abp,bp->ap", upper, x[i])
        x[0] = 0.0
        return x


def _part(change: Array, whole: Array) -> float:
    return float(np.abs(change).max(initial=0.0)) / max(float(np.abs(whole).max(initial=0.0)), 1e-300)

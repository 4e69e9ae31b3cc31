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


class Plan:
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
        """Blocks (P, w, w) of J^T J for a Jacobian (P, m, S, w), by pair of links, the one eliminated first in front."""
        out: dict[tuple[int, int], Array] = {}
        w = j.shape[3]
        for rows, touched in self.bundles:
            sides = touched.shape[1]
            part = j[:, rows, :sides].reshape(len(j), *rows.shape, w * sides)
            square = np.swapaxes(part, 2, 3) @ part
            for e, links in enumerate(touched):
                for (s, i), (t, k) in itertools.product(enumerate(links), repeat=2):
                    if i and k and (i == k or self.rank[i] < self.rank[k]):
                        block = square[:, e, w * s : w * s + w, w * t : w * t + w]
                        key = (int(i), int(k))
                        out[key] = out[key] + block if key in out else block.copy()
        return out

    def plain(self, j: Array) -> Array:
        """A Jacobian (P, m, S, w) as matrices (P, m, w (L - 1)), without the link that stands still."""
        out = np.zeros((*j.shape[:2], self.links, j.shape[3]))
        rows = np.arange(j.shape[1])
        for s in range(j.shape[2]):
            out[:, rows, self.touched[:, s]] += j[:, :, s]
        return out[:, :, 1:].reshape(*j.shape[:2], -1)

    def times(self, j: Array, x: Array) -> Array:
        """J x as (P, m), for motions x (P, L, w)."""
        flat = j.reshape(*j.shape[:2], 1, -1) @ x[:, self.touched].reshape(*j.shape[:2], -1, 1)
        return np.asarray(flat[..., 0, 0])

    def transposed(self, j: Array, r: Array) -> Array:
        """J^T r as (P, L, w)."""
        out = np.zeros((len(j), self.links, j.shape[3]))
        for rows, touched in self.bundles:
            for s in range(touched.shape[1]):
                part = (r[:, rows][:, :, None, :] @ j[:, rows, s])[:, :, 0]
                meets = (np.arange(self.links)[:, None] == touched[:, s]).astype(float)  # (L, E)
                out += meets @ part
        out[:, 0] = 0.0
        return out


class Factors:
    """J^T J + damping, factorised for a stack of Jacobians (P, m, S, w), w the numbers of a link's motion; or J itself where
    it has as many rows as there are unknowns and is far from singular.

    A row that is steeper than one is weighed down to it: between two small gears of a long train a tooth's phase changes
    so much faster with a shift than with a turn that the damping would else hold the turn.
    """

    def __init__(self, plan: Plan, j: Array, damping: float | None = None) -> None:
        steep = np.sqrt(np.einsum("pmsi,pmsi->pm", j, j))
        self.weight = 1 / np.maximum(steep, 1.0)
        j = j * self.weight[:, :, None, None]
        self.plan, self.j, stack = plan, j, len(j)
        self.whole: Array | None = None
        self.direct = damping is None and self._inverted()
        if self.direct:
            return
        if (stack == 1 and plan.links <= PLAIN) or not self._eliminate(stack, damping):
            self.matrix = plan.plain(j)
            square = np.swapaxes(self.matrix, 1, 2) @ self.matrix
            largest = float(np.abs(square).max(initial=0.0)) or 1.0
            square[:, range(square.shape[1]), range(square.shape[1])] += (
                DAMPING * largest if damping is None else damping
            )
            self.whole = np.linalg.inv(square).astype(float, copy=False)

    def _inverted(self) -> bool:
        """Inverts J where that can be done, and well."""
        plan, unknowns = self.plan, self.j.shape[3] * (self.plan.links - 1)
        if self.j.shape[1] != unknowns or unknowns > FEW:
            return False
        self.matrix = plan.plain(self.j)
        try:
            found = np.linalg.inv(self.matrix).astype(float, copy=False)
        except np.linalg.LinAlgError:
            return False
        if not np.abs(found).max(initial=0.0) < STEEPEST:
            return False
        self.whole = found
        return True

    def _eliminate(self, stack: int, damping: float | None) -> bool:
        """Eliminates link by link; False where some freedom is not held, since cancellation then spoils the blocks."""
        plan, w = self.plan, self.j.shape[3]
        a = plan.normal(self.j)
        largest = max((float(np.abs(b).max(initial=0.0)) for b in a.values()), default=1.0) or 1.0
        damping = DAMPING * largest if damping is None else damping
        self.inverse: dict[int, Array] = {}
        self.upper: dict[tuple[int, int], Array] = {}  # D_k^-1 A_ki
        for k in plan.order:
            d = a.get((k, k), np.zeros((stack, w, w))) + damping * np.eye(w)
            inverse = np.linalg.inv(d).astype(float, copy=False)
            if damping * float(np.abs(inverse).max()) > 1e-2 and damping < 1e-6 * largest:
                return False
            self.inverse[k] = inverse
            near = plan.after[k]
            beside = {i: a[k, i] for i in near if (k, i) in a}
            for i, block in beside.items():
                self.upper[k, i] = inverse @ block
            for i, block in beside.items():
                back = np.swapaxes(block, 1, 2)
                for n in beside:
                    if i == n or plan.rank[i] < plan.rank[n]:
                        change = back @ self.upper[k, n]
                        a[i, n] = a[i, n] - change if (i, n) in a else -change
        return True

    def least_squares(self, right: Array, refine: int = 0) -> Array:
        """Smallest motions x (P, L, w) with J x = right (P, m); `refine` rounds take out damping and rounding."""
        right = right * self.weight
        if self.whole is not None:
            back = self.whole if self.direct else self.whole @ np.swapaxes(self.matrix, 1, 2)
            flat = back @ right[..., None]
            for _ in range(refine):
                flat += back @ (right[..., None] - self.matrix @ flat)
            w = self.j.shape[3]
            return np.concatenate([np.zeros((len(right), 1, w)), flat.reshape(len(right), -1, w)], axis=1)
        x = self._solved(self.plan.transposed(self.j, right))
        for _ in range(refine):
            x += self._solved(self.plan.transposed(self.j, right - self.plan.times(self.j, x)))
        return x

    def _solved(self, right: Array) -> Array:
        """x (P, L, w) with (J^T J + damping) x = right (P, L, w); overwrites `right`."""
        x = right
        for k in self.plan.order:
            for i in self.plan.after[k]:
                if (k, i) in self.upper:
                    x[:, i] -= (np.swapaxes(self.upper[k, i], 1, 2) @ x[:, k, :, None])[..., 0]
        for k in reversed(self.plan.order):
            y = (self.inverse[k] @ x[:, k, :, None])[..., 0]
            for i in self.plan.after[k]:
                if (k, i) in self.upper:
                    y = y - (self.upper[k, i] @ x[:, i, :, None])[..., 0]
            x[:, k] = y
        x[:, 0] = 0.0
        return x

"""Least squares over links: the normal equations of a stack of poses, eliminated link by link.

J^T J couples only links that share a joint, so it is kept in blocks of 6 x 6 and factorised as L D L^T in an order that
makes few new blocks (minimum degree: George and Liu, Computer Solution of Large Sparse Positive Definite Systems, 1981,
ch. 5). Cost grows with the links of a ring, not with their cube. Every step works on the whole stack at once.
Freedoms that no equation holds are kept still by a small damping, whose effect on what is held is then taken out again
by refinement (iterated Tikhonov; Nocedal and Wright, Numerical Optimization, 2nd ed. 2006, section 10.3). From memory.

Two links, one joint held at the frame and one between them:

>>> import numpy as np
>>> plan = Plan(3, [((0, 1), np.arange(6)), ((1, 2), np.arange(6, 12))])
>>> plan.order
[1, 2]
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Index = NDArray[np.int64]

#: damping as a part of the largest entry of J^T J
DAMPING = 1e-10


class Plan:
    """Which links meet and in what order they are eliminated. Link 0 stands still and has no unknowns.

    `edges` are sets of links with the rows that touch them together, as `Rows.edges` gives them.
    """

    def __init__(self, links: int, edges: Sequence[tuple[tuple[int, ...], Index]]) -> None:
        self.links = links
        by_count: dict[tuple[int, int], list[int]] = {}
        for at, (touched, index) in enumerate(edges):
            by_count.setdefault((len(index), len(touched)), []).append(at)
        #: edges with the same number of rows are multiplied in one go: rows (E, m) and their links (E, S)
        self.bundles = [
            (np.array([edges[at][1] for at in group]), np.array([edges[at][0] for at in group]))
            for group in by_count.values()
        ]
        meets: dict[int, set[int]] = {k: set() for k in range(1, links)}
        for touched, _ in edges:
            for i, j in itertools.permutations([k for k in touched if k], 2):
                if i != j:
                    meets[i].add(j)
        self.order: list[int] = []
        self.after: dict[
            int, list[int]
        ] = {}  # link -> the links that are still there when it is eliminated, and meet it
        left = {k: set(v) for k, v in meets.items()}
        while left:
            k = min(left, key=lambda i: (len(left[i]), i))
            near = left.pop(k)
            for i in near:
                left[i] |= near - {i}
                left[i].discard(k)
            self.order.append(k)
            self.after[k] = sorted(near)

    @cached_property
    def rank(self) -> dict[int, int]:
        return {k: at for at, k in enumerate(self.order)}

    def normal(self, j: Array) -> dict[tuple[int, int], Array]:
        """Blocks (P, 6, 6) of J^T J for a Jacobian (P, m, S, 6), by pair of links, the one eliminated first in front."""
        out: dict[tuple[int, int], Array] = {}
        for rows, touched in self.bundles:
            sides = touched.shape[1]
            part = j[:, rows, :sides].reshape(len(j), *rows.shape, 6 * sides)
            square = np.swapaxes(part, 2, 3) @ part
            for e, links in enumerate(touched):
                for (s, i), (t, k) in itertools.product(enumerate(links), repeat=2):
                    if i and k and (i == k or self.rank[i] < self.rank[k]):
                        block = square[:, e, 6 * s : 6 * s + 6, 6 * t : 6 * t + 6]
                        key = (int(i), int(k))
                        out[key] = out[key] + block if key in out else block.copy()
        return out

    def transposed(self, j: Array, r: Array) -> Array:
        """J^T r as (P, L, 6)."""
        out = np.zeros((len(j), self.links, 6))
        for rows, touched in self.bundles:
            for s in range(touched.shape[1]):
                part = np.einsum("pemi,pem->pei", j[:, rows, s], r[:, rows])
                for e, k in enumerate(touched[:, s]):
                    out[:, k] += part[:, e]
        out[:, 0] = 0.0
        return out


class Factors:
    """J^T J + damping, factorised for a stack; `solve` gives the smallest motions that a right side asks for."""

    def __init__(self, plan: Plan, j: Array, damping: float | None = None) -> None:
        self.plan, stack = plan, len(j)
        a = plan.normal(j)
        self.largest = max((float(np.abs(b).max(initial=0.0)) for b in a.values()), default=1.0) or 1.0
        self.damping = DAMPING * self.largest if damping is None else damping
        self.inverse: dict[int, Array] = {}
        self.upper: dict[tuple[int, int], Array] = {}  # D_k^-1 A_ki
        for k in plan.order:
            d = a.get((k, k), np.zeros((stack, 6, 6))) + self.damping * np.eye(6)
            inverse = np.linalg.inv(d).astype(float, copy=False)
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

    def solve(self, right: Array) -> Array:
        """x (P, L, 6) with (J^T J + damping) x = right (P, L, 6)."""
        x = right.copy()
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

"""Equations between links: four kinds of row from which every joint, relation, pair and driver is made.

point   (o_b - o_a) . u_a - c        where a point lies along a direction
square  u_a . u_b - c                how two directions stand to one another
turn    angle of x_b about z_a from x_a, minus c
mesh    tooth phase of a gear pair: N_a alpha_a + N_b alpha_b - pi, modulo one tooth

Formulation in absolute coordinates after Nikravesh, Computer-Aided Analysis of Mechanical Systems (1988), ch. 6-7,
and Haug, Computer Aided Kinematics and Dynamics of Mechanical Systems (1989). From memory.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import jet
from uhrwerk.core.assembly.jet import Jet
from uhrwerk.core.assembly.pose import cross, rotate

Array = NDArray[np.float64]
Kind = Literal["point", "square", "turn", "mesh"]

#: the vectors of each kind of row: (side, is a point)
_VECTORS: dict[str, list[tuple[str, bool]]] = {
    "point": [("a", True), ("a", False), ("b", True)],
    "square": [("a", False), ("b", False)],
    "turn": [("a", False), ("a", False), ("b", False)],
    "mesh": [("a", True), ("a", False), ("a", False), ("b", True), ("b", False)],
}


@dataclass(frozen=True)
class Row:
    """One scalar equation between links a and b. `vectors` are local to their links, in the order of _VECTORS.

    `rate` is how fast the wanted value `c` runs (a driver's speed); `teeth` belongs to a mesh row.
    """

    kind: Kind
    a: int
    b: int
    vectors: tuple[Array, ...]
    owner: str
    c: float = 0.0
    rate: float = 0.0
    teeth: tuple[int, int] = (1, 1)


def wrap(angle: Array) -> Array:
    """Angles in (-pi, pi]."""
    return np.pi - np.mod(np.pi - angle, 2 * np.pi)


def _point(v: Sequence[Jet], _: Any) -> Jet:
    o_a, u_a, o_b = v
    return jet.dot(o_b - o_a, u_a)


def _square(v: Sequence[Jet], _: Any) -> Jet:
    return jet.dot(v[0], v[1])


def _turn(v: Sequence[Jet], _: Any) -> Jet:
    x_a, y_a, x_b = v
    return jet.atan2(jet.dot(y_a, x_b), jet.dot(x_a, x_b))


def _mesh(v: Sequence[Jet], teeth: Array) -> Jet:
    o_a, z_a, x_a, o_b, x_b = v
    line = o_b - o_a
    alpha_a = jet.atan2(jet.dot(z_a, jet.cross(line, x_a)), jet.dot(line, x_a))
    back = line * -1.0
    alpha_b = jet.atan2(jet.dot(z_a, jet.cross(back, x_b)), jet.dot(back, x_b))
    return (alpha_a * teeth[0] + alpha_b * teeth[1]) * (1.0 / teeth[0])


_RESIDUALS: dict[str, Callable[[Sequence[Jet], Any], Jet]] = {
    "point": _point,
    "square": _square,
    "turn": _turn,
    "mesh": _mesh,
}


class Rows:
    """All equations of an assembly, grouped by kind, evaluated for a stack of poses at once.

    Lengths are measured in `reach`, the size of the mechanism, so that lengths and angles weigh alike.
    """

    def __init__(self, rows: Sequence[Row], links: int, reach: float) -> None:
        self.rows, self.links, self.reach = list(rows), links, reach
        self.groups: list[tuple[str, NDArray[np.int64], NDArray[np.int64], NDArray[np.int64], list[Array], Array]] = []
        for kind, vectors in _VECTORS.items():
            index = [i for i, r in enumerate(self.rows) if r.kind == kind]
            if not index:
                continue
            group = [self.rows[i] for i in index]
            local = [
                np.array([r.vectors[k] for r in group]) / (reach if is_point else 1.0)
                for k, (_, is_point) in enumerate(vectors)
            ]
            a, b = (np.array([getattr(r, side) for r in group]) for side in "ab")
            teeth = np.array([r.teeth for r in group], dtype=float).T
            self.groups.append((kind, np.array(index), a, b, local, teeth))
        self.wanted = np.array([r.c / (reach if r.kind == "point" else 1.0) for r in self.rows])
        self.rate = np.array([r.rate / (reach if r.kind == "point" else 1.0) for r in self.rows])
        self.angular = np.array([r.kind in ("turn", "mesh") for r in self.rows], dtype=bool)
        # one tooth of phase is 2 pi of N_a alpha_a + N_b alpha_b; the row is that over N_a
        self.period = np.array([2 * np.pi / (r.teeth[0] if r.kind == "mesh" else 1) for r in self.rows])
        self.offset = np.array([np.pi / r.teeth[0] if r.kind == "mesh" else 0.0 for r in self.rows])

    def __len__(self) -> int:
        return len(self.rows)

    def _leaves(self, group: Any, pose: Array, twist: Array | None) -> list[Jet]:
        """The group's vectors as jets: seeded with 12 unit velocities (twist None), or with twists (P, L, 6)."""
        kind, _, a, b, local, _ = group
        out = []
        for (side, is_point), vector in zip(_VECTORS[kind], local, strict=True):
            body = a if side == "a" else b
            turned = rotate(pose[:, body, 3:], vector)
            value = turned + pose[:, body, :3] if is_point else turned
            if twist is None:
                d = np.zeros((12, *turned.shape))
                first = 0 if side == "a" else 6
                if is_point:
                    d[first, ..., 0] = d[first + 1, ..., 1] = d[first + 2, ..., 2] = 1.0
                x, y, z = turned[..., 0], turned[..., 1], turned[..., 2]
                d[first + 3, ..., 1], d[first + 3, ..., 2] = -z, y  # e_x cross v, and so on
                d[first + 4, ..., 0], d[first + 4, ..., 2] = z, -x
                d[first + 5, ..., 0], d[first + 5, ..., 1] = -y, x
                out.append(Jet(value, d))
            else:
                omega = twist[:, body, 3:]
                spin = cross(omega, turned)
                out.append(Jet(value, spin + twist[:, body, :3] if is_point else spin, cross(omega, spin)))
        return out

    def value(self, pose: Array, time: Array) -> tuple[Array, Array]:
        """Residuals (P, m) and Jacobian (P, m, 6 L) at poses (P, L, 7), positions in reach, and times (P,)."""
        stack = len(pose)
        r = np.zeros((stack, len(self)))
        j = np.zeros((stack, len(self), self.links, 6))
        for group in self.groups:
            kind, index, a, b, _, teeth = group
            found = _RESIDUALS[kind](self._leaves(group, pose, None), teeth)
            r[:, index] = found.v
            j[:, index, a] += found.d[:6].transpose(1, 2, 0)
            j[:, index, b] += found.d[6:].transpose(1, 2, 0)
        r -= self.wanted + self.offset + np.outer(time, self.rate)
        if self.angular.any():
            period = self.period[self.angular]
            r[:, self.angular] = wrap(r[:, self.angular] * (2 * np.pi / period)) * (period / (2 * np.pi))
        return r, j.reshape(stack, len(self), 6 * self.links)

    def second(self, pose: Array, twist: Array) -> Array:
        """(P, m) the part of the residuals' second derivative that velocities alone cause."""
        out = np.zeros((len(pose), len(self)))
        for group in self.groups:
            dd = _RESIDUALS[group[0]](self._leaves(group, pose, twist), group[5]).dd
            assert dd is not None
            out[:, group[1]] = dd
        return out

    def measured(self, pose: Array, twist: Array, acceleration: Array) -> tuple[Array, Array, Array]:
        """(P, m) each row's left side itself (before its wanted value), with its first and second derivative."""
        r, j = self.value(pose, np.zeros(len(pose)))
        flat = (len(pose), -1, 1)
        rate = (j @ twist.reshape(flat))[..., 0]
        return r + self.wanted + self.offset, rate, (j @ acceleration.reshape(flat))[..., 0] + self.second(pose, twist)

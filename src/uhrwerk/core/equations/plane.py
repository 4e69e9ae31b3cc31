"""A mechanism all of whose links move in parallel planes: three numbers a link in place of six, and half the rows.

A row whose vectors lie along the normal of that plane or square to it keeps that property while the links move so. Rows
that motion in the plane cannot change hold then as they hold at the start, and are left out; the others are written in
complex numbers. Whatever satisfies them satisfies all. Whether the mechanism does move so, and not out of the plane by a
freedom that it has beside, is asked of its spatial velocities at the start.
Complex numbers for planar linkages: Erdman and Sandor, Mechanism Design, vol. 1, ch. 2-3. From memory.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.blocks import EliminationPlan
from uhrwerk.core.equations.curve import Second
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import KINDS, Group, Row, Rows

Complex = NDArray[np.complex128]
Index = NDArray[np.int64]

#: a direction is along the normal or square to it where its sine or cosine is below this
STRAIGHT = 1e-12
#: velocities of the spatial rows and of these agree to this part of the largest
SAME = 1e-9


@dataclass(frozen=True)
class _Group:
    """Rows of a kind: their places, links a and b, vectors (n,) as complex numbers where the links start, in which sense each
    turns about the normal, and sizes as in rows.py."""

    kind: str
    at: Index
    a: Index
    b: Index
    vectors: tuple[Complex, ...]
    sense: Array
    sizes: list[Any]


class Plane:
    """The rows that matter in the plane; poses are (P, L, 3): x, y in reach and the turn since the start, rad.

    Stands in for `Rows` wherever a motion is followed.
    """

    width = 3

    def __init__(self, whole: Rows, start: Array, axes: Array, planar_rows: list[int]) -> None:
        """`axes` (3, 3): two directions in the plane and its normal, as rows; `planar_rows` are the rows that matter."""
        self.start, self.axes, self.links = start, axes, whole.links
        self.rows = Rows([whole.rows[k] for k in planar_rows], whole.links, whole.reach)
        self.plan = EliminationPlan(whole.links, self.rows.touched)
        self.driven, self.reach = self.rows.driven, self.rows.reach
        self.groups, self.others = [], []
        for g in self.rows.groups:
            group = self._group(g) if g[0] in _VALUE else None
            if group is None:
                self.others.append(g)
            else:
                self.groups.append(group)

    def _group(self, g: Group) -> _Group | None:
        """A group's rows in the plane; None where one of them is not written for how its directions lie."""
        kind, index, local, sizes = g
        turn, vectors, high = poses.matrix(self.start[:, 3:]), [], []
        sides = self.rows.touched[index]
        for mark, vector in zip(KINDS[kind].vectors.split(), local, strict=True):
            body = sides[:, "abc".index(mark[0])]
            level = (turn[body] @ vector[:, :, None])[..., 0] @ self.axes.T
            vectors.append(level[:, 0] + 1j * level[:, 1])
            high.append(level[:, 2])
        sense = np.ones(len(index))
        if kind == "turn":
            sense = np.sign((vectors[1] * vectors[0].conj()).imag)
        elif kind in _GEARS:
            sense = np.sign(high[1])
        flat = [np.abs(h).max(initial=0.0) < STRAIGHT for h in high]
        if (kind in _GEARS and flat != [flat[0], False, True, flat[3], True]) or (
            kind == "touch" and not all(flat[1:3])
        ):
            return None
        return _Group(kind, index, sides[:, 0], sides[:, 1], tuple(vectors), sense, sizes)

    def __len__(self) -> int:
        return len(self.rows)

    # poses and motions in the plane, and in space

    def lowered(self, pose: Array) -> Array:
        """Poses (..., L, 7) as (..., L, 3)."""
        flat = pose[..., :3] @ self.axes[:2].T
        since = poses.multiply(pose[..., 3:], poses.conjugate(self.start[:, 3:]))
        turn = 2 * np.arctan2(since[..., 1:] @ self.axes[2], since[..., 0])
        return np.concatenate([flat, turn[..., None]], axis=-1)

    @staticmethod
    def joined(pose: Array) -> Array:
        """Poses (P, L, 3) one after the other, their turns counted on."""
        return np.concatenate([pose[..., :2], np.unwrap(pose[..., 2:], axis=0)], axis=-1)

    def lifted(self, pose: Array) -> Array:
        """Poses (..., L, 3) as (..., L, 7)."""
        high = (self.start[:, :3] @ self.axes[2])[:, None] * self.axes[2]
        place = pose[..., :2] @ self.axes[:2] + high
        turn = poses.multiply(poses.turned(pose[..., 2:] * self.axes[2]), self.start[:, 3:])
        return np.concatenate([place, turn], axis=-1)

    def twist(self, motion: Array) -> Array:
        """Motions (..., 3) as (..., 6)."""
        return np.concatenate([motion[..., :2] @ self.axes[:2], motion[..., 2:] * self.axes[2]], axis=-1)

    @staticmethod
    def moved(pose: Array, step: Array) -> Array:
        return pose + step

    @staticmethod
    def between(p: Array, q: Array) -> Array:
        return q - p

    @staticmethod
    def carried(far: Array, v: Array, a: Array) -> tuple[Array, Array]:
        return v, a

    @staticmethod
    def sizes(motion: Array) -> Array:
        """Way and turn (..., 2) of motions (..., 3)."""
        return np.stack([np.hypot(motion[..., 0], motion[..., 1]), np.abs(motion[..., 2])], axis=-1)

    # equations

    def value(self, pose: Array, time: Array) -> tuple[Array, Array]:
        """Residuals (P, m) and Jacobian (P, m, S, 3)."""
        r, j = np.zeros((len(pose), len(self))), np.zeros((len(pose), len(self), self.rows.sides, 3))
        place, turn = pose[..., 0] + 1j * pose[..., 1], np.exp(1j * pose[..., 2])
        for g in self.groups:
            r[:, g.at], j[:, g.at, 0], j[:, g.at, 1] = _VALUE[g.kind](g, pose, place, turn)
        if self.others:
            there = self.lifted(pose)
            for group in self.others:
                r[:, group[1]], wide = self.rows.measure(group, there, poses.matrix(there[..., 3:]))
                flat = np.concatenate([wide[..., :3] @ self.axes[:2].T, wide[..., 3:] @ self.axes[2:].T], axis=-1)
                j[:, group[1], : flat.shape[2]] = flat
        return self.rows.against(r, time), j

    def second(self, pose: Array, motion: Array) -> Array:
        """(P, m) the part of the residuals' second derivative that velocities alone cause."""
        out = np.zeros((len(pose), len(self)))
        place, turn = pose[..., 0] + 1j * pose[..., 1], np.exp(1j * pose[..., 2])
        for g in self.groups:
            out[:, g.at] = _SECOND[g.kind](g, place, turn, motion)
        if self.others:
            there, twist = self.lifted(pose), self.twist(motion)
            for group in self.others:
                out[:, group[1]] = self.rows.bent(group, there, poses.matrix(there[..., 3:]), twist)
        return out

    @property
    def equations(self) -> list[Row]:
        return self.rows.rows

    @property
    def grain(self) -> float:
        return self.rows.grain

    def rate(self, time: Array) -> Array:
        return self.rows.rate(time)

    def acceleration(self, time: Array) -> Array:
        return self.rows.acceleration(time)


def plane(rows: Rows, start: Array) -> Plane | None:
    """The rows in the plane in which all links move, from an assembled pose `start` (L, 7) in reach; None where they do
    not, or where a row is of a sort that cannot be told."""
    look, owner = _directions(rows, start)
    for normal in _candidates(look):
        planar_rows = _planar_rows(rows.rows, look, owner, normal)
        if planar_rows is not None:
            first = poses.cross(normal, np.eye(3)[int(np.argmin(np.abs(normal)))])
            first /= np.linalg.norm(first)
            return Plane(rows, start, np.stack([first, poses.cross(normal, first), normal]), planar_rows)
    return None


def _directions(rows: Rows, start: Array) -> tuple[Array, Index]:
    """All rows' directions (d, 3) in the world, and the row of each (d,)."""
    turn, normals, owner = poses.matrix(start[:, 3:]), [np.zeros((0, 3))], [np.zeros(0, dtype=int)]
    for kind, index, local, _ in rows.groups:
        for mark, vector in zip(KINDS[kind].vectors.split(), local, strict=True):
            if mark[1] == "d":
                body = rows.touched[index, "abc".index(mark[0])]
                normals.append((turn[body] @ vector[:, :, None])[..., 0])
                owner.append(index)
    return np.concatenate(normals), np.concatenate(owner)


def _candidates(look: Array) -> list[Array]:
    """Directions that some row holds: the axis of a joint is among them."""
    candidates: list[Array] = []
    while len(look) and len(candidates) < 6:
        candidates.append(look[0] / np.linalg.norm(look[0]))
        look = look[np.abs(poses.cross(look, candidates[-1])).max(axis=1) > STRAIGHT]
    return candidates


def _planar_rows(rows: list[Row], look: Array, owner: Index, normal: Array) -> list[int] | None:
    """Which rows motion in the plane can change; None where a row does not keep to the plane."""
    flat = np.abs(look @ normal) < STRAIGHT
    if not np.all(flat | (np.abs(poses.cross(look, normal)).max(axis=1, initial=0.0) < STRAIGHT)):
        return None
    lies: list[list[bool]] = [[] for _ in rows]
    for row, one in zip(owner.tolist(), flat.tolist(), strict=True):
        lies[row].append(one)
    planar_rows = []
    for k, row in enumerate(rows):
        if row.kind not in _MAY_REST or all(lies[k]):
            planar_rows.append(k)
            continue
        driven_out = row.law is not None and row.law.moves
        may_jump = row.kind == "turn" and (lies[k][2] or all(lies[k][:2]))  # about an axis in the plane
        if driven_out or may_jump:
            return None
    return planar_rows


# each row kind's value and derivatives, as the spatial ones in rows.py


def _three(x: Array, y: Array, z: Array) -> Array:
    """(..., 3); faster than numpy's own stack for few."""
    out = np.empty((*x.shape, 3))
    out[..., 0], out[..., 1], out[..., 2] = x, y, z
    return out


def _point(g: _Group, pose: Array, place: Complex, turn: Complex) -> tuple[Array, Array, Array]:
    s_a, u, s_b = turn[:, g.a] * g.vectors[0], turn[:, g.a] * g.vectors[1], turn[:, g.b] * g.vectors[2]
    back = u.conj()
    e = back * (place[:, g.b] + s_b - place[:, g.a] - s_a)
    about = back * s_a
    j_a = _three(-u.real, -u.imag, e.imag + about.imag)
    return e.real, j_a, _three(u.real, u.imag, -(back * s_b).imag)


def _square(g: _Group, pose: Array, place: Complex, turn: Complex) -> tuple[Array, Array, Array]:
    e = (turn[:, g.a] * g.vectors[0]).conj() * (turn[:, g.b] * g.vectors[1])
    j = np.zeros((*e.shape, 3))
    j[..., 2] = e.imag
    return e.real, j, -j


def _turn(g: _Group, pose: Array, place: Complex, turn: Complex) -> tuple[Array, Array, Array]:
    first = np.angle(g.vectors[0].conj() * g.vectors[2])
    r = g.sense * (pose[:, g.b, 2] - pose[:, g.a, 2] + first)
    j = np.zeros((*r.shape, 3))
    j[..., 2] = -g.sense
    return r, j, -j


def _point_second(g: _Group, place: Complex, turn: Complex, motion: Array) -> Array:
    s_a, u, s_b = turn[:, g.a] * g.vectors[0], turn[:, g.a] * g.vectors[1], turn[:, g.b] * g.vectors[2]
    v = motion[..., 0] + 1j * motion[..., 1]
    w_a, w_b = motion[:, g.a, 2], motion[:, g.b, 2]
    d = place[:, g.b] + s_b - place[:, g.a] - s_a
    rate = v[:, g.b] + 1j * w_b * s_b - v[:, g.a] - 1j * w_a * s_a
    return np.asarray((u.conj() * (-(w_a**2) * d - 2j * w_a * rate - w_b**2 * s_b + w_a**2 * s_a)).real)


def _square_second(g: _Group, place: Complex, turn: Complex, motion: Array) -> Array:
    e = (turn[:, g.a] * g.vectors[0]).conj() * (turn[:, g.b] * g.vectors[1])
    return np.asarray(-((motion[:, g.b, 2] - motion[:, g.a, 2]) ** 2) * e.real)


def _turn_second(g: _Group, place: Complex, turn: Complex, motion: Array) -> Array:
    return np.zeros((len(place), len(g.at)))


def _between(g: _Group, place: Complex, turn: Complex, b: int) -> tuple[Complex, Complex, Complex]:
    """From the place that is the group's first vector to that which is its vector `b`; and both from their links' origins."""
    s_a, s_b = turn[:, g.a] * g.vectors[0], turn[:, g.b] * g.vectors[b]
    return place[:, g.b] + s_b - place[:, g.a] - s_a, s_a, s_b


def _ratio(g: _Group) -> Array:
    """How far b turns for a turn of a, less than nothing for a ring."""
    return np.asarray(g.sizes[1] / g.sizes[0]) * (1.0 if g.kind == "mesh" else -1.0)


def _gears(g: _Group, pose: Array, place: Complex, turn: Complex) -> tuple[Array, Array, Array]:
    line, s_a, s_b = _between(g, place, turn, 3)
    ratio = _ratio(g)
    for_a = line if g.kind == "mesh" else -line
    r = np.angle(for_a.conj() * turn[:, g.a] * g.vectors[2]) + ratio * np.angle(
        -line.conj() * turn[:, g.b] * g.vectors[4]
    )
    k = (1 + ratio) * line.conj() / np.abs(line) ** 2  # how the direction of the line of centres turns
    j_a = _three(k.imag, k.real, 1 + (k * s_a).real)
    j_b = _three(-k.imag, -k.real, ratio - (k * s_b).real)
    return g.sense * r, g.sense[:, None] * j_a, g.sense[:, None] * j_b


def _gears_second(g: _Group, place: Complex, turn: Complex, motion: Array) -> Array:
    line, s_a, s_b = _between(g, place, turn, 3)
    rate, bent = _rates(g, s_a, s_b, motion)
    return np.asarray(-g.sense * (1 + _ratio(g)) * (bent / line - (rate / line) ** 2).imag)


def _rates(g: _Group, s_a: Complex, s_b: Complex, motion: Array) -> tuple[Complex, Complex]:
    """The first derivative of the way between two places, and the part of the second that velocities alone cause."""
    v, w_a, w_b = motion[..., 0] + 1j * motion[..., 1], motion[:, g.a, 2], motion[:, g.b, 2]
    rate = v[:, g.b] + 1j * w_b * s_b - v[:, g.a] - 1j * w_a * s_a
    return rate, w_a**2 * s_a - w_b**2 * s_b


def _curve_distance(g: _Group, d: Complex, x: Complex, y: Complex) -> Second:
    _, curve, reach = g.sizes
    at = np.stack([(x.conj() * d).real.ravel(), (y.conj() * d).real.ravel()], axis=1) * reach
    touch: Second = curve.distance(at)
    return touch


def _touch(g: _Group, pose: Array, place: Complex, turn: Complex) -> tuple[Array, Array, Array]:
    d, s_a, s_b = _between(g, place, turn, 3)
    x, y = turn[:, g.a] * g.vectors[1], turn[:, g.a] * g.vectors[2]
    touch = _curve_distance(g, d, x, y)
    u = touch.gradient[:, 0].reshape(d.shape) * x + touch.gradient[:, 1].reshape(d.shape) * y
    back = u.conj()
    j_a = _three(-u.real, -u.imag, (back * (d + s_a)).imag)
    j_b = _three(u.real, u.imag, -(back * s_b).imag)
    return touch.value.reshape(d.shape) / g.sizes[2] - g.sizes[0], j_a, j_b


def _touch_second(g: _Group, place: Complex, turn: Complex, motion: Array) -> Array:
    d, s_a, s_b = _between(g, place, turn, 3)
    x, y = turn[:, g.a] * g.vectors[1], turn[:, g.a] * g.vectors[2]
    touch, w_a = _curve_distance(g, d, x, y), motion[:, g.a, 2]
    rate, bent = _rates(g, s_a, s_b, motion)
    relative, gained = rate - 1j * w_a * d, bent - 2j * w_a * rate - w_a**2 * d
    u = touch.gradient[:, 0].reshape(d.shape) * x + touch.gradient[:, 1].reshape(d.shape) * y
    dx, dy = (x.conj() * relative).real, (y.conj() * relative).real
    xx, xy, yy = (touch.bend[:, i, k].reshape(d.shape) * g.sizes[2] for i, k in ((0, 0), (0, 1), (1, 1)))
    return np.asarray((u.conj() * gained).real + xx * dx**2 + 2 * xy * dx * dy + yy * dy**2)


_GEARS = ("mesh", "inner")
#: kinds of which a row that motion in the plane cannot change is left out
_MAY_REST = ("point", "square", "turn")
_VALUE = {"point": _point, "square": _square, "turn": _turn, "touch": _touch, "mesh": _gears, "inner": _gears}
_SECOND = {
    "point": _point_second, "square": _square_second, "turn": _turn_second,
    "touch": _touch_second, "mesh": _gears_second, "inner": _gears_second,
}  # fmt: skip

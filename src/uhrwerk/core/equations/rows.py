"""Equations between links: a few kinds of row from which every joint, relation, pair and driver is made.

point          (o_b - o_a) . u_a - c                     where a point lies along a direction
square         u_a . u_b - c                             how two directions stand to one another
turn           angle of x_b about z_a from x_a, minus c
bearing        angle under which a point is seen about z_a, from x_a
lean           angle between two directions, as (cos c - u_a . u_b) / sin c
radial         distance of a point from an axis, as (distance^2 - c^2) / 2c
span           distance of two points, likewise
signed         angle of u_b from u_a about an axis of a third link
mirror         a direction and its image behind a plane of a third link
mirror_point   a point and its image, along a direction
screw          travel along an axis minus the turns about it times the lead
mesh, inner    tooth phase of an external and an internal gear pair
rack           tooth phase of a gear on a rack
bevel          tooth phase of gears on crossing axes
helical        turns of helical gears or worm and wheel on axes that cross at a distance
geneva         angle of a Geneva wheel, as its driver's pin or locking disc has it
touch          distance of a point from a curve that lies across z_a, less a radius: a roller on a cam
twist          by how much b is twisted against a about the line between their axes, which may lean against one another
rest           distance of a plane from a curve that lies across z_a: a flat face on a cam

Formulation in absolute coordinates after Nikravesh, Computer-Aided Analysis of Mechanical Systems (1988), ch. 6-7,
and Haug, Computer Aided Kinematics and Dynamics of Mechanical Systems (1989). From memory. Angles of gears are counted
from the line of centres, so that a pair whose axes are carried round (a planet) needs no other equation.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations import jet
from uhrwerk.core.equations.blocks import EliminationPlan
from uhrwerk.core.equations.curve import PlaneCurve, Second
from uhrwerk.core.equations.jet import Jet
from uhrwerk.core.equations.law import Law
from uhrwerk.core.equations.pose import between, carried, cross, matrix, moved

Array = NDArray[np.float64]
Index = NDArray[np.int64]


@dataclass(frozen=True)
class RowKind:
    """`vectors`: each one's side and whether it is a point (p) or a direction (d), such as "ap bd". `unit` is that of
    the residual: length, number, angle (repeats with the turn), teeth (with a tooth of a), lead (with that of a thread)."""

    vectors: str
    value: Callable[[Sequence[Jet], Sequence[Any]], Jet]
    unit: str = "length"


@dataclass(frozen=True)
class Row:
    """One scalar equation between links a, b and, for a few kinds, c. `vectors` are local to their links.

    `wanted` is the value asked for, or a `law` of time in its place; `sizes` are the kind's own numbers: a distance, a lead,
    numbers of teeth. `curve` is one that lies in a, across its z. Where the row asks for something else from one turn of a link to
    the next, `grain` is the largest turn, rad, in which nothing can be overlooked.
    """

    kind: str
    a: int
    b: int
    vectors: tuple[Array, ...]
    owner: str
    wanted: float = 0.0
    law: Law | None = None
    sizes: tuple[float, ...] = ()
    c: int = -1
    curve: PlaneCurve | None = None
    grain: float = np.inf

    def wanted_at(self, time: float) -> float:
        """The value asked for at a moment."""
        return self.wanted if self.law is None else float(self.law.value(np.array([time]))[0])


def wrap(angle: Array) -> Array:
    """Angles in (-pi, pi]."""
    return np.pi - np.mod(np.pi - angle, 2 * np.pi)


def _period(row: Row, unit: str) -> float:
    """After how much the residual is the same again: a turn, one tooth of a, a lead of the thread."""
    return {
        "teeth": 2 * np.pi / row.sizes[0] if row.sizes and row.sizes[0] else 1.0,
        "lead": abs(row.sizes[0]) if row.sizes else 1.0,
    }.get(unit, 2 * np.pi)


# each value(v, n) gets the vectors as jets, and the rows' sizes as arrays (rows,)


def _point(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    o_a, u_a, o_b = v
    return jet.dot(o_b - o_a, u_a)


def _square(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    return jet.dot(v[0], v[1])


def _turn(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    x_a, y_a, x_b = v
    return jet.atan2(jet.dot(y_a, x_b), jet.dot(x_a, x_b))


def _bearing(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    o_a, x_a, y_a, o_b = v
    off = o_b - o_a
    return jet.atan2(jet.dot(y_a, off), jet.dot(x_a, off))


def _lean(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    return (jet.dot(v[0], v[1]) - np.cos(n[0])) * (-1 / np.sin(n[0]))


def _radial(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    o_a, z_a, o_b = v
    off = o_b - o_a
    along = jet.dot(off, z_a)
    return (jet.dot(off, off) - jet.times(along, along)) * (0.5 / n[0]) - n[0] / 2


def _span(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    off = v[1] - v[0]
    return jet.dot(off, off) * (0.5 / n[0]) - n[0] / 2


def _about(z: Jet, u: Jet, v: Jet) -> Jet:
    """Angle of v from u about z, whatever they hold along z."""
    level = jet.dot(u, v) - jet.times(jet.dot(u, z), jet.dot(v, z))
    return jet.atan2(jet.dot(z, jet.cross(u, v)), level)


def _twist(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    x_a, y_a, x_b, y_b = v
    return jet.atan2(jet.dot(y_a, x_b) - jet.dot(x_a, y_b), jet.dot(x_a, x_b) + jet.dot(y_a, y_b))


def _signed(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    return _about(v[2], v[0], v[1])


def _mirror(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    u_a, p_b, n_c = v
    return jet.dot(u_a, p_b) - jet.times(jet.dot(u_a, n_c), jet.dot(p_b, n_c)) * 2.0


def _mirror_point(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    o_a, o_b, p_b, o_c, n_c = v
    return jet.dot(o_a - o_b, p_b) - jet.times(jet.dot(o_a - o_c, n_c), jet.dot(p_b, n_c)) * 2.0


def _screw(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    o_a, x_a, y_a, z_a, o_b, x_b = v
    return jet.dot(o_b - o_a, z_a) - _turn((x_a, y_a, x_b), n) * (n[0] / (2 * np.pi))


def _mesh(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    o_a, z_a, x_a, o_b, x_b = v
    line = o_b - o_a
    return _about(z_a, line, x_a) + _about(z_a, line * -1.0, x_b) * (n[1] / n[0])


def _inner(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    o_a, z_a, x_a, o_b, x_b = v
    line = o_a - o_b
    return _about(z_a, line, x_a) - _about(z_a, line, x_b) * (n[1] / n[0])


def _rack(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    o_a, x_a, o_b, x_b, y_b, z_b = v
    return _about(z_b, y_b * -1.0, x_a) + jet.dot(o_a - o_b, x_b) * (2 / (n[0] * n[1]))


def _bevel(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    z_a, x_a, z_b, x_b = v
    return _about(z_a, z_b, x_a) + _about(z_b, z_a, x_b) * (n[2] * n[1] / n[0])


def _helical(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    o_a, z_a, x_a, o_b, z_b, x_b = v
    across = jet.cross(z_a, z_b)
    sense = traces(o_a.v, z_a.v, o_b.v, z_b.v, n[2], n[3])
    return _about(z_a, across, x_a) + _about(z_b, across, x_b) * (np.sign(sense) * n[1] / n[0])


def traces(o_a: Array, z_a: Array, o_b: Array, z_b: Array, helix_a: Array, helix_b: Array) -> Array:
    """How the teeth of two helical gears run to one another where they touch: 1 or -1 where their directions agree.

    A right-hand tooth on a cylinder runs along cos(helix) z + sin(helix) z x e, e pointing outward.
    """
    e = cross(z_a, z_b)
    long = np.linalg.norm(e, axis=-1, keepdims=True)
    e = e / np.maximum(long, 1e-300) * np.sign(np.einsum("...i,...i->...", e, o_b - o_a))[..., None]
    t_a = np.cos(helix_a)[..., None] * z_a + np.sin(helix_a)[..., None] * cross(z_a, e)
    t_b = np.cos(helix_b)[..., None] * z_b - np.sin(helix_b)[..., None] * cross(z_b, e)
    return np.asarray(np.einsum("...i,...i->...", t_a, t_b))


def _geneva(v: Sequence[Jet], n: Sequence[Array]) -> Jet:
    o_a, z_a, x_a, o_b, x_b = v
    line = o_b - o_a
    wheel = _about(z_a, line * -1.0, x_b)
    return wheel + _stepped(_about(z_a, line, x_a), n[0])


def _stepped(a: Jet, slots: Array) -> Jet:
    """How far the slot that is used lies from the line of centres, by the driver's angle from it: the pin's direction as the wheel
    sees it while it is in the slot, half a step before and after. Taken against the driver's sense of turning."""
    r = np.sin(np.pi / slots)
    inside = np.abs(a.v) < np.pi / 2 - np.pi / slots
    c, s = np.cos(a.v), np.sin(a.v)
    size = 1 + r * r - 2 * r * c
    value = np.where(inside, np.arctan2(r * s, 1 - r * c), np.pi / slots)
    first = np.where(inside, r * (c - r) / size, 0.0)
    second = np.where(inside, -r * s * (1 - r * r) / size**2, 0.0)
    d = first * a.d
    return Jet(value, d) if a.dd is None else Jet(value, d, first * a.dd + second * a.d**2)


def _over(x: Jet, y: Jet, second_: Second) -> Jet:
    """A function of the plane at (x, y), with its value, gradient and second derivative there."""
    gx, gy = (second_.gradient[:, k].reshape(x.v.shape) for k in (0, 1))
    d = gx * x.d + gy * y.d
    value = second_.value.reshape(x.v.shape)
    if x.dd is None or y.dd is None:
        return Jet(value, d)
    bend = [second_.bend[:, i, k].reshape(x.v.shape) for i, k in ((0, 0), (0, 1), (1, 1))]
    second = bend[0] * x.d**2 + 2 * bend[1] * x.d * y.d + bend[2] * y.d**2
    return Jet(value, d, gx * x.dd + gy * y.dd + second)


def _touch(v: Sequence[Jet], n: Sequence[Any]) -> Jet:
    o_a, x_a, y_a, o_b = v
    radius, curve, reach = n
    x, y = jet.dot(o_b - o_a, x_a), jet.dot(o_b - o_a, y_a)
    second = curve.distance(np.stack([x.v.ravel(), y.v.ravel()], axis=1) * reach)
    off: Jet = _over(x, y, Second(second.value / reach, second.gradient, second.bend * reach, second.at)) - radius
    return off


def _rest(v: Sequence[Jet], n: Sequence[Any]) -> Jet:
    o_a, x_a, y_a, o_b, z_b = v
    _, curve, reach = n
    off = o_b - o_a
    mx, my = jet.dot(z_b, x_a) * -1.0, jet.dot(z_b, y_a) * -1.0
    second = curve.support(np.stack([mx.v.ravel(), my.v.ravel()], axis=1))
    far = _over(mx, my, Second(second.value / reach, second.gradient / reach, second.bend / reach, second.at))
    return jet.dot(off, z_b) * -1.0 + far * -1.0


KINDS: dict[str, RowKind] = {
    "point": RowKind("ap ad bp", _point),
    "square": RowKind("ad bd", _square, "number"),
    "turn": RowKind("ad ad bd", _turn, "angle"),
    "bearing": RowKind("ap ad ad bp", _bearing, "angle"),
    "lean": RowKind("ad bd", _lean, "number"),
    "radial": RowKind("ap ad bp", _radial),
    "span": RowKind("ap bp", _span),
    "signed": RowKind("ad bd cd", _signed, "angle"),
    "mirror": RowKind("ad bd cd", _mirror, "number"),
    "mirror_point": RowKind("ap bp bd cp cd", _mirror_point),
    "screw": RowKind("ap ad ad ad bp bd", _screw, "lead"),
    "mesh": RowKind("ap ad ad bp bd", _mesh, "teeth"),
    "inner": RowKind("ap ad ad bp bd", _inner, "teeth"),
    "rack": RowKind("ap ad bp bd bd bd", _rack, "teeth"),
    "bevel": RowKind("ad ad bd bd", _bevel, "teeth"),
    "helical": RowKind("ap ad ad bp bd bd", _helical, "teeth"),
    "geneva": RowKind("ap ad ad bp bd", _geneva, "teeth"),
    "twist": RowKind("ad ad bd bd", _twist, "teeth"),
    "touch": RowKind("ap ad ad bp", _touch),
    "rest": RowKind("ap ad ad bp bd", _rest),
}
#: sizes that are lengths, by kind and place
_LENGTHS = {"radial": {0}, "span": {0}, "screw": {0}, "rack": {1}, "touch": {0}}


#: rows of one kind: its name, their places, their vectors (n, 3) and sizes (n,)
Group = tuple[str, Index, list[Array], list[Any]]


class Rows:
    """All equations of an assembly, grouped by kind, evaluated for a stack of poses at once.

    Lengths are measured in `reach`, the size of the mechanism, so that lengths and angles weigh alike. A row touches
    two links, or three: `touched` (m, S) names them, and a Jacobian is kept as (P, m, S, 6).
    """

    def __init__(self, rows: Sequence[Row], links: int, reach: float) -> None:
        self.rows, self.links, self.reach = list(rows), links, reach
        self.sides = 3 if any(r.c >= 0 for r in self.rows) else 2
        self.touched = np.array([(r.a, r.b, max(r.c, 0))[: self.sides] for r in self.rows], dtype=int).reshape(
            len(self.rows), self.sides
        )
        self.groups: list[Group] = []
        for kind, curve in dict.fromkeys((r.kind, r.curve) for r in self.rows):
            index = np.array([i for i, r in enumerate(self.rows) if r.kind == kind and r.curve is curve])
            group = [self.rows[i] for i in index]
            local = [
                np.array([r.vectors[k] for r in group]) / (reach if mark[1] == "p" else 1.0)
                for k, mark in enumerate(KINDS[kind].vectors.split())
            ]
            sizes = [
                np.array([r.sizes[k] for r in group]) / (reach if k in _LENGTHS.get(kind, ()) else 1.0)
                for k in range(len(group[0].sizes))
            ]
            self.groups.append((kind, index, local, sizes if curve is None else [sizes[0], curve, reach]))
        unit = [KINDS[r.kind].unit for r in self.rows]
        self.scale = np.array([reach if u in ("length", "lead") else 1.0 for u in unit])
        self.wanted = np.array([r.wanted for r in self.rows]) / self.scale
        self.driven = [(i, r.law) for i, r in enumerate(self.rows) if r.law is not None]
        # one tooth of phase is 2 pi over the teeth of a
        self.angular = np.array([i for i, u in enumerate(unit) if u in ("angle", "teeth", "lead")], dtype=int)
        self.period = np.array([_period(r, u) for r, u in zip(self.rows, unit, strict=True)]) / self.scale

    def __len__(self) -> int:
        return len(self.rows)

    def _leaves(self, group: Group, pose: Array, turn: Array, twist: Array | None) -> list[Jet]:
        """The group's vectors as jets: seeded with unit velocities of its links (twist None), or with twists (P, L, 6).
        `turn` (P, L, 3, 3) are the poses' rotations."""
        kind, index, local, _ = group
        out = []
        seeds = 6 * (1 + max("abc".index(mark[0]) for mark in KINDS[kind].vectors.split()))
        for mark, vector in zip(KINDS[kind].vectors.split(), local, strict=True):
            side = "abc".index(mark[0])
            body, is_point = self.touched[index, side], mark[1] == "p"
            turned = _turned(turn, body, vector)
            value = turned + pose[:, body, :3] if is_point else turned
            if twist is None:
                d = np.zeros((seeds, *turned.shape))
                first = 6 * side
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
        """Residuals (P, m) and Jacobian (P, m, S, 6) at poses (P, L, 7), positions in reach, and times (P,)."""
        r = np.zeros((len(pose), len(self)))
        j = np.zeros((len(pose), len(self), self.sides, 6))
        turn = matrix(pose[..., 3:])
        for group in self.groups:
            r[:, group[1]], each = self.measure(group, pose, turn)
            j[:, group[1], : each.shape[2]] = each
        return self.against(r, time), j

    def measure(self, group: Group, pose: Array, turn: Array) -> tuple[Array, Array]:
        """(P, n) and (P, n, S, 6): what a group's rows measure and its Jacobian; `turn` (P, L, 3, 3) are the rotations."""
        kind, index, local, sizes = group
        if kind in _WRITTEN_OUT:
            a, b = self.touched[index, 0], self.touched[index, 1]
            r, j_a, j_b = _WRITTEN_OUT[kind](pose, turn, a, b, local)
            return r, np.stack([j_a, j_b], axis=2)
        value = KINDS[kind].value(self._leaves(group, pose, turn, None), sizes)
        return value.v, value.d.reshape(-1, 6, *value.v.shape).transpose(2, 3, 0, 1)

    def against(self, r: Array, time: Array) -> Array:
        """Residuals (P, m): what is measured less what is required at times (P,); angles within half a turn."""
        r -= self.wanted
        for i, law in self.driven:
            r[:, i] -= law.value(time) / self.scale[i]
        if len(self.angular):
            turns = 2 * np.pi / self.period[self.angular]
            r[:, self.angular] = wrap(r[:, self.angular] * turns) / turns
        return r

    def dense(self, j: Array) -> Array:
        """A Jacobian (P, m, S, 6) as plain matrices (P, m, 6 L)."""
        out = np.zeros((len(j), len(self), self.links, 6))
        rows = np.arange(len(self))
        for side in range(self.sides):
            out[:, rows, self.touched[:, side]] += j[:, :, side]
        return out.reshape(len(j), len(self), 6 * self.links)

    def second(self, pose: Array, twist: Array) -> Array:
        """(P, m) the part of the residuals' second derivative that velocities alone cause."""
        out = np.zeros((len(pose), len(self)))
        turn = matrix(pose[..., 3:])
        for group in self.groups:
            out[:, group[1]] = self.bent(group, pose, turn, twist)
        return out

    def bent(self, group: Group, pose: Array, turn: Array, twist: Array) -> Array:
        """The same (P, n) of one group."""
        kind, index, local, sizes = group
        if kind in _SECOND:
            return _SECOND[kind](pose, turn, twist, self.touched[index, 0], self.touched[index, 1], local)
        dd = KINDS[kind].value(self._leaves(group, pose, turn, twist), sizes).dd
        assert dd is not None
        return dd

    def rate(self, time: Array) -> Array:
        """(P, m) how fast what is required runs, at times (P,)."""
        out = np.zeros((len(time), len(self)))
        for i, law in self.driven:
            out[:, i] = law.rate(time) / self.scale[i]
        return out

    def acceleration(self, time: Array) -> Array:
        """(P, m) the rate of that rate."""
        out = np.zeros((len(time), len(self)))
        for i, law in self.driven:
            out[:, i] = law.acceleration(time) / self.scale[i]
        return out

    @property
    def equations(self) -> list[Row]:
        return self.rows

    @property
    def grain(self) -> float:
        """The largest turn, rad, between two looks at the motion."""
        return min((r.grain for r in self.rows), default=np.inf)

    @property
    def moves(self) -> bool:
        """Whether any law asks for motion."""
        return any(law.moves for _, law in self.driven)

    def measured(self, pose: Array, twist: Array, acceleration: Array) -> tuple[Array, Array, Array]:
        """(P, m) each row's left side itself (before its wanted value), with its first and second derivative."""
        r, j = self.value(pose, np.zeros(len(pose)))
        for i, law in self.driven:
            r[:, i] += law.value(np.zeros(1)) / self.scale[i]
        return r + self.wanted, self.plan.times(j, twist), self.plan.times(j, acceleration) + self.second(pose, twist)

    # how poses and motions are reckoned with, in space (`Plane` does so in the plane)
    width = 6
    moved, between, carried = staticmethod(moved), staticmethod(between), staticmethod(carried)

    @staticmethod
    def lowered(pose: Array) -> Array:
        return pose

    @staticmethod
    def joined(pose: Array) -> Array:
        return pose

    @staticmethod
    def lifted(pose: Array) -> Array:
        return pose

    @staticmethod
    def twist(motion: Array) -> Array:
        return motion

    @staticmethod
    def sizes(motion: Array) -> Array:
        """Way and turn (..., 2) of motions (..., 6)."""
        return np.stack([np.linalg.norm(motion[..., :3], axis=-1), np.linalg.norm(motion[..., 3:], axis=-1)], axis=-1)

    @cached_property
    def plan(self) -> EliminationPlan:
        """The order in which links are eliminated."""
        return EliminationPlan(self.links, self.touched)


def _turned(turn: Array, body: Index, vector: Array) -> Array:
    """(P, n, 3) vectors (n, 3) of links `body` (n,), turned as those are."""
    return np.asarray((turn[:, body] @ vector[:, :, None])[..., 0])


def _dot(u: Array, v: Array) -> Array:
    return np.asarray((u * v).sum(axis=-1))


# Nearly all rows are of these kinds: their derivatives are written out.


def _point_written_out(pose: Array, turn: Array, a: Index, b: Index, local: list[Array]) -> tuple[Array, Array, Array]:
    """Value and derivatives of point rows."""
    s_a, u, s_b = _turned(turn, a, local[0]), _turned(turn, a, local[1]), _turned(turn, b, local[2])
    d = pose[:, b, :3] + s_b - pose[:, a, :3] - s_a
    j_a = np.concatenate([-u, cross(u, s_a + d)], axis=-1)
    return _dot(d, u), j_a, np.concatenate([u, cross(s_b, u)], axis=-1)


def _square_written_out(pose: Array, turn: Array, a: Index, b: Index, local: list[Array]) -> tuple[Array, Array, Array]:
    u, v = _turned(turn, a, local[0]), _turned(turn, b, local[1])
    both = np.zeros((*u.shape[:-1], 6))
    both[..., 3:] = cross(u, v)
    return _dot(u, v), both, -both


def _turn_written_out(pose: Array, turn: Array, a: Index, b: Index, local: list[Array]) -> tuple[Array, Array, Array]:
    x, y, v = _turned(turn, a, local[0]), _turned(turn, a, local[1]), _turned(turn, b, local[2])
    c, s = _dot(x, v), _dot(y, v)
    both = np.zeros((*x.shape[:-1], 6))
    size = np.maximum(c * c + s * s, 1e-300)[..., None]
    both[..., 3:] = (c[..., None] * cross(y, v) - s[..., None] * cross(x, v)) / size
    return np.arctan2(s, c), both, -both


def _point_second(pose: Array, turn: Array, twist: Array, a: Index, b: Index, local: list[Array]) -> Array:
    s_a, u, s_b = _turned(turn, a, local[0]), _turned(turn, a, local[1]), _turned(turn, b, local[2])
    w_a, w_b = twist[:, a, 3:], twist[:, b, 3:]
    v_a, v_b, du = cross(w_a, s_a), cross(w_b, s_b), cross(w_a, u)
    d = pose[:, b, :3] + s_b - pose[:, a, :3] - s_a
    dd = twist[:, b, :3] + v_b - twist[:, a, :3] - v_a
    return _dot(cross(w_b, v_b) - cross(w_a, v_a), u) + 2 * _dot(dd, du) + _dot(d, cross(w_a, du))


def _square_second(pose: Array, turn: Array, twist: Array, a: Index, b: Index, local: list[Array]) -> Array:
    u, v = _turned(turn, a, local[0]), _turned(turn, b, local[1])
    w_a, w_b = twist[:, a, 3:], twist[:, b, 3:]
    du, dv = cross(w_a, u), cross(w_b, v)
    return _dot(cross(w_a, du), v) + 2 * _dot(du, dv) + _dot(u, cross(w_b, dv))


_WRITTEN_OUT = {"point": _point_written_out, "square": _square_written_out, "turn": _turn_written_out}
_SECOND = {"point": _point_second, "square": _square_second}

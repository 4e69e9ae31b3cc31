"""Rotors: everything that turns about a fixed axis, and how its mass lies about that axis.

The unbalance of a rigid rotor is the sum of mass times distance from the axis; with the moment of these along the axis it is
replaced by one unbalance in each of two planes. The permissible residual of a balance quality grade is grade times mass
over speed, shared between the planes by their distances from the centre of mass, with at least 0.3 and at most 0.7 of it in
each (ISO 21940-11:2016, 4 to 7, annex D; from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from uhrwerk.core.assembly.mass_properties import lumps_of
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.joints import ResolvedJoint
from uhrwerk.core.stages.cycle_extremes import fastest
from uhrwerk.core.stages.evaluation import Evaluation

#: balance quality grades of the standard, m/s
GRADES = tuple(g * 1e-3 for g in (0.4, 1.0, 2.5, 6.3, 16.0, 40.0, 100.0, 250.0, 630.0, 1600.0, 4000.0))
#: least and greatest part of the permissible residual in one plane
SHARES = 0.3, 0.7
#: bearings are on one axis where their directions agree to this, rad, and their feet to this, m
SAME = 1e-9
#: a part of the products of mass and reach, by which sums of volumes may be off
EXACT = 1e-9
#: what turns on a pin is balanced about it where its unbalance is below this part of its mass times its reach
CENTRED = 1e-6


@dataclass(frozen=True)
class Rotor:
    """What turns about the z axis of `frame` (7,), a pose in the world at the start of the cycle, on the joint's datum.

    `mass` kg; `centre` (3,) m and `first` (2,) kg m, the sum of mass times distance; `second` (2,) kg m2, the sum of that
    times z; all in the frame. `span`: from where to where it reaches along the axis, m. `speed` rad/s, the greatest over the
    cycle, and `time` s, when. `reach` m: how far from the axis it reaches, at most. What turns on a pin of the rotor about its own
    centre of gravity, as a planet does, acts on it as a mass in that pin, and is in these sums. `hanging` are placed parts that hang
    on the rotor otherwise, as a coupler does: not in them, nor do they let it be told by them.
    """

    joint: str
    link: int
    parts: tuple[str, ...]
    frame: Array
    mass: float
    centre: Array
    first: Array
    second: Array
    span: tuple[float, float]
    reach: float
    speed: float
    time: float
    hanging: tuple[str, ...] = ()

    @property
    def offset(self) -> float:
        """How far the centre of gravity lies from the axis, m."""
        return float(np.hypot(*self.first) / self.mass) if self.mass else 0.0

    @property
    def couple(self) -> Array:
        """(2,) kg m2: the moment of the unbalances about the plane of the centre of gravity."""
        return np.asarray(self.second - self.centre[2] * self.first)

    @property
    def error(self) -> float:
        """By how much the unbalance may be off, kg m."""
        return EXACT * self.mass * self.reach

    def in_planes(self, low: float, high: float) -> Array:
        """(2, 2) kg m: the unbalances in planes at two places along the axis that stand for the rotor's."""
        return np.stack([high * self.first - self.second, self.second - low * self.first]) / (high - low)

    def shares(self, low: float, high: float) -> Array:
        """(2,) the part of the permissible residual that each of two planes may have."""
        lower = np.clip((high - self.centre[2]) / (high - low), *SHARES)
        return np.array([lower, 1 - lower])

    def permissible(self, grade: float) -> float:
        """kg m: the residual unbalance that a grade, m/s, permits at its speed."""
        return grade * self.mass / self.speed


def rotors(e: Evaluation) -> dict[str, Rotor]:
    """Every joint with the frame about which a link turns, by its id; one for each link and axis, the first stated."""
    return e.once("rotors", lambda: _rotors(e))


def _rotors(e: Evaluation) -> dict[str, Rotor]:
    m, out = e.mechanism, {}
    if m is None or e.motion is None or not e.solids:
        return {}
    axes: list[tuple[int, Array, Array]] = []
    for h in m.joints.values():
        if (
            h.kind not in ("revolute", "cylindrical")
            or 0 not in (h.a, h.b)
            or h.a == h.b
            or h.id not in m.document.joints
        ):
            continue
        c = e.coordinate(h.id, turning=True)
        if c is None or not np.abs(c.whole.rate).max(initial=0.0) > 0:
            continue
        foot, z = _axis(e, h)
        link = h.b if h.a == 0 else h.a
        if any(k == link and _same_axis(foot, z, f, d) for k, f, d in axes):
            continue
        axes.append((link, foot, z))
        out[h.id] = _rotor(e, h, link)
    return out


def _axis(e: Evaluation, h: ResolvedJoint) -> tuple[Array, Array]:
    frame = _frame(e, h)
    return frame[:3], poses.rotate(frame[3:], np.array([0.0, 0, 1]))


def _same_axis(foot: Array, z: Array, other: Array, direction: Array) -> bool:
    off = foot - other
    return bool(
        np.abs(np.cross(z, direction)).max() < SAME
        and np.abs(np.cross(off, direction)).max() < SAME + 1e-9 * np.abs(off).max()
    )


def _frame(e: Evaluation, h: ResolvedJoint) -> Array:
    """The joint's frame on what turns, in the world at the start: it turns with it."""
    link, own = (h.b, h.frame_b) if h.a == 0 else (h.a, h.frame_a)
    return poses.compose(e.moved.motion.pose[0, link], own)


def _rotor(e: Evaluation, h: ResolvedJoint, link: int) -> Rotor:
    frame = _frame(e, h)
    pinned, hanging = _carried(e, link, frame)
    sums, reach = _Sums(), 0.0
    ends: list[float] = []
    parts = _parts(e, link)
    for own in (link, *pinned):
        for p in _parts(e, own):
            there = sums.add(e, p, frame, pinned.get(own))
            ends += [float(there[:, 2].min()), float(there[:, 2].max())]
            reach = max(reach, float(np.hypot(there[:, 0], there[:, 1]).max()))
    c = e.coordinate(h.id, turning=True)
    assert c is not None
    most = fastest(e, c)
    speed, time = most.high, most.high_time
    span = (min(ends, default=0.0), max(ends, default=0.0))
    centre = sums.weighed / sums.mass if sums.mass else sums.weighed
    loose = tuple(p for k in hanging for p in _parts(e, k))
    return Rotor(h.id, link, parts, frame, sums.mass, centre, sums.first, sums.second, span, reach, speed, time, loose)


def _parts(e: Evaluation, link: int) -> tuple[str, ...]:
    return tuple(p for p in e.solids if e.mechanism.link_of[p] == link and not e.document.placed[p].left_out)


@dataclass
class _Sums:
    """What is added up of bodies, in a rotor's frame."""

    mass: float = 0.0
    weighed: Array = field(default_factory=lambda: np.zeros(3))
    first: Array = field(default_factory=lambda: np.zeros(2))
    second: Array = field(default_factory=lambda: np.zeros(2))

    def add(self, e: Evaluation, p: str, frame: Array, pin: Array | None) -> Array:
        """Adds a placed part, which turns with the rotor, or about a pin at `pin` (2,) of it; its vertices in the frame."""
        m, document = e.mechanism, e.document
        here = poses.compose(poses.inverse(frame), m.part_pose(p, e.moved.motion.pose[0]))
        turn = poses.matrix(here[3:])
        for lump in lumps_of(document, p, e.solids[p]):
            own, at, inertia = lump.mass, poses.place(here, lump.centre), turn @ lump.inertia @ turn.T
            self.mass += own
            self.weighed = self.weighed + own * (at if pin is None else np.array([*pin, at[2]]))
            self.first = self.first + own * (at[:2] if pin is None else pin)
            if pin is None:  # a product of inertia is less the integral
                self.second = self.second + own * at[2] * at[:2] - inertia[:2, 2]
            else:
                self.second = self.second + own * at[2] * pin
        return np.concatenate([poses.place(here, b.vertices) for b in e.solids[p].bodies.values()])


def _carried(e: Evaluation, link: int, frame: Array) -> tuple[dict[int, Array], list[int]]:
    """Links that turn on pins of a rotor about their own centres of gravity, with the place (2,) of each pin in the rotor's
    frame; and those that hang on it otherwise. What turns about the rotor's own axis, itself centred, is neither."""
    m = e.mechanism
    joined: dict[int, list[ResolvedJoint]] = {}
    for h in m.joints.values():
        for one, other in ((h.a, h.b), (h.b, h.a)):
            if one == link and other not in (0, link):
                joined.setdefault(other, []).append(h)
    pinned: dict[int, Array] = {}
    jointed = {k for h in m.joints.values() for k in (h.a, h.b)}
    beside = {k for r in m.rows if link in (r.a, r.b) for k in (r.a, r.b)} - {0, link}
    hanging = sorted(beside - jointed)  # held by relations or pairs alone
    for other, joints in joined.items():
        elsewhere = [h for h in m.joints.values() if other in (h.a, h.b) and link not in (h.a, h.b)]
        pin = _pin(e, other, joints[0], frame) if not elsewhere and len(joints) == 1 else None
        if pin is None:
            hanging.append(other)
        elif np.hypot(*pin) > SAME:
            pinned[other] = pin
    return pinned, hanging


def _pin(e: Evaluation, other: int, h: ResolvedJoint, frame: Array) -> Array | None:
    """Where (2,) the pin stands in the rotor's frame on which a link turns, balanced about it; None where it is no such link."""
    if h.kind not in ("revolute", "cylindrical"):
        return None
    pose = e.moved.motion.pose[0]
    axis = poses.compose(pose[h.a], h.frame_a)
    here = poses.compose(poses.inverse(frame), axis)
    if np.abs(poses.rotate(here[3:], np.array([0.0, 0, 1]))[:2]).max() > SAME:
        return None
    sums = _Sums()
    reach = 0.0
    for p in _parts(e, other):
        there = sums.add(e, p, axis, None)
        reach = max(reach, float(np.hypot(there[:, 0], there[:, 1]).max()))
    off = max(float(np.hypot(*sums.first)), float(np.hypot(*sums.second)) / max(reach, 1e-9))
    return np.asarray(here[:2]) if off <= CENTRED * sums.mass * max(reach, 1e-9) else None


def hanging(e: Evaluation, r: Rotor) -> str:
    """Why a rotor cannot be told by its own mass, in words; nothing where it can."""
    if not r.hanging:
        return ""
    names = ", ".join(e.document.placed[p].name for p in r.hanging[:3])
    verbs = "hangs on it and turns" if len(r.hanging) == 1 else "hang on it and turn"
    return f"{names} {verbs} otherwise: require the shaking force instead"


def basis(e: Evaluation) -> str:
    """How what is told of rotors is known."""
    without = any(p.left_out for p in e.document.placed.values())
    return "mass and products of inertia of the B-rep solids" + (
        "; without the parts left out of the motion" if without else ""
    )


def reached(r: Rotor, planes: Sequence[float]) -> tuple[float, float]:
    """The grade, m/s, that the rotor reaches at its speed: statically, or in two planes where those are given; and by how much
    it may be off."""
    if len(planes) < 2:
        return float(np.hypot(*r.first)) * r.speed / r.mass, r.error * r.speed / r.mass
    low, high = planes
    size = np.hypot(*r.in_planes(low, high).T) / r.shares(low, high)
    wide = 2 * max(abs(low), abs(high), abs(r.span[0]), abs(r.span[1])) / abs(high - low) / SHARES[0]
    return float(size.max()) * r.speed / r.mass, wide * r.error * r.speed / r.mass

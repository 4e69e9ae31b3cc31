"""Coordinates of joints over a cycle: angles counted through every turn, travels, and where they turn back.

An angle is read from a pose only within a turn. Its turns are counted along the stations of the track, which follow the
motion, never from frame to frame. The turn it begins in is the one that its driver states; of a joint that no driver
turns, the one that lies within its limits.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Rows
from uhrwerk.core.joints import ANGLES, coordinate_row
from uhrwerk.core.motion.cycle import Motion

TURN = 2 * np.pi


@dataclass(frozen=True)
class CoordinateValues:
    """A coordinate with its rate and acceleration at moments (n,) s that follow the motion; rad or m."""

    times: Array
    value: Array
    rate: Array
    acceleration: Array


@dataclass(frozen=True)
class Coordinate:
    """A joint's angle (rad, counted through turns) or travel (m) with rate and acceleration: at the frames (F,), and in
    `whole` at the stations of the entire cycle."""

    joint: str
    name: str
    turning: bool
    value: Array
    rate: Array
    acceleration: Array
    whole: CoordinateValues


def coordinates(m: Mechanism, motion: Motion) -> dict[str, Coordinate]:
    """Coordinates of all joints: the leading one under the joint's id, others as `id.name`."""
    every = m.coordinates()
    if not every or not len(motion.pose):
        return {}
    rows = Rows([coordinate_row(m.joints[i], name) for i, name in every], len(m.links), m.reach)
    size = np.array([1 / m.reach] * 3 + [1.0] * 3)
    t = motion.track
    unit = np.array([1.0 if name in ANGLES else m.reach for _, name in every])
    angle = np.array([name in ANGLES for _, name in every])
    fine, fine_rate, fine_acc = (
        x * unit for x in rows.measured(m.scaled(t.pose), t.velocity * size, t.acceleration * size)
    )
    value, rate, acc = (
        x * unit for x in rows.measured(m.scaled(motion.pose), motion.velocity * size, motion.acceleration * size)
    )
    if len(fine) > 1:  # the rates tell how far it went between two stations
        steps = np.diff(t.times)[:, None] * (fine_rate[:-1] + fine_rate[1:]) / 2
        turns = np.cumsum(np.where(angle, np.round((steps - np.diff(fine, axis=0)) / TURN), 0.0), axis=0) * TURN
        fine = np.concatenate([fine[:1], fine[1:] + turns])
    fine = fine + _first_turns(m, every, fine[0])
    times, fine, fine_rate, fine_acc = _repeated(motion, fine, fine_rate, fine_acc)
    out: dict[str, Coordinate] = {}
    for at, (i, name) in enumerate(every):
        whole = CoordinateValues(times, fine[:, at], fine_rate[:, at], fine_acc[:, at])
        x = value[:, at]
        if angle[at]:
            x = x + np.round((interpolated(whole, motion.times) - x) / TURN) * TURN
        key = i if name == m.joints[i].coordinates[0] else f"{i}.{name}"
        out[key] = Coordinate(i, name, bool(angle[at]), x, rate[:, at], acc[:, at], whole)
    return out


def _first_turns(m: Mechanism, every: list[tuple[str, str]], first: Array) -> Array:
    """What is to be added to each coordinate's first value (n,) so that it lies in the turn that was stated."""
    stated = counted(m, dict(zip(every, first.tolist(), strict=True)))
    return np.array([stated[key] for key in every]) - first


def counted(m: Mechanism, values: Mapping[tuple[str, str], float]) -> dict[tuple[str, str], float]:
    """Coordinates by (joint, name) in the turn that a driver's start states, or a screw's travel; else in one that lies
    within the limits, the nearest to the value as it is read."""
    out = dict(values)
    for row in m.drives:
        driver = m.document.drivers[row.owner.split(".")[1]]
        joint = m.joints[driver.joint]
        for name in joint.coordinates:
            if name in ANGLES and driver.coordinate == "turn" and joint.kind != "screw" and (joint.id, name) in out:
                out[joint.id, name] += _turns(row.wanted_at(0.0) - out[joint.id, name])
    driven = {m.document.drivers[r.owner.split(".")[1]].joint for r in m.drives}
    for i, joint in m.joints.items():
        if joint.kind == "screw" and {(i, "turn"), (i, "slide")} <= set(
            out
        ):  # its travel tells how often it has turned
            out[i, "turn"] += _turns(out[i, "slide"] / joint.lead * TURN - out[i, "turn"])
        elif i not in driven:
            for name, low, high in joint.limits:
                if name in ANGLES and (i, name) in out:
                    out[i, name] = within(out[i, name], low, high)
    return out


def _turns(gap: float) -> float:
    return float(np.round(gap / TURN) * TURN)


def within(value: float, low: float, high: float) -> float:
    """The angle moved by whole turns so that it lies between the limits, by as few as possible; where none does, to where
    it is nearest to them."""
    if low - 1e-9 <= value <= high + 1e-9:
        return value
    near = low if value < low else high
    options = [value + TURN * k for k in (np.floor((near - value) / TURN), np.ceil((near - value) / TURN))]
    return float(min(options, key=lambda x: (max(low - x, x - high, 0.0) > 1e-9, max(low - x, x - high, 0.0))))


def _repeated(motion: Motion, value: Array, rate: Array, acc: Array) -> tuple[Array, Array, Array, Array]:
    """Stations of one period laid end to end over the whole cycle; an angle goes on from turn to turn."""
    times = motion.track.times
    if not motion.moving:
        still = [np.repeat(x[:1], 2, axis=0) for x in (value, rate, acc)]
        return np.array([0.0, motion.duration]), still[0], still[1], still[2]
    if motion.track.period is None:
        return times, value, rate, acc
    count = int(np.ceil(motion.duration / motion.track.period - 1e-9))
    k = np.arange(count)
    gain = value[-1] - value[0]
    every = (times[None, :-1] + k[:, None] * motion.track.period).ravel()
    many = (value[None, :-1] + k[:, None, None] * gain).reshape(-1, value.shape[1])
    every = np.append(every, count * motion.track.period)
    many = np.concatenate([many, value[:1] + count * gain])
    rates = [np.concatenate([np.tile(x[:-1], (count, 1)), x[-1:]]) for x in (rate, acc)]
    inside = every < motion.duration * (1 - 1e-12)
    last = CoordinateValues(every, many, *rates)
    end = [interpolated(CoordinateValues(every, last.value[:, c], last.rate[:, c], last.acceleration[:, c]), np.array([motion.duration]), k)
           for c in range(many.shape[1]) for k in range(3)]  # fmt: skip
    ends = np.array(end).reshape(many.shape[1], 3).T
    closed = [np.concatenate([x[inside], e[None]]) for x, e in zip((many, *rates), ends, strict=True)]
    return np.append(every[inside], motion.duration), closed[0], closed[1], closed[2]


def interpolated(v: CoordinateValues, times: Array, derivative: int = 0) -> Array:
    """The coordinate (or its first or second derivative) at any moments, by the quintic between two stations."""
    index = np.asarray(np.clip(np.searchsorted(v.times, times, side="right") - 1, 0, len(v.times) - 2), dtype=np.int64)
    h = v.times[index + 1] - v.times[index]
    s = np.clip((times - v.times[index]) / h, 0.0, 1.0)
    c = _curve(v, index, h)
    for _ in range(derivative):
        c = [k * ck / h for k, ck in enumerate(c)][1:]
    out = np.zeros_like(s)
    for ck in reversed(c):
        out = out * s + ck
    return out


def _curve(v: CoordinateValues, index: NDArray[np.int64], h: Array) -> list[Array]:
    """Six coefficients of the quintic of each interval, for powers of its fraction."""
    x0, x1 = v.value[index], v.value[index + 1]
    v0, v1 = v.rate[index] * h, v.rate[index + 1] * h
    a0, a1 = v.acceleration[index] * h * h, v.acceleration[index + 1] * h * h
    far = x1 - x0
    return [
        x0, v0, a0 / 2, 10 * far - 6 * v0 - 4 * v1 - 1.5 * a0 + 0.5 * a1,
        -15 * far + 8 * v0 + 7 * v1 + 1.5 * a0 - a1, 6 * far - 3 * v0 - 3 * v1 - 0.5 * a0 + 0.5 * a1,
    ]  # fmt: skip


def reversals(v: CoordinateValues) -> tuple[Array, Array]:
    """(n,) moments at which the coordinate turns back, and its values there: zeros of the quintic's rate."""
    r = v.rate
    tiny = 1e-9 * np.abs(r).max(initial=0.0)
    sign = np.where(np.abs(r) <= tiny, 0.0, np.sign(r))
    crossing = np.flatnonzero(sign[:-1] * sign[1:] < 0)
    if not len(crossing) and not (sign[1:-1] == 0).any():
        return np.zeros(0), np.zeros(0)
    low, high = v.times[crossing], v.times[crossing + 1]
    at_low = interpolated(v, low, 1)
    for _ in range(60):
        middle = (low + high) / 2
        same = np.sign(interpolated(v, middle, 1)) == np.sign(at_low)
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    at_station = [k for k in range(1, len(r) - 1) if sign[k] == 0 and sign[k - 1] * sign[k + 1] < 0]
    when = np.sort(np.concatenate([(low + high) / 2, v.times[at_station]]))
    return when, interpolated(v, when)


__all__ = ["Coordinate", "CoordinateValues", "coordinates", "counted", "interpolated", "reversals", "within"]

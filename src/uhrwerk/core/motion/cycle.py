"""One master cycle: the mechanism followed from its assembled pose through time, without ever leaving its branch.

A few stations are tracked one after another: each is predicted from velocity and acceleration, corrected by Newton,
and the step is halved where the correction leaves the predicted neighbourhood. All other moments lie between two
stations; they are guessed by cubic Hermite interpolation and solved together, as one stack.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from uhrwerk.core.assembly import ANGLES, Mechanism, coordinate_row
from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.assembly.pose import Array
from uhrwerk.core.assembly.rows import Rows
from uhrwerk.core.assembly.solve import TOLERANCE, newton, rates

#: stations a cycle at least; largest turn of a link between two of them (rad)
STATIONS = 24
LARGEST_TURN = 0.8


class DeadPoint(Exception):
    """The drive can move the mechanism no further; `time` in seconds."""

    def __init__(self, time: float) -> None:
        super().__init__(
            f"The drive cannot move the mechanism beyond {time:.4f} s: a dead point, or the end of a link's reach."
        )
        self.time = time


@dataclass(frozen=True)
class Motion:
    """Frames of a cycle: times (F,) s; pose (F, L, 7) m; velocity and acceleration (F, L, 6) in m, rad and s.

    The last frame closes the cycle, at its full duration. `residual` is the largest left in any frame, m or rad.
    """

    times: Array
    pose: Array
    velocity: Array
    acceleration: Array
    residual: float
    moving: bool

    @property
    def duration(self) -> float:
        return float(self.times[-1])

    def between(self, times: Array, links: list[int] | None = None) -> Array:
        """Poses (T, L, 7) at any times, by cubic Hermite interpolation of the frames (error: fourth order of a frame)."""
        step = self.times[1] - self.times[0]
        at = np.clip((np.asarray(times) / step).astype(int), 0, len(self.times) - 2)
        chosen = slice(None) if links is None else links
        p, q = self.pose[at][:, chosen], self.pose[at + 1][:, chosen]
        v, w = self.velocity[at][:, chosen], self.velocity[at + 1][:, chosen]
        return _hermite(p, q, v * step, w * step, (np.asarray(times) - self.times[at]) / step)


def _hermite(p: Array, q: Array, v: Array, w: Array, s: Array) -> Array:
    """Between poses p and q with scaled velocities v, w (T, L, 6) at fractions s (T,)."""
    s = s[:, None, None]
    h10, h01, h11 = s * (1 - s) ** 2, s * s * (3 - 2 * s), s * s * (s - 1)
    return poses.moved(p, h10 * v + h01 * poses.between(p, q) + h11 * w)


def follow(rows: Rows, start: Array, duration: float, times: Array) -> tuple[Array, Array, Array, float]:
    """Poses, velocities, accelerations at `times` (F,), from an assembled pose `start` (L, 7); positions in reach."""
    if not np.any(rows.rate):
        still = np.zeros((len(times), *start.shape[:-1], 6))
        return np.repeat(start[None], len(times), axis=0), still, still.copy(), 0.0
    stations = [_station(rows, start[None], 0.0)]
    step = duration / STATIONS
    while stations[-1][0] < duration * (1 - 1e-12):
        t, pose, v, a = stations[-1]
        turn = np.abs(v[..., 3:]).max(initial=0.0)
        h = min(step, duration - t, LARGEST_TURN / turn if turn > 0 else step)
        while True:
            if h < duration * 1e-7:
                raise DeadPoint(t)
            guess = poses.moved(pose, v * h + a * (h * h / 2))
            found, left = newton(rows, guess, np.array([t + h]))
            move = max(np.abs(v).max() * h, np.abs(a).max() * h * h / 2)
            if left[0] <= TOLERANCE and np.abs(poses.between(guess, found)).max() <= 0.15 * move + 1e-9:
                break
            h /= 2
        stations.append(_station(rows, found, t + h))
        step = min(duration / STATIONS, 2 * h)
    at = np.array([s[0] for s in stations])
    pose, v, a = (np.concatenate([s[k] for s in stations]) for k in (1, 2, 3))
    index = np.clip(np.searchsorted(at, times, side="right") - 1, 0, len(at) - 2)
    h = (at[index + 1] - at[index])[:, None, None]
    guess = _hermite(pose[index], pose[index + 1], v[index] * h, v[index + 1] * h, (times - at[index]) / h[:, 0, 0])
    found, left = newton(rows, guess, times)
    if left.max() > TOLERANCE:
        raise DeadPoint(float(times[int(np.argmax(left))]))
    velocity, acceleration = rates(rows, found)
    return found, velocity, acceleration, float(left.max())


def _station(rows: Rows, pose: Array, time: float) -> tuple[float, Array, Array, Array]:
    velocity, acceleration = rates(rows, pose)
    return time, pose, velocity, acceleration


def cycle(m: Mechanism, start: Array, duration: float, frames: int) -> Motion:
    """The motion of a mechanism over one cycle, cut into `frames` equal steps, from its assembled pose (L, 7) m."""
    times = np.linspace(0.0, duration, frames + 1)
    rows = m.system(drives=True)
    if len(m.links) < 2 or not len(rows):
        still = np.zeros((len(times), len(m.links), 6))
        return Motion(times, np.repeat(start[None], len(times), axis=0), still, still, 0.0, False)
    pose, v, a, left = follow(rows, m.scaled(start), duration, times)
    size = np.array([m.reach] * 3 + [1.0] * 3)
    return Motion(times, m.metres(pose), v * size, a * size, left, bool(np.any(rows.rate)))


@dataclass(frozen=True)
class Coordinate:
    """A joint's angle (rad, counted through turns) or travel (m) over the cycle, with rate and acceleration, each (F,)."""

    joint: str
    name: str
    turning: bool
    value: Array
    rate: Array
    acceleration: Array


def coordinates(m: Mechanism, motion: Motion) -> dict[str, Coordinate]:
    """Coordinates of all joints: the leading one under the joint's id, others as `id.name`."""
    every = m.coordinates()
    if not every or not len(motion.pose):
        return {}
    rows = Rows([coordinate_row(m.held[i], name) for i, name in every], len(m.links), m.reach)
    size = np.array([1 / m.reach] * 3 + [1.0] * 3)
    value, rate, acceleration = rows.measured(m.scaled(motion.pose), motion.velocity * size, motion.acceleration * size)
    out: dict[str, Coordinate] = {}
    for at, (i, name) in enumerate(every):
        held, turning = m.held[i], name in ANGLES
        unit = 1.0 if turning else m.reach
        x = value[:, at] * unit
        if turning:  # counted through turns: the velocities tell how far it went from frame to frame
            steps = np.diff(motion.times) * (rate[:-1, at] + rate[1:, at]) / 2
            jumps = np.round((steps - np.diff(x)) / (2 * np.pi)) * 2 * np.pi
            x = x + np.concatenate([[0.0], np.cumsum(jumps)])
        key = i if name == held.coordinates[0] else f"{i}.{name}"
        out[key] = Coordinate(i, name, turning, x, rate[:, at] * unit, acceleration[:, at] * unit)
    for i, held in m.held.items():
        if held.kind == "screw":  # its travel tells how many turns it has made
            turn, slide = out[i], out[f"{i}.slide"]
            whole = np.round((slide.value[0] / held.lead * 2 * np.pi - turn.value[0]) / (2 * np.pi)) * 2 * np.pi
            out[i] = replace(turn, value=turn.value + whole)
    return out


__all__ = ["Coordinate", "DeadPoint", "Motion", "coordinates", "cycle", "follow"]

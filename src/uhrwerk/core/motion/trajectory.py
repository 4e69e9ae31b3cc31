"""The track of a mechanism through time: stations close enough that what lies between two of them is known.

Anchors are found one after another: each is predicted from velocity and acceleration, corrected by Newton, and the step
is halved where the correction leaves the predicted neighbourhood, so that the branch is kept. Then every interval is
halved, all at once, until no link turns further in it than `TURN` and the corrected pose in its middle agrees with the
interpolated one. Between stations each link follows a quintic through pose, velocity and acceleration at both ends
(Hermite interpolation: de Boor, A Practical Guide to Splines, ch. 1); its error goes as the sixth power of the interval
and is largest in the middle, where it is measured. From memory.

How far apart stations lie follows the motion alone; the frames that are drawn have no part in it. A motion that comes
back to where it began after whole turns of all its drivers repeats itself from there on and is tracked no further.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import TOLERANCE, System, corrected, followed, rates
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import KINDS
from uhrwerk.core.motion.knots import knots

#: largest turn (rad) and way (in the mechanism's reach) of a link between two anchors, and between two stations
ANCHOR, TURN = 0.7, 0.4
#: how much farther an anchor may lie where the last one was foreseen exactly
BOLDEST = 3.0
#: the interpolated pose in the middle of two stations is off by no more, in reach and rad
AGREE = 1e-9
#: halvings of an anchor's interval at most
HALVINGS = 14
#: a step of less than this of the cycle, or of a driver's turn, gives up
LEAST = 1e-6
#: anchors at most: some hundreds of turns
MOST = 5000
#: steps of at most this part of the cycle lead across a jump of a rate, and by no more than this, in reach and rad
BESIDE, OTHER = 1e-8, 1e-3
#: how far beside a jump it is looked at, as a part of what is followed
JUMP = 1e-8
#: poses closer than this are the same, in reach and rad
SAME = 1e-8


#: time, pose, velocity and acceleration; and those three of both ends of intervals
Station = tuple[float, Array, Array, Array]
Ends = tuple[tuple[Array, ...], tuple[Array, ...]]
Between = Callable[[Array, Array], Array]
Carried = Callable[[Array, Array, Array], tuple[Array, Array]]


class TooLong(Exception):
    """The cycle has more turns than can be followed, and nothing repeats; `reached` is how far it was followed, s."""

    def __init__(self, reached: float) -> None:
        super().__init__(f"followed for {reached:.4g} s")
        self.reached = reached


@dataclass(frozen=True)
class Trajectory:
    """Stations: times (K,) s, pose (K, L, 7), velocity and acceleration (K, L, 6); error (K - 1, L, 2) between them,
    in the unit of positions and in rad, estimated at twice what the corrected middle shows. With a `period` all repeats after
    the last station; else the track ends there."""

    times: Array
    pose: Array
    velocity: Array
    acceleration: Array
    error: Array
    period: float | None = None

    @cached_property
    def jumps(self) -> NDArray[np.bool_]:
        """(K - 1,) whether two stations only stand on either side of a moment at which a rate or an acceleration may jump:
        nothing is interpolated between them."""
        return np.asarray(np.diff(self.times) < 3 * JUMP * float(self.times[-1]))

    def scaled(self, size: float) -> Trajectory:
        """The same with positions in another unit."""
        six, seven = np.array([size] * 3 + [1.0] * 3), np.array([size] * 3 + [1.0] * 4)
        error = self.error * np.array([size, 1.0])
        return Trajectory(
            self.times, self.pose * seven, self.velocity * six, self.acceleration * six, error, self.period
        )

    @cached_property
    def curve(self) -> Array:
        """(K - 1, 6, L, 6) coefficients of the quintics, for powers 0 to 5 of the fraction of an interval."""
        sides = [(x[:-1], x[1:]) for x in (self.pose, self.velocity, self.acceleration)]
        first, last = (tuple(side[k] for side in sides) for k in (0, 1))
        return quintic((first, last), np.diff(self.times))

    def folded(self, times: Array) -> Array:
        """Times within the period."""
        return np.asarray(times) if self.period is None else np.mod(times, self.period)

    def located(self, times: Array) -> tuple[NDArray[np.int64], Array]:
        """Interval (T,) and fraction of it (T,) of each moment."""
        at = self.folded(times)
        index = np.asarray(np.searchsorted(self.times, at, side="right") - 1, dtype=np.int64)
        index = np.clip(index, 0, max(0, len(self.times) - 2))
        step = np.diff(self.times)[index] if len(self.times) > 1 else np.ones(len(at))
        return index, np.clip((at - self.times[index]) / step, 0.0, 1.0)

    def at(self, times: Array, links: list[int] | None = None) -> Array:
        """Poses (T, L, 7) at any times."""
        chosen = slice(None) if links is None else links
        if len(self.times) == 1:
            return np.repeat(self.pose[:1, chosen], len(np.asarray(times)), axis=0)
        index, s = self.located(times)
        return poses.moved(self.pose[index][:, chosen], along(self.curve[index][:, :, chosen], s))


def quintic(ends: Ends, steps: Array, between: Between = poses.between, carried: Carried = poses.carried) -> Array:
    """(K, 6, L, 6) coefficients of the motion (as `poses.between`, or 3 numbers in a plane) from one station to another,
    `steps` (K,) seconds later."""
    (p, v, a), (q, w, b) = ends
    h = steps[:, None, None]
    far = between(p, q)
    v0, a0 = v * h, a * h * h
    v1, a1 = carried(far, w * h, b * h * h)
    third = 10 * far - 6 * v0 - 4 * v1 - 1.5 * a0 + 0.5 * a1
    fourth = -15 * far + 8 * v0 + 7 * v1 + 1.5 * a0 - a1
    fifth = 6 * far - 3 * v0 - 3 * v1 - 0.5 * a0 + 0.5 * a1
    return np.stack([np.zeros_like(far), v0, a0 / 2, third, fourth, fifth], axis=1)


def along(curve: Array, s: Array) -> Array:
    """Motions (T, L, 6) at fractions s (T,) of intervals with these quintics."""
    x = s[:, None, None]
    step = curve[:, 5]
    for power in (4, 3, 2, 1, 0):
        step = step * x + curve[:, power]
    return np.asarray(step)


def track(
    rows: System, start: Array, duration: float, report: Callable[[], None] | None = None
) -> tuple[Trajectory, Array | None]:
    """The track from an assembled pose `start` (L, 7), positions in reach, as long as the rows can be followed.

    Where they cannot be followed to the end, the second answer is the pose (L, 7) at which the search gave up; the last
    station is the last one known. TooLong where there are too many turns.
    """
    anchors, lost, period = _anchors(rows, rows.lowered(start), duration, report or (lambda: None))
    times = np.array([a[0] for a in anchors])
    pose, v, acc = (np.concatenate([a[k] for a in anchors]) for k in (1, 2, 3))
    stations = refined(rows, (times, pose, v, acc), period)
    return _parted(rows, stations), None if lost is None else rows.lifted(lost)


def _parted(rows: System, t: Trajectory) -> Trajectory:
    """The track with a station close by on either side of every moment at which a contact passes a joint of an outline."""

    def solved(times: Array) -> Array:
        return rows.lifted(corrected(rows, rows.lowered(t.at(times)), t.folded(times))[0])

    if len(t.times) < 2:
        return t
    at = knots(rows.equations, rows.reach, t.times, t.pose, solved)
    if not len(at):
        return t
    end = float(t.times[-1])
    beside = JUMP * end
    both = np.unique(np.concatenate([at - beside, at + beside]))
    both = both[(both > beside / 2) & (both < end - beside / 2)]
    kept = (np.abs(t.times[:, None] - at).min(axis=1) >= 3 * beside) | (t.times == 0.0) | (t.times == end)
    times = np.sort(np.concatenate([t.times[kept], both]))
    guess = t.at(times)
    guess[-1] = t.pose[-1]
    pose, _, v, a = followed(rows, rows.joined(rows.lowered(guess)), times)
    return refined(rows, (times, pose, v, a), t.period)


def _anchors(
    rows: System, start: Array, duration: float, report: Callable[[], None]
) -> tuple[list[Station], Array | None, float | None]:
    anchors: list[Station] = [(0.0, start[None], *rates(rows, start[None], np.zeros(1)))]
    whole = _whole_turns(rows)
    step, turns, least, bold = duration, 1, LEAST * min(duration, whole or duration), 1.0
    marks = sorted({m for _, law in rows.driven for m in law.marks(duration)})
    while anchors[-1][0] < duration * (1 - 1e-12):
        report()
        t, pose, v, a = anchors[-1]
        speed, gain = np.abs(v).max(initial=0.0), np.abs(a).max(initial=0.0)
        far = min(ANCHOR * bold, rows.grain)
        largest = min(duration / 4, duration - t, far / max(speed, 1e-300), (far / max(gain, 1e-300)) ** 0.5)
        ahead = min(
            turns * whole - t if whole else np.inf,
            min((m for m in marks if m > t + 1e-11 * duration), default=np.inf) - t,
        )
        first = h = min(step, largest, ahead)
        while True:
            # between two marks that lie close, a step may be as much shorter
            if h < LEAST * min(least / LEAST, ahead) and h < min(duration - t, ahead):
                return anchors, pose[0], None
            guess = rows.moved(pose, v * h + a * (h * h / 2))
            solved, residual, *after = followed(rows, guess, np.array([t + h]))
            move = max(speed * h, gain * h * h / 2)
            off = float(np.abs(rows.between(guess, solved)).max())
            # right after a mark the rate may be another one: what was foreseen tells nothing there
            near = OTHER if h <= BESIDE * duration else 1e-9
            if residual[0] <= TOLERANCE and off <= 0.15 * move + near:
                bold = min(BOLDEST, bold * 2) if off <= 1e-6 * move else 1.0  # foreseen exactly, as gears are
                break
            h, bold = h / 2, 1.0
        anchors.append((t + h, solved, *after))
        step = max(step, 2 * h) if h == first else 2 * h
        if whole and t + h >= turns * whole * (1 - 1e-12):
            if (
                _closed(rows, turns * whole)
                and np.abs(poses.between(rows.lifted(start), rows.lifted(solved[0]))).max() < SAME
            ):
                return anchors, None, turns * whole
            turns += 1
            step = duration
        if len(anchors) > MOST:
            raise TooLong(t + h)
    return anchors, None, None


def _whole_turns(rows: System) -> float | None:
    """The time of one turn of the fastest driver, where all drivers turn at constant speed; else None."""
    speeds = [law.steady for _, law in rows.driven if law.moves]
    turning = all(KINDS[rows.equations[i].kind].unit == "angle" for i, law in rows.driven if law.moves)
    if not speeds or not turning or any(s is None for s in speeds):
        return None
    return float(2 * np.pi / max(abs(s) for s in speeds if s is not None))


def _closed(rows: System, time: float) -> bool:
    """Whether every driver has made whole turns by then."""
    turned = np.array([law.steady * time / (2 * np.pi) for _, law in rows.driven if law.steady])
    return bool(np.abs(turned - np.round(turned)).max() < 1e-9)


def refined(rows: System, stations: tuple[Array, ...], period: float | None = None) -> Trajectory:
    """The track through stations (times, poses, velocities, accelerations), with intervals halved until the middle of
    each agrees with what is interpolated there."""
    times, pose, v, a = stations
    error = np.zeros((len(times) - 1, pose.shape[1], 2))
    open_, depth = np.ones(len(times) - 1, dtype=bool), np.zeros(len(times) - 1, dtype=int)
    while open_.any():
        at = np.flatnonzero(open_)
        h = times[at + 1] - times[at]
        first, last = (tuple(x[at + k] for x in (pose, v, a)) for k in (0, 1))
        curve = quintic((first, last), h, rows.between, rows.carried)
        guess = rows.moved(first[0], along(curve, np.full(len(at), 0.5)))
        middle = times[at] + h / 2
        solved, residual, jacobian = corrected(rows, guess, middle)
        miss = rows.sizes(rows.between(guess, solved))
        far = rows.sizes(rows.between(first[0], last[0]))[..., 1].max(axis=1, initial=0.0)
        fast = rows.sizes(np.maximum(abs(first[1]), abs(last[1])))[..., 1].max(axis=1, initial=0.0) * h
        sound = residual <= TOLERANCE
        split = (miss.max(axis=(1, 2), initial=0.0) > AGREE) | (np.maximum(far, fast) > min(TURN, rows.grain))
        error[at] = 2 * miss + 1e-13
        split &= sound & (depth[at] < HALVINGS)
        open_[at] = False
        if split.any():
            chosen = at[split]
            vm, am = rates(rows, solved[split], middle[split], jacobian[split])
            times = np.insert(times, chosen + 1, middle[split])
            pose, v, a = (np.insert(x, chosen + 1, y, axis=0) for x, y in ((pose, solved[split]), (v, vm), (a, am)))
            deeper = depth[chosen] + 1
            depth[chosen], open_[chosen] = deeper, True
            error = np.insert(error, chosen + 1, 0.0, axis=0)
            depth = np.insert(depth, chosen + 1, deeper)
            open_ = np.insert(open_, chosen + 1, True)
    return Trajectory(times, rows.lifted(pose), rows.twist(v), rows.twist(a), error, period)

"""One master cycle: the track of the mechanism, the frames that are drawn and listed, and where a drive comes to its end."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.equations.newton import TOLERANCE, System, followed, rates
from uhrwerk.core.equations.plane import SAME, plane
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Rows
from uhrwerk.core.motion.dead_point import AT_ONCE, DeadPoint, Fold, approach, dead_point_words
from uhrwerk.core.motion.trajectory import SAME as SAME_POSE
from uhrwerk.core.motion.trajectory import TooLong, Trajectory, refined, track

#: frames at least of a motion that comes to a dead point
LEAST_FRAMES = 24
#: how far a pose may lie, in reach and rad, from that of another motion to be taken for its neighbour
NEAR = 0.3
#: moments that differ by less, as a part of the cycle, are the same
SAME_TIME = 1e-9


@dataclass(frozen=True)
class Motion:
    """Frames of a cycle: times (F,) s; pose (F, L, 7) m; velocity and acceleration (F, L, 6) in m, rad and s.

    The last frame closes the cycle, at its full duration, or stands where the drive came to its end (`stop`). `residual`
    is the largest left in any frame, m or rad. `track` knows every moment between the frames, to within its stated error.
    """

    times: Array
    pose: Array
    velocity: Array
    acceleration: Array
    residual: float
    moving: bool
    track: Trajectory
    stop: Fold | None = None
    #: what moments are solved anew by, for a mechanism by its identity, which is kept beside it
    solving: dict[int, tuple[System, Trajectory, Mechanism]] = field(default_factory=dict, compare=False, repr=False)

    @property
    def duration(self) -> float:
        return float(self.times[-1])

    @property
    def period(self) -> float:
        """After how many seconds all repeats; the whole duration where nothing does."""
        return self.duration if self.track.period is None else min(self.duration, self.track.period)

    @property
    def weight(self) -> int:
        """Numbers that it holds, with those of its coordinates and polynomials."""
        return 2 * (self.pose.size + 2 * self.velocity.size) + 4 * self.track.pose.size

    def between(self, times: Array, links: list[int] | None = None) -> Array:
        """Poses (T, L, 7) at any times."""
        return self.track.at(times, links)

    @cached_property
    def error(self) -> float:
        """The largest estimated error of a pose between stations, m, at a link's origin."""
        return float(self.track.error[..., 0].max(initial=0.0))


def follow(rows: Rows, start: Array, duration: float, times: Array) -> tuple[Array, Array, Array, float]:
    """Poses, velocities, accelerations at `times` (F,), from an assembled pose `start` (L, 7); positions in reach."""
    system = leanest(rows, start)
    stations, lost = track(system, start, duration)
    if lost is not None:
        raise DeadPoint(float(stations.times[-1]))
    return frames(system, stations, times)


def leanest(rows: Rows, start: Array) -> System:
    """The rows in the plane in which the mechanism moves, where it does; the rows themselves where not, or where its
    velocities at the start tell that it has another freedom."""
    flat = plane(rows, start)
    if flat is not None:
        here, at = flat.lowered(start)[None], np.zeros(1)
        speed = rates(rows, start[None], at)[0]
        if np.abs(flat.twist(rates(flat, here, at)[0]) - speed).max() <= SAME * np.abs(speed).max(initial=1e-300):
            return flat
    return rows


def frames(rows: System, t: Trajectory, times: Array) -> tuple[Array, Array, Array, float]:
    """Poses, velocities and accelerations (F, ...) at moments of a track, solved anew to full accuracy."""
    at = t.folded(times)
    poses_, residual, v, a = followed(rows, rows.lowered(t.at(times)), at)
    if residual.max(initial=0.0) > TOLERANCE:
        raise DeadPoint(float(times[int(np.argmax(residual))]))
    return rows.lifted(poses_), rows.twist(v), rows.twist(a), float(residual.max(initial=0.0))


def exactly(m: Mechanism, motion: Motion, times: Array) -> tuple[Array, Array, Array]:
    """Poses (T, L, 7) m, velocities and accelerations (T, L, 6) of a motion at any moments (T,), solved anew."""
    if id(m) not in motion.solving:
        lean = leanest(m.system(drives=True), m.scaled(motion.pose[0]))
        motion.solving[id(m)] = lean, motion.track.scaled(1 / m.reach), m
    system, track_, _ = motion.solving[id(m)]
    size = np.array([1 / m.reach] * 3 + [1.0] * 3)
    pose, v, a, _ = frames(system, track_, times)
    return m.metres(pose), v / size, a / size


def cycle(m: Mechanism, start: Array, duration: float, count: int, report: Callable[[], None] | None = None) -> Motion:
    """The motion of a mechanism over one cycle, cut into `count` equal steps, from its assembled pose (L, 7) m.

    Where the drive comes to its end, the motion up to there. TooLong where the turns are too many. `report` is called again
    and again, and may raise what ends the work.
    """
    times = np.linspace(0.0, duration, count + 1)
    rows = m.system(drives=True)
    if len(m.links) < 2 or not len(rows) or not rows.moves:
        return _still(times, start)
    system = leanest(rows, m.scaled(start))
    trajectory, lost = track(system, m.scaled(start), duration, report)
    stop = None
    if lost is not None:
        trajectory, stop = _ended(rows, trajectory, duration)
        end = float(trajectory.times[-1])
        if end <= AT_ONCE:  # drives that contradict one another from the first moment on
            return replace(_still(times, start), stop=stop)
        times = np.linspace(0.0, end, max(LEAST_FRAMES, int(np.ceil(count * end / duration))) + 1)
    pose, v, a, residual = frames(system, trajectory, times)
    size = np.array([m.reach] * 3 + [1.0] * 3)
    return Motion(times, m.metres(pose), v * size, a * size, residual, True, trajectory.scaled(m.reach), stop)


def _still(times: Array, start: Array) -> Motion:
    """No motion: the start at every moment."""
    still = np.zeros((len(times), len(start), 6))
    one = Trajectory(np.zeros(1), start[None], still[:1], still[:1], np.zeros((0, len(start), 2)))
    return Motion(times, np.repeat(start[None], len(times), axis=0), still, still, 0.0, False, one)


def near(m: Mechanism, start: Array, known: Motion, duration: float, count: int) -> Motion | None:
    """The motion of a mechanism that differs little from one whose motion is known: its stations are those of that, solved anew all
    at once. None where it cannot be told so. It has not been followed from the start, so that another branch is not ruled out.
    """
    t, rows = known.track, m.system(drives=True)
    if known.stop is not None or not known.moving or t.pose.shape[1] != len(m.links) or not rows.moves:
        return None
    if abs(known.duration - duration) > 1e-12 * duration:
        return None
    marks = np.array([x for _, law in rows.driven for x in law.marks(duration if t.period is None else t.period)])
    if len(marks) and np.abs(marks[:, None] - t.times).min(axis=1).max() > SAME_TIME * duration:
        return None  # a law jumps where there is no station
    system = leanest(rows, m.scaled(start))
    first, guess = system.lowered(m.scaled(start)), system.joined(system.lowered(m.scaled(t.pose)))
    if system.width == 3:  # turns that begin with this start's: gears do not go over to another tooth
        guess[..., 2] += first[:, 2] - guess[0, :, 2]
    solved, residual, v, a = followed(system, guess, t.times)
    if residual.max() > TOLERANCE or np.abs(system.between(guess, solved)).max() > NEAR:
        return None
    if np.abs(system.between(first, solved[0])).max() > SAME_POSE:
        return None
    track_ = refined(system, (t.times, solved, v, a), t.period)
    try:
        pose, v, a, left_between = frames(system, track_, times := np.linspace(0.0, duration, count + 1))
    except DeadPoint:
        return None
    size = np.array([m.reach] * 3 + [1.0] * 3)
    return Motion(times, m.metres(pose), v * size, a * size, left_between, True, track_.scaled(m.reach))


def _ended(rows: Rows, t: Trajectory, duration: float) -> tuple[Trajectory, Fold]:
    """The track led on to the dead point, within the cycle, and what is known of it."""
    more, fold = approach(rows, t.pose[-1], float(t.times[-1]))
    last = float(t.times[-1])
    more = [s for k, s in enumerate(more) if last < s[0] <= duration and all(x[0] < s[0] for x in more[:k])]
    if not last <= fold.time <= duration:
        fold = replace(fold, time=more[-1][0] if more else last, pose=more[-1][1][0] if more else t.pose[-1])
    if more:
        times = np.concatenate([t.times, [s[0] for s in more]])
        pose, v, a = (
            np.concatenate([x, *(s[k] for s in more)]) for k, x in enumerate((t.pose, t.velocity, t.acceleration), 1)
        )
        t = refined(rows, (times, pose, v, a))
    return t, fold


__all__ = ["DeadPoint", "Fold", "Motion", "TooLong", "cycle", "dead_point_words", "exactly", "follow", "frames", "near"]

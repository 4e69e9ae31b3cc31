"""Springs over the cycle: their lengths and forces, their angles and torques."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.joints import LinearSpring, TorsionalSpring
from uhrwerk.core.stages.evaluation import Evaluation

#: moments of the cycle looked at
MOMENTS = 720
#: moments, as a part of a period, and turns, rad, that differ by less are the same
SAME = 1e-9

#: why nothing is known of a spring
MISSING = "one of its ends is missing"


@dataclass(frozen=True)
class SpringRun:
    """A spring at moments (T,) s: where it bears on b (T, 3) m, the direction of its force there (T, 3), its length along that and
    where it is bent (T,) m, its push and force (T,) N and its stress (T,) Pa; by how much its line is not square to what it is seated
    on, or not along its axis there (T,) rad."""

    times: Array
    at: Array
    along: Array
    length: Array
    reach: Array
    push: Array
    stress: Array
    askew: Array

    @property
    def force(self) -> Array:
        return np.abs(self.push)


def linear(e: Evaluation, pair: str, pose: Array, times: Array) -> SpringRun:
    """A spring that presses or pulls, at poses (T, L, 7)."""
    m, spring = e.mechanism, e.document.pairs[pair]
    assert isinstance(spring, LinearSpring)
    places = [m.place(at) for at in spring.at]
    one, other = (poses.compose(pose[:, p.link], p.frame) for p in places)
    n = numbers(spring, e.document.scope())
    along, length, reach = spring.way(n, one, other)
    push = spring.push(n, length, reach)
    askew = np.zeros(len(length))
    for place, frame in zip(places, (one, other), strict=True):
        if spring.seated(n) and place.datum.kind in ("plane", "axis"):
            z = poses.rotate(frame[:, 3:], np.array([0.0, 0, 1]))
            aside = np.linalg.norm(np.cross(z, along), axis=1)
            askew = np.maximum(askew, np.arctan2(aside, np.abs((z * along).sum(axis=1))))
    return SpringRun(times, other[:, :3], along, length, reach, push, spring.stress(n, push, reach), askew)


def run(e: Evaluation, pair: str, times: Array | None = None) -> SpringRun | None:
    """A spring over the cycle; None where nothing is known of the motion, or an end is missing."""
    if e.motion is None or not there(e, pair):
        return None
    at = np.linspace(0, e.motion.duration, MOMENTS + 1) if times is None else times
    return linear(e, pair, e.motion.between(at), at)


@dataclass(frozen=True)
class TorsionalSpringRun:
    """A wound spring at moments (T,) s: how far b has turned from its start (T,) rad, the torque on it (T,) N m, and the axis
    (T, 3) in the world."""

    times: Array
    turned: Array
    torque: Array
    axis: Array


def torsional(e: Evaluation, pair: str, times: Array | None = None) -> TorsionalSpringRun | None:
    """A wound spring over the cycle; None where nothing is known of the motion, or an end is missing."""
    m, spring = e.mechanism, e.document.pairs[pair]
    if m is None or e.motion is None or not there(e, pair):
        return None
    at = np.linspace(0, e.motion.duration, MOMENTS + 1) if times is None else times
    # turns are counted along the stations, which follow the motion
    every_ = np.union1d(np.union1d(e.motion.track.folded(e.motion.track.times), [0.0]), e.motion.track.folded(at))
    a, b = (m.place(end) for end in spring.at)
    pose, repeats = e.motion.track.at(every_), e.motion.track.period is not None
    if repeats:  # round to where it began: else the last step would be missing in every turn
        pose = np.concatenate([pose, pose[:1]])
    one, other = (poses.compose(pose[:, p.link], p.frame) for p in (a, b))
    z = poses.rotate(one[:, 3:], np.array([0.0, 0, 1]))
    turn = poses.multiply(poses.conjugate(one[:, 3:]), other[:, 3:])
    since = poses.multiply(turn, poses.conjugate(turn[:1]))
    angle = np.unwrap(2 * np.arctan2(since[:, 3], since[:, 0]))
    angle -= angle[0]
    where = np.searchsorted(every_, e.motion.track.folded(at))
    gain = angle[-1] if repeats else 0.0
    rounds = 0.0 if e.motion.track.period is None else np.floor(at / e.motion.track.period + 1e-12)
    turned = angle[where] + rounds * gain
    assert isinstance(spring, TorsionalSpring)
    return TorsionalSpringRun(at, turned, spring.torque(numbers(spring, e.document.scope()), turned), z[where])


def followed(e: Evaluation, pair: str, of: str, times: Array) -> Array | str:
    """The force (N, above zero where it presses), stress (Pa) or length (m) of a spring at moments (T,) s; of one that winds the
    torque (N m), stress, and angle (rad) by which it is turned from its start. In words, why it is not known."""
    spring = e.document.pairs[pair]
    if isinstance(spring, TorsionalSpring):
        wound = torsional(e, pair, times)
        if wound is None:
            return MISSING
        if of == "stress":
            return spring.stress(numbers(spring, e.document.scope()), wound.torque)
        return wound.torque if of == "force" else wound.turned
    if not isinstance(spring, LinearSpring):
        return f"{spring.name} is no spring"
    pressed = run(e, pair, times)
    if pressed is None:
        return MISSING
    return {"force": pressed.push, "stress": pressed.stress, "length": pressed.length}[of]


def moments_of_interest(e: Evaluation, pairs: Iterable[str]) -> Array:
    """Moments (T,) s of one period: evenly, and where the motion itself asks to be looked at, so that no part of it is skipped
    however short. Of springs that are wound on from one period to the next, the last period of the cycle too: what they do changes
    evenly with their turns, so that it is greatest in the first or in the last."""
    motion = e.moved.motion
    stations = motion.track.times
    even = np.linspace(0, motion.period, MOMENTS + 1)
    apart = np.abs(even[np.clip(np.searchsorted(even, stations), 0, MOMENTS)] - stations)
    fresh = stations[(stations <= motion.period) & (apart > SAME * motion.period)]
    times = np.union1d(even, fresh)
    end = motion.duration - motion.period
    if end > SAME * motion.period and winds_on(e, pairs):
        times = np.union1d(times, end + times)
    return times


def winds_on(e: Evaluation, pairs: Iterable[str]) -> bool:
    """Whether one of these springs is wound on from one period to the next."""
    return any(_winds_on(e, i) for i in pairs)


def _winds_on(e: Evaluation, pair: str) -> bool:
    run = torsional(e, pair, np.array([0.0, e.moved.motion.period]))
    return run is not None and bool(abs(run.turned[1] - run.turned[0]) > SAME)


def there(e: Evaluation, pair: str) -> bool:
    """Whether both ends of a pair are datums of parts that take part."""
    return all(at.datum in e.mechanism.datums.get(at.placed, {}) for at in e.document.pairs[pair].at)


def every(e: Evaluation) -> list[str]:
    """Springs that press or pull between datums that are there."""
    return [i for i, p in e.document.pairs.items() if isinstance(p, LinearSpring) and there(e, i)]


def every_winding(e: Evaluation) -> list[str]:
    return [i for i, p in e.document.pairs.items() if isinstance(p, TorsionalSpring) and there(e, i)]

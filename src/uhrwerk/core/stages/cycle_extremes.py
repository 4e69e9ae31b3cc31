"""The least and the greatest value over the cycle of any quantity of the motion."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Rows
from uhrwerk.core.joints import coordinate_row
from uhrwerk.core.motion import Coordinate
from uhrwerk.core.motion.extremes import Extremes, extremes
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.moments import moments

#: what is missed of a force or a stress is no more than this part of its range
CLOSE = 1e-6


def over_cycle(
    e: Evaluation, value: Callable[[Array], Array], *, last_period: bool = False, close: float = CLOSE
) -> Extremes:
    """Of `value` at moments (T,) s, over one period of the motion; over the last of the cycle, too, where something winds on from
    one to the next, which changes evenly with its turns."""
    motion = e.moved.motion
    if not motion.moving:
        return extremes(value, np.zeros(1))
    stations, jumps = motion.track.times, motion.track.jumps
    first = extremes(value, stations, jumps, close)
    later = motion.duration - motion.period
    if not last_period or later <= 1e-9 * motion.period:
        return first
    last = extremes(value, stations + later, jumps, close)
    low, high = (first if first.low <= last.low else last), (first if first.high >= last.high else last)
    return Extremes(
        low.low, low.low_time, high.high, high.high_time, low.low_missed, high.high_missed, first.moments + last.moments
    )


def basis(result: Extremes) -> str:
    return f"found from the motion's stations by refinement, at {result.moments} moments"


def fastest(e: Evaluation, c: Coordinate) -> Extremes:
    """The greatest speed of a coordinate over the cycle."""

    def speed(times: Array) -> Array:
        m = e.mechanism
        pose, velocity, _ = moments(e, times)
        rows = Rows([coordinate_row(m.joints[c.joint], c.name)], len(m.links), m.reach)
        size = np.array([1 / m.reach] * 3 + [1.0] * 3)
        return np.abs(rows.measured(m.scaled(pose), velocity * size, 0 * velocity)[1][:, 0])

    return over_cycle(e, speed)

"""The least and the greatest of something that follows from the motion, over all its moments.

It is looked at on the motion's stations and at three moments between every two, never across a jump, and again in halves
wherever what may lie between could matter: the polynomial of degree four through five values of an interval, and by how
much the one of its whole missed the values of its halves and of its own peaks. So the answer hangs on the motion, not on how finely its
frames are drawn. What may still be missed is estimated, and is part of the answer.

>>> import numpy as np
>>> found = extremes(lambda t: np.sin(40 * t), np.linspace(0.0, 1.0, 4))
>>> round(found.low, 6), round(found.high, 6)
(-1.0, 1.0)
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations.pose import Array

#: where an interval is looked at, as parts of it: not evenly, so that nothing which repeats escapes between
PLACES = np.array([0.0, 0.1823, 0.4691, 0.7717, 1.0])
#: coefficients of the polynomial through values at the places, and of the one that leaves out the middle one, there
_QUARTIC = np.linalg.inv(PLACES[:, None] ** np.arange(5))
_MIDDLE = PLACES[2] ** np.arange(4) @ np.linalg.inv(PLACES[[0, 1, 3, 4], None] ** np.arange(4))
_FINE = np.linspace(0.0, 1.0, 33)
_POWERS = _FINE[:, None] ** np.arange(5)
#: fewer intervals than so many are halved before they are looked at; where there are more, neighbours are taken together
FEW, MANY = 150, 400
#: halvings of an interval at most, and moments at most
DEEPEST, MOST = 28, 60_000
#: moments that cost little more than one: few open intervals are divided into 4 or 8 at once, rather than in rounds of halves
AT_ONCE = 120
#: a polynomial that missed less than this part of what an interval spans is close enough for its error to fall with the step
SETTLED = 0.002
#: half of an interval whose values span so many times what the whole one's do may hold a pole
GROWS = 1.2
#: what is missed is no more than this part of the range
CLOSE = 1e-7
#: and no more than this part of the values, in which they are rounded; nor than so many times what moments that lie as near to one another
#: as BESIDE, a part of the whole time, usually differ by: looked at PROBES times
NOISE, ROUGH, BESIDE, PROBES = 1e-11, 10, 1e-10, 16
#: a value that is so many times what is usual, and over the last halvings fell by no more than this part where it is multiplied by the
#: width of its interval, has no bound: a pole grows as intervals narrow, a jump and what is rounded do not
BEYOND, LAST, FALLEN = 1e6, 20, 1e-3


@dataclass(frozen=True)
class Extremes:
    """The least and the greatest with their moments, s; by how much each may be more; from how many moments it is known. A side
    without a bound is infinite."""

    low: float
    low_time: float
    high: float
    high_time: float
    low_missed: float
    high_missed: float
    moments: int


@dataclass
class _Intervals:
    """Intervals that are open: begin and end (S,) s, values at their places (S, 5), and by how much the polynomial may be off (S,)."""

    low: Array
    high: Array
    value: Array
    error: Array

    @property
    def times(self) -> Array:
        return np.asarray(self.low[:, None] + (self.high - self.low)[:, None] * PLACES)

    @property
    def steepest(self) -> float:
        """The greatest value of an interval, multiplied by its width."""
        size = np.where(np.isfinite(self.value), np.abs(self.value), 0.0).max(axis=1)
        return float((size * (self.high - self.low)).max(initial=0.0))

    def chosen(self, which: NDArray[np.bool_]) -> _Intervals:
        return _Intervals(self.low[which], self.high[which], self.value[which], self.error[which])


class NoValue(ValueError):
    """Something that has no value at any moment."""


def extremes(
    value: Callable[[Array], Array],
    stations: Array,
    jumps: NDArray[np.bool_] | None = None,
    close: float = CLOSE,
    most: int = MOST,
) -> Extremes:
    """Of `value` at moments (T,) s, over the stations (K,) s; intervals that are `jumps` (K - 1,) are passed over. NoValue where it
    has none."""
    whole = np.ones(len(stations) - 1, dtype=bool) if jumps is None else ~np.asarray(jumps)
    if not whole.any():
        y = value(stations[:1])
        return Extremes(float(y[0]), float(stations[0]), float(y[0]), float(stations[0]), 0.0, 0.0, 1)
    best = _Best(float(stations[0]), float(stations[-1]))
    low, high = stations[:-1][whole], stations[1:][whole]
    if len(low) < FEW:
        middle = (low + high) / 2
        low, high = np.concatenate([low, middle]), np.concatenate([middle, high])
    low, high = _together(low, high, len(low) // MANY)
    at, _ = _sampled(value, low, high, best)
    at.error = np.abs(at.value[:, 2] - at.value[:, [0, 1, 3, 4]] @ _MIDDLE)
    usual = max(float(np.nanmedian(np.abs(best.all_values()))), 1e-300)
    best.noise = _roughness(value, low, high)
    low_missed = high_missed = steep = 0.0
    depth = 0
    while True:
        if depth >= DEEPEST - LAST and not steep:
            steep = FALLEN * at.steepest
        top, bottom = _reach(at)
        near = max(close * (best.high - best.low), NOISE * max(abs(best.high), abs(best.low)), best.noise)
        open_ = (top > best.high + near) | (bottom < best.low - near) | ~np.isfinite(at.value).all(axis=1)
        if not open_.any():
            break
        at, top, bottom = at.chosen(open_), top[open_], bottom[open_]
        if depth >= DEEPEST or best.count > most:
            high_missed, low_missed = _missed(
                at, top, bottom, best, BEYOND * usual if at.steepest > steep else np.inf, depth >= DEEPEST
            )
            break
        parts = next(n for n in (8, 4, 2) if n == 2 or n * len(at.low) * (len(PLACES) - 1) <= AT_ONCE)
        parts = min(parts, 2 ** (DEEPEST - depth))
        at = _divided(value, at, best, parts)
        depth += parts.bit_length() - 1
    if not whole.all():
        over, under = _passed_over(value, stations[:-1][~whole], stations[1:][~whole], best)
        high_missed, low_missed = max(high_missed, over - best.high), max(low_missed, best.low - under)
    result = Extremes(best.low, best.low_time, best.high, best.high_time, low_missed, high_missed, best.count)
    near = close * (result.high - result.low) + NOISE * max(abs(result.high), abs(result.low)) + best.noise
    if not np.isfinite(near):
        return result
    return Extremes(
        result.low,
        result.low_time,
        result.high,
        result.high_time,
        max(low_missed, near),
        max(high_missed, near),
        result.moments,
    )


def _passed_over(value: Callable[[Array], Array], low: Array, high: Array, best: _Best) -> tuple[float, float]:
    """How high and how low it may run in intervals that are jumps: by how it runs as far before and behind them."""
    step = high - low
    times = np.concatenate([low - step, low, high, high + step])
    every, back = np.unique(np.clip(times, best.first, best.last), return_inverse=True)
    y = np.asarray(value(every), dtype=float)
    best.take(every, y)
    before, a, b, behind = y[back].reshape(4, -1)
    known = np.isfinite(before) & np.isfinite(a) & np.isfinite(b) & np.isfinite(behind)
    reach = (np.abs(a - before) + np.abs(b - behind))[known]
    top, bottom = np.maximum(a, b)[known] + reach, np.minimum(a, b)[known] - reach
    return float(top.max(initial=-np.inf)), float(bottom.min(initial=np.inf))


class _Best:
    """The least and the greatest value so far."""

    def __init__(self, first: float, last: float) -> None:
        self.first, self.last = first, last  # of the moments
        self.low, self.high, self.low_time, self.high_time, self.count = np.inf, -np.inf, 0.0, 0.0, 0
        self.noise = 0.0
        self._seen: Array | None = None

    def take(self, times: Array, y: Array) -> None:
        self.count += times.size
        known = np.isfinite(y)
        if not known.any():
            if self._seen is None:
                raise NoValue("it has no value at any moment")
            return
        self._seen = y if self._seen is None else self._seen
        low, high = int(np.argmin(np.where(known, y, np.inf))), int(np.argmax(np.where(known, y, -np.inf)))
        if y.flat[low] < self.low:
            self.low, self.low_time = float(y.flat[low]), float(times.flat[low])
        if y.flat[high] > self.high:
            self.high, self.high_time = float(y.flat[high]), float(times.flat[high])

    def all_values(self) -> Array:
        assert self._seen is not None
        return np.where(np.isfinite(self._seen), self._seen, np.nan)


def _together(low: Array, high: Array, count: int) -> tuple[Array, Array]:
    """Up to so many neighbours as one interval, never across a gap."""
    if count < 2:
        return low, high
    runs = np.split(np.arange(len(low)), np.flatnonzero(low[1:] != high[:-1]) + 1)
    first = np.concatenate([run[::count] for run in runs])
    last = np.concatenate([np.append(run[::count][1:] - 1, run[-1]) for run in runs])
    return low[first], high[last]


def _roughness(value: Callable[[Array], Array], low: Array, high: Array) -> float:
    """What rounding makes of the values: by what they usually differ between moments that are as good as the same."""
    chosen = np.linspace(0, len(low) - 1, PROBES).astype(int)
    at = low[chosen] + 0.37 * (high - low)[chosen]
    both = np.asarray(value(np.concatenate([at, at + BESIDE * (high[-1] - low[0])])), dtype=float)
    differ = np.abs(both[PROBES:] - both[:PROBES])
    known = np.isfinite(differ)
    return ROUGH * float(np.median(differ[known])) if known.any() else 0.0


def _sampled(
    value: Callable[[Array], Array], low: Array, high: Array, best: _Best, also: Array | None = None
) -> tuple[_Intervals, Array]:
    """Intervals with their values, and the values at other moments (n,) that are looked at with them."""
    times = low[:, None] + (high - low)[:, None] * PLACES
    times[:, -1] = high
    others = np.zeros(0) if also is None else also
    every, back = np.unique(np.concatenate([times.ravel(), others]), return_inverse=True)
    y = np.asarray(value(every), dtype=float)
    best.take(every, y)
    y = y[back]
    return _Intervals(low, high, y[: times.size].reshape(times.shape), np.zeros(len(low))), y[times.size :]


def _divided(value: Callable[[Array], Array], at: _Intervals, best: _Best, parts: int) -> _Intervals:
    """Intervals in so many parts, with what the polynomial of the whole missed in them; the places where that is greatest and
    least are looked at, too."""
    coefficients = np.nan_to_num(at.value) @ _QUARTIC.T
    fine = coefficients @ _POWERS.T
    (most, top), (least, bottom) = _peak(fine), _peak(-fine)
    peaks = at.low + (at.high - at.low) * np.stack([most, least])
    ends = at.low + (at.high - at.low) * (np.arange(parts + 1) / parts)[:, None]
    ends[-1] = at.high
    divided, there = _sampled(value, ends[:-1].ravel(), ends[1:].ravel(), best, peaks.ravel())
    beside = np.abs(there.reshape(peaks.shape) - np.stack([top, -bottom]))
    x = (np.arange(parts)[:, None] + PLACES) / parts
    foreseen = np.concatenate([coefficients @ (places[:, None] ** np.arange(5)).T for places in x])
    missed = np.concatenate([np.abs(divided.value - foreseen), np.tile(beside.T, (parts, 1))], axis=1)
    missed = np.where(np.isfinite(missed), missed, 0.0).max(axis=1)
    span = np.ptp(np.nan_to_num(divided.value), axis=1)
    grows = span > GROWS * np.tile(np.ptp(np.nan_to_num(at.value), axis=1), parts) + best.noise
    divided.error = np.where(missed < SETTLED * span, missed / 8, np.where(grows, np.inf, 2 * missed))
    return divided


def _reach(at: _Intervals) -> tuple[Array, Array]:
    """How high and how low each interval may run (S,)."""
    fine = np.nan_to_num(at.value) @ _QUARTIC.T @ _POWERS.T
    return _peak(fine)[1] + at.error, -_peak(-fine)[1] - at.error


def _peak(fine: Array) -> tuple[Array, Array]:
    """Where in its interval, as a part of it, each row (S, 33) is greatest, and how great: by the parabola through three values."""
    every, k = np.arange(len(fine)), np.clip(np.argmax(fine, axis=1), 1, len(_FINE) - 2)
    y0, y1, y2 = fine[every, k - 1], fine[every, k], fine[every, k + 1]
    bend = y0 - 2 * y1 + y2
    by = np.clip(np.where(bend < 0, (y0 - y2) / np.where(bend < 0, 2 * bend, 1.0), 0.0), -1.0, 1.0)
    return _FINE[k] + by * _FINE[1], np.maximum(y1 - (y0 - y2) * by / 4, fine.max(axis=1))


def _missed(at: _Intervals, top: Array, bottom: Array, best: _Best, bound: float, deepest: bool) -> tuple[float, float]:
    """What may be missed above and below in intervals that stay open. Where they are as small as they get, what jumps there is
    known by its sides; what has grown beyond `bound` there has none."""
    if not deepest:
        return max(0.0, float(top.max() - best.high)), max(0.0, float(best.low - bottom.min()))
    if best.high > bound:
        best.high = np.inf
    if best.low < -bound:
        best.low = -np.inf
    return 0.0, 0.0

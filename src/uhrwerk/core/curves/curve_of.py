"""A curve over the cycle: value, rate, acceleration and jerk at the frames, and where each is least and greatest."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.curves.followed import FollowedMotion, NotMeasured
from uhrwerk.core.document import Document
from uhrwerk.core.document.curve import Curve
from uhrwerk.core.equations.jet import Jet
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.motion.extremes import Extremes, NoValue, extremes
from uhrwerk.core.motion.trajectory import JUMP

Series = Literal["value", "rate", "acceleration", "jerk"]
SERIES: tuple[Series, ...] = ("value", "rate", "acceleration", "jerk")
#: the dimension of each derivative
RATES = {
    "length": "sliding speed", "sliding speed": "acceleration", "acceleration": "jerk",
    "angle": "turning speed", "turning speed": "turning acceleration", "turning acceleration": "turning jerk",
}  # fmt: skip


class CurveOf(Curve):
    """Base of all kinds: how a curve is measured. `sampled`: it is known at the frames alone, and nothing between them."""

    sampled: ClassVar[bool] = False

    def folds(self, d: Document) -> tuple[float, ...] | None:
        """Values at which it has a corner, as a distance has at nothing; None where its corners are not known."""
        return ()

    def repeats(self, d: Document) -> bool:
        """Whether its values are the same again when all parts stand as they did; turns that are counted are not."""
        return True

    def dimension(self, d: Document) -> str:
        """Of its values; empty where no dimension is known."""
        raise NotImplementedError

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        """Values (T,) over the moments, with their derivatives; a derivative that is not known is None (or NaN). `other` gives
        another curve. NotMeasured where there is none."""
        raise NotImplementedError


@dataclass(frozen=True)
class Least:
    """The least and the greatest of a series with their moments, s; by how much each may be more, and how that is known."""

    low: float
    low_time: float
    high: float
    high_time: float
    low_missed: float
    high_missed: float
    basis: str


@dataclass(frozen=True)
class MeasuredCurve:
    """A measured curve: `times` (F,) s of the frames; each series (F,), or None where a dimension has no such rate. Those named
    in `estimated` are differences between frames. `whole` is False where only the first periods were followed. `looked` tells the
    extremes of a series over all moments."""

    name: str
    dimension: str
    times: Array
    series: Mapping[Series, Array]
    estimated: frozenset[Series]
    whole: bool
    looked: Callable[[Series], Extremes] | None = None

    def dimension_of(self, series: Series) -> str:
        """The dimension of a derivative; empty where it has no name here."""
        return derivative(self.dimension, SERIES.index(series))

    def extremes(self, series: Series) -> Least:
        """Where a series is least and greatest: looked for at any moment, or where that cannot be, at the frames."""
        if self.looked is not None and series != "jerk" and series not in self.estimated:
            try:
                x = self.looked(series)
            except NoValue as error:
                raise NotMeasured(str(error)) from error
            basis = f"found from the motion's stations by refinement, at {x.moments} moments"
            return Least(x.low, x.low_time, x.high, x.high_time, x.low_missed, x.high_missed, basis)
        y, order = self.series[series], SERIES.index(series)
        rate = self.series[SERIES[order + 1]] if order < 3 else np.gradient(y, self.times)
        return _least(self.times, y, "sampled at the frames", *_between(self.times, y, rate))


def derivative(dimension: str, order: int) -> str:
    """The dimension of a derivative; empty where it has no name."""
    for _ in range(order):
        dimension = RATES.get(dimension, "")
    return dimension


def _between(times: Array, y: Array, rate: Array) -> tuple[Array, Array]:
    """(K - 1,) how low and how high a series may run between its samples, if it runs no faster than at their ends."""
    reach = np.diff(times) * np.maximum(np.abs(rate[:-1]), np.abs(rate[1:])) / 2
    middle = (y[:-1] + y[1:]) / 2
    return middle - reach, middle + reach


def _least(times: Array, y: Array, basis: str, lows: Array, highs: Array, exact: float = 0.0) -> Least:
    known = np.isfinite(y)
    if not known.any():
        raise NotMeasured("it has no value at any moment")
    low, high = int(np.argmin(np.where(known, y, np.inf))), int(np.argmax(np.where(known, y, -np.inf)))
    short = float(y[low] - np.nanmin(lows, initial=float(y[low])))
    long = float(np.nanmax(highs, initial=float(y[high])) - y[high])
    return Least(
        float(y[low]), float(times[low]), float(y[high]), float(times[high]), short + exact, long + exact, basis
    )


def run(d: Document, f: FollowedMotion, i: str) -> MeasuredCurve:
    """A curve of the document over its cycle. NotMeasured where it cannot be."""
    curve = d.curves[i]
    assert isinstance(curve, CurveOf)
    jet = _jet(d, f, i, ())
    at, times = f.frames, f.times[f.frames]
    folds = curve.folds(d)
    cornered = _corners(f.times, jet, folds or ())
    # a difference between frames says nothing where a corner lies beside
    beside = np.isin(np.arange(len(f.times)), [k for c in np.flatnonzero(cornered) for k in (c, c + 1)])
    lost = (
        np.array([beside[max(0, k - 1) : k + 2].any() for k in at]) if beside.any() else np.zeros(len(at), dtype=bool)
    )
    known = [jet.v[at], *(None if x is None or np.isnan(x).all() else x[at] for x in (jet.d, jet.dd)), None]
    estimated: set[Series] = set()
    series: dict[Series, Array] = {}
    for k, name in enumerate(SERIES):
        have = known[k]
        if have is None:
            have = np.gradient(series[SERIES[k - 1]], times) if len(times) > 1 else np.zeros_like(times)
            have = np.where(lost, np.nan, have)
            estimated.add(name)
        series[name] = have
    extremes_of = None if curve.sampled else _once(lambda name: _extremes(d, f, i, curve, SERIES.index(name)))
    return MeasuredCurve(curve.name, curve.dimension(d), times, series, frozenset(estimated), f.whole, extremes_of)


def _once(find: Callable[[Series], Extremes]) -> Callable[[Series], Extremes]:
    return cache(find)


def _extremes(d: Document, f: FollowedMotion, i: str, curve: CurveOf, order: int) -> Extremes:
    """The extremes of a curve's value, rate or acceleration, over one period where it repeats itself after that."""
    once = order > 0 or curve.repeats(d)

    def value(times: Array) -> Array:
        g = f.also_at(times, once)
        jet = _jet(d, g, i, ())
        series = (jet.v, jet.d, jet.dd)[order]
        assert series is not None
        return np.asarray(series[np.searchsorted(g.times, times)])

    stations = f.stations(once)
    jumps = np.diff(stations) < 3 * JUMP * float(f.motion.track.times[-1])
    return extremes(value, stations, jumps)


def _corners(times: Array, jet: Jet, folds: tuple[float, ...]) -> NDArray[np.bool_]:
    """(T - 1,) intervals in which a curve may come to a value at which it has a corner."""
    reach = np.diff(times) * np.maximum(np.abs(jet.d[:-1]), np.abs(jet.d[1:]))
    out = np.zeros(len(reach), dtype=bool)
    for value in folds:
        gap = np.abs(jet.v - value)
        out |= (np.minimum(gap[:-1], gap[1:]) <= reach) & (reach > 0)
    return out


def _jet(d: Document, f: FollowedMotion, i: str, above: tuple[str, ...]) -> Jet:
    curve = d.curves.get(i)
    if not isinstance(curve, CurveOf):
        raise NotMeasured(f"there is no curve {i!r}")
    if i in above:
        raise NotMeasured(f"{curve.name} refers to itself")
    if above and curve.sampled:
        raise NotMeasured(f"{curve.name} is known only at the frames: no other curve can be computed from it")
    with np.errstate(all="ignore"):
        return curve.measured(f, lambda other: _jet(d, f, other, (*above, i)))

"""Formulas of the time over whole intervals of it, with bounds of their rates of change.

Forward differentiation with intervals for numbers (Moore, Kearfott, Cloud, Introduction to Interval Analysis (2009), ch. 6; from memory):
at a corner of `abs`, `min` and `max` the rates of both sides are taken together.

>>> import numpy as np
>>> steepest("abs(time - 0.3 s) * 2", {}, np.array([0.0, 0.5]), np.array([0.4, 1.0])).tolist()
[2.0, 2.0]
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.quantity.interval import (
    FIRST,
    MOST,
    Array,
    Interval,
    as_interval,
    cosine,
    evaluated,
    functions,
    over,
    power,
    sine,
    tangent,
)
from uhrwerk.core.quantity.over_time import NAME

#: halvings of an interval in which values may change by more than its samples tell, and what of the range counts as nothing
HIDDEN, SMALL = 16, 1e-3
#: values in an interval that are looked at
LOOKS = 5
NOTHING = Interval(np.zeros(1), np.zeros(1))


@dataclass(frozen=True)
class RateInterval:
    """Bounds of a value and of its rate."""

    value: Interval
    rate: Interval

    def __add__(self, other: Any) -> RateInterval:
        o = _moving(other)
        return RateInterval(self.value + o.value, self.rate + o.rate)

    def __neg__(self) -> RateInterval:
        return RateInterval(-self.value, -self.rate)

    def __pos__(self) -> RateInterval:
        return self

    def __sub__(self, other: Any) -> RateInterval:
        return self + -_moving(other)

    def __rsub__(self, other: Any) -> RateInterval:
        return _moving(other) - self

    def __mul__(self, other: Any) -> RateInterval:
        o = _moving(other)
        return RateInterval(self.value * o.value, self.rate * o.value + self.value * o.rate)

    def __truediv__(self, other: Any) -> RateInterval:
        o = _moving(other)
        return RateInterval(self.value / o.value, (self.rate * o.value - self.value * o.rate) / o.value.power(2))

    def __rtruediv__(self, other: Any) -> RateInterval:
        return _moving(other) / self

    __radd__, __rmul__ = __add__, __mul__

    def power(self, p: float) -> RateInterval:
        return RateInterval(self.value.power(p), p * self.value.power(p - 1) * self.rate if p else NOTHING)


def _moving(x: Any) -> RateInterval:
    return x if isinstance(x, RateInterval) else RateInterval(as_interval(x), NOTHING)


def _by(of: Callable[[Any], Any], rate: Callable[[Interval], Any]) -> Callable[[Any], Any]:
    """A function of a moving value, by its own and its derivative's bounds."""
    return lambda x: RateInterval(of(x.value), rate(x.value) * x.rate) if isinstance(x, RateInterval) else of(x)


def _hull(a: Interval, b: Interval) -> Interval:
    return Interval(np.minimum(a.lo, b.lo), np.maximum(a.hi, b.hi))


def _either(first: NDArray[np.bool_], second: NDArray[np.bool_], a: Interval, b: Interval) -> Interval:
    """The one where it is certain, the other where that is, else both."""
    both = _hull(a, b)
    lo = np.where(first, a.lo, np.where(second, b.lo, both.lo))
    return Interval(lo, np.where(first, a.hi, np.where(second, b.hi, both.hi)))


def _size(x: Any) -> Any:
    if not isinstance(x, RateInterval):
        return abs(x)
    value = functions()["abs"](x.value)
    return RateInterval(value, _either(x.value.lo >= 0, x.value.hi <= 0, x.rate, -x.rate))


def _chosen(items: tuple[Any, ...], name: str) -> Any:
    chosen = items[0]
    for item in items[1:]:
        if not isinstance(chosen, RateInterval) and not isinstance(item, RateInterval):
            chosen = functions()[name](chosen, item)
            continue
        a, b = _moving(chosen), _moving(item)
        below, above = a.value.hi <= b.value.lo, b.value.hi <= a.value.lo
        first, second = (below, above) if name == "min" else (above, below)
        chosen = RateInterval(functions()[name](a.value, b.value), _either(first, second, a.rate, b.rate))
    return chosen


def _functions() -> dict[str, Callable[..., Any]]:
    plain = functions()
    inverse = _by(plain["asin"], lambda v: 1.0 / power(1.0 - v.power(2), 0.5))
    return {
        "sin": _by(sine, cosine), "cos": _by(cosine, lambda v: -sine(v)), "tan": _by(tangent, lambda v: 1.0 + tangent(v).power(2)),
        "asin": inverse, "acos": lambda x: np.pi / 2 - inverse(x), "atan": _by(plain["atan"], lambda v: 1.0 / (1.0 + v.power(2))),
        "sqrt": lambda x: power(x, 0.5), "abs": _size, "min": lambda *x: _chosen(x, "min"), "max": lambda *x: _chosen(x, "max"),
    }  # fmt: skip


def steepest(text: str, constants: Mapping[str, float], low: Array, high: Array, name: str = NAME) -> Array:
    """How fast a formula may change at most between times (n,) s, per s, or values of another name; infinite where that is not known."""
    bounds = _moving(
        evaluated(text, constants, RateInterval(Interval(low, high), as_interval(1.0)), _functions(), name)
    )
    most = np.maximum(np.abs(bounds.rate.lo), np.abs(bounds.rate.hi))
    return np.asarray(np.broadcast_to(np.where(np.isnan(most), np.inf, most), low.shape))


def hidden(
    text: str, constants: Mapping[str, float], highest: float, lowest: float = 0.0, name: str = NAME
) -> list[float]:
    """Times between two, s, or values of another name, close enough that between two of them a formula's values are told by samples: where it may change by
    more than a few evenly spread ones show, as in a short pulse, they lie close."""
    edges = np.linspace(lowest, highest, FIRST + 1)
    low, high, marks = edges[:-1], edges[1:], set[float]()
    whole = 0.0
    for depth in range(HIDDEN):
        at = (low[:, None] + (high - low)[:, None] * np.linspace(0, 1, LOOKS)).ravel()
        y = over(text, constants, at, at, name).lo.reshape(len(low), LOOKS)
        whole = whole or float(np.ptp(y)) or float(np.abs(y).max(initial=0.0)) or 1.0
        # beside a sample it cannot leave it by more than this
        away = steepest(text, constants, low, high, name) * (high - low) / (LOOKS - 1) / 2
        open_ = (away > 2 * np.ptp(y, axis=1) + SMALL * whole) & np.isfinite(away)
        if depth:
            marks |= {float(t) for t in (*low[~open_], *high[~open_])}
        if not open_.any() or len(low) > MOST:
            break
        low, high = low[open_], high[open_]
        middle = (low + high) / 2
        low, high = np.sort(np.concatenate([low, middle])), np.sort(np.concatenate([middle, high]))
    return sorted(t for t in marks if lowest < t < highest)

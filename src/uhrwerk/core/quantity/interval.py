"""Formulas of the time over whole intervals of it: bounds of their values, and where they have corners.

Natural interval extensions of the same expressions (Moore, Kearfott, Cloud, Introduction to Interval Analysis (2009), ch. 5-6;
from memory). Bounds hold to rounding; they are never too narrow, and narrower the shorter the interval.

>>> import numpy as np
>>> found = over("abs(time - 0.3 s)", {}, np.array([0.0]), np.array([1.0]))
>>> float(found.lo[0]), float(found.hi[0])
(0.0, 0.7)
>>> [round(c, 9) for c in corners("abs(time - 0.3 s)", {}, 1.0)]
[0.3]
"""

from __future__ import annotations

import ast
import operator
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import simpleeval
from numpy.typing import NDArray

from uhrwerk.core.quantity.formula import CONSTANTS, FormulaError, _expression, _tree
from uhrwerk.core.quantity.over_time import _UNITS, NAME

Array = NDArray[np.float64]
TURN = 2 * np.pi

#: intervals in which a formula is first looked at, halvings at most, and intervals at most
FIRST, DEEPEST, MOST = 64, 34, 20_000


@dataclass(frozen=True)
class Interval:
    """Bounds (n,) of something in SI."""

    lo: Array
    hi: Array

    def __add__(self, other: Any) -> Interval:
        o = as_interval(other)
        return Interval(self.lo + o.lo, self.hi + o.hi)

    def __neg__(self) -> Interval:
        return Interval(-self.hi, -self.lo)

    def __pos__(self) -> Interval:
        return self

    def __sub__(self, other: Any) -> Interval:
        return self + -as_interval(other)

    def __rsub__(self, other: Any) -> Interval:
        return as_interval(other) - self

    def __mul__(self, other: Any) -> Interval:
        o = as_interval(other)
        every = np.stack(np.broadcast_arrays(*(x * y for x in (self.lo, self.hi) for y in (o.lo, o.hi))))
        every = np.where(np.isnan(every), 0.0, every)  # nothing times what has no bound
        return Interval(every.min(axis=0), every.max(axis=0))

    def __truediv__(self, other: Any) -> Interval:
        o = as_interval(other)
        over = (o.lo <= 0) & (o.hi >= 0)
        one = Interval(
            np.where(over, -np.inf, 1 / np.where(over, 1.0, o.hi)),
            np.where(over, np.inf, 1 / np.where(over, 1.0, o.lo)),
        )
        return self * one

    def __rtruediv__(self, other: Any) -> Interval:
        return as_interval(other) / self

    __radd__, __rmul__ = __add__, __mul__

    def power(self, p: float) -> Interval:
        if p == int(p) and p >= 0:
            lo, hi = self.lo**p, self.hi**p
            if p % 2 or p == 0:
                return Interval(lo, hi)
            least = np.where((self.lo <= 0) & (self.hi >= 0), 0.0, np.minimum(lo, hi))
            return Interval(least, np.maximum(lo, hi))
        if p == int(p):
            return 1.0 / self.power(-p)
        lo, hi = np.maximum(self.lo, 0.0) ** abs(p), np.maximum(self.hi, 0.0) ** abs(p)
        return Interval(lo, hi) if p > 0 else 1.0 / Interval(lo, hi)


def as_interval(x: Any) -> Interval:
    return x if isinstance(x, Interval) else Interval(np.array([float(x)]), np.array([float(x)]))


def power(base: Any, exponent: Any) -> Any:
    return base.power(float(exponent)) if hasattr(base, "power") else base**exponent


def sine(x: Any) -> Any:
    if not isinstance(x, Interval):
        return float(np.sin(x))
    ends = np.sin(x.lo), np.sin(x.hi)
    top = np.floor((x.hi - np.pi / 2) / TURN) >= np.ceil((x.lo - np.pi / 2) / TURN)
    bottom = np.floor((x.hi + np.pi / 2) / TURN) >= np.ceil((x.lo + np.pi / 2) / TURN)
    return Interval(np.where(bottom, -1.0, np.minimum(*ends)), np.where(top, 1.0, np.maximum(*ends)))


def cosine(x: Any) -> Any:
    return sine(x + np.pi / 2)


def tangent(x: Any) -> Any:
    if not isinstance(x, Interval):
        return float(np.tan(x))
    pole = np.floor((x.hi - np.pi / 2) / np.pi) >= np.ceil((x.lo - np.pi / 2) / np.pi)
    return Interval(np.where(pole, -np.inf, np.tan(x.lo)), np.where(pole, np.inf, np.tan(x.hi)))


def _rising(f: Callable[[Array], Array], low: float = -np.inf, high: float = np.inf) -> Callable[[Any], Any]:
    def bounds(x: Any) -> Any:
        if not isinstance(x, Interval):
            return float(f(x))
        return Interval(f(np.clip(x.lo, low, high)), f(np.clip(x.hi, low, high)))

    return bounds


class _Over:
    """A formula's functions over intervals; `differences` are those whose sign tells on which side of a corner it is."""

    def __init__(self) -> None:
        self.differences: list[Interval] = []
        arc = _rising(np.arcsin, -1.0, 1.0)
        self.functions: dict[str, Callable[..., Any]] = {
            "sin": sine, "cos": cosine, "tan": tangent, "asin": arc,
            "acos": lambda x: np.pi / 2 - arc(x), "atan": _rising(np.arctan), "sqrt": lambda x: power(x, 0.5), "abs": self._size,
            "min": lambda *x: self._chosen(x, np.minimum), "max": lambda *x: self._chosen(x, np.maximum),
        }  # fmt: skip

    def _size(self, x: Any) -> Any:
        if not isinstance(x, Interval):
            return abs(x)
        self.differences.append(x)
        ends = np.abs(x.lo), np.abs(x.hi)
        return Interval(np.where((x.lo <= 0) & (x.hi >= 0), 0.0, np.minimum(*ends)), np.maximum(*ends))

    def _chosen(self, items: tuple[Any, ...], pick: Callable[[Any, Any], Any]) -> Any:
        result = items[0]
        for item in items[1:]:
            if isinstance(result, Interval) or isinstance(item, Interval):
                a, b = as_interval(result), as_interval(item)
                self.differences.append(a - b)
                result = Interval(pick(a.lo, b.lo), pick(a.hi, b.hi))
            else:
                result = pick(result, item)
        return result


_OPERATORS = simpleeval.SimpleEval().operators | {ast.Mult: operator.mul, ast.Add: operator.add, ast.Pow: power}


def functions() -> dict[str, Callable[..., Any]]:
    """The functions of formulas over intervals."""
    return _Over().functions


def evaluated(
    text: str, constants: Mapping[str, float], time: Any, named: Mapping[str, Callable[..., Any]], name: str = NAME
) -> Any:
    """A formula with whatever stands for the time, or for another name, by functions that take it."""
    expression, _ = _expression(text)
    names: dict[str, Any] = _UNITS | {f"name_{n}": v for n, v in (*CONSTANTS.items(), *constants.items())}
    names[f"name_{name}"] = time
    evaluator = simpleeval.SimpleEval(names=names, functions=dict(named))
    evaluator.operators = _OPERATORS
    with np.errstate(all="ignore"):
        return evaluator.eval(expression, previously_parsed=_tree(expression))


def _bounds(
    text: str, constants: Mapping[str, float], low: Array, high: Array, name: str = NAME
) -> tuple[Interval, list[Interval]]:
    """Bounds of a formula, and of the differences whose sign tells on which side of a corner it is."""
    named = _Over()
    whole = as_interval(evaluated(text, constants, Interval(low, high), named.functions, name))
    wide = [Interval(*(np.broadcast_to(x, low.shape) for x in (d.lo, d.hi))) for d in (whole, *named.differences)]
    return wide[0], wide[1:]


def over(text: str, constants: Mapping[str, float], low: Array, high: Array, name: str = NAME) -> Interval:
    """Bounds of a formula between times (n,) s, in SI, or between values of another name."""
    return _bounds(text, constants, low, high, name)[0]


def corners(
    text: str, constants: Mapping[str, float], highest: float, lowest: float = 0.0, name: str = NAME
) -> list[float]:
    """Times between two, s, at which `abs`, `min` or `max` go over from one side to the other, all of them, those at the ends too;
    where they only come close, some more. Of a formula of anything else values of that, by its name, in SI.

    FormulaError where they are too many, or lie too close."""
    edges = np.linspace(lowest, highest, FIRST + 1)
    low, high = edges[:-1], edges[1:]
    for _ in range(DEEPEST):
        _, differences = _bounds(text, constants, low, high, name)
        if not differences:
            return []
        # what is nothing throughout goes over nowhere
        open_ = np.any([(d.lo <= 0) & (d.hi >= 0) & (d.hi > d.lo) for d in differences], axis=0)
        low, high = low[open_], high[open_]
        if not len(low):
            return []
        if len(low) > MOST:
            raise FormulaError(
                "has corners that lie too close to be told apart: state it without abs, min and max, or as a table"
            )
        middle = (low + high) / 2
        low, high = np.sort(np.concatenate([low, middle])), np.sort(np.concatenate([middle, high]))
    apart = np.flatnonzero(np.diff(low) > 1.5 * float((high - low).max()))
    first, last = np.append(0, apart + 1), np.append(apart, len(low) - 1)
    return [float(t) for t in (low[first] + high[last]) / 2]

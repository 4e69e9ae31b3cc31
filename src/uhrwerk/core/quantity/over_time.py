"""Formulas of the time: value, rate and acceleration at many moments, by Taylor arithmetic over the same expressions.

`time` stands for the moment. Griewank and Walther, Evaluating Derivatives (2nd ed. 2008), ch. 13. From memory.

>>> import numpy as np
>>> way = OverTime.of("20 mm * sin(360 deg * time / (2 s))", "length", {})
>>> [round(float(x[0]) * 1e3, 6) for x in way.at(np.array([0.5]))]
[20.0, 0.0, -197.392088]
"""

from __future__ import annotations

import ast
import operator
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import pint
import simpleeval
from numpy.typing import NDArray

from uhrwerk.core.quantity.formula import CONSTANTS, FormulaError, _expression, _tree, in_dimension, quantity
from uhrwerk.core.quantity.units import WRITTEN, ureg

Array = NDArray[np.float64]

NAME = "time"
#: moments at which a formula is tried for its dimension, s: one at which it has a value will do
TRIED = (0.0137, 0.61, 0.00123, 7.3)


@dataclass(frozen=True)
class Taylor:
    """Value, first and second derivative (n,) of something in SI."""

    v: Array
    d: Array
    dd: Array

    def _with(self, f: Array, df: Array, ddf: Array) -> Taylor:
        """A function of it, by the function's own value and derivatives there."""
        return Taylor(f, df * self.d, ddf * self.d**2 + df * self.dd)

    def __add__(self, other: Any) -> Taylor:
        o = _taylor(other, self)
        return Taylor(self.v + o.v, self.d + o.d, self.dd + o.dd)

    def __neg__(self) -> Taylor:
        return Taylor(-self.v, -self.d, -self.dd)

    def __pos__(self) -> Taylor:
        return self

    def __sub__(self, other: Any) -> Taylor:
        return self + -_taylor(other, self)

    def __rsub__(self, other: Any) -> Taylor:
        return _taylor(other, self) - self

    def __mul__(self, other: Any) -> Taylor:
        o = _taylor(other, self)
        return Taylor(self.v * o.v, self.d * o.v + self.v * o.d, self.dd * o.v + 2 * self.d * o.d + self.v * o.dd)

    def __truediv__(self, other: Any) -> Taylor:
        return self * _taylor(other, self).power(-1.0)

    def __rtruediv__(self, other: Any) -> Taylor:
        return _taylor(other, self) / self

    __radd__, __rmul__ = __add__, __mul__

    def power(self, p: float) -> Taylor:
        if p == 0:
            return _taylor(1.0, self)
        second = p * (p - 1) * self.v ** (p - 2) if p != 1 else np.zeros_like(self.v)
        return self._with(self.v**p, p * self.v ** (p - 1), second)


def _taylor(x: Any, like: Taylor) -> Taylor:
    if isinstance(x, Taylor):
        return x
    return Taylor(np.full_like(like.v, float(x)), np.zeros_like(like.v), np.zeros_like(like.v))


def _power(base: Any, exponent: Any) -> Any:
    if isinstance(exponent, Taylor):
        raise FormulaError("has the time in an exponent, which is not supported")
    return base.power(float(exponent)) if isinstance(base, Taylor) else base**exponent


def _chosen(pick: Callable[[Array, Array], NDArray[np.bool_]]) -> Callable[..., Any]:
    """The first of two wherever `pick` says so, of any number of values."""

    def two(a: Any, b: Any) -> Any:
        if not isinstance(a, Taylor) and not isinstance(b, Taylor):
            return a if pick(np.array(a), np.array(b)) else b
        like = a if isinstance(a, Taylor) else b
        a, b = _taylor(a, like), _taylor(b, like)
        mine = pick(a.v, b.v)
        return Taylor(*(np.where(mine, x, y) for x, y in ((a.v, b.v), (a.d, b.d), (a.dd, b.dd))))

    def many(*items: Any) -> Any:
        result = items[0]
        for item in items[1:]:
            result = two(result, item)
        return result

    return many


def _function(f: Any, df: Callable[[Array], Array], ddf: Callable[[Array], Array]) -> Callable[[Any], Any]:
    return lambda x: x._with(f(x.v), df(x.v), ddf(x.v)) if isinstance(x, Taylor) else float(f(x))


def _not_smooth(*_: Any) -> Any:
    raise FormulaError("calls a function that jumps with the time")


_SMOOTH: dict[str, Callable[..., Any]] = {
    "sin": _function(np.sin, np.cos, lambda x: -np.sin(x)),
    "cos": _function(np.cos, lambda x: -np.sin(x), lambda x: -np.cos(x)),
    "tan": _function(np.tan, lambda x: 1 / np.cos(x) ** 2, lambda x: 2 * np.tan(x) / np.cos(x) ** 2),
    "asin": _function(np.arcsin, lambda x: (1 - x**2) ** -0.5, lambda x: x * (1 - x**2) ** -1.5),
    "acos": _function(np.arccos, lambda x: -((1 - x**2) ** -0.5), lambda x: -x * (1 - x**2) ** -1.5),
    "atan": _function(np.arctan, lambda x: 1 / (1 + x**2), lambda x: -2 * x / (1 + x**2) ** 2),
    "sqrt": lambda x: _power(x, 0.5),
    "abs": lambda x: x._with(np.abs(x.v), np.sign(x.v), np.zeros_like(x.v)) if isinstance(x, Taylor) else abs(x),
    "min": _chosen(lambda a, b: a <= b), "max": _chosen(lambda a, b: a >= b),
    **dict.fromkeys(("floor", "ceil", "round", "atan2"), _not_smooth),
}  # fmt: skip
_UNITS = {f"unit_{u}": float(ureg.Quantity(1.0, u).to_base_units().magnitude) for u in set(WRITTEN.values())}
_OPERATORS = simpleeval.SimpleEval().operators | {ast.Mult: operator.mul, ast.Add: operator.add, ast.Pow: _power}


@dataclass(frozen=True)
class OverTime:
    """A formula of the time, with what it uses: names and their values in SI."""

    text: str
    known: tuple[tuple[str, float], ...]

    @classmethod
    def of(cls, text: str, dimension: str, constants: Mapping[str, pint.Quantity[Any]]) -> OverTime:
        """FormulaError where it does not give the dimension, or a function of the time is not understood."""
        used = {n: constants[n] for n in _expression(text)[1] if n != NAME and n in constants}
        _in_dimension(text, dimension, used)
        result = cls(text, tuple((n, float(q.to_base_units().magnitude)) for n, q in sorted(used.items())))
        result.at(np.array(TRIED))
        return result

    def at(self, t: Array) -> tuple[Array, Array, Array]:
        """Value, rate and acceleration (n,) at moments t (n,) s, in SI."""
        t = np.asarray(t, dtype=float)
        result = composed(self.text, dict(self.known), {NAME: Taylor(t, np.ones_like(t), np.zeros_like(t))})
        return result.v, result.d, result.dd


def composed(text: str, constants: Mapping[str, float], moving: Mapping[str, Taylor]) -> Taylor:
    """A formula of numbers in SI and of what moves, by name. FormulaError where a function of what moves jumps."""
    expression, _ = _expression(text)
    names: dict[str, Any] = _UNITS | {f"name_{n}": v for n, v in (*CONSTANTS.items(), *constants.items())}
    evaluator = simpleeval.SimpleEval(names=names | {f"name_{n}": x for n, x in moving.items()}, functions=_SMOOTH)
    evaluator.operators = _OPERATORS
    with np.errstate(all="ignore"):
        result = evaluator.eval(expression, previously_parsed=_tree(expression))
    return _taylor(result, next(iter(moving.values())))


def _in_dimension(text: str, dimension: str, used: Mapping[str, pint.Quantity[Any]]) -> None:
    """FormulaError where no moment that is tried gives a value of the dimension."""
    first: FormulaError | None = None
    for moment in TRIED:
        try:
            q = quantity(text, {**used, NAME: ureg.Quantity(moment, "second")})
            if q.dimensionless and dimension != "number":
                raise FormulaError("gives a plain number: write its unit, as in 20 mm * sin(180 deg/s * time)")
            in_dimension(q, dimension)
            return
        except FormulaError as error:
            first = first or error
    raise FormulaError(f"{first}; `{NAME}` stands for the moment, in s") from first

"""A formula: arithmetic with units and named parameters, evaluated by simpleeval over pint quantities.

>>> value("0.69 in * 2", "length")
0.035052
>>> value("360 deg / n", "angle", {"n": ureg.Quantity(5)}) / value("1 deg", "angle")
72.0
"""

from __future__ import annotations

import ast
import io
import math
import operator
import re
import threading
import tokenize
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Any

import pint
import simpleeval

from uhrwerk.core.quantity import units
from uhrwerk.core.quantity.units import DIMENSIONS, WRITTEN, ureg

LONGEST = 400
#: what stands between numbers and names
OPERATORS = frozenset("+-*/%(),") | {"**", "//"}
_PLAIN = re.compile(r"\s*-?\d+(\.\d+)?\s*(mm|cm|m|in)?\s*")

_NUMBER = re.compile(r"\s*-?\d+(\.\d+)?\s*(" + "|".join(map(re.escape, WRITTEN)) + r")?\s*")


#: units after which that of an arm may stand, as they are shown: of forces and masses; and those of lengths
WITH_ARM = {"newton", "lbf", "gram", "kilogram", "tonne", "lb", "oz"}
LENGTHS = {"mm", "cm", "metre", "um", "inch", "ft"}


class FormulaError(ValueError):
    """A formula that cannot be read or does not give what its field asks for; the message is for the designer."""


def _plain(q: Any, what: str) -> float:
    q = ureg.Quantity(q)
    if not q.dimensionless:
        raise FormulaError(f"{what} needs a plain number, not {units.dimension_of(q)}")
    return float(q.to("").magnitude)


def _angle(q: Any, what: str) -> float:
    q = ureg.Quantity(q)
    if not q.check("[angle]"):
        raise FormulaError(f"{what} needs an angle: write {what}(30 deg)")
    return float(q.to("radian").magnitude)


def _of_angle(name: str, function: Callable[[float], float]) -> Callable[[Any], Any]:
    return lambda q: ureg.Quantity(function(_angle(q, name)))


def _to_angle(name: str, function: Callable[[float], float]) -> Callable[[Any], Any]:
    return lambda q: ureg.Quantity(function(_plain(q, name)), "radian")


def _round(q: Any, step: Any = 1) -> Any:
    return round(float((ureg.Quantity(q) / step).to("").magnitude)) * ureg.Quantity(step)


def _whole(function: Callable[[float], int], name: str) -> Callable[[Any], Any]:
    return lambda q: ureg.Quantity(function(_plain(q, name)))


FUNCTIONS: dict[str, Callable[..., Any]] = {
    "sin": _of_angle("sin", math.sin), "cos": _of_angle("cos", math.cos), "tan": _of_angle("tan", math.tan),
    "asin": _to_angle("asin", math.asin), "acos": _to_angle("acos", math.acos), "atan": _to_angle("atan", math.atan),
    "atan2": lambda y, x: ureg.Quantity(
        math.atan2(ureg.Quantity(y).to_base_units().magnitude, ureg.Quantity(x).to(ureg.Quantity(y).units).to_base_units().magnitude),
        "radian",
    ),
    "sqrt": lambda q: ureg.Quantity(q) ** 0.5, "abs": abs, "min": min, "max": max,
    "floor": _whole(math.floor, "floor"), "ceil": _whole(math.ceil, "ceil"), "round": _round,
}  # fmt: skip
CONSTANTS = {"pi": math.pi}
RESERVED = frozenset(WRITTEN) | frozenset(FUNCTIONS) | frozenset(CONSTANTS)


def _tokens(source: str) -> list[tokenize.TokenInfo]:
    """The numbers, names and operators of a formula in one line. FormulaError, with the place, at anything else."""
    try:
        every = list(tokenize.generate_tokens(io.StringIO(source).readline))
    except (tokenize.TokenError, IndentationError) as error:
        raise FormulaError("has an opening bracket that is never closed") from error
    out = []
    for token in every:
        constants = token.type in (tokenize.NUMBER, tokenize.NAME) or (
            token.type == tokenize.OP and token.string in OPERATORS
        )
        if constants and token.start[0] == 1:
            out.append(token)
        elif token.string.strip():
            line, column = token.start
            where = f"at character {column + 1}" if line == 1 else "in a second line"
            raise FormulaError(f"contains {token.string.strip()[:20]!r} {where}, which is not arithmetic")
    return out


@lru_cache(maxsize=4096)
def _expression(text: str) -> tuple[str, frozenset[str]]:
    """`text` as a Python expression in which every unit is bound to its number, and the parameter names it uses."""
    if len(text) > LONGEST:
        raise FormulaError(f"is longer than {LONGEST} characters")
    if not text.strip():
        raise FormulaError("is empty: write a number, such as 12 mm")
    source = text.replace("°", " deg ").replace("^", "**").replace("−", "-").replace("µ", "μ")
    source = source.replace("μm", " um ")
    tokens = _tokens(source.strip())
    out: list[str] = []
    names: set[str] = set()
    units: set[int] = set()  # where a unit stands that may be followed by that of an arm
    for at, token in enumerate(tokens):
        word = token.string
        following = tokens[at + 1].string if at + 1 < len(tokens) else ""
        if not word:  # an exponent that its unit has taken
            continue
        if token.type == tokenize.NAME and following != "(":
            constants = WRITTEN.get(word)
            follows_value = at > 0 and (
                tokens[at - 1].type in (tokenize.NUMBER, tokenize.NAME) or tokens[at - 1].string == ")"
            )
            arm = constants in LENGTHS and at - 1 in units  # 3 N m, 20 g mm^2
            bracket = at > 0 and tokens[at - 1].string == ")"  # (1/8) in
            if constants and at > 0 and (tokens[at - 1].type == tokenize.NUMBER or bracket or arm):
                # a unit binds tighter than any operator: 10 mm / 2 mm is 5
                before = out.pop().removesuffix(")") if arm else f"({_bracketed(out) if bracket else out.pop()}"
                power = following == "**" and at + 2 < len(tokens) and tokens[at + 2].type == tokenize.NUMBER
                out.append(f"{before}*unit_{constants}{f'**{tokens[at + 2].string}' if power else ''})")
                if constants in WITH_ARM and not power:
                    units.add(at)
                if power:
                    tokens[at + 1 : at + 3] = [t._replace(string="", type=tokenize.OP) for t in tokens[at + 1 : at + 3]]
                continue
            if follows_value:
                raise FormulaError(
                    f"has {word!r} right after {tokens[at - 1].string!r}: an operator is missing, or {word!r} is not a unit"
                )
            if constants:
                out.append(f"unit_{constants}")
                continue
            if word not in CONSTANTS:
                names.add(word)
            out.append(f"name_{word}")
        else:
            out.append(word)
    return " ".join(out), frozenset(names)


def _bracketed(out: list[str]) -> str:
    """Takes what stands last, in brackets, from an expression's pieces, with the function that it is given to. FormulaError where
    no bracket opens it."""
    depth = 0
    for at in range(len(out) - 1, -1, -1):
        depth += (out[at] == ")") - (out[at] == "(")
        if depth == 0:
            at -= at > 0 and out[at - 1] in FUNCTIONS
            taken = " ".join(out[at:])
            del out[at:]
            return taken
    raise FormulaError("has a closing bracket that was never opened")


def is_plain(text: str) -> bool:
    """Whether a formula is a number alone, with or without a unit of length: it may be set to another."""
    return _PLAIN.fullmatch(text) is not None


def is_number(text: str) -> bool:
    """Whether a formula is a number alone, with or without any one unit."""
    return _NUMBER.fullmatch(text) is not None


def names_in(text: str) -> frozenset[str]:
    """The parameter names that the formula uses."""
    return _expression(text)[1]


#: CPython 3.11 cannot build syntax trees in two threads at once ("AST constructor recursion depth mismatch")
_PARSING = threading.Lock()


@lru_cache(maxsize=4096)
def _tree(expression: str) -> Any:
    with _PARSING:
        return simpleeval.SimpleEval.parse(expression)


def quantity(text: str, constants: Mapping[str, pint.Quantity[Any]] | None = None) -> pint.Quantity[Any]:
    """The value of a formula as a pint quantity. FormulaError says in plain words what is wrong."""
    expression, names = _expression(text)
    if not names:
        return _constant(expression)
    constants = constants or {}
    missing = sorted(names - set(constants))
    if missing:
        raise FormulaError(f"uses {missing[0]!r}, which is neither a parameter nor a unit")
    return _evaluated(expression, {f"name_{n}": constants[n] for n in names})


@lru_cache(maxsize=8192)
def _constant(expression: str) -> pint.Quantity[Any]:
    """The value of an expression that uses no parameter."""
    return _evaluated(expression, {})


def _evaluated(expression: str, names: dict[str, pint.Quantity[Any]]) -> pint.Quantity[Any]:
    evaluator = simpleeval.SimpleEval(names=_FIXED | names, functions=FUNCTIONS)
    evaluator.operators = _OPERATORS
    try:
        result = ureg.Quantity(evaluator.eval(expression, previously_parsed=_tree(expression)))
        magnitude = float(result.to_base_units().magnitude)
    except FormulaError:
        raise
    except pint.DimensionalityError as error:
        left, right = (units.dimension_of(ureg.Quantity(1, u or "")) for u in (error.units1, error.units2))
        raise FormulaError(f"mixes units that do not fit: {left} with {right}; give each number its unit") from error
    except simpleeval.FunctionNotDefined as error:
        raise FormulaError(f"calls {error.func_name!r}; known are {', '.join(sorted(FUNCTIONS))}") from error
    except ZeroDivisionError as error:
        raise FormulaError("divides by zero") from error
    except (SyntaxError, simpleeval.InvalidExpression) as error:
        raise FormulaError("cannot be read as arithmetic: check operators and brackets") from error
    except (TypeError, ValueError, OverflowError, pint.PintError) as error:
        raise FormulaError("has no value: check what the functions are given") from error
    if not math.isfinite(magnitude):
        raise FormulaError("has no finite value")
    return result


def _power(base: Any, exponent: Any) -> Any:
    exponent = _plain(exponent, "an exponent")
    if abs(exponent) > 12:
        raise FormulaError("has an exponent beyond 12")
    return base**exponent


#: what every formula knows: units and constants
_FIXED: dict[str, Any] = {f"name_{n}": v for n, v in CONSTANTS.items()} | {
    f"unit_{u}": ureg.Quantity(1.0, u) for u in set(WRITTEN.values())
}
# simpleeval guards against long strings by len(), which a pint quantity answers wrongly; strings are refused above
_OPERATORS = simpleeval.SimpleEval().operators | {ast.Mult: operator.mul, ast.Add: operator.add, ast.Pow: _power}


def value(
    text: str, dimension: str, constants: Mapping[str, pint.Quantity[Any]] | None = None, bare: str | None = None
) -> float:
    """The SI value of a formula in a field of `dimension`; a plain number takes the unit `bare`."""
    if not _expression(text)[1]:
        return _plain_value(text, dimension, bare)
    return in_dimension(quantity(text, constants), dimension, bare)


@lru_cache(maxsize=8192)
def _plain_value(text: str, dimension: str, bare: str | None) -> float:
    return in_dimension(quantity(text), dimension, bare)


def in_dimension(q: pint.Quantity[Any], dimension: str, bare: str | None = None) -> float:
    """The SI value of a quantity asked for in a dimension; a plain number takes the unit `bare`."""
    unit = DIMENSIONS[dimension][1]
    if q.dimensionless and dimension != "number":
        q = ureg.Quantity(q.to("").magnitude, units.unit(unit if bare is None else bare))
    if q.dimensionality != units.dimensionality(dimension):
        inverse = (1 / ureg.Quantity(1.0, q.units)).dimensionality == units.dimensionality(dimension)
        hint = f": a fraction of a unit is written (1/8) {bare or unit}" if inverse and dimension == "length" else ""
        raise FormulaError(f"gives {units.dimension_of(q)}, but {dimension} is required{hint}")
    return float(q.to(units.si_unit(dimension)).magnitude)

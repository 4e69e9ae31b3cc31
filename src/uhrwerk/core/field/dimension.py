"""Formula fields: every number is a formula, and its field knows the dimension that must come out."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Any

import numpy as np
from pydantic import BaseModel, BeforeValidator, StringConstraints
from pydantic.fields import FieldInfo
from pydantic_core import core_schema

from uhrwerk.core.quantity import FormulaError, Scope
from uhrwerk.core.quantity.over_time import OverTime

#: no value is larger, in SI units; no size of a body is smaller, m
LARGEST, SMALLEST = 1e7, 1e-7
#: nor is any stress larger, Pa
STRONGEST = 1e13
#: a value that is so near to a whole number is one
WHOLE = 1e-9


@dataclass(frozen=True)
class Dimension:
    """Marks a formula field: the dimension asked for and the smallest value allowed (SI)."""

    name: str
    above: float | None = None
    least: float | None = None
    open: bool = False  # empty text is allowed and means: no such value
    over_time: bool = False  # a formula of the moment, `time`
    measured: bool = False  # measured on the real thing, or given: nothing that a remedy could change
    series: tuple[float, ...] = ()  # preferred sizes, SI: what is offered is one of these
    or_time: bool = False  # degrees of the cycle are asked for, and a time may stand in their place
    most: float | None = None  # the largest value allowed, SI
    whole: bool = False  # a whole number

    def __get_pydantic_json_schema__(self, schema: core_schema.CoreSchema, handler: Any) -> dict[str, Any]:
        json: dict[str, Any] = handler(schema)
        if self.whole and handler.mode == "validation":
            json["type"] = ["string", "integer"]
        json["x-dimension"] = self.name
        json["description"] = (
            f"formula giving {f'a whole number from {self.least:g} to {self.most:g}' if self.whole else self.name}"
            + (" of the cycle, or time" if self.or_time else "")
            + (" at each moment, `time`" if self.over_time else "")
            + (", above zero" if self.above is not None else "")
            + (", or empty" if self.open else "")
        )
        return json


@dataclass(frozen=True)
class AnyDimension:
    """Marks a formula whose dimension follows from what stands beside it: its model says what is wrong with it."""


class Seconds(float):
    """A time, s, where degrees of the cycle may stand too."""


def _text(value: Any) -> Any:
    if isinstance(value, bool):
        raise ValueError("must be a formula or a number, not yes or no")
    return repr(value) if isinstance(value, int | float) else value


_Formula = Annotated[str, BeforeValidator(_text), StringConstraints(max_length=400, strip_whitespace=True)]
Formula = Annotated[_Formula, AnyDimension()]
#: a formula that gives a whole number; `whole` beside it says within which limits
Whole = _Formula
Length = Annotated[_Formula, Dimension("length")]
Size = Annotated[_Formula, Dimension("length", above=0.0)]
SizeOrNone = Annotated[_Formula, Dimension("length", least=0.0)]
SizeOrOpen = Annotated[_Formula, Dimension("length", above=0.0, open=True)]
#: modules of ISO 54, series I, and the smaller ones of DIN 780; mm (from memory)
MODULES = (
    0.1, 0.12, 0.16, 0.2, 0.25, 0.3, 0.4, 0.5, 0.6, 0.8, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0,
    32.0, 40.0, 50.0,
)  # fmt: skip
GearModule = Annotated[_Formula, Dimension("length", above=0.0, series=tuple(m * 1e-3 for m in MODULES))]
Angle = Annotated[_Formula, Dimension("angle")]
LengthOrOpen = Annotated[_Formula, Dimension("length", open=True)]
Span = Annotated[_Formula, Dimension("angle", least=0.0, or_time=True)]
AngleOverTime = Annotated[_Formula, Dimension("angle", over_time=True)]
LengthOverTime = Annotated[_Formula, Dimension("length", over_time=True)]
AngleOrOpen = Annotated[_Formula, Dimension("angle", open=True)]
Count = Annotated[_Formula, Dimension("number", above=0.0)]
Time = Annotated[_Formula, Dimension("time", above=0.0)]
Mass = Annotated[_Formula, Dimension("mass", least=0.0)]
MeasuredMass = Annotated[_Formula, Dimension("mass", above=0.0, open=True, measured=True)]
MeasuredLength = Annotated[_Formula, Dimension("length", open=True, measured=True)]
Density = Annotated[_Formula, Dimension("density", above=0.0)]
StressOrOpen = Annotated[_Formula, Dimension("stress", above=0.0, open=True)]
Force = Annotated[_Formula, Dimension("force", least=0.0)]
LoadForce = Annotated[_Formula, Dimension("force", measured=True)]
LoadTorque = Annotated[_Formula, Dimension("torque", measured=True)]
Torque = Annotated[_Formula, Dimension("torque", least=0.0)]
Stress = Annotated[_Formula, Dimension("stress", above=0.0)]
TurningSpeed = Annotated[_Formula, Dimension("turning speed")]
SlidingSpeed = Annotated[_Formula, Dimension("sliding speed")]
Number = Annotated[_Formula, Dimension("number")]
Positive = Annotated[_Formula, Dimension("number", above=0.0)]


def whole(least: int, most: int) -> Dimension:
    """Marks a formula that gives a whole number within limits."""
    return Dimension("number", least=least, most=most, whole=True)


def dimension_of(field: FieldInfo) -> Dimension | None:
    """The dimension mark of a field, if it is a formula field."""
    return next((m for m in field.metadata if isinstance(m, Dimension)), None)


#: what may hold formulas
HOLDING = (BaseModel, dict, list, tuple)


@lru_cache(maxsize=2000)
def _marks(kind: type[BaseModel]) -> tuple[tuple[str, Dimension | None], ...]:
    return tuple((name, dimension_of(field)) for name, field in kind.model_fields.items())


def formulas(model: Any, path: str = "") -> Iterator[tuple[str, str, Dimension]]:
    """Every formula below `model` as (path, text, dimension)."""
    if isinstance(model, BaseModel):
        for name, mark in _marks(type(model)):
            item = getattr(model, name)
            if mark is not None:
                if item or not mark.open:
                    yield f"{path}.{name}" if path else name, item, mark
            elif isinstance(item, HOLDING):
                yield from formulas(item, f"{path}.{name}" if path else name)
    elif isinstance(model, dict):
        for key, item in model.items():
            yield from formulas(item, f"{path}.{key}")
    elif isinstance(model, list | tuple):
        for at_index, item in enumerate(model):
            yield from formulas(item, f"{path}.{at_index}")


def evaluated(text: str, mark: Dimension, scope: Scope) -> tuple[float, str]:
    """The SI value of a formula, and its dimension: the one asked for, or time where that may stand in its place."""
    if mark.over_time:
        return float(OverTime.of(text, mark.name, scope.values).at(np.zeros(1))[0][0]), mark.name
    try:
        return scope.value(text, mark.name), mark.name
    except FormulaError:
        if mark.or_time:
            with suppress(FormulaError):
                return Seconds(scope.value(text, "time")), "time"
        raise


def solve_field(text: str, mark: Dimension, scope: Scope) -> float | int | OverTime:
    """SI value of one formula field, or its formula of the time; FormulaError where it has none or it lies outside what the
    field allows."""
    if mark.over_time:
        return OverTime.of(text, mark.name, scope.values)
    si, _ = evaluated(text, mark, scope)
    largest = STRONGEST if mark.name == "stress" else LARGEST
    if not abs(si) <= largest:
        raise FormulaError(f"is larger than anything that can be computed with ({largest:g} in SI units)")
    if mark.above is not None and si <= mark.above:
        raise FormulaError("must be above zero")
    if mark.above is not None and mark.name == "length" and si < SMALLEST:
        raise FormulaError(f"must be at least {SMALLEST * 1e3:g} mm")
    if mark.whole:
        return _whole(si, mark)
    if mark.least is not None and si < mark.least:
        raise FormulaError("must not be negative")
    return si


def _whole(value: float, mark: Dimension) -> int:
    near = round(value)
    if abs(value - near) > WHOLE:
        raise FormulaError(f"must be a whole number, not {value:g}")
    if not (mark.least or 0) <= near <= (mark.most or np.inf):
        raise FormulaError(f"must be from {mark.least:g} to {mark.most:g}")
    return near

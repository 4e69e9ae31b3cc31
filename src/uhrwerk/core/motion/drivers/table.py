"""A table: values at moments, with a smooth curve through them (de Boor, A Practical Guide to Splines, ch. 4; from memory)."""

from __future__ import annotations

import csv
import io
import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, StringConstraints
from scipy.interpolate import CubicSpline

from uhrwerk.core.document.driver import Driver
from uhrwerk.core.equations.law import Law
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Numbers, SeveralLines
from uhrwerk.core.quantity import FormulaError
from uhrwerk.core.quantity.formula import value

#: rows at most
MOST = 2000
Rows = Annotated[str, StringConstraints(max_length=120_000), SeveralLines()]


@dataclass(frozen=True)
class TablePoint(Law):
    """A cubic spline through points (s, rad or m); it repeats where it ends as it begins, and else stands at its ends."""

    points: tuple[tuple[float, float], ...]

    @property
    def round(self) -> bool:
        return abs(self.points[-1][1] - self.points[0][1]) < 1e-12

    def _at(self, t: Array, order: int) -> Array:
        first, last = self.points[0][0], self.points[-1][0]
        if self.round:
            t = first + np.mod(np.asarray(t) - first, last - first)
        values = np.asarray(_spline(self.points)(np.clip(t, first, last), order))
        return values if self.round or order == 0 else np.where((t >= first) & (t <= last), values, 0.0)

    def value(self, t: Array) -> Array:
        return self._at(t, 0)

    def rate(self, t: Array) -> Array:
        return self._at(t, 1)

    def acceleration(self, t: Array) -> Array:
        return self._at(t, 2)

    def marks(self, duration: float) -> list[float]:
        first, last = self.points[0][0], self.points[-1][0]
        rounds = np.arange(-1, np.ceil(duration / (last - first)) + 1) * (last - first) if self.round else np.zeros(1)
        every = (np.array([p[0] for p in self.points])[None] + rounds[:, None]).ravel()
        return [float(x) for x in np.unique(every) if 0 < x < duration]


@lru_cache(maxsize=50)
def _spline(points: tuple[tuple[float, float], ...]) -> CubicSpline:
    x, y = np.array(points).T
    if abs(y[-1] - y[0]) < 1e-12:
        y = np.append(y[:-1], y[0])
        return CubicSpline(x, y, bc_type="periodic")
    return CubicSpline(x, y, bc_type="clamped")


class ByTable(Driver):
    """What both tables state."""

    dimension: ClassVar[str]

    @classmethod
    def law(cls, n: Numbers, cycle: float) -> Law:  # type: ignore[override]
        return TablePoint(tuple(read(n.rows, cls.dimension, cycle)))

    @classmethod
    def faults(cls, n: Numbers, cycle: float) -> list[tuple[str, str]]:  # type: ignore[override]
        try:
            read(n.rows, cls.dimension, cycle)
        except FormulaError as error:
            return [("rows", str(error))]
        return []


def read(text: str, dimension: str, cycle: float) -> list[tuple[float, float]]:
    """Moments (s) and values (SI) of a table: its first line names the units of both columns, such as `deg, mm`; degrees are
    those of the cycle. FormulaError names the line that cannot be read."""
    lines = [line for line in csv.reader(io.StringIO(text.replace(";", "\n")), skipinitialspace=True) if any(line)]
    if len(lines) < 4:
        raise FormulaError("needs a line with the units of both columns, such as deg, mm, and three lines of numbers")
    if len(lines) > MOST:
        raise FormulaError(f"has more than {MOST} lines")
    head = [c.strip() for c in lines[0]]
    try:
        one, other = head
        of_time = (
            value(f"1 {one}", "angle") / (2 * math.pi) * cycle
            if one in ("deg", "rad", "rev")
            else value(f"1 {one}", "time")
        )
        of_value = value(f"1 {other}", dimension)
    except (ValueError, FormulaError) as error:
        raise FormulaError(
            f"line 1 must name the units of the moment and of the {dimension}, such as s, {'deg' if dimension == 'angle' else 'mm'}"
        ) from error
    out: list[tuple[float, float]] = []
    for k, line in enumerate(lines[1:], 2):
        try:
            t, x = (float(c) for c in line)
        except ValueError as error:
            raise FormulaError(f"line {k} must hold two numbers") from error
        if not (math.isfinite(t) and math.isfinite(x)):
            raise FormulaError(f"line {k} must hold two finite numbers")
        if out and t * of_time <= out[-1][0] + 1e-9 * cycle:
            raise FormulaError(f"line {k} must be later than the one before it")
        out.append((t * of_time, x * of_value))
    return out


class TurnTable(ByTable):
    """A joint turned through the angles of a table, on a smooth curve."""

    title: ClassVar[str] = "Turning by a table"
    coordinate: ClassVar[str] = "turn"
    dimension: ClassVar[str] = "angle"

    kind: Literal["turn_table"] = "turn_table"
    rows: Rows = Field(default="deg, deg\n0, 0\n120, 30\n240, 30\n360, 0", title="Moment and angle")


class SlideTable(ByTable):
    """A joint pushed through the positions of a table, on a smooth curve."""

    title: ClassVar[str] = "Sliding by a table"
    coordinate: ClassVar[str] = "slide"
    dimension: ClassVar[str] = "length"

    kind: Literal["slide_table"] = "slide_table"
    rows: Rows = Field(default="deg, mm\n0, 0\n120, 20\n240, 20\n360, 0", title="Moment and position")

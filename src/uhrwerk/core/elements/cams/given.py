"""An outline through given points, one after the other, as measured on a cam or written by a drawing program.

Between the places runs a smooth closed curve, a periodic cubic spline over the length of the chords (de Boor, A Practical Guide to
Splines, ch. 4 and 17; from memory).
"""

from __future__ import annotations

import csv
import io
from functools import lru_cache
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, StringConstraints
from scipy.interpolate import CubicSpline

from uhrwerk.core.elements.cams.shape import TURN, Array, CamOutline, CamShape, curvature_radius
from uhrwerk.core.field import Numbers, SeveralLines
from uhrwerk.core.quantity import FormulaError, value

#: places at least and at most
FEWEST, MOST = 8, 5000
#: the stated base circle is the circle inside the outline to within this, m
SAME = 1e-5
#: of a rise or return, rad of the cam
SHORTEST = np.radians(10)
Rows = Annotated[str, StringConstraints(max_length=200_000), SeveralLines()]

_OVAL = "\n".join(["deg, mm", *(f"{k * 15}, {6 * (1 - np.cos(np.radians(k * 15))) ** 2 / 4:.4f}" for k in range(24))])


class MeasuredOutline(CamShape):
    """Points of the outline: angle and rise over the base circle (`deg, mm`), or x and y (`mm, mm`), the axis at 0."""

    title: ClassVar[str] = "From points"

    kind: Literal["given"] = "given"
    rows: Rows = Field(default=_OVAL, title="Points of the outline")

    @staticmethod
    def traced(n: Numbers[MeasuredOutline], base: float, angle: Array) -> CamOutline:
        """The outline, `angle` being a share of its way, clockwise as those of followers run."""
        line = _line(n.rows, base)
        share = np.mod(-angle, TURN) / TURN * line.x[-1]
        return CamOutline(angle, line(share), curvature_radius(line(share, 1), line(share, 2)))

    @staticmethod
    def spans(n: Numbers[MeasuredOutline]) -> list[float]:
        """A rise shorter than four places, or than `SHORTEST`, is not looked for."""
        return [max(SHORTEST, 4 * TURN / max(1, n.rows.count("\n")))]

    @staticmethod
    def faults(n: Numbers[MeasuredOutline], base: float) -> list[tuple[str, str]]:
        try:
            polar = places(n.rows, base)[0]
        except FormulaError as error:
            return [("rows", str(error))]
        line = _line(n.rows, base)(np.linspace(0, _line(n.rows, base).x[-1], 4 * MOST))
        turned = np.unwrap(np.arctan2(line[:, 1], line[:, 0]))
        if abs(turned[-1] - turned[0]) < TURN - 1e-6:
            return [("rows", "do not run once round the axis")]
        if (np.diff(turned) <= 0).any():
            k = int(np.argmax(np.diff(turned) <= 0))
            return [
                (
                    "rows",
                    f"turn back at {np.degrees(turned[k]) % 360:.1f}°: seen from the axis a cam's outline never does",
                )
            ]
        least = float(np.hypot(*line.T).min())
        if not polar and abs(least - base) > SAME:
            return [
                (
                    "rows",
                    f"come as near to the axis as {least * 1e3:.3f} mm: state a base circle of {2 * least * 1e3:.3f} mm",
                )
            ]
        if least <= 0:
            return [("rows", "reach the axis")]
        return []


def places(text: str, base: float) -> tuple[bool, Array]:
    """Whether angles and rises are given, and the places (n, 2), m, counter-clockwise. FormulaError names the line that cannot
    be read."""
    lines = [line for line in csv.reader(io.StringIO(text.replace(";", "\n")), skipinitialspace=True) if any(line)]
    if not FEWEST < len(lines) <= MOST + 1:
        raise FormulaError(f"needs a line with the units, such as deg, mm or mm, mm, and {FEWEST} to {MOST} places")
    try:
        one, other = (c.strip() for c in lines[0])
        polar = one in ("deg", "rad", "rev")
        units = value(f"1 {one}", "angle" if polar else "length"), value(f"1 {other}", "length")
    except (ValueError, FormulaError) as error:
        raise FormulaError("line 1 must name both units: deg, mm for angle and rise, or mm, mm for x and y") from error
    try:
        at = np.array([[float(c) for c in line] for line in lines[1:]]) * units
    except ValueError as error:
        k = next(k for k, line in enumerate(lines[1:], 2) if not _two_numbers(line))
        raise FormulaError(f"line {k} must hold two numbers") from error
    if at.shape[1:] != (2,) or not np.isfinite(at).all():
        k = next((k for k, line in enumerate(lines[1:], 2) if not _two_numbers(line)), 2)
        raise FormulaError(f"line {k} must hold two finite numbers")
    if polar:
        at = (base + at[:, 1:]) * np.stack([np.cos(at[:, 0]), np.sin(at[:, 0])], axis=1)
    if np.hypot(*(at[0] - at[-1])) < 1e-9:  # closed by itself
        at = at[:-1]
    same = np.hypot(*np.diff(at, axis=0).T) < 1e-9
    if same.any():
        raise FormulaError(f"line {int(np.argmax(same)) + 3} is the same place as the one before it")
    x, y = at.T
    runs = float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum())
    return polar, at if runs > 0 else at[::-1]


def _two_numbers(line: list[str]) -> bool:
    try:
        return len(line) == 2 and all(np.isfinite(float(c)) for c in line)
    except ValueError:
        return False


@lru_cache(maxsize=100)
def _line(text: str, base: float) -> CubicSpline:
    _, at = places(text, base)
    closed = np.concatenate([at, at[:1]])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    return CubicSpline(along, closed, bc_type="periodic")

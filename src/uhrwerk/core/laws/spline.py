"""A spline through given points: cubic between them, its acceleration runs on from one to the next, its rate is nothing at
both ends (de Boor, A Practical Guide to Splines, ch. 4; from memory)."""

from __future__ import annotations

import itertools
from functools import lru_cache
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field
from scipy.interpolate import CubicSpline

from uhrwerk.core.field import Id, Model, Number, Numbers
from uhrwerk.core.laws.law import Array, MotionLaw


class Through(Model):
    """At this share of the time, this share of the way."""

    time: Number = Field(default="0.5", title="Share of the time")
    way: Number = Field(default="0.5", title="Share of the way")


class Spline(MotionLaw):
    """A spline from (0, 0) through the points to (1, 1)."""

    title: ClassVar[str] = "Spline through points"

    kind: Literal["spline"] = "spline"
    points: dict[Id, Through] = Field(default_factory=lambda: {"a": Through()}, min_length=1, max_length=100)

    @staticmethod
    def at(n: Numbers[Spline], x: Array, order: int = 0) -> Array:
        return np.asarray(_spline(_points(n))(x, order))

    @staticmethod
    def knots(n: Numbers[Spline]) -> tuple[float, ...]:
        return tuple(p[0] for p in _points(n))

    @staticmethod
    def faults(n: Numbers[Spline]) -> list[tuple[str, str]]:
        times = [0.0, *(p.time for p in n.points.values()), 1.0]
        late = [k for k, (a, b) in zip([*n.points, ""], itertools.pairwise(times), strict=True) if b - a < 1e-6]
        where = late[0] if late and late[0] else next(reversed(n.points))
        return [(f"points.{where}.time", "must lie after the one before it, between 0 and 1")] if late else []


def _points(n: Numbers[Spline]) -> tuple[tuple[float, float], ...]:
    return tuple((p.time, p.way) for p in n.points.values())


@lru_cache(maxsize=200)
def _spline(points: tuple[tuple[float, float], ...]) -> CubicSpline:
    x, y = np.array([(0.0, 0.0), *points, (1.0, 1.0)]).T
    return CubicSpline(x, y, bc_type="clamped")

"""A point of a part: where it is, how fast it moves, how hard it is accelerated."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.curves.curve_of import CurveOf
from uhrwerk.core.curves.followed import FollowedMotion
from uhrwerk.core.document import Document
from uhrwerk.core.equations import jet
from uhrwerk.core.equations.jet import Jet
from uhrwerk.core.joints.at import At


class PointCurve(CurveOf):
    """Where the origin of a datum is, along an axis of the world. Its path is drawn on the stage."""

    title: ClassVar[str] = "Position of a point"

    kind: Literal["point"] = "point"
    at: At
    along: Literal["x", "y", "z"] = "x"

    def dimension(self, d: Document) -> str:
        return "length"

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        p, k = f.point(self.at), "xyz".index(self.along)
        assert p.dd is not None
        return Jet(p.v[:, k], p.d[:, k], p.dd[:, k])


class PointSpeed(CurveOf):
    """How fast the origin of a datum moves along its path."""

    title: ClassVar[str] = "Speed of a point"

    kind: Literal["point_speed"] = "point_speed"
    at: At

    def dimension(self, d: Document) -> str:
        return "sliding speed"

    def folds(self, d: Document) -> tuple[float, ...]:
        return (0.0,)

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        p = f.point(self.at)
        assert p.dd is not None
        speed = np.linalg.norm(p.d, axis=1)
        return Jet(speed, (p.d * p.dd).sum(axis=1) / np.where(speed > 0, speed, np.nan))


class PointAcceleration(CurveOf):
    """The size of the acceleration of a datum's origin, along and across its path together."""

    title: ClassVar[str] = "Acceleration of a point"

    kind: Literal["point_acceleration"] = "point_acceleration"
    at: At

    def dimension(self, d: Document) -> str:
        return "acceleration"

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        p = f.point(self.at)
        assert p.dd is not None
        size = np.linalg.norm(p.dd, axis=1)
        return Jet(size, np.full_like(size, np.nan))


class DistanceCurve(CurveOf):
    """How far the origins of two datums are from one another: straight, or along or across the axis of the first."""

    title: ClassVar[str] = "Distance of two points"

    kind: Literal["distance"] = "distance"
    a: At
    b: At
    measure: Literal["straight", "along_the_axis", "across_the_axis"] = "straight"

    def dimension(self, d: Document) -> str:
        return "length"

    def folds(self, d: Document) -> tuple[float, ...]:
        return () if self.measure == "along_the_axis" else (0.0,)

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        off = f.point(self.b) - f.point(self.a)
        if self.measure == "straight":
            return jet.root(jet.dot(off, off))
        along = jet.dot(off, f.direction(self.a, "z"))
        return along if self.measure == "along_the_axis" else jet.root(jet.dot(off, off) - jet.times(along, along))

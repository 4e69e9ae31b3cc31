"""Angles between datums; the transmission angle of a linkage.

The transmission angle lies between the coupler and the output link, at the joint between them: Alt, Der Übertragungswinkel
und seine Bedeutung für das Konstruieren periodischer Getriebe, Werkstattstechnik 26 (1932). From memory.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.curves.curve_of import CurveOf
from uhrwerk.core.curves.followed import FollowedMotion
from uhrwerk.core.document import Document
from uhrwerk.core.equations import jet
from uhrwerk.core.equations.jet import Jet
from uhrwerk.core.joints.at import At


class AngleCurve(CurveOf):
    """The angle between two datums: between their axes, or the turn of the second about the axis of the first, counted."""

    title: ClassVar[str] = "Angle between two datums"

    kind: Literal["angle"] = "angle"
    a: At
    b: At
    measure: Literal["between_the_axes", "turn_about_the_axis"] = "between_the_axes"

    def dimension(self, d: Document) -> str:
        return "angle"

    def repeats(self, d: Document) -> bool:
        return self.measure == "between_the_axes"

    def folds(self, d: Document) -> tuple[float, ...]:
        return (0.0, np.pi) if self.measure == "between_the_axes" else ()

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        if self.measure == "between_the_axes":
            return between(f.direction(self.a, "z"), f.direction(self.b, "z"))
        x, y, v = f.direction(self.a, "x"), f.direction(self.a, "y"), f.direction(self.b, "x")
        return f.counted(jet.atan2(jet.dot(y, v), jet.dot(x, v)))


class TransmissionAngle(CurveOf):
    """The transmission angle: between coupler and output link at the joint between them, seen from the coupler's other joint
    and the output's pivot; never more than 90 deg."""

    title: ClassVar[str] = "Transmission angle"

    kind: Literal["transmission_angle"] = "transmission_angle"
    coupler: At = Field(title="Coupler's other joint")
    joint: At = Field(title="Joint of coupler and output")
    pivot: At = Field(title="Pivot of the output")

    def faults(self, document: Document) -> Iterable[tuple[str, str]]:
        if len({(x.placed, x.datum) for x in (self.coupler, self.joint, self.pivot)}) < 3:
            yield "coupler", "the three points must be different"

    def dimension(self, d: Document) -> str:
        return "angle"

    def folds(self, d: Document) -> tuple[float, ...]:
        return 0.0, np.pi / 2

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        middle, z = f.point(self.joint), f.direction(self.joint, "z")
        one, two = (_level(f.point(x) - middle, z) for x in (self.coupler, self.pivot))
        angle = between(one, two)
        assert angle.dd is not None
        blunt = angle.v > np.pi / 2
        return Jet(
            np.where(blunt, np.pi - angle.v, angle.v), np.where(blunt, -angle.d, angle.d), np.where(blunt, -angle.dd, angle.dd)
        )  # fmt: skip


def _level(v: Jet, z: Jet) -> Jet:
    """A direction without what it has along another."""
    along = jet.dot(v, z)
    return v - jet.scaled(z, along)


def between(u: Jet, v: Jet) -> Jet:
    """The angle between two directions, 0 to half a turn."""
    across = jet.cross(u, v)
    return jet.atan2(jet.root(jet.dot(across, across)), jet.dot(u, v))
